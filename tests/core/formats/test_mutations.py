"""Hundreds of damaged files of every format: an error sentence or an opened file, never a crash or a hang.

They are read in a worker process, as the product does: a process that dies fails the test with its exit.
"""

import os
from pathlib import Path

import numpy as np
import pytest

from ripe_press.studio.jobs.workers import WorkerPool
from support.av_files import encode
from support.programs.jobs import read_mutations
from support.signals import noise, ramp16, write

FORMATS = {
    "wav16": ("WAV", "PCM_16"), "wav float": ("WAV", "FLOAT"), "rf64": ("RF64", "PCM_24"), "w64": ("W64", "PCM_16"),
    "aiff": ("AIFF", "PCM_24"), "caf": ("CAF", "PCM_16"), "flac": ("FLAC", "PCM_16"), "mp3": ("MP3", "MPEG_LAYER_III"),
    "vorbis": ("OGG", "VORBIS"), "opus": ("OGG", "OPUS"),
}  # fmt: skip
BY_AV = {"aac": ("aac", "ipod", "fltp"), "alac": ("alac", "ipod", "s16p"), "wavpack": ("wavpack", "wv", "s16p")}
MUTATIONS = int(os.environ.get("RIPE_PRESS_CRAFTED", "300"))


@pytest.mark.parametrize("name", [*FORMATS, *BY_AV])
def test_damaged_files_are_refused_or_read(tmp_path: Path, name: str) -> None:
    whole = tmp_path / "whole"
    if name in FORMATS:
        container, subtype = FORMATS[name]
        write(whole, noise(9_600), 48_000, subtype, container)
    else:
        codec, container, sample_format = BY_AV[name]
        encode(whole, ramp16(9_600), 48_000, codec, container, sample_format)
    seed = int(np.frombuffer(name.encode().ljust(8)[:8], dtype=np.uint32)[0])
    with WorkerPool(1, "mutations") as pool:
        refused, opened = pool.submit(read_mutations, str(whole), seed, MUTATIONS).result(timeout=max(120, MUTATIONS))
    assert refused + opened == MUTATIONS
    assert refused > 0
    assert [path.name for path in tmp_path.iterdir()] == ["whole"]
