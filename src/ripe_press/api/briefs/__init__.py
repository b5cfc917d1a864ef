"""Routes of briefs."""
