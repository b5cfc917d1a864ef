"""Places in a signal: silence, tails, seams, bars."""
