"""Render finished stereo mixes to delivery files and verify them: `measure`, `job`, `plan`, `press`, `check`."""

from importlib import import_module
from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    from ripe_press.scripting import *  # noqa: F403 - the names of its ``__all__``


def __getattr__(name: str) -> Any:
    """The Python interface, loaded at its first use: commands and workers start without it."""
    if not name.startswith("_"):
        scripting = import_module("ripe_press.scripting")
        if name in scripting.__all__:
            return getattr(scripting, name)
    message = f"The module ripe_press has no “{name}”."
    raise AttributeError(message)
