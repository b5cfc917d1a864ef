"""Sample-rate conversion, streamed, and the converter's own measured response."""

import math
from dataclasses import dataclass
from typing import Final, Literal

import numpy as np
import soxr
from numpy.typing import NDArray

from ripe_press.core.blocks import Block, empty_block
from ripe_press.core.errors import Unsupported
from ripe_press.core.units import MAX_RATE_HZ, MIN_RATE_HZ

Quality = Literal["high", "very-high"]

_RECIPES: Final[dict[Quality, str]] = {"high": "HQ", "very-high": "VHQ"}

_REACH_FRAMES = 160
"""How far the filter reaches to either side at the lower of the two rates: past it lie −180 dB (measured)."""

MOST_PHASES = 2_000
"""A ratio of rates with a larger number in it is converted, but not drawn: its common grid is too fine."""

EDGE_DEPTH_DB = 0.1
"""The pass band is said to end where the response has fallen by this much."""


def reach_frames(from_hz: int, to_hz: int) -> int:
    """How many frames of the input before, or after, an output frame take part in it."""
    return math.ceil(_REACH_FRAMES * max(1.0, from_hz / to_hz))


def grid_frames(from_hz: int, to_hz: int) -> int:
    """Input frames from one common point of both grids to the next."""
    return from_hz // math.gcd(from_hz, to_hz)


class Resampler:
    """Converts ``from_hz`` to ``to_hz`` in float64, with no shift in time.

    Input frame ``p`` is at ``p·to_hz/from_hz`` of the output; over a whole stream the length is the exact ratio,
    rounded. ``process`` lags behind by the converter's own delay, ``flush`` gives the rest. Any cutting into blocks
    gives the same samples, bit for bit.
    """

    def __init__(self, from_hz: int, to_hz: int, channels: int, quality: Quality = "very-high") -> None:
        self._channels = channels
        self._stream = soxr.ResampleStream(from_hz, to_hz, channels, dtype="float64", quality=_RECIPES[quality])

    def process(self, block: Block) -> Block:
        """The frames that are ready after this block; often fewer than the ratio promises at first."""
        return self._shaped(self._stream.resample_chunk(block, last=False))

    def flush(self) -> Block:
        """The frames still held back by the filter."""
        return self._shaped(self._stream.resample_chunk(empty_block(self._channels), last=True))

    def _shaped(self, out: NDArray[np.float64]) -> Block:
        return out.reshape(-1, self._channels)


@dataclass(frozen=True, slots=True)
class ConverterResponse:
    """What a conversion does to each frequency, measured on its impulse response.

    ``ripple_db`` is the largest departure from 0 dB up to ``flat_to_hz`` (20 kHz, or the same share of a
    lower half rate); ``edge_hz`` is where it has fallen by 0.1 dB; ``rejection_db`` is the highest level left
    above the lower half rate, as a negative figure. ``curve`` is (frequency in Hz, level in dB).
    """

    from_hz: int
    to_hz: int
    quality: Quality
    flat_to_hz: float
    ripple_db: float
    edge_hz: float
    rejection_db: float
    curve: tuple[tuple[float, float], ...]


def measure_response(from_hz: int, to_hz: int, quality: Quality, points: int = 240) -> ConverterResponse:
    """Send impulses through the converter and return its response.

    One impulse a phase of the ratio samples the filter's continuous impulse response on the fine common
    grid of both rates, so that images and aliases are seen as well as the pass band. Raises: Unsupported
    ``converter.rates`` where that grid would be too fine, or nothing is converted.
    """
    if from_hz == to_hz:
        message = f"{from_hz:,} Hz to {to_hz:,} Hz: no conversion. Choose two rates."
        raise Unsupported("converter.rates", message, from_hz=from_hz, to_hz=to_hz)
    common = math.gcd(from_hz, to_hz)
    sane = all(MIN_RATE_HZ <= rate <= MAX_RATE_HZ for rate in (from_hz, to_hz))
    if not sane or max(from_hz, to_hz) // common > MOST_PHASES:
        message = f"No filter curve for {from_hz:,} Hz to {to_hz:,} Hz. Choose standard rates."
        raise Unsupported("converter.rates", message, from_hz=from_hz, to_hz=to_hz)
    grid_hz, fine = _fine_impulse_response(from_hz, to_hz, quality)
    size = 1 << (len(fine) * 2 - 1).bit_length()
    spectrum = np.abs(np.fft.rfft(fine, size))
    levels = 20 * np.log10(np.maximum(spectrum, 1e-12))
    frequencies = np.arange(len(spectrum)) * grid_hz / size
    half = min(from_hz, to_hz) / 2
    flat_to = min(20_000.0, half * 20 / 22.05)
    passing = levels[frequencies <= flat_to]
    fallen = np.flatnonzero((levels < -EDGE_DEPTH_DB) & (frequencies <= half))
    edge = float(frequencies[fallen[0]]) if len(fallen) else half
    top = max(from_hz, to_hz) / 2
    beyond = levels[(frequencies >= half) & (frequencies <= max(top, half * 1.5))]
    return ConverterResponse(
        from_hz=from_hz,
        to_hz=to_hz,
        quality=quality,
        flat_to_hz=flat_to,
        ripple_db=float(np.max(np.abs(passing))),
        edge_hz=edge,
        rejection_db=float(np.max(beyond)),
        curve=_thinned(frequencies, levels, max(top, half * 1.5), points),
    )


def _fine_impulse_response(from_hz: int, to_hz: int, quality: Quality) -> tuple[float, NDArray[np.float64]]:
    """The filter's impulse response on the grid of the rates' least common multiple, unity at 0 Hz."""
    common = int(np.gcd(from_hz, to_hz))
    up, down = to_hz // common, from_hz // common
    reach = int(400 * max(1.0, from_hz / to_hz))
    # Output n is at input time n·down/up. Moving the impulse by one input frame moves the response by `up` points of
    # the fine grid, so `down` impulses fill every point that the outputs can reach.
    pieces: dict[int, float] = {}
    for shift in range(down):
        impulse = np.zeros((2 * reach + shift + 1, 1))
        impulse[reach + shift, 0] = 1.0
        out = soxr.resample(impulse, from_hz, to_hz, quality=_RECIPES[quality])[:, 0]
        positions = np.arange(len(out)) * down - (reach + shift) * up
        pieces.update(zip(positions.tolist(), out.tolist(), strict=True))
    span = reach * up * 9 // 10
    fine = np.array([pieces.get(at, 0.0) for at in range(-span, span + 1)])
    return float(from_hz * up), fine / fine.sum()


def _thinned(
    frequencies: NDArray[np.float64], levels: NDArray[np.float64], top_hz: float, points: int
) -> tuple[tuple[float, float], ...]:
    """The curve at ``points`` even frequencies, each the highest level of its neighbourhood."""
    edges = np.linspace(0.0, top_hz, points + 1)
    places = np.searchsorted(frequencies, edges)
    return tuple(
        (float((low + high) / 2), float(np.max(levels[a : max(b, a + 1)])))
        for low, high, a, b in zip(edges[:-1], edges[1:], places[:-1], places[1:], strict=True)
    )
