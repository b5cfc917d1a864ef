"""What is heard of the limiter at one loudness and ceiling, beside two of good practice, and its time.

    python benchmarks/limiting.py [folder of music]

The pieces are openly licensed music as Debian's packages bring it (``*.ogg``, ``*.opus``, ``*.mp3`` below
``/usr/share/games``, or the folder given), and synthetic drums where there is none. Noise-to-mask ratios after ITU-R
BS.1387, mean and 99th percentile, against the mix at the same loudness: lower is better. Nobody listened.
"""

import sys
import time
from collections.abc import Callable, Iterator
from pathlib import Path

import numpy as np
import soundfile
import soxr

sys.path.insert(0, str(Path(__file__).parents[1] / "tests"))

from published.test_limiter import drums, limited, loudness, two_stages
from ripe_press.core.blocks import Block
from ripe_press.core.proof.hearing import HearingMeter
from ripe_press.core.signal.limiter import PeakDetector

RATE = 48_000
SECONDS = 8
OVER_DB = 5.0
MOST_PIECES = 18


def pieces(folder: Path) -> Iterator[tuple[str, Block]]:
    """The loudest seconds of each piece that leaves a limiter something to do, at 48 kHz."""
    found = [path for path in sorted(folder.rglob("*")) if path.suffix in (".ogg", ".opus", ".mp3")]
    found = [path for path in found if path.stat().st_size > 600_000]
    for path in found[:: max(1, len(found) // MOST_PIECES)]:
        samples, rate = soundfile.read(path, frames=60 * 48_000, always_2d=True)
        samples = soxr.resample(samples[:, [0, -1]], rate, RATE)
        width = SECONDS * RATE
        if len(samples) < width:
            continue
        starts = range(0, len(samples) - width + 1, RATE)
        first = max(starts, key=lambda start: float(np.square(samples[start : start + width]).sum()))
        yield path.stem, samples[first : first + width]
    if not found:
        yield from ((f"drums {seed}", drums(seed)) for seed in (1, 2))


def clipped_first(samples: Block) -> Block:
    """The highest 1.5 dB clipped, four times oversampled, and a limiter with a fixed release behind."""
    limit = max(10 ** (-1 / 20), float(np.abs(samples).max()) / 10 ** (1.5 / 20))
    finer = soxr.resample(samples, RATE, 4 * RATE, quality="VHQ")
    taken = soxr.resample(np.clip(finer, -limit, limit) - finer, 4 * RATE, RATE, quality="VHQ")
    return two_stages(samples + taken[: len(samples)], RATE)


def at(limit: Callable[[Block], Block], samples: Block, target_lufs: float) -> tuple[float, float]:
    """Mean and 99th percentile of the noise-to-mask ratio at a loudness."""
    low, high = target_lufs - loudness(samples) - 0.5, target_lufs - loudness(samples) + 9
    for _ in range(8):
        middle = (low + high) / 2
        out = limit(samples * 10 ** (middle / 20))
        low, high = (middle, high) if loudness(out) < target_lufs else (low, middle)
    meter = HearingMeter(2, RATE)
    meter.process(samples * 10 ** ((loudness(out) - loudness(samples)) / 20), out)
    heard = meter.result()
    return heard.total_db, heard.p99_db


def main() -> None:
    """Prints a row a piece, and who is best."""
    rows = []
    print("piece, target: own; two stages; 1.5 dB clipped first (mean / 99 %)")
    for name, samples in pieces(Path(sys.argv[1] if len(sys.argv) > 1 else "/usr/share/games")):
        detector = PeakDetector(RATE, 2)
        peak = float(detector.process(samples, 0.0).max())
        driven = samples * (10 ** ((OVER_DB - 1) / 20) / peak)
        target = loudness(two_stages(driven, RATE))
        row = [
            at(limit, samples, target)
            for limit in (lambda one: limited(one, RATE)[0], lambda one: two_stages(one, RATE), clipped_first)
        ]
        rows.append(row)
        print(f"{name[:30]}, {target:.1f} LUFS: " + "; ".join(f"{mean:.1f} / {most:.1f}" for mean, most in row))
    best = sum(row[0][0] < min(row[1][0], row[2][0]) for row in rows)
    print(f"lowest mean on {best} of {len(rows)}; medians:", *np.round(np.median(np.array(rows)[:, :, 0], axis=0), 1))
    begun = time.process_time()
    limited(driven, RATE)
    print(f"{(time.process_time() - begun) / SECONDS * 1000:.1f} ms of processor for a second")


if __name__ == "__main__":
    main()
