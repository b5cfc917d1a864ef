"""Running orders."""
