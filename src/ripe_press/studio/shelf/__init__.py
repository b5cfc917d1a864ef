"""Mixes: added, stored, shown, versions."""
