"""Live passes through units of the rack."""
