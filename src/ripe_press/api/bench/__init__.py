"""Routes of the bench."""
