"""Masking threshold as a spectrum next to that of the difference."""

import itertools

import numpy as np

from ripe_press.core.proof.hearing.meter import Audibility

Curve = tuple[tuple[float, float], ...]
"""(frequency in Hz, level in dB)."""


def masked_curve(difference: Curve, heard: Audibility) -> Curve:
    """Masking threshold in units of the difference spectrum, at the model's distance in every band.

    The difference spectrum is averaged in decibels per band; bands without difference are omitted.
    """
    hz, levels = (np.array(one) for one in zip(*difference, strict=True)) if difference else (np.zeros(0), np.zeros(0))
    middles = np.array(heard.band_hz)
    if len(middles) < 2:
        return ()
    inner = (middles[1:] + middles[:-1]) / 2
    edges = np.concatenate(([2 * middles[0] - inner[0]], inner, [2 * middles[-1] - inner[-1]]))
    found = []
    for band, (low, high) in enumerate(itertools.pairwise(edges)):
        near = levels[(hz >= low) & (hz <= high)]
        margin = heard.margin_db[band]
        if len(near) and np.isfinite(margin):
            found.append((round(float(middles[band]), 1), round(float(near.mean()) - margin, 1)))
    return tuple(found)
