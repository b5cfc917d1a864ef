"""Inner loops of the hearing model: energy, masking and its decay in every band."""

from typing import Any

import numpy as np
from numba import njit

_FAINT = 1e-5
"""A skirt is followed down to this part of where it began, as its 0.4th power: 125 dB."""
_LEAST = 1e-12


# No fused operations: equal inputs must differ by exactly zero.
@njit(cache=True, nogil=True, fastmath={"nsz", "reassoc"})
def group(before: Any, after: Any, weight: Any, edges: Any, power: Any, noise: Any) -> None:
    """Energies of bands ``(looks, bands)`` from spectra ``(looks, lines)``: of the one, and of what both differ by.

    Differences are of magnitudes. ``edges`` ``(bands, 4)`` are the first and the last line of every band and the shares
    of these two that lie in it.
    """
    looks, lines = before.shape
    squares, gaps = np.empty(lines), np.empty(lines)
    for look in range(looks):
        for line in range(lines):
            one, other = before[look, line], after[look, line]
            heard = np.sqrt(one.real * one.real + one.imag * one.imag) * weight[line]
            gap = heard - np.sqrt(other.real * other.real + other.imag * other.imag) * weight[line]
            squares[line], gaps[line] = heard * heard, gap * gap
        for band in range(len(edges)):
            first, last = int(edges[band, 0]), int(edges[band, 1])
            energy, differs = edges[band, 2] * squares[first], edges[band, 2] * gaps[first]
            for line in range(first + 1, last):
                energy += squares[line]
                differs += gaps[line]
            if last > first:
                energy += edges[band, 3] * squares[last]
                differs += edges[band, 3] * gaps[last]
            power[look, band], noise[look, band] = energy, differs


@njit(cache=True, nogil=True)
def spread(power: Any, begins: Any, slopes: Any, flat: Any, out: Any) -> None:
    """Spreads energies ``(looks, bands)`` over the bands; what each source gives adds up to that source.

    ``slopes`` are those of a source of 0 dB towards higher bands, in dB per Bark, ``begins`` the total that each
    spreads downwards, and ``flat`` the result for 1 in every band. Skirts are added as their 0.4th powers.
    """
    looks, bands = power.shape
    down = 10.0 ** (-2.7 * 0.25 * 0.4)
    # A quarter of a Bark, as natural logarithms of powers.
    quarter = 0.25 * np.log(10.0) / 10.0
    sums, starts, falls = np.empty(bands), np.empty(bands), np.empty(bands)
    for look in range(looks):
        for band in range(bands):
            level = np.log(max(power[look, band], _LEAST))
            fall = 0.2 * 10.0 / np.log(10.0) * level * quarter - slopes[band] * quarter
            reach = fall * (bands - band)
            above = (1.0 - (np.exp(reach) if reach > -40.0 else 0.0)) / (1.0 - np.exp(fall))
            starts[band] = np.exp(0.4 * (level - np.log(begins[band] + above - 1.0)))
            falls[band] = np.exp(0.4 * fall)
            sums[band] = 0.0
        below = 0.0
        for band in range(bands - 1, -1, -1):
            below = below * down + starts[band]
            sums[band] += below
        for band in range(bands):
            skirt, least = starts[band], starts[band] * _FAINT
            for higher in range(band + 1, bands):
                skirt *= falls[band]
                if skirt < least:
                    break
                sums[higher] += skirt
        for band in range(bands):
            out[look, band] = sums[band] * sums[band] * np.sqrt(sums[band]) / flat[band]


@njit(cache=True, nogil=True)
def linger(excited: Any, forget: Any, held: Any, offset: Any, out: Any) -> None:
    """Write the masking threshold: the larger of the current and the decaying energy, minus each band's offset."""
    looks, bands = excited.shape
    for look in range(looks):
        for band in range(bands):
            now = excited[look, band]
            held[band] = forget[band] * held[band] + (1.0 - forget[band]) * now
            out[look, band] = max(held[band], now) * offset[band]


def warm_up() -> None:
    """Compiles them, or loads them from the cache, for the kinds of arrays that they are called with."""
    one, band, spectrum = np.ones((1, 1)), np.ones(1), np.ones((1, 1), dtype=np.complex128)
    group(spectrum, spectrum, band, np.zeros((1, 4)), one, one)
    spread(one, band, band, band, one)
    linger(one, band, band, band, one)
