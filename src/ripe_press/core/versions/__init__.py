"""Versions of one mix: which belong together, what differs between them, and what is carried from one to the next."""
