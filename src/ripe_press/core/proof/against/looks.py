"""What a file and what it should be look like beside each other: waveform, levels and loudness."""

from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from ripe_press.core.blocks import Block
from ripe_press.core.measure.loudness import LoudnessMeter, LoudnessResult
from ripe_press.core.measure.pyramid import BASE_FRAMES, reduce_frames

MOST_COLUMNS = 1_600
LEVELS_FROM_DB = -96.0
LEVELS = 100
"""Decibels from −96 to +4 dBFS; higher levels count in the last."""


@dataclass(frozen=True, slots=True)
class Looks:
    """Of the file ``wave``, the minimum and maximum of every column and channel.

    Of both, ``mix`` and ``file``, how many samples lie in every decibel from −96 dBFS on, and the loudness.
    """

    wave: NDArray[np.float32] = field(repr=False)
    frames_per_column: int
    mix_levels: NDArray[np.int64] = field(repr=False)
    file_levels: NDArray[np.int64] = field(repr=False)
    mix_loudness: LoudnessResult = field(repr=False)
    file_loudness: LoudnessResult = field(repr=False)


class LooksMeter:
    """Takes blocks of both; holds no more than a column of sound."""

    def __init__(self, channels: int, rate_hz: int, frames: int) -> None:
        self._column = max(BASE_FRAMES, -(-frames // MOST_COLUMNS))
        self._rest: Block = np.zeros((0, channels))
        self._waves: list[NDArray[np.float32]] = []
        self._levels = [np.zeros(LEVELS, dtype=np.int64) for _ in range(2)]
        self._loudness = [LoudnessMeter(channels, rate_hz) for _ in range(2)]

    def process(self, source: Block, test: Block) -> None:
        """Takes the next block of what should be in the file, and of the file."""
        from ripe_press.core.kernels.bins import count_levels

        for signal, counts, loudness in zip((source, test), self._levels, self._loudness, strict=True):
            count_levels(np.ascontiguousarray(signal), LEVELS_FROM_DB, counts)
            loudness.process(np.ascontiguousarray(signal))
        whole = np.concatenate((self._rest, test))
        end = len(whole) // self._column * self._column
        if end:
            self._waves.append(reduce_frames(np.ascontiguousarray(whole[:end]), self._column)[..., :2])
        self._rest = whole[end:]

    def result(self) -> Looks:
        """The results."""
        last = [reduce_frames(self._rest, self._column)[..., :2]] if len(self._rest) else []
        channels = self._rest.shape[1]
        wave = np.concatenate([np.zeros((0, channels, 2), dtype=np.float32), *self._waves, *last])
        mix, file = (one.result() for one in self._loudness)
        return Looks(wave, self._column, self._levels[0], self._levels[1], mix, file)
