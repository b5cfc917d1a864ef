"""This press against the shortest straight script on the same libraries, as ratios, in one run.

The straight script reads a whole file, converts it at very high quality, adds triangular dither with numpy, and
writes it: no proof, no measures, no progress. Both run as a process of their own, in turn, and the best of three
runs of each counts. Then a three-hour mix is pressed and the peak memory printed.
"""

import argparse
import os
import sys
import tempfile
from pathlib import Path

import numpy as np
from weigh import Cost, run

from ripe_press.core.formats.writing.wav import WavWriter

STRAIGHT = """
import sys
import numpy as np, soundfile, soxr
samples, rate = soundfile.read(sys.argv[1])
samples = soxr.resample(samples, rate, 44100, quality="VHQ")
random = np.random.default_rng(1)
dither = random.random(samples.shape) - random.random(samples.shape)
codes = np.clip(np.rint(samples * 32768 + dither), -32768, 32767).astype(np.int16)
soundfile.write(sys.argv[2], codes, 44100, subtype="PCM_16")
"""
PRESS = """
import sys
from ripe_press.cli import main
sys.argv = ["ripe-press", "press", sys.argv[1], "--brief", "audio-cd", "--out", sys.argv[2], "--json"]
main()
"""


def run_code(code: str, *arguments: str) -> Cost:
    """Runs Python code in a process and weighs it."""
    return run(sys.executable, "-c", code, *arguments)


def best(first: Cost, second: Cost) -> Cost:
    """The lower of each figure."""
    return Cost(
        min(first.wall_s, second.wall_s), min(first.cpu_s, second.cpu_s), min(first.memory_mb, second.memory_mb)
    )


def make_mix(path: Path, seconds: int, rate_hz: int = 96_000) -> Path:
    """Noise in 32-bit float; the same second over and over for long mixes."""
    second = np.random.default_rng(1).standard_normal((rate_hz, 2)) * 0.1
    with WavWriter(path, "f32", rate_hz, 2) as writer:
        for _ in range(seconds):
            writer.write(second)
    return path


def compare(folder: Path, seconds: int, turns: int = 3) -> None:
    """Prints one line of ratios for a mix of this length."""
    mix = make_mix(folder / f"{seconds}.wav", seconds)
    ours, straight = None, None
    for turn in range(turns):
        out = folder / f"out-{turn}"
        one = run_code(PRESS, str(mix), str(out))
        other = run_code(STRAIGHT, str(mix), str(folder / "straight.wav"))
        ours, straight = best(ours or one, one), best(straight or other, other)
    assert ours and straight
    print(
        f"{seconds:6d} s at 96 kHz float: wall {ours.wall_s / straight.wall_s:.2f}, "
        f"CPU {ours.cpu_s / straight.cpu_s:.2f}, memory {ours.memory_mb / straight.memory_mb:.2f} of the straight "
        f"script ({ours.wall_s:.2f} s, {ours.cpu_s:.2f} s, {ours.memory_mb:.0f} MB against {straight.wall_s:.2f} s, "
        f"{straight.cpu_s:.2f} s, {straight.memory_mb:.0f} MB), {seconds / ours.wall_s:.0f} times real time"
    )
    mix.unlink()


def main() -> None:
    """Runs the comparisons; ``--long`` adds the three-hour mix (8 GB of disk)."""
    options = argparse.ArgumentParser(description=__doc__)
    options.add_argument("--long", action="store_true", help="also press three hours at 96 kHz in float")
    wish = options.parse_args()
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        os.environ["RIPE_PRESS_DATA"] = str(folder / "data")
        print("Press against the straight script, lower is better:")
        for seconds in (151, 600):
            compare(folder, seconds)
        if wish.long:
            mix = make_mix(folder / "long.wav", 3 * 3600)
            cost = run_code(PRESS, str(mix), str(folder / "long"))
            print(
                f"three hours at 96 kHz float ({mix.stat().st_size / 1e9:.1f} GB): peak memory {cost.memory_mb:.0f} MB "
                f"(aim: under 400), {3 * 3600 / cost.wall_s:.0f} times real time"
            )


if __name__ == "__main__":
    main()
