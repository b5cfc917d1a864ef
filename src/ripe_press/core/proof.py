"""The proof of a pressed file: re-read from disk, decoded, measured, and held against what was asked for."""

import hashlib
import os
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

from ripe_press.core.blocks import Meter
from ripe_press.core.engine.size import Forecast, around
from ripe_press.core.engine.stations import Codec, Level
from ripe_press.core.errors import Unreadable
from ripe_press.core.formats.capabilities import CAPABILITIES, STORED_BITS, codec_of
from ripe_press.core.formats.reader import SourceReader
from ripe_press.core.measure.peak import PeakMeter
from ripe_press.core.measure.signal import SamplesHash, SignalMeter, SignalResult
from ripe_press.core.rules.findings import Finding
from ripe_press.core.tags.cover import prepared_cover
from ripe_press.core.tags.embedded import read_cover, read_embedded
from ripe_press.core.tags.forms import carried
from ripe_press.core.tags.sheet import FIELDS, NO_TAGS, FileTags
from ripe_press.core.units import print_count, print_db, print_rate, print_were

_HASH_BYTES = 1 << 20


@dataclass(frozen=True, slots=True)
class Proof:
    """What the file on disk is; ``checks`` are (what was checked, what was found) that came out right."""

    container: str
    codec: str
    rate_hz: int
    bit_depth: int | None
    channels: int
    frames: int
    bytes: int
    sha256: str
    sample_peak_dbfs: float
    findings: tuple[Finding, ...]
    checks: tuple[tuple[str, str], ...]
    true_peak_dbtp: float | None = None
    integrated_lufs: float | None = None


@dataclass(frozen=True, slots=True)
class Written:
    """The file as it was read back."""

    rate_hz: int
    channels: int
    bit_depth: int | None
    codec: str
    frames: int


def _rate(asked: Codec, found: Written) -> tuple[bool, str, str]:
    return found.rate_hz == asked.rate_hz, print_rate(found.rate_hz), print_rate(asked.rate_hz)


def _channels(asked: Codec, found: Written) -> tuple[bool, str, str]:
    return (
        found.channels == asked.channels,
        print_count(found.channels, "channel"),
        print_count(asked.channels, "channel"),
    )


def _depth(asked: Codec, found: Written) -> tuple[bool, str, str]:
    bits, codec = STORED_BITS[asked.encoding], codec_of(asked.container, asked.encoding)
    if asked.encoding == "lossy":
        return found.codec == codec, found.codec, codec
    fits = found.bit_depth == bits and found.codec == codec
    return fits, f"{found.bit_depth} bits {found.codec}", f"{bits} bits {codec}"


def _frames(asked: Codec, found: Written) -> tuple[bool, str, str]:
    return found.frames == asked.frames, f"{found.frames:,} frames", f"{asked.frames:,} frames"


CHECKS: tuple[tuple[str, str, Callable[[Codec, Written], tuple[bool, str, str]]], ...] = (
    ("rate_as_asked", "Sample rate", _rate),
    ("channels_as_asked", "Channels", _channels),
    ("depth_as_asked", "Bit depth", _depth),
    ("frames_as_asked", "Length", _frames),
)


def judge(asked: Codec, found: Written) -> tuple[tuple[Finding, ...], tuple[tuple[str, str], ...]]:
    """What is not as asked for, as findings that stop the file; and what is."""
    findings, checks = [], []
    for rule, named, check in CHECKS:
        title = "Codec" if rule == "depth_as_asked" and asked.encoding == "lossy" else named
        fits, got, wanted = check(asked, found)
        if fits:
            checks.append((title, got))
        else:
            sentence = f"{title} of the file on disk is {got}; {wanted} was asked for. It may not leave; press again."
            findings.append(Finding(rule, "stop", sentence))
    return tuple(findings), tuple(checks)


@dataclass(frozen=True, slots=True)
class Promise:
    """What was promised of the samples: their fingerprint when they were to be left alone, a level, or neither.

    ``loudness`` has true peak and loudness measured even where no level was promised. ``tags`` are what the file
    has to carry, ``forecast`` the size it was said to have.
    """

    fingerprint: str | None = None
    level: Level | None = None
    loudness: bool = False
    tags: FileTags = NO_TAGS
    forecast: Forecast | None = None
    short: bool = False
    """Whether the level is known to lie below its target: a rule of its own says why, or the file is half of a pair."""


NOTHING_PROMISED = Promise()


def prove(
    path: Path, asked: Codec, clipped_samples: int, overs_in_mix: int, promise: Promise = NOTHING_PROMISED
) -> Proof:
    """Reads the file back and judges it. A file that cannot be read at all is a finding too, not an error."""
    sha256 = hash_file(path)
    size = path.stat().st_size
    try:
        with SourceReader(path) as reader:
            facts = reader.facts
            meter = PeakMeter(facts.channels)
            signal = SignalMeter(facts.channels, facts.rate_hz) if promise.loudness or promise.level else None
            samples = SamplesHash() if promise.fingerprint else None
            meters: list[Meter] = [one for one in (meter, signal, samples) if one is not None]
            for block in reader.blocks():
                for one in meters:
                    one.process(block)
    except Unreadable as error:
        finding = Finding("file_reads_back", "stop", f"The pressed file cannot be read back: {error.message}")
        return Proof(asked.container, "", 0, None, 0, 0, size, sha256, float("-inf"), (finding,), ())
    peak = meter.result()
    found = Written(facts.rate_hz, facts.channels, facts.bit_depth, facts.codec, peak.frames)
    findings, checks = judge(asked, found)
    if samples:
        findings, checks = _same_samples(samples.result() == promise.fingerprint, findings, checks)
    measured = signal.result() if signal else None
    lossy = CAPABILITIES[asked.container].lossy
    # What a lossy codec gives back is judged for itself: a level is met at its input.
    if measured and promise.level and promise.level.gain_db is not None and not lossy:
        findings, checks = _level(promise.level, measured, findings, checks, promise.short)
    findings, checks = _tags(path, asked, promise.tags, findings, checks)
    if lossy and asked.frames:
        # What the file has beside its sound, a cover above all, is no part of its bit rate.
        kbps = (size - around(asked, promise.tags)[0]) * 8 * asked.rate_hz / asked.frames / 1000
        checks = (*checks, ("Bit rate", f"{kbps:.0f} kbit/s, set to {asked.coding}"))
    if promise.forecast:
        findings, checks = _size(promise.forecast, size, findings, checks)
    clipped = clipped_by_conversion(clipped_samples, overs_in_mix)
    return Proof(
        facts.container, facts.codec, facts.rate_hz, facts.bit_depth, facts.channels, peak.frames, size, sha256,
        peak.sample_peak_dbfs, findings + clipped, checks,
        measured.true_peak_dbtp if measured else None, measured.integrated_lufs if measured else None,
    )  # fmt: skip


Judged = tuple[tuple[Finding, ...], tuple[tuple[str, str], ...]]


def _same_samples(same: bool, findings: tuple[Finding, ...], checks: tuple[tuple[str, str], ...]) -> Judged:
    if same:
        return findings, (*checks, ("Samples", "those of the mix, bit for bit"))
    sentence = "The samples in the file are not those of the mix, though nothing was to change. Press again."
    return (*findings, Finding("samples_as_they_came", "stop", sentence)), checks


def _tags(
    path: Path, asked: Codec, tags: FileTags, findings: tuple[Finding, ...], checks: tuple[tuple[str, str], ...]
) -> Judged:
    """Every field, the picture and the markers are read back from the file."""
    can = CAPABILITIES[asked.container]
    tags = carried(asked.container, tags)
    wanted = dict(tags.values)
    found = read_embedded(path, asked.rate_hz, asked.frames)
    kept = dict(found.tags)
    wrong = [FIELDS[field].named for field, text in wanted.items() if kept.get(field) != text]
    if tags.cover and read_cover(path) != prepared_cover(tags.cover).data:
        wrong.append("cover picture")
    # Chapters of some containers count milliseconds.
    slack = 0 if can.markers in ("cue", "chunk") else -(-asked.rate_hz // 1000)
    places = [abs(one.frame - other.frame) for one, other in zip(found.markers, tags.markers, strict=False)]
    if len(found.markers) != len(tags.markers) or any(off > slack for off in places):
        wrong.append("markers")
    if wrong:
        sentence = f"Read back from the file, these are not as they were written: {', '.join(wrong)}. Press again."
        return (*findings, Finding("tags_read_back", "look", sentence)), checks
    pieces = [print_count(len(wanted), "field")] if wanted else []
    pieces += ["cover"] if tags.cover else []
    pieces += [print_count(len(tags.markers), "marker")] if tags.markers else []
    return findings, (*checks, ("Tags", f"{', '.join(pieces)} read back")) if pieces else checks


def _size(forecast: Forecast, size: int, findings: tuple[Finding, ...], checks: tuple[tuple[str, str], ...]) -> Judged:
    """The size against what was told: exact sizes must be met; bounds that were missed say by how much."""
    off = forecast.error_percent(size)
    if off and forecast.exact:
        sentence = f"The file has {size:,} bytes; {forecast.low:,} were forecast. Look at it before it leaves."
        return (*findings, Finding("size_as_forecast", "look", sentence)), checks
    if off:
        sentence = f"The file has {size:,} bytes; {forecast} was forecast, {off:.1f} % off. Nothing is wrong with it."
        return (*findings, Finding("size_beside_forecast", "ready", sentence)), checks
    told = "to the byte, as forecast" if forecast.exact else f"forecast {forecast}"
    return findings, (*checks, ("Size", f"{size:,} bytes, {told}"))


LEVEL_TOLERANCE_DB = 0.1


def _level(
    level: Level,
    found: SignalResult,
    findings: tuple[Finding, ...],
    checks: tuple[tuple[str, str], ...],
    short: bool = False,
) -> Judged:
    """Targets are met on the file as written; one that only comes down, or shares its gain, may lie below."""
    title, unit, value = {
        "peak": ("Sample peak", "dBFS", found.sample_peak_dbfs),
        "true-peak": ("True peak", "dBTP", found.true_peak_dbtp),
    }.get(level.kind, ("Loudness", "LUFS", found.integrated_lufs))
    off = value - level.target
    below_is_fine = level.only_down or bool(level.group) or (level.kind == "loudness" and not level.limit)
    words = f"{print_db(value, unit)} for {print_db(level.target, unit)}"
    if abs(off) <= LEVEL_TOLERANCE_DB or (off < 0 and below_is_fine):
        checks = (*checks, (title, words))
    elif value == float("-inf"):
        sentence = "The file is silent, or too quiet or too short to have a loudness, so no level was set."
        findings = (*findings, Finding("level_as_asked", "look", sentence))
    elif not (short and off < 0):
        sentence = f"{title} came out at {print_db(value, unit)}; {print_db(level.target, unit)} was asked for."
        findings = (*findings, Finding("level_as_asked", "look", sentence))
    if level.kind == "loudness":
        ceiling = print_db(level.ceiling_dbtp, "dBTP")
        peak = print_db(found.true_peak_dbtp, "dBTP")
        if found.true_peak_dbtp <= level.ceiling_dbtp + LEVEL_TOLERANCE_DB:
            checks = (*checks, ("True peak", f"{peak} under {ceiling}"))
        else:
            sentence = f"The true peak reaches {peak}, above the ceiling of {ceiling}."
            findings = (*findings, Finding("ceiling_held", "look", sentence))
    return findings, checks


def clipped_by_conversion(clipped_samples: int, overs_in_mix: int) -> tuple[Finding, ...]:
    """Clipping that the mix did not have: conversion raises peaks between the samples."""
    if not clipped_samples or overs_in_mix:
        return ()
    sentence = (
        f"{print_were(clipped_samples, 'sample')} held at full scale: converting the rate raised peaks above it. "
        f"Lower the mix by half a decibel, or accept it."
    )
    return (Finding("clipped_by_conversion", "look", sentence),)


def hash_file(path: Path) -> str:
    """SHA-256 of the bytes on the disk, not of the copy that the system may still hold in memory."""
    digest = hashlib.sha256()
    with path.open("rb", buffering=0) as file:
        if hasattr(os, "posix_fadvise"):
            os.posix_fadvise(file.fileno(), 0, 0, os.POSIX_FADV_DONTNEED)
        while chunk := file.read(_HASH_BYTES):
            digest.update(chunk)
    return digest.hexdigest()
