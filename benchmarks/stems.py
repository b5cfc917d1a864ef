"""Stems against the bare library, in one run; medians of pairs.

A folder of stems is held against its mix, beside a script that reads the same files and does nothing with them. And
every stem, their sum and all but each of them are pressed in one ticket, beside as many tickets of one each.
"""

import argparse
import os
import subprocess
import sys
import tempfile
from pathlib import Path

import numpy as np
import soundfile
from bounds import COMMAND, paired
from weigh import Cost, run

RATE = 96_000
BARE = """
import sys, soundfile
files = [soundfile.SoundFile(one) for one in sys.argv[1:]]
while any(len(file.read(32768, dtype="float64")) for file in files):
    pass
"""
DIFFERENT = 4
"""So many files are written; the others are other names of them, for a disk has its limits."""


def stems_in(folder: Path, count: int, seconds: int) -> tuple[Path, Path]:
    """A mix and a folder of its stems."""
    stems = folder / "Weir stems"
    stems.mkdir()
    random = np.random.default_rng(1)
    base = [stems / f"Weir {at}.wav" for at in range(DIFFERENT)]
    files = [soundfile.SoundFile(path, "w", RATE, 2, "PCM_24") for path in base]
    mix = soundfile.SoundFile(folder / "Weir.wav", "w", RATE, 2, "FLOAT")
    for start in range(0, seconds * RATE, 1 << 20):
        whole = np.zeros((min(1 << 20, seconds * RATE - start), 2))
        for at, file in enumerate(files):
            block = np.round(random.standard_normal(whole.shape) * 0.01 * 2**23) / 2**23
            file.write(block)
            whole += block * len(range(at, count, DIFFERENT))
        mix.write(whole)
    for file in (*files, mix):
        file.close()
    for at in range(DIFFERENT, count):
        os.link(base[at % DIFFERENT], stems / f"Weir {at}.wav")
    return folder / "Weir.wav", stems


def pressed(mix: Path, out: Path, *parts: str) -> Cost:
    """Presses parts to 32-bit floating point."""
    cost = run(COMMAND, "press", str(mix), "--depth", "float32", "--out", str(out), "--clash", "replace", *parts)
    subprocess.run(["rm", "-rf", str(out)], check=True)
    return cost


def main() -> None:
    """Prints the ratios."""
    parser = argparse.ArgumentParser()
    parser.add_argument("--stems", type=int, default=24)
    parser.add_argument("--seconds", type=int, default=600)
    parser.add_argument("--turns", type=int, default=3)
    chosen = parser.parse_args()
    with tempfile.TemporaryDirectory() as name:
        mix, stems = stems_in(Path(name), chosen.stems, chosen.seconds)
        files = [str(mix), *(str(one) for one in sorted(stems.iterdir()))]

        def check() -> tuple[float, ...]:
            ours, bare = run(COMMAND, "stems", str(mix), str(stems)), run(sys.executable, "-c", BARE, *files)
            return ours.wall_s / bare.wall_s, ours.memory_mb, ours.wall_s, bare.wall_s

        wall, memory, took, bare = paired(chosen.turns, check)
        print(f"{chosen.stems} stems of {chosen.seconds} s at 96 kHz held against their mix, over reading them bare")
        print(f"  wall {wall:.2f} (aim 1.2), {took:.1f} s over {bare:.1f} s; memory {memory:.0f} MB (aim 150)")
    with tempfile.TemporaryDirectory() as name:
        few, short = 6, min(120, chosen.seconds)
        mix, stems = stems_in(Path(name), few, short)
        out = Path(name) / "out"
        wanted = [*(str(at) for at in range(few)), "sum", *(f"mix-minus:{at}" for at in range(few))]

        def parts() -> tuple[float, ...]:
            ours = pressed(mix, out, "--stems", str(stems), *(word for one in wanted for word in ("--part", one)))
            alone = sum(pressed(mix, out, "--stems", str(stems), "--part", one).wall_s for one in wanted)
            return ours.wall_s / alone, ours.memory_mb, ours.wall_s, alone

        wall, memory, took, alone = paired(1, parts)
        print(f"{2 * few + 1} parts of {few} stems of {short} s in one ticket, over as many tickets of one")
        print(f"  wall {wall:.2f}, {took:.1f} s over {alone:.1f} s; memory {memory:.0f} MB")


if __name__ == "__main__":
    main()
