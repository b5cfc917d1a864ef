"""Delivery sheets, signing keys, and files for the next program."""
