"""The demo's drop-offs, devices and running order."""
