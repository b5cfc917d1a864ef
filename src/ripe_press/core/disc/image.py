"""The image of an audio CD: its samples in blocks, and faults of the file."""

from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path

import numpy as np

from ripe_press.core.blocks import BLOCK_FRAMES, Block
from ripe_press.core.disc.frames import FRAME_BYTES, FRAME_SAMPLES
from ripe_press.core.errors import RipePressError
from ripe_press.core.sources.source import open_file
from ripe_press.core.timeline import DISC_HZ

_SAMPLE_BYTES = 4
_LOOKED_AT = 1 << 20
_ROUGHER = 4.0
_HELD = 32_766
"""Bytes that are swapped give noise: neighbours differ far more than they would the other way round."""


@dataclass(frozen=True, slots=True)
class Image:
    """An image: its frames of a disc, and faults of the file in sentences. Raw where it has no header."""

    path: Path
    raw: bool
    samples: int
    faults: tuple[str, ...]

    @property
    def frames(self) -> int:
        """Whole frames of the disc: where its lead-out begins."""
        return self.samples // FRAME_SAMPLES

    def blocks(self) -> Iterator[Block]:
        """All samples, two channels, 1.0 is full scale. Raises: Unreadable."""
        if not self.raw:
            with open_file(self.path) as reader:
                yield from reader.blocks()
            return
        with self.path.open("rb") as file:
            while chunk := file.read(BLOCK_FRAMES * _SAMPLE_BYTES):
                whole = len(chunk) // _SAMPLE_BYTES * _SAMPLE_BYTES
                yield np.frombuffer(chunk[:whole], dtype="<i2").reshape(-1, 2) / 32768.0


def look_at_image(path: Path, kind: str) -> Image:
    """What an image is, of the kind that its sheet says. Raises: OSError."""
    return _raw(path) if kind != "WAVE" else _wave(path)


def _raw(path: Path) -> Image:
    size = path.stat().st_size
    faults = []
    with path.open("rb") as file:
        head = file.read(_LOOKED_AT)
    if head[:4] in (b"RIFF", b"RF64", b"FORM"):
        faults.append("The image starts with an audio file header. Remove it.")
    elif _swapped(head):
        faults.append("Byte order is swapped. Assemble the disc again.")
    if size % FRAME_BYTES:
        faults.append(f"{size:,} bytes are not complete CD frames of {FRAME_BYTES} bytes. Assemble the disc again.")
    return Image(path, True, size // _SAMPLE_BYTES, tuple(faults))


def _wave(path: Path) -> Image:
    try:
        with open_file(path) as reader:
            facts = reader.facts
    except RipePressError as error:
        return Image(path, False, 0, (error.message,))
    faults = []
    if (facts.rate_hz, facts.channels, facts.bit_depth) != (DISC_HZ, 2, 16):
        depth = f"{facts.bit_depth} bits" if facts.bit_depth else facts.codec
        faults.append(
            f"It has {facts.rate_hz:,} Hz, {facts.channels} channels, {depth}; a disc needs 44,100 Hz, 2, 16 bits."
        )
    if facts.frames % FRAME_SAMPLES:
        faults.append(f"{facts.frames:,} samples are not complete CD frames of {FRAME_SAMPLES} samples.")
    return Image(path, False, facts.frames, tuple(faults))


def _swapped(head: bytes) -> bool:
    whole = head[: len(head) // _SAMPLE_BYTES * _SAMPLE_BYTES]
    codes = np.frombuffer(whole, dtype="<i2").reshape(-1, 2)
    # Samples clipped at full scale look quiet in the other byte order and prove nothing.
    codes = codes[((codes < _HELD) & (codes > -_HELD)).all(axis=1)]
    either = [one.astype(np.float64) for one in (codes, codes.byteswap())]
    rough = [float(np.square(np.diff(one, axis=0)).sum()) for one in either]
    return rough[0] > _ROUGHER * rough[1]
