"""A running order against what the bare libraries need for the same files, in one run; medians of pairs.

One long mix at 48 kHz, cut into twelve entries of which six run on, goes to a CD file, a FLAC and an MP3 each, and to
the image of a disc, in one pressing. The bound is that of `bounds.py`: the longer of the slowest bare encode and
decode of the whole, and of the processor time of all of them over the cores; the image adds no work to it.
"""

import argparse
import json
import os
import shutil
import subprocess
import tempfile
from itertools import pairwise
from pathlib import Path

from bounds import BARE_AV, BARE_SOUNDFILE, COMMAND, STRAIGHT_CD, Bench, paired
from weigh import Cost, run

ENTRIES = 12
WAYS = (
    {"container": "wav", "encoding": "s16", "rate_hz": 44_100},
    {"container": "flac", "encoding": "s24"},
    {"container": "mp3", "mode": "constant", "kbps": 320},
)


def order_of(bench: Bench, seconds: int) -> Path:
    """The document of the order."""
    path = bench.folder / "order.json"
    subprocess.run(
        [COMMAND, "order", "make", str(bench.mix), "--title", "Nine Weirs", "--out", str(path)],
        check=True, capture_output=True,
    )  # fmt: skip
    row = json.loads(path.read_text())
    (whole,) = row["order"]["entries"]
    edges = [seconds * 48_000 * at // ENTRIES for at in range(ENTRIES + 1)]
    row["order"]["entries"] = [
        {
            **whole,
            "id": f"e{at}",
            "title": f"Entry {at}",
            "start_frame": start,
            "end_frame": end,
            "runs_on": at % 2 == 1,
        }
        for at, (start, end) in enumerate(pairwise(edges))
    ]
    row["briefs"] = [
        {
            "id": f"way-{at}",
            "title": f"Way {at}",
            "sentence": "One way.",
            "why": "",
            "drop_off": f"way {at}",
            "prefer": way,
        }
        for at, way in enumerate(WAYS)
    ]
    row["order"]["lines"] = [{"brief": f"way-{at}"} for at in range(len(WAYS))]
    path.write_text(json.dumps(row))
    return path


def pressed(bench: Bench, order: Path, *more: str) -> Cost:
    """Presses the order, as a command."""
    out = bench.folder / "out"
    cost = run(COMMAND, "order", "press", str(order), "--out", str(out), "--json", *more)
    shutil.rmtree(out)
    return cost


def main() -> None:
    """Prints the ratios."""
    parser = argparse.ArgumentParser()
    parser.add_argument("--minutes", type=float, default=10.0)
    parser.add_argument("--turns", type=int, default=1)
    chosen = parser.parse_args()
    seconds = round(chosen.minutes * 60)
    with tempfile.TemporaryDirectory() as folder:
        bench = Bench(Path(folder), seconds, 48_000)
        order = order_of(bench, seconds)

        def one() -> tuple[float, ...]:
            ours = pressed(bench, order, "--disc")
            bare = [
                bench.bare(STRAIGHT_CD), bench.bare(BARE_SOUNDFILE, "FLAC"),
                bench.bare(BARE_AV, "libmp3lame", "320", "mp3"),
            ]  # fmt: skip
            bound = max(*(cost.wall_s for cost in bare), sum(cost.cpu_s for cost in bare) / (os.cpu_count() or 1))
            return ours.wall_s / bound, ours.memory_mb, ours.wall_s, bound

        wall, memory, took, bound = paired(chosen.turns, one)
        print(f"{chosen.minutes:g} minutes, twelve entries, three briefs and a disc over the bare libraries' bound")
        print(f"  wall {wall:.2f} (aim 1.15), {took:.1f} s over {bound:.1f} s; memory {memory:.0f} MB")


if __name__ == "__main__":
    main()
