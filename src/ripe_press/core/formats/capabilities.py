"""What each container can hold: the one list that writers, rules, briefs and the interface read."""

from dataclasses import dataclass
from typing import Literal

from ripe_press.core.errors import Unsupported

Container = Literal["wav", "flac"]
Encoding = Literal["u8", "s16", "s20", "s24", "s32", "f32", "f64"]


@dataclass(frozen=True, slots=True)
class Capability:
    """The limits of a container: its ending, encodings, rates in Hz and channels."""

    container: Container
    title: str
    suffix: str
    encodings: tuple[Encoding, ...]
    min_rate_hz: int
    max_rate_hz: int
    max_channels: int
    compressed: bool = False
    """Whether the size depends on the sound; nothing of it is lost all the same."""


CAPABILITIES: dict[Container, Capability] = {
    "wav": Capability("wav", "WAV", ".wav", ("u8", "s16", "s20", "s24", "s32", "f32", "f64"), 8_000, 384_000, 2),
    "flac": Capability("flac", "FLAC", ".flac", ("s16", "s20", "s24"), 8_000, 384_000, 2, compressed=True),
}

BITS: dict[Encoding, int] = {"u8": 8, "s16": 16, "s20": 20, "s24": 24, "s32": 32, "f32": 32, "f64": 64}
STORED_BITS: dict[Encoding, int] = {**BITS, "s20": 24}
"""Bits that a sample takes in the file: 20 bits lie in 24, the last four zero."""


def is_float(encoding: Encoding) -> bool:
    """Whether samples are floating point."""
    return encoding in ("f32", "f64")


def codec_of(encoding: Encoding) -> str:
    """The codec's name as the reader gives it: ``pcm`` (also inside FLAC) or ``pcm-float``."""
    return "pcm-float" if is_float(encoding) else "pcm"


def check_capable(container: Container, encoding: Encoding, rate_hz: int, channels: int) -> Capability:
    """The capability, once the wish is known to fit it.

    Raises: Unsupported ``container.rate``, ``container.channels`` or ``container.encoding``.
    """
    can = CAPABILITIES[container]
    if encoding not in can.encodings:
        message = f"{can.title} does not hold {encoding!r}. It holds {', '.join(can.encodings)}."
        raise Unsupported("container.encoding", message, encoding=encoding)
    if not can.min_rate_hz <= rate_hz <= can.max_rate_hz:
        message = f"{can.title} is written from {can.min_rate_hz:,} to {can.max_rate_hz:,} Hz, not at {rate_hz:,}."
        raise Unsupported("container.rate", message, rate_hz=rate_hz)
    if not 1 <= channels <= can.max_channels:
        message = f"{can.title} is written with one or two channels, not {channels}."
        raise Unsupported("container.channels", message, channels=channels)
    return can
