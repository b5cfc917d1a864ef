"""Versions of a mix: matching, differences, carried settings."""
