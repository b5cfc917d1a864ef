"""Parts that only the command line needs."""
