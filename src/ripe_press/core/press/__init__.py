"""Pressing: an order goes in, and every file of it ends named, left out or failed, with its proof or its sentence."""

from ripe_press.core.press.order import Event, FailedFile, FileState, OrderedFile, PressedFile, PressOrder, Tell
from ripe_press.core.press.pressing import press

__all__ = [
    "Event",
    "FailedFile",
    "FileState",
    "OrderedFile",
    "PressOrder",
    "PressedFile",
    "Tell",
    "press",
]
