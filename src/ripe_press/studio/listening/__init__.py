"""The listening desk, blind tests and codec comparisons."""
