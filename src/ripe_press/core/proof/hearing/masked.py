"""What is masked, as a spectrum beside that of what differs."""

import itertools

import numpy as np

from ripe_press.core.proof.hearing.meter import Heard

Curve = tuple[tuple[float, float], ...]
"""(frequency in Hz, level in dB)."""


def masked_curve(difference: Curve, heard: Heard) -> Curve:
    """In the measure of the difference's own spectrum: that lies in every band as far from it as the model says.

    The spectrum of what differs is averaged in decibels over each band; bands in which nothing differs are left out.
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
