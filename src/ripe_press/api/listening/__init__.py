"""Routes: the listening desk, blind tests and codec comparisons."""
