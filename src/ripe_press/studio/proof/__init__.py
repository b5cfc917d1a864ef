"""Comparison with the mix, and checks of received files."""
