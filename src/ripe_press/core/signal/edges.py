"""The edges of a range: cutting it out, folding its tail onto its start, silence before and after."""

from collections.abc import Iterable

import numpy as np

from ripe_press.core.blocks import Block, empty_block


class Cutter:
    """Lets through the frames from ``start`` up to, without, ``end`` of the stream it is given."""

    def __init__(self, channels: int, start: int, end: int) -> None:
        self._channels = channels
        self._start, self._end = start, end
        self._at = 0

    def process(self, block: Block) -> Block:
        """The part of the block that lies inside, possibly empty."""
        start = max(0, self._start - self._at)
        end = max(0, self._end - self._at)
        self._at += len(block)
        return block[start:end]

    def flush(self) -> Block:
        """Nothing is held back."""
        return empty_block(self._channels)


def folded(tail: Iterable[Block], channels: int, loop_frames: int) -> Block:
    """What rings past the end of a loop, as it falls onto the loop when that is repeated; at most one loop long."""
    out = np.zeros((0, channels))
    at = 0
    for block in tail:
        for start in range(0, len(block), loop_frames):
            piece = block[start : start + loop_frames]
            begin = (at + start) % loop_frames
            for part, place in ((piece[: loop_frames - begin], begin), (piece[loop_frames - begin :], 0)):
                if place + len(part) > len(out):
                    out = np.concatenate((out, np.zeros((place + len(part) - len(out), channels))))
                out[place : place + len(part)] += part
        at += len(block)
    return out


class Folder:
    """Adds a folded tail to the first frames of a loop; the stream begins at ``first_frame`` of the loop."""

    def __init__(self, tail: Block, first_frame: int = 0) -> None:
        self._tail = tail
        self._at = first_frame

    def process(self, block: Block) -> Block:
        """The block with its share of the tail; the very same block once the tail is over."""
        share = self._tail[self._at : self._at + len(block)]
        self._at += len(block)
        if not len(share):
            return block
        out = block.copy()
        out[: len(share)] += share
        return out

    def flush(self) -> Block:
        """Nothing is held back."""
        return empty_block(self._tail.shape[1])


def crossfaded(end: Block, lead: Block) -> Block:
    """The end of a loop fading into what lies before its start; both ``(frames, channels)`` and as long.

    Linear gains, raised where the two are not alike so that the power stays even: by ``1/sqrt(a² + b² + 2rab)`` with
    their correlation r, which counts from −0.2 to 1.
    """
    share = (np.arange(len(end)) + 1.0) / (len(end) + 1.0)
    power = float(np.sqrt((end**2).sum() * (lead**2).sum()))
    alike = min(1.0, max(LEAST_ALIKE, float((end * lead).sum()) / power)) if power else 0.0
    out, into = 1.0 - share, share
    even = 1.0 / np.sqrt(out**2 + into**2 + 2.0 * alike * out * into)
    return np.asarray(end * (out * even)[:, None] + lead * (into * even)[:, None])


LEAST_ALIKE = -0.2


class Joiner:
    """Puts ``seam`` in the place of the last frames of a loop; the stream begins at ``first_frame`` of the loop."""

    def __init__(self, seam: Block, loop_frames: int, first_frame: int = 0) -> None:
        self._seam = seam
        self._begins = loop_frames - len(seam)
        self._at = first_frame

    def process(self, block: Block) -> Block:
        """The block with its share of the seam; the very same block where there is none."""
        start, self._at = self._at, self._at + len(block)
        first, last = max(start, self._begins), min(self._at, self._begins + len(self._seam))
        if first >= last:
            return block
        out = block.copy()
        out[first - start : last - start] = self._seam[first - self._begins : last - self._begins]
        return out

    def flush(self) -> Block:
        """Nothing is held back."""
        return empty_block(self._seam.shape[1])


class Surrounded:
    """A stream between what a loop plays before it and after it."""

    def __init__(self, before: Block, after: Block) -> None:
        self._before: Block | None = before
        self._after = after

    def process(self, block: Block) -> Block:
        """The block; the first one preceded by the lead-in."""
        if self._before is None or not len(block):
            return block
        before, self._before = self._before, None
        return np.concatenate((before, block))

    def flush(self) -> Block:
        """The audio after the range."""
        return self._after


def room_tone(quiet: Block, frames: int) -> Block:
    """So many frames of room tone, made of a quiet stretch that is played forwards and backwards in turn.

    Each turn begins where the one before ended, so that nothing steps.
    """
    if not len(quiet) or frames <= 0:
        return np.zeros((max(0, frames), quiet.shape[1]))
    both = np.concatenate((quiet, quiet[::-1]))
    return np.asarray(np.tile(both, (-(-frames // len(both)), 1))[:frames])


class Trimmer:
    """Lets ``frames`` through after the first ``lead``, with silence before and behind; no frame is ever missing."""

    def __init__(self, channels: int, lead: int, frames: int, silence_before: int = 0, silence_after: int = 0) -> None:
        self._channels = channels
        self._cutter = Cutter(channels, lead, lead + frames)
        self._left = frames
        self._before, self._after = silence_before, silence_after

    def process(self, block: Block) -> Block:
        """The part of the block that lies inside, led by the silence when it is the first."""
        part = self._cutter.process(block)
        self._left -= len(part)
        if not self._before or not len(part):
            return part
        silence, self._before = np.zeros((self._before, self._channels)), 0
        return np.concatenate((silence, part))

    def flush(self) -> Block:
        """The silence that follows, and what a conversion came short by: a frame at most."""
        return np.zeros((self._before + self._left + self._after, self._channels))


MOST_SILENCE_S = 60.0
"""Silence is made in one block; a minute at 384 kHz is the most that is asked of memory."""
