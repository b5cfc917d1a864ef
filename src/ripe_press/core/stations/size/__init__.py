"""The size of a file, and its forecast."""
