"""Stand-ins for devices and services: each a process of its own, reached over its socket or its folder alone."""
