"""Fades in and out."""

from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from ripe_press.core.blocks import Block, empty_block

Curve = Literal["linear", "equal-power", "s", "logarithmic"]
CURVES: tuple[Curve, ...] = ("linear", "equal-power", "s", "logarithmic")

_LOGARITHMIC_DEPTH_DB = 60.0


def gain_at(curve: Curve, share: NDArray[np.float64]) -> NDArray[np.float64]:
    """Gain of a fade in at a share of its length, 0 to 1; it begins at 0, ends at 1 and never falls.

    Equal power is a quarter of a sine, *s* half a period of a raised cosine, logarithmic rises by the same number
    of decibels in the same time from −60 dB (shifted so that it begins at nothing).
    """
    match curve:
        case "linear":
            gain = share
        case "equal-power":
            gain = np.sin(share * np.pi / 2)
        case "s":
            gain = 0.5 - 0.5 * np.cos(share * np.pi)
        case "logarithmic":
            lowest = 10 ** (-_LOGARITHMIC_DEPTH_DB / 20)
            gain = (lowest ** (1 - share) - lowest) / (1 - lowest)
    return np.clip(gain, 0.0, 1.0)


@dataclass(frozen=True, slots=True)
class Fade:
    """A fade of so many frames along a curve."""

    frames: int
    curve: Curve


NO_FADE = Fade(0, "linear")


class Fader:
    """Fades the start of ``total_frames`` in and their end out; the stream begins at ``first_frame`` of them.

    What lies before a fade in or behind a fade out is silent (a stream may begin at a negative frame).
    The first frame of a fade in and the last of a fade out are silent.
    """

    def __init__(self, channels: int, total_frames: int, fade_in: Fade, fade_out: Fade, first_frame: int = 0) -> None:
        self._channels = channels
        self._total = total_frames
        self._in = (min(fade_in.frames, total_frames), fade_in.curve)
        self._out = (min(fade_out.frames, total_frames), fade_out.curve)
        self._at = first_frame

    def process(self, block: Block) -> Block:
        """The block at its gain; the very same block where nothing fades."""
        start, end = self._at, self._at + len(block)
        self._at = end
        fades_in = self._in[0] > 0 and start < self._in[0]
        fades_out = self._out[0] > 0 and end > self._total - self._out[0]
        if not fades_in and not fades_out:
            return block
        frames = np.arange(start, end, dtype=np.float64)
        gain = np.ones(len(block))
        if fades_in:
            gain *= gain_at(self._in[1], np.clip(frames / self._in[0], 0.0, 1.0))
        if fades_out:
            left = np.clip((self._total - 1 - frames) / self._out[0], 0.0, 1.0)
            gain *= gain_at(self._out[1], left)
        return block * gain[:, None]

    def flush(self) -> Block:
        """Nothing is held back."""
        return empty_block(self._channels)
