"""The proof of a pressed file: re-read from disk, decoded, measured, and held against what was asked for."""

import hashlib
import os
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

from ripe_press.core.engine.stations import Codec
from ripe_press.core.errors import Unreadable
from ripe_press.core.formats.capabilities import BITS, codec_of
from ripe_press.core.formats.reader import SourceReader
from ripe_press.core.measure.peak import PeakMeter
from ripe_press.core.rules.findings import Finding
from ripe_press.core.units import print_count, print_rate

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
    bits, codec = BITS[asked.encoding], codec_of(asked.encoding)
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
    for rule, title, check in CHECKS:
        fits, got, wanted = check(asked, found)
        if fits:
            checks.append((title, got))
        else:
            sentence = f"{title} of the file on disk is {got}; {wanted} was asked for. It may not leave; press again."
            findings.append(Finding(rule, "stop", sentence))
    return tuple(findings), tuple(checks)


def prove(path: Path, asked: Codec, clipped_samples: int, overs_in_mix: int) -> Proof:
    """Reads the file back and judges it. A file that cannot be read at all is a finding too, not an error."""
    sha256 = hash_file(path)
    size = path.stat().st_size
    try:
        with SourceReader(path) as reader:
            facts = reader.facts
            meter = PeakMeter(facts.channels)
            for block in reader.blocks():
                meter.process(block)
    except Unreadable as error:
        finding = Finding("file_reads_back", "stop", f"The pressed file cannot be read back: {error.message}")
        return Proof(asked.container, "", 0, None, 0, 0, size, sha256, float("-inf"), (finding,), ())
    peak = meter.result()
    found = Written(facts.rate_hz, facts.channels, facts.bit_depth, facts.codec, peak.frames)
    findings, checks = judge(asked, found)
    clipped = clipped_by_conversion(clipped_samples, overs_in_mix)
    return Proof(
        facts.container, facts.codec, facts.rate_hz, facts.bit_depth, facts.channels, peak.frames, size, sha256,
        peak.sample_peak_dbfs, findings + clipped, checks,
    )  # fmt: skip


def clipped_by_conversion(clipped_samples: int, overs_in_mix: int) -> tuple[Finding, ...]:
    """Clipping that the mix did not have: conversion raises peaks between the samples."""
    if not clipped_samples or overs_in_mix:
        return ()
    sentence = (
        f"{print_count(clipped_samples, 'sample')} were held at full scale: converting the rate raised peaks above it. "
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
