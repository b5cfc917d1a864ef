"""Jobs for worker processes; a worker can import only modules on the path."""

import os
import sys
import time
from pathlib import Path

import numpy as np

from ripe_press.core.errors import RipePressError, Unreadable
from ripe_press.core.formats.reading.reader import SourceReader
from ripe_press.studio.jobs.workers import WorkerPool


def die() -> None:
    os._exit(11)


def at_hand(modules: tuple[str, ...]) -> list[str]:
    """Which of them are not imported."""
    return [one for one in modules if one not in sys.modules]


def refuse() -> None:
    raise Unreadable("source.empty", "It is empty.", path="a.wav")


def read_mutations(whole: str, seed: int, count: int) -> tuple[int, int]:
    """Damages a file in many ways, reads each, and counts those refused with a sentence and those opened."""
    source = Path(whole)
    data = np.frombuffer(source.read_bytes(), dtype=np.uint8)
    random = np.random.default_rng(seed)
    refused = opened = 0
    path = source.with_name("mutant")
    for _ in range(count):
        mutant = data.copy()
        head = random.random() < 0.6
        places = random.integers(0, min(len(mutant), 120) if head else len(mutant), int(random.integers(1, 8)))
        mutant[places] = random.integers(0, 256, len(places))
        if random.random() < 0.3:
            mutant = mutant[: int(random.integers(0, len(mutant)))]
        path.write_bytes(mutant.tobytes())
        try:
            with SourceReader(path) as reader:
                for _block in reader.blocks():
                    pass
            opened += 1
        except RipePressError as error:
            assert error.message.endswith(".")
            refused += 1
    path.unlink()
    return refused, opened


if __name__ == "__main__":
    pool = WorkerPool(1, "test")
    sys.stdout.write(f"{pool.submit(os.getpid).result()}\n")
    sys.stdout.flush()
    pool.submit(time.sleep, 60).result()
