"""Signals and files for tests."""
