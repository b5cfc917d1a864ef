"""Where to listen: the passages of a mix that a listening desk goes to at one key."""

from dataclasses import dataclass
from typing import Literal

import numpy as np

from ripe_press.core.measure.loudness import LoudnessResult

PassageName = Literal["start", "loudest", "quietest", "end"]
PASSAGE_S = 8.0
"""Long enough to know where one is, short enough to remember how it sounded: common practice, no source."""
_SILENT_LUFS = -70.0
"""Quieter passages are not music: the absolute gate of BS.1770-5."""
_OFFSET_DB = -0.691


@dataclass(frozen=True, slots=True)
class DeskPassage:
    """Frames of the mix from ``start_frame`` up to, without, ``end_frame``."""

    name: PassageName
    start_frame: int
    end_frame: int


def passages(
    loudness: LoudnessResult | None, rate_hz: int, start_frame: int, end_frame: int
) -> tuple[DeskPassage, ...]:
    """The passages of a stretch of the mix, in the order of their names: start, loudest, quietest, end.

    Loudest and quietest are the 8 seconds of the highest and the lowest mean K-weighted power that still sound; they
    are left out where nothing is known, where the stretch is no longer than one passage, or all of it is silent.
    """
    length = min(round(PASSAGE_S * rate_hz), end_frame - start_frame)
    found: list[DeskPassage] = [DeskPassage("start", start_frame, start_frame + length)]
    if loudness is not None and end_frame - start_frame > length:
        part = loudness.within(start_frame / rate_hz, end_frame / rate_hz)
        powers = part.windows(PASSAGE_S)
        sounding = powers > 10 ** ((_SILENT_LUFS - _OFFSET_DB) / 10)
        if sounding.any():
            ranked = (("loudest", np.argmax(powers)), ("quietest", np.argmin(np.where(sounding, powers, np.inf))))
            for name, at in ranked:
                first = min(start_frame + round(int(at) * loudness.stretch_s * rate_hz), end_frame - length)
                found.append(DeskPassage("loudest" if name == "loudest" else "quietest", first, first + length))
    return (*found, DeskPassage("end", end_frame - length, end_frame))
