"""Routes: running orders."""
