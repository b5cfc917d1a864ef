"""Measurements of a processed signal: peaks, loudness, and a fingerprint of its samples."""

import math
from collections.abc import Sequence
from dataclasses import dataclass, field

import numpy as np
import xxhash

from ripe_press.core.blocks import Block
from ripe_press.core.measure.loudness import Energies, LoudnessMeter, gated_lufs
from ripe_press.core.measure.peak import PeakMeter
from ripe_press.core.measure.true_peak import TruePeakMeter


@dataclass(frozen=True, slots=True)
class SignalResult:
    """Sample peak in dBFS, true peak in dBTP and integrated loudness in LUFS; ``-inf`` for silence."""

    sample_peak_dbfs: float
    true_peak_dbtp: float
    integrated_lufs: float
    range_lu: float | None = None
    max_momentary_lufs: float = -math.inf
    max_short_term_lufs: float = -math.inf
    blocks: Energies | None = field(default=None, compare=False, repr=False)
    """The mean squares of the blocks that its loudness is gated from, where several are to be taken together."""


def together(signals: Sequence[SignalResult]) -> SignalResult:
    """Several signals as one: the highest peaks, and the loudness of the whole, gated over the blocks of all."""
    return SignalResult(
        max((one.sample_peak_dbfs for one in signals), default=-math.inf),
        max((one.true_peak_dbtp for one in signals), default=-math.inf),
        gated_lufs(np.concatenate([np.zeros(0), *(one.blocks for one in signals if one.blocks is not None)])),
    )


class SignalMeter:
    """Peaks and loudness of a signal of known rate."""

    def __init__(self, channels: int, rate_hz: int) -> None:
        self._peak = PeakMeter(channels)
        self._true_peak = TruePeakMeter(channels, rate_hz)
        self._loudness = LoudnessMeter(channels, rate_hz)

    def process(self, block: Block) -> None:
        """Takes the next block into account."""
        self._peak.process(block)
        self._true_peak.process(block)
        self._loudness.process(block)

    def result(self) -> SignalResult:
        """The finished measure."""
        loudness = self._loudness.result()
        return SignalResult(
            self._peak.result().sample_peak_dbfs, self._true_peak.result().true_peak_dbtp, loudness.integrated_lufs,
            loudness.range_lu, loudness.max_momentary_lufs, loudness.max_short_term_lufs, loudness.blocks,
        )  # fmt: skip


class SamplesHash:
    """XXH3 (128 bits) of the samples themselves as 64-bit floats: the same for the same samples in any container.

    It detects accidental changes; it is not a protection against forgery.
    """

    def __init__(self) -> None:
        self._digest = xxhash.xxh3_128()

    def process(self, block: Block) -> None:
        """Takes the next block into account; a negative zero counts as zero."""
        self._digest.update(np.ascontiguousarray(block + 0.0, dtype="<f8").data)

    def result(self) -> str:
        """The digest in hexadecimal."""
        return self._digest.hexdigest()
