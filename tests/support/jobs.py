"""Jobs for worker processes; a worker can only import what lies on the path."""

import os

from ripe_press.core.errors import Unreadable


def die() -> None:
    os._exit(11)


def refuse() -> None:
    raise Unreadable("source.empty", "It is empty.", path="a.wav")
