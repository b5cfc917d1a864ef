"""Decibels, times and sizes: convert, parse, print."""

import math
import re

from ripe_press.core.errors import BadInput
from ripe_press.core.words import quoted

SILENCE_DBFS = -math.inf

_SAMPLES = re.compile(r"^(\d+)\s*smp$")
_CLOCK = re.compile(r"^(?:(?:(\d+):)?(\d+):)?(\d+)(?:\.(\d+))?$")

MIN_RATE_HZ, MAX_RATE_HZ = 8_000, 384_000
"""The sample rates that are read and made."""


def db_from_linear(value: float) -> float:
    """20·log10 of a linear amplitude; ``-inf`` for zero."""
    return 20.0 * math.log10(value) if value > 0.0 else SILENCE_DBFS


def db_of_power(power: float) -> float:
    """A mean square as a level in dBFS that reads 0 for a full-scale sine; ``-inf`` for silence."""
    return 10.0 * math.log10(2.0 * power) if power > 0.0 else SILENCE_DBFS


def linear_from_db(value_db: float) -> float:
    """The linear amplitude of a level in dB; 0 for ``-inf``."""
    return float(10.0 ** (value_db / 20.0))


def frames_after_conversion(frames: int, from_hz: int, to_hz: int) -> int:
    """Frames that leave a sample-rate conversion: the exact ratio, rounded half up."""
    return (2 * frames * to_hz + from_hz) // (2 * from_hz)


def parse_time(text: str, rate_hz: int) -> int:
    """The frame at which a typed time lies.

    Accepts seconds (``3.2``), minutes and seconds (``0:03.2``), hours (``1:02:03.5``) and samples
    (``141120smp``). Fractions of a sample are rounded to the nearest frame, exactly, in integers.

    Raises: BadInput ``time.unreadable`` or ``time.field-range``.
    """
    cleaned = text.strip().lower().replace(",", ".")
    if found := _SAMPLES.match(cleaned):
        return int(found[1])
    found = _CLOCK.match(cleaned)
    if not found:
        message = (
            f"{quoted(text)} is not a time. "
            "Use seconds (3.2), minutes (0:03.2), hours (1:02:03.5) or samples (141120smp)."
        )
        raise BadInput("time.unreadable", message, text=text)
    hours, minutes, seconds, fraction = found.groups()
    for field, name, bounded in (
        (minutes, "minutes", hours is not None),
        (seconds, "seconds", minutes is not None),
    ):
        if bounded and int(field) > 59:
            message = f"{quoted(text)} has {field} {name}. Use 0 to 59 after a colon."
            raise BadInput("time.field-range", message, text=text)
    whole = int(hours or 0) * 3600 + int(minutes or 0) * 60 + int(seconds)
    digits = fraction or "0"
    scale = int(10 ** len(digits))
    return (2 * (whole * scale + int(digits)) * rate_hz + scale) // (2 * scale)


def print_clock(frame: int, rate_hz: int, decimals: int = 3) -> str:
    """A frame as ``m:ss.mmm`` (``h:mm:ss.mmm`` from an hour on), rounded once, in integers."""
    scale = 10**decimals
    units = (2 * frame * scale + rate_hz) // (2 * rate_hz)
    seconds, fraction = divmod(units, scale)
    minutes, seconds = divmod(seconds, 60)
    hours, minutes = divmod(minutes, 60)
    head = f"{hours}:{minutes:02d}" if hours else f"{minutes}"
    tail = f".{fraction:0{decimals}d}" if decimals else ""
    return f"{head}:{seconds:02d}{tail}"


def print_db(value_db: float, unit: str = "dBFS") -> str:
    """A level with its sign, a real minus, one decimal and its unit; silence is ``−∞``."""
    if value_db == SILENCE_DBFS:
        return f"−∞ {unit}"
    rounded = round(value_db, 1)
    sign = "+" if rounded > 0 else "−" if rounded < 0 else ""
    return f"{sign}{abs(rounded):.1f} {unit}"


def print_rate(rate_hz: int) -> str:
    """A sample rate in kHz without idle digits: ``44.1 kHz``, ``96 kHz``."""
    return f"{rate_hz / 1000:g} kHz"


def print_hz(hz: float) -> str:
    """A frequency to two or three figures: ``92 Hz``, ``3.1 kHz``, ``17 kHz``."""
    if hz < 1000:
        return f"{hz:.0f} Hz"
    return f"{hz / 1000:.1f} kHz" if hz < 10_000 else f"{hz / 1000:.0f} kHz"


def print_count(count: int, noun: str) -> str:
    """A counted noun with thousands set apart: ``1 sample``, ``12,480 samples``."""
    return f"{count:,} {noun}" if count == 1 else f"{count:,} {noun}s"


def finite(value_db: float) -> float | None:
    """A level for JSON, which has no infinity: None stands for digital silence."""
    return None if value_db == float("-inf") else value_db


def print_minutes(seconds: float) -> str:
    """Print a duration in whole seconds: ``2:31``, ``1:14:12`` from an hour on."""
    return print_clock(round(seconds), 1, 0)


def print_size(size: int) -> str:
    """Print bytes in kB, MB or GB of powers of ten: the larger unit from where the smaller one would print 1000."""
    if size < 999_500:
        return f"{max(1 if size else 0, (size + 500) // 1000)} kB"
    return f"{size / 1e6:.1f} MB" if size < 999_950_000 else f"{size / 1e9:.2f} GB"
