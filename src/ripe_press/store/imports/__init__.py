"""Import from another data folder."""
