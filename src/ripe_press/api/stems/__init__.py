"""Routes: stems of a mix."""
