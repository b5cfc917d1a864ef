"""Signals and files for tests, and long measurements by a sample in `make test` and whole in `make soak`."""

import os
from collections.abc import Iterable
from pathlib import Path
from typing import TypeVar

T = TypeVar("T")

ROOT = Path(__file__).parents[2]
TESTS = ROOT / "tests"
WHOLE = bool(os.environ.get("RIPE_PRESS_WHOLE"))
"""Whether everything is measured, and the rates in the documents are compared."""


def sampled(values: Iterable[T], every: int) -> list[T]:
    """All values in a whole run, else the first of every so many."""
    return list(values)[:: 1 if WHOLE else every]
