"""Disc images and burning."""
