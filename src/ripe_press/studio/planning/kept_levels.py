"""Files in the folder of a mix besides its pyramid: clipping, energies, bands, true peaks."""

import json
from pathlib import Path

import numpy as np

from ripe_press.core.formats.facts import SourceFacts
from ripe_press.core.measure.bands import BandLevels, BandsMeter
from ripe_press.core.sources.source import AudioSource
from ripe_press.core.survey import Survey
from ripe_press.core.whole_files import whole, write_whole
from ripe_press.store.mixes import StoredMix

_BANDS = "bands.npz"


def keep_measures(folder: Path, result: Survey) -> None:
    """Writes what a survey found beside the pyramid: clipping, energies, true peaks."""
    row = {
        "clipped_samples": result.clipping.clipped_samples, "overs": result.clipping.overs,
        "complete": result.clipping.complete,
        "runs": [[run.start_frame, run.frames, run.channel, run.overs] for run in result.clipping.runs],
    }  # fmt: skip
    write_whole(folder / "clipping.json", json.dumps(row))
    energies = result.loudness
    with whole(folder / "loudness.npz") as new, new.open("wb") as file:
        np.savez(file, stretch_s=energies.stretch_s, weighted=energies.weighted, plain=energies.plain)
    _keep_bands(folder, result.bands)
    with whole(folder / f"true_peaks {result.facts.downmix or 'all'}.npy") as new, new.open("wb") as file:
        np.save(file, result.true_peak_bins)


def kept_bands(folder: Path, source: AudioSource) -> BandLevels:
    """The levels of the bands of a mix. Of mixes from before they were kept, measured when they are first needed."""
    path = folder / _BANDS
    if not path.is_file():
        meter = BandsMeter(source.facts.channels, source.facts.rate_hz)
        with source.open() as reader:
            for block in reader.blocks():
                meter.process(block)
        _keep_bands(folder, meter.result())
    with np.load(path) as kept:
        return BandLevels(float(kept["step_s"]), kept["coded"])


def _keep_bands(folder: Path, bands: BandLevels) -> None:
    with whole(folder / _BANDS) as new, new.open("wb") as file:
        np.savez(file, step_s=bands.step_s, coded=bands.coded)


def facts_of(mix: StoredMix) -> SourceFacts:
    """The facts of a mix on the shelf."""
    return SourceFacts(
        mix.path, mix.container, mix.codec, mix.rate_hz, mix.channels, mix.frames, mix.bit_depth, mix.downmix,
        mix.file_channels, mix.measures["effective_bits"], tuple(mix.measures.get("layout") or ()) or None,
        mix.measures.get("content_sum", ""),
    )  # fmt: skip
