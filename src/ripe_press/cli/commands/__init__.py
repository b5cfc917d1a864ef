"""Commands of the command line, one module a topic."""
