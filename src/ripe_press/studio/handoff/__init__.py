"""Delivery sheets, packages, and files for the next program."""
