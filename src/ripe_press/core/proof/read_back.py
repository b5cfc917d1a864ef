"""Verify a pressed file: read from the disk, decoded and measured, independently of how it was made."""

import hashlib
import os
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

from ripe_press.core.blocks import Meter
from ripe_press.core.errors import Cancelled, Unreadable
from ripe_press.core.measure.loudness import LoudnessMeter
from ripe_press.core.measure.peak import PeakMeter
from ripe_press.core.measure.places.seam import Seam, SeamMeter
from ripe_press.core.measure.places.speech import Speech, speech_of
from ripe_press.core.measure.signal import SamplesHash, SignalMeter
from ripe_press.core.sources.source import open_file
from ripe_press.core.tags.embedded import Embedded, constant_bit_rate, read_embedded
from ripe_press.core.tags.pictures import read_cover
from ripe_press.core.words import quoted

_HASH_BYTES = 1 << 20


@dataclass(frozen=True, slots=True)
class Proof:
    """Properties of a file on the disk; None for values that were not measured."""

    container: str
    codec: str
    rate_hz: int
    bit_depth: int | None
    channels: int
    frames: int
    bytes: int
    sha256: str
    sample_peak_dbfs: float
    true_peak_dbtp: float | None = None
    integrated_lufs: float | None = None
    fingerprint: str | None = None
    """Of its samples."""
    embedded: Embedded | None = None
    cover_sha256: str = ""
    cover_bytes: int = 0
    seam: Seam | None = None
    """Where two rounds of a loop meet."""
    speech: Speech | None = None
    constant_bit_rate: bool | None = None
    """Of an MP3: whether every frame has the same."""
    unreadable: str = ""
    """Why it cannot be read at all."""


def prove(
    path: Path,
    *,
    loudness: bool = False,
    samples: bool = False,
    loop: float | None = None,
    speech: bool = False,
    progress: Callable[[int], None] = lambda _done: None,
) -> Proof:
    """Read a file back. An unreadable file is a result, not an error.

    ``loudness`` measures true peak and loudness, ``samples`` computes the checksum of the samples, ``loop`` (the onset
    of the mix at the loop ends) measures the seam, ``speech`` measures level, noise and room tone. ``progress`` gets
    the samples read.
    """
    sha256 = hash_file(path)
    size = path.stat().st_size
    try:
        with open_file(path, counted=False) as reader:
            facts = reader.facts
            meter = None if loudness else PeakMeter(facts.channels)
            signal = SignalMeter(facts.channels, facts.rate_hz) if loudness else None
            digest = SamplesHash() if samples else None
            seam = None if loop is None else SeamMeter(facts.rate_hz)
            energies = LoudnessMeter(facts.channels, facts.rate_hz) if speech else None
            meters: list[Meter] = [one for one in (meter, signal, digest, seam, energies) if one is not None]
            frames = 0
            for block in reader.blocks():
                for one in meters:
                    one.process(block)
                frames += len(block)
                progress(frames)
        embedded = read_embedded(path, facts.rate_hz, frames)
        cover = read_cover(path)
    except Unreadable as error:
        return Proof("", "", 0, None, 0, 0, size, sha256, float("-inf"), unreadable=error.message)
    measured = signal.result() if signal else None
    peak = meter.result() if meter else measured
    return Proof(
        facts.container, facts.codec, facts.rate_hz, facts.bit_depth, facts.channels, frames, size, sha256,
        peak.sample_peak_dbfs if peak else float("-inf"), measured.true_peak_dbtp if measured else None,
        measured.integrated_lufs if measured else None, digest.result() if digest else None, embedded,
        hashlib.sha256(cover).hexdigest() if cover else "", len(cover), seam.result(loop or 1.0) if seam else None,
        speech_of(energies.result()) if energies else None,
        constant_bit_rate(path) if speech and facts.bit_depth is None else None,
    )  # fmt: skip


def hash_file(path: Path, should_stop: Callable[[], bool] = lambda: False) -> str:
    """SHA-256 of the bytes on the disk, not of the copy that the system may still hold in memory.

    Raises: Interrupted ``survey.cancelled`` when it is to stop.
    """
    digest = hashlib.sha256()
    with path.open("rb", buffering=0) as file:
        if hasattr(os, "posix_fadvise"):
            os.posix_fadvise(file.fileno(), 0, 0, os.POSIX_FADV_DONTNEED)
        while chunk := file.read(_HASH_BYTES):
            if should_stop():
                message = f"Reading {quoted(path.name)} cancelled. Nothing was kept."
                raise Cancelled("survey.cancelled", message)
            digest.update(chunk)
    return digest.hexdigest()
