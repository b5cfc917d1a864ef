"""Six deliveries in one ticket against six pressings of one: wall clock, processor time, and memory over length."""

import sys
import tempfile
from pathlib import Path

import numpy as np
import soundfile
from weigh import run

RATE = 96_000
BRIEFS = ("audio-cd", "archive", "distributor", "video", "mastering", "e-mail")
COMMAND = str(Path(sys.executable).with_name("ripe-press"))


def make_mix(path: Path, seconds: int) -> Path:
    """Noise at 96 kHz in float."""
    random = np.random.default_rng(6)
    block = random.standard_normal((RATE, 2), dtype=np.float32) * 0.1
    with soundfile.SoundFile(path, "w", RATE, 2, "FLOAT") as file:
        for _ in range(seconds):
            file.write(block)
    return path


def press(mix: Path, briefs: tuple[str, ...], out: Path, data: Path) -> tuple[float, float, float]:
    """Seconds on the wall, seconds of processor, peak memory in MB of one command."""
    words = [word for brief in briefs for word in ("--brief", brief)]
    cost = run(COMMAND, "press", str(mix), *words, "--out", str(out), "--json", env={"RIPE_PRESS_DATA": str(data)})
    return cost.wall_s, cost.cpu_s, cost.memory_mb


def main() -> None:
    """Prints the ratios."""
    with tempfile.TemporaryDirectory() as folder:
        data = Path(folder) / "data"
        for seconds in (60, 240):
            mix = make_mix(Path(folder) / f"{seconds}.wav", seconds)
            press(mix, BRIEFS[:1], Path(folder) / "warm", data)
            together = press(mix, BRIEFS, Path(folder) / f"one-{seconds}", data)
            singles = [press(mix, (brief,), Path(folder) / f"six-{seconds}", data) for brief in BRIEFS]
            wall, cpu = sum(one[0] for one in singles), sum(one[1] for one in singles)
            print(
                f"{seconds} s at 96 kHz, six deliveries in one ticket over six pressings: wall "
                f"{together[0] / wall:.2f}, processor {together[1] / cpu:.2f}; peak memory {together[2]:.0f} MB "
                f"(the largest single one {max(one[2] for one in singles):.0f} MB)"
            )


if __name__ == "__main__":
    main()
