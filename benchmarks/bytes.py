"""What every kind of delivery comes to, as hashes: run before and after a rebuild, the two lists are to be alike.

    python benchmarks/bytes.py > before.txt
    python benchmarks/bytes.py > after.txt && diff before.txt after.txt

It presses the demo mixes by the command line, which outlasts what is behind it: every container, depth, dither, rate,
level, choice of channels, edge, mode of an encoder, tag and brief, and the finishing chain that a mix has on its bench.
"""

import hashlib
import json
import os
import sys
import tempfile
from collections.abc import Iterator
from pathlib import Path

from click.testing import CliRunner
from fastapi.testclient import TestClient
from PIL import Image

from ripe_press.api.app import make_app
from ripe_press.cli.app import app
from ripe_press.core.briefs.library import built_in_briefs
from ripe_press.core.formats.capabilities import CAPABILITIES
from ripe_press.core.signal.fade import CURVES
from ripe_press.core.signal.quantise import DITHERS
from ripe_press.demo.mixes import make_demo_mixes
from ripe_press.studio.data_folder import DataFolder
from ripe_press.studio.studio import Studio

sys.path.insert(0, str(Path(__file__).parents[1] / "tests"))

from support.server import OWN, arrive

FINISHED = "Eel Ladder"
"""The mix that has a finishing chain on its bench."""


def deliveries() -> Iterator[tuple[str, str]]:
    """(Mix, options) of every delivery."""
    short = "Eel Ladder"
    yield from ((short, f"--no-finish --format {one}") for one in CAPABILITIES)
    yield from ((short, f"--no-finish --format aiff --depth {one}") for one in ("8", "20", "32", "float32", "float64"))
    yield from ((short, f"--no-finish --depth {one}") for one in ("8", "16", "20", "24", "32", "float32", "float64"))
    yield from ((short, f"--no-finish --depth 16 --dither {one}") for one in DITHERS)
    yield from ((short, f"--no-finish --rate {one}") for one in ("8000", "22050", "44100", "96000", "192000"))
    yield short, "--no-finish --rate 44100 --quality high"
    for level in (
        "peak=-0.3", "true-peak=-1", "true-peak=-1,only-down", "peak=0,only-down", "loudness=-23", "loudness=-11",
        "loudness=-11,no-limiter", "loudness=-6,reduction=6", "loudness=-14,ceiling=-2,only-down",
    ):  # fmt: skip
        yield short, f"--no-finish --depth 24 --level {level}"
    yield short, "--no-finish --format mp3 --kbps 128 --level loudness=-12,ceiling=-1,back-off"
    for channels in ("stereo", "split", "mono", "mono:-3", "left", "right", "swapped"):
        yield short, f"--no-finish --depth 16 --rate 44100 --channels {channels}"
    yield short, "--no-finish --channels split --level loudness=-12"
    cut = "--no-finish --from 2.5 --to 10"
    for edges in ("--end hold:2s", "--end ring", "--end fold", "--silence-before 0.5 --silence-after 1", "--declick 3"):
        yield short, f"{cut} --rate 44100 {edges}"
    yield from ((short, f"{cut} --fade-in 0.5s:{curve} --fade-out 2s:{curve}") for curve in CURVES)
    yield "Millrace", "--bars 9..17 --format flac --depth 24"
    yield "Millrace", "--marker Verse..Refrain --end ring --rate 44100 --depth 16"
    yield "Lock Cottage Tapes", "--format mp3 --from 3 --to 20"
    yield "Lock Cottage Tapes", "--channels stereo --depth 16 --rate 44100"
    yield "Long Pound", "--from 30 --to 60 --format flac --depth 16"
    for coded in (
        "mp3 --mode average --kbps 160", "mp3 --mode variable --encoder-quality 8", "opus --mode constant --kbps 96",
        "opus --mode average --kbps 128", "vorbis --encoder-quality 4", "aac --kbps 64", "aac --kbps 160",
        "aac --kbps 320",
    ):  # fmt: skip
        yield short, f"--no-finish --format {coded}"
    for tags in (
        "mp3 --id3 2.3 --loudness-tags", "bwf --loudness-tags", "flac --loudness-tags", "opus --loudness-tags",
        "aac --tag tempo=97.53 --tag key=F#m", "wav --tag title=Mühle",
    ):  # fmt: skip
        yield short, f"--no-finish --cover COVER --format {tags}"
    yield from ((FINISHED, f"--finish --depth 16 {more}") for more in ("", "--rate 44100", "--level loudness=-12"))
    yield from (("Millrace", f"--brief {brief} --from 1:00 --to 1:15") for brief in built_in_briefs())


def finish(folder: Path, mix: Path) -> None:
    """Puts a mix on the shelf with a finishing chain."""
    with Studio(DataFolder(folder)) as studio, TestClient(make_app(studio), OWN) as client:
        number = arrive(client, str(mix))["mix_id"]
        bench = client.get(f"/api/mixes/{number}").json()["bench"]
        bench["finish"] = {"remove_dc": True, "high_pass_hz": 30.0, "gain_db": 2.0, "ceiling_dbtp": -1.0}
        client.put(f"/api/mixes/{number}/bench", json=bench).raise_for_status()


def main() -> None:
    """Prints a line a file: its hash, its verdict, and what was asked for."""
    with tempfile.TemporaryDirectory() as place:
        folder = Path(place)
        (folder / "mixes").mkdir()
        mixes = {path.stem: path for path in make_demo_mixes(folder / "mixes", lambda _said: None)}
        cover = folder / "cover.png"
        Image.new("RGB", (64, 64), (120, 40, 90)).save(cover)
        os.environ["RIPE_PRESS_DATA"] = str(folder / "data")
        finish(folder / "data", mixes[FINISHED])
        for number, (mix, options) in enumerate(deliveries()):
            words = options.replace("COVER", str(cover)).split()
            out = folder / str(number)
            made = CliRunner().invoke(app, ["press", str(mixes[mix]), "--out", str(out), "--json", *words])
            if made.exit_code not in (0, 1) or not made.output.startswith("{"):
                print(f"{'refused':64} {made.exit_code:5} {mix} {options}")
                continue
            for file in json.loads(made.output)["files"]:
                path = Path(file["path"])
                digest = hashlib.sha256(path.read_bytes()).hexdigest() if path.exists() else "stopped"
                print(f"{digest:64} {file['verdict']:5} {mix} {options}", flush=True)
                path.unlink(missing_ok=True)


if __name__ == "__main__":
    main()
