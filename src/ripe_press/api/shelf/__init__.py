"""Routes: mixes: added, stored, shown, versions."""
