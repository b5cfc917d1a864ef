"""More than two channels made into a mix: a pair of them, one alone, or all folded down.

The coefficients are those of ITU-R BS.775-4, Annex 4, table 2 (from memory of the text): front channels at 1,
centre and surrounds at 1/√2 into the side or sides where they lie; the low-frequency channel is left out.
"""

import math
import re

import numpy as np
from numpy.typing import NDArray

from ripe_press.core.blocks import Block
from ripe_press.core.errors import BadInput

FOLD_DOWN = "bs775"
MOST_CHANNELS = 32

_HALF = math.sqrt(0.5)
_WEIGHTS = {
    "L": (1.0, 0.0), "R": (0.0, 1.0), "C": (_HALF, _HALF), "LFE": (0.0, 0.0),
    "Ls": (_HALF, 0.0), "Rs": (0.0, _HALF),
}  # fmt: skip
# The order of Microsoft's multichannel WAV, which most containers and decoders follow (common practice, no source).
_LAYOUTS: dict[int, tuple[str, ...]] = {
    3: ("L", "R", "C"),
    4: ("L", "R", "Ls", "Rs"),
    5: ("L", "R", "C", "Ls", "Rs"),
    6: ("L", "R", "C", "LFE", "Ls", "Rs"),
}
# Vorbis I specification, 4.3.9, which Opus takes over (RFC 7845, 5.1.1.2).
_XIPH_LAYOUTS: dict[int, tuple[str, ...]] = {
    3: ("L", "C", "R"),
    4: ("L", "R", "Ls", "Rs"),
    5: ("L", "C", "R", "Ls", "Rs"),
    6: ("L", "C", "R", "Ls", "Rs", "LFE"),
}
_PICK = re.compile(r"^(\d{1,2})(?:\+(\d{1,2}))?$")


def layout_of(channels: int, codec: str) -> tuple[str, ...] | None:
    """What each channel of a file is for, where that is known: three to six channels."""
    return (_XIPH_LAYOUTS if codec in ("vorbis", "opus") else _LAYOUTS).get(channels)


def settle(wish: str, channels: int, codec: str) -> str:
    """The downmix in its settled form: ``""`` for one or two channels as they are, else ``bs775``, ``1+2`` or ``3``.

    An empty wish folds down what has a known layout, and takes the first pair otherwise.

    Raises: BadInput ``downmix.unreadable``, ``downmix.no-layout``, ``downmix.channel``.
    """
    wish = wish.strip().lower()
    if not wish:
        if channels <= 2:
            return ""
        return FOLD_DOWN if layout_of(channels, codec) else "1+2"
    if wish == FOLD_DOWN:
        if channels <= 2:
            return ""
        if not layout_of(channels, codec):
            message = f"Nothing says what the {channels} channels are for: they cannot be folded down. Choose a pair."
            raise BadInput("downmix.no-layout", message, channels=channels)
        return FOLD_DOWN
    found = _PICK.match(wish)
    if not found:
        message = f"{wish!r} is no choice of channels. Write bs775 to fold down, a pair like 1+2, or one like 3."
        raise BadInput("downmix.unreadable", message, text=wish)
    picked = [int(one) for one in found.groups() if one]
    for one in picked:
        if not 1 <= one <= channels:
            message = f"There is no channel {one}: the file has channels 1 to {channels}."
            raise BadInput("downmix.channel", message, channel=one, channels=channels)
    if channels <= 2 and picked == list(range(1, channels + 1)):
        return ""
    return "+".join(str(one) for one in picked)


def wave_order(channels: int, codec: str) -> list[int] | None:
    """Where each channel of a file lies when they are put into the order of WAV; None when they are in it."""
    here, there = layout_of(channels, codec), _LAYOUTS.get(channels)
    return [here.index(role) for role in there] if here and there and here != there else None


def channels_after(settled: str, channels: int) -> int:
    """How many channels the mix has then."""
    if not settled:
        return channels
    return 2 if settled == FOLD_DOWN or "+" in settled else 1


class Downmixer:
    """Applies a settled downmix to blocks of a file's channels."""

    def __init__(self, settled: str, channels: int, codec: str) -> None:
        self._picked: list[int] | None = None
        self._matrix: NDArray[np.float64] | None = None
        if settled == FOLD_DOWN:
            layout = layout_of(channels, codec) or ()
            self._matrix = np.array([_WEIGHTS[role] for role in layout])
        elif settled:
            self._picked = [int(one) - 1 for one in settled.split("+")]

    def process(self, block: Block) -> Block:
        """The channels of the mix; picked ones come through untouched."""
        if self._matrix is not None:
            folded: Block = block @ self._matrix
            return folded
        return block if self._picked is None else np.ascontiguousarray(block[:, self._picked])


def describe_downmix(settled: str, file_channels: int) -> str:
    """In words: ``folded down from 6 channels``, ``channels 3 and 4 of 6``."""
    if not settled:
        return ""
    if settled == FOLD_DOWN:
        return f"folded down from {file_channels} channels"
    first, _, second = settled.partition("+")
    return f"channels {first} and {second} of {file_channels}" if second else f"channel {first} of {file_channels}"
