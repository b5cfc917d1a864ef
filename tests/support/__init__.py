"""Signals and files for tests."""

from pathlib import Path

ROOT = Path(__file__).parents[2]
TESTS = ROOT / "tests"
