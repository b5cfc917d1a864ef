"""The command line: thin, over the same core and studio as the page."""

from ripe_press.cli.app import main

__all__ = ["main"]
