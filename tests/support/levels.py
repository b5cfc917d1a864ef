"""The levels over time of generated sounds."""

from ripe_press.core.blocks import Block
from ripe_press.core.measure.bands import BandLevels, BandsMeter
from ripe_press.core.measure.loudness import LoudnessMeter, LoudnessResult
from support.cuts import RATE_HZ, Mono
from support.signals import in_blocks


def levels_of(sound: Mono | Block, rate_hz: int = RATE_HZ) -> tuple[LoudnessResult, BandLevels]:
    """Loudness and bands of a sound, mono or not."""
    block = sound.reshape(len(sound), -1)
    loudness, bands = LoudnessMeter(block.shape[1], rate_hz), BandsMeter(block.shape[1], rate_hz)
    for one in in_blocks(block):
        loudness.process(one)
        bands.process(one)
    return loudness.result(), bands.result()
