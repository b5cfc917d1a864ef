"""Compare a passage of a file with its mix: spectra, difference and masking threshold."""

from dataclasses import dataclass

import numpy as np

from ripe_press.core.blocks import BLOCK_FRAMES, Block
from ripe_press.core.measure.content import SpectrumMeter
from ripe_press.core.proof.hearing.any_rate import HearingAtAnyRate
from ripe_press.core.proof.hearing.masked import Curve, masked_curve
from ripe_press.core.proof.hearing.opinion import Opinion, opinion_of
from ripe_press.core.units import db_from_linear, db_of_power

_EVERY_FRAMES = 8_192
"""A window in so many: a passage is short, and all of it counts."""


@dataclass(frozen=True, slots=True)
class PassageLook:
    """Spectra as (Hz, dB); the difference's level in dBFS, minus infinity where nothing differs."""

    mix: Curve
    file: Curve
    difference: Curve
    masked: Curve
    rms_dbfs: float
    peak_dbfs: float
    opinion: Opinion


def look_at(mix: Block, file: Block, rate_hz: int, begins_s: float = 0.0) -> PassageLook:
    """Compares two signals of one rate and length that lie over each other, the mix as loud as the file should be.

    The passage begins at ``begins_s`` of what people look at.
    """
    residue = file - mix
    hearing = HearingAtAnyRate(mix.shape[1], rate_hz)
    meters = [SpectrumMeter(rate_hz, _EVERY_FRAMES) for _ in range(3)]
    for start in range(0, len(mix), BLOCK_FRAMES):
        part = slice(start, start + BLOCK_FRAMES)
        hearing.process(mix[part], file[part])
        for meter, signal in zip(meters, (mix, file, residue), strict=True):
            meter.process(signal[part])
    of_mix, of_file, of_difference = (one.result().curve_db() for one in meters)
    heard = hearing.result()
    return PassageLook(
        of_mix, of_file, of_difference, masked_curve(of_difference, heard),
        db_of_power(float(np.square(residue).mean())), db_from_linear(float(np.abs(residue).max(initial=0.0))),
        opinion_of(heard, begins_s),
    )  # fmt: skip
