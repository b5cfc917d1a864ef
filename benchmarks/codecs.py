"""How far each codec's error lies below what the ear masks, on the demo mixes: what the encoder's switches are worth.

    python benchmarks/codecs.py [seconds]

The model is that of ITU-R BS.1387 (`core/proof/hearing`). Nobody listened; lower is better.
"""

import sys
import tempfile
from collections.abc import Iterator
from contextlib import nullcontext
from pathlib import Path
from unittest.mock import patch

import numpy as np
import soxr

sys.path.insert(0, str(Path(__file__).parents[1] / "tests"))

from ripe_press.core.blocks import Block
from ripe_press.core.formats.capabilities import CAPABILITIES, Container
from ripe_press.core.formats.coding import Coding
from ripe_press.core.formats.reading.reader import SourceReader
from ripe_press.core.formats.writing import av_writer
from ripe_press.core.proof.hearing import HearingMeter
from ripe_press.demo.mixes import make_demo_mixes
from support.formats import read_file, write_file

RATE = 48_000


def castanets(seconds: float) -> Block:
    """Dry clicks a few times a second: what a codec smears."""
    at = np.arange(round(seconds * RATE)) % (RATE // 5) / RATE
    random = np.random.default_rng(4)
    clicks = random.standard_normal((len(at), 2)) * np.exp(-at / 0.006)[:, None]
    return np.asarray(clicks * 0.5)


def pieces(folder: Path, seconds: float) -> Iterator[tuple[str, Block]]:
    """The loudest part of each demo mix at 48 kHz, and castanets."""
    for path in make_demo_mixes(folder, lambda _said: None):
        with SourceReader(path) as reader:
            rate = reader.facts.rate_hz
            samples = np.concatenate(list(reader.blocks()))
        width = round(seconds * rate)
        starts = range(0, max(1, len(samples) - width), rate)
        first = max(starts, key=lambda start: float(np.square(samples[start : start + width]).sum()))
        part = samples[first : first + width]
        yield path.stem, np.asarray(part if rate == RATE else soxr.resample(part, rate, RATE, quality="VHQ"))
    yield "castanets", castanets(seconds)


def coded(folder: Path, container: Container, samples: Block, coding: Coding) -> Block:
    target = folder / "coded"
    target.unlink(missing_ok=True)
    return np.asarray(read_file(write_file(target, container, samples, coding=coding))[: len(samples)])


def noise_to_mask_db(source: Block, test: Block) -> tuple[float, float]:
    """The total ratio and the 95th percentile over looks, in dB, of both channels."""
    count, meter = min(len(source), len(test)), HearingMeter(source.shape[1], RATE)
    meter.process(source[:count], test[:count])
    found = meter.result()
    return found.total_db, found.p95_db


def main() -> None:
    """Prints a row a codec and bit rate: total ratio and 95th percentile, mean over the pieces."""
    seconds = float(sys.argv[1]) if len(sys.argv) > 1 else 6.0
    with tempfile.TemporaryDirectory() as place:
        folder = Path(place)
        material = list(pieces(folder, seconds))
        print("codec          kbit/s   ratio    95 %   " + "  ".join(f"{name[:10]:>10}" for name, _ in material))
        for name, container, rates in (
            ("AAC as it comes", "aac", CAPABILITIES["aac"].kbps), ("AAC", "aac", CAPABILITIES["aac"].kbps),
            ("MP3", "mp3", (128, 160, 192, 256, 320)), ("Opus", "opus", (64, 96, 128, 160, 192, 256)),
        ):  # fmt: skip
            for kbps in rates:
                unset = patch.object(av_writer, "switches_for", lambda *_: {})
                with unset if name == "AAC as it comes" else nullcontext():
                    mode = CAPABILITIES[container].knobs[0][0]
                    found = [
                        noise_to_mask_db(one, coded(folder, container, one, Coding(mode, kbps))) for _, one in material
                    ]
                total, high = np.mean(found, axis=0)
                each = "  ".join(f"{one:10.1f}" for one, _ in found)
                print(f"{name:15} {kbps:5}  {total:6.1f}  {high:6.1f}   {each}")


if __name__ == "__main__":
    main()
