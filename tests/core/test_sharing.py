"""Readings in step: a file is read once, and its blocks are let go of."""

import weakref
from pathlib import Path

import numpy as np

from ripe_press.core.sources.file import FileSource
from ripe_press.core.sources.source import Sharing
from support.press import facts_of
from support.signals import noise, write


def test_a_block_is_freed_once_the_last_reader_has_taken_it(tmp_path: Path) -> None:
    source = FileSource(facts_of(write(tmp_path / "Weir.wav", noise(10_000, 2), 48_000)))
    with Sharing() as sharing:
        first, second = (sharing.reader(source).blocks(0, None, 1_000) for _ in range(2))
        block = next(first)
        ahead = weakref.ref(block)
        assert next(second) is block
        sharing.seal()
        del block
        one, other = next(first), next(second)
        assert one is other and ahead() is None
        # A reader that joins late reads for itself.
        late = next(sharing.reader(source).blocks(1_000, None, 1_000))
        assert late is not one and np.array_equal(late, one)
