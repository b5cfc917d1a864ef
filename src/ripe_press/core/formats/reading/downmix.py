"""More than two channels made into a mix: a pair of them, one alone, or all folded down.

The coefficients are those of ITU-R BS.775-4, Annex 4, table 2 (from memory of the text): front channels at 1, centre
and surrounds at 1/√2 into the side or sides where they lie, a single surround at 1/2 into both; the low-frequency
channel is left out. Side and back surrounds count alike.
"""

import math
import re

import numpy as np
from numpy.typing import NDArray

from ripe_press.core.blocks import Block
from ripe_press.core.errors import BadInput
from ripe_press.core.formats.reading.channel_layout import Layout, customary
from ripe_press.core.words import quoted

FOLD_DOWN = "bs775"
MOST_CHANNELS = 32

_HALF = math.sqrt(0.5)
_WEIGHTS = {
    "L": (1.0, 0.0), "R": (0.0, 1.0), "C": (_HALF, _HALF), "LFE": (0.0, 0.0), "Ls": (_HALF, 0.0), "Rs": (0.0, _HALF),
    "Lb": (_HALF, 0.0), "Rb": (0.0, _HALF), "Cb": (0.5, 0.5),
}  # fmt: skip
_PICK = re.compile(r"^(\d{1,2})(?:\+(\d{1,2}))?$")


def can_fold(layout: Layout | None) -> bool:
    """Whether every channel of a layout has a place in two."""
    return layout is not None and all(role in _WEIGHTS for role in layout)


def settle(wish: str, channels: int, layout: Layout | None) -> str:
    """The downmix in its settled form: ``""`` for one or two channels as they are, else ``bs775``, ``1+2`` or ``3``.

    An empty wish folds down what has a known layout. ``bs775`` for a file without channel labels means the most common
    order for that number of channels.

    Raises: BadInput ``downmix.ask`` when nothing was wished and nothing says what the channels are for;
    ``downmix.unreadable``, ``downmix.no-layout``, ``downmix.channel``.
    """
    wish = wish.strip().lower()
    if wish in ("", FOLD_DOWN) and channels <= 2:
        return ""
    if not wish:
        if can_fold(layout):
            return FOLD_DOWN
        order = customary(channels)
        fold = f", or bs775 to downmix them as {' '.join(order)}" if order and layout is None else ""
        message = f"{channels} unlabelled channels. Choose a pair (1+2) or one (3){fold}."
        raise BadInput("downmix.ask", message, channels=channels)
    if wish == FOLD_DOWN:
        if not can_fold(layout or customary(channels)):
            message = f"{channels} unlabelled channels cannot be downmixed. Choose a pair (1+2) or one (3)."
            raise BadInput("downmix.no-layout", message, channels=channels)
        return FOLD_DOWN
    found = _PICK.match(wish)
    if not found:
        message = f"{quoted(wish)} is not a channel choice. Use bs775 (downmix), a pair (1+2) or one (3)."
        raise BadInput("downmix.unreadable", message, text=wish)
    picked = [int(one) for one in found.groups() if one]
    for one in picked:
        if not 1 <= one <= channels:
            message = f"No channel {one}. Use 1 to {channels}."
            raise BadInput("downmix.channel", message, channel=one, channels=channels)
    if channels <= 2 and picked == list(range(1, channels + 1)):
        return ""
    return "+".join(str(one) for one in picked)


def channels_after(settled: str, channels: int) -> int:
    """How many channels the mix has then."""
    if not settled:
        return channels
    return 2 if settled == FOLD_DOWN or "+" in settled else 1


class Downmixer:
    """Applies a settled downmix to blocks of a file's channels."""

    def __init__(self, settled: str, channels: int, layout: Layout | None) -> None:
        self._picked: list[int] | None = None
        self._matrix: NDArray[np.float64] | None = None
        if settled == FOLD_DOWN:
            self._matrix = np.array([_WEIGHTS[role] for role in layout or customary(channels) or ()])
        elif settled:
            self._picked = [int(one) - 1 for one in settled.split("+")]

    def process(self, block: Block) -> Block:
        """The channels of the mix; picked ones come through untouched."""
        if self._matrix is not None:
            folded: Block = block @ self._matrix
            return folded
        return block if self._picked is None else np.ascontiguousarray(block[:, self._picked])


def describe_downmix(settled: str, file_channels: int, layout: Layout | None = None) -> str:
    """In words: ``downmix of 6 channels (L R C LFE Ls Rs), without LFE``, ``channels 3 and 4 of 6``."""
    if not settled:
        return ""
    if settled == FOLD_DOWN:
        roles = layout or customary(file_channels) or ()
        left_out = ", without LFE" if "LFE" in roles else ""
        return f"downmix of {file_channels} channels ({' '.join(roles)}){left_out}"
    first, _, second = settled.partition("+")
    return f"channels {first} and {second} of {file_channels}" if second else f"channel {first} of {file_channels}"
