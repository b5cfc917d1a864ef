"""Pressings against what the bare libraries need for the same files, in one run; medians of pairs.

Six deliveries (CD, 24-bit WAV, FLAC, MP3 320, AAC 256, Opus 160) are held against a bound: the longer of the slowest
bare encode and decode of one file, and of the processor time of all of them over the cores. A lone CD file is held
against a straight script that streams, reads its file back and hashes it. Sixteen files off one trunk are held
against one, and a loudness target behind a limiter against the same file with its gain known.
"""

import argparse
import json
import os
import statistics
import subprocess
import sys
import tempfile
from collections.abc import Callable
from pathlib import Path

import numpy as np
from weigh import Cost, run

from ripe_press.core.briefs.library import BLANK
from ripe_press.core.engine.levels import walk_settled
from ripe_press.core.engine.resolve import Mix, resolve
from ripe_press.core.engine.walker import walk
from ripe_press.core.formats.writing.wav import WavWriter
from ripe_press.core.press import OrderedFile, PressOrder, press
from ripe_press.core.proof.read_back import prove
from ripe_press.core.requests.delivery import Changes
from ripe_press.core.requests.edges import Stretch
from ripe_press.core.requests.making import LevelRequest
from ripe_press.core.sources.file import FileSource
from ripe_press.core.sources.source import facts_of_file

COMMAND = str(Path(sys.executable).with_name("ripe-press"))
SIX = {
    "CD": {"container": "wav", "encoding": "s16", "rate_hz": 44_100, "quality": "very-high"},
    "24-bit WAV": {"container": "wav", "encoding": "s24"},
    "FLAC": {"container": "flac", "encoding": "s24"},
    "MP3 320": {"container": "mp3", "mode": "constant", "kbps": 320},
    "AAC 256": {"container": "aac", "mode": "average", "kbps": 256},
    "Opus 160": {"container": "opus", "mode": "variable", "kbps": 160},
}
STRAIGHT_CD = """
import hashlib, sys
import numpy as np, soundfile, soxr
mix, out = soundfile.SoundFile(sys.argv[1]), sys.argv[2]
converter = soxr.ResampleStream(mix.samplerate, 44100, 2, dtype="float64", quality="VHQ")
random = np.random.default_rng(1)
with soundfile.SoundFile(out, "w", 44100, 2, "PCM_16", format="WAV") as file:
    left = mix.frames
    while left:
        block = mix.read(min(65536, left), dtype="float64")
        left -= len(block)
        block = converter.resample_chunk(block, last=not left)
        dither = random.random(block.shape) - random.random(block.shape)
        file.write(np.clip(np.rint(block * 32768 + dither), -32768, 32767).astype(np.int16))
peak = 0.0
for block in soundfile.blocks(out, 65536, dtype="float64"):
    peak = max(peak, np.abs(block).max())
digest = hashlib.sha256()
with open(out, "rb") as file:
    while chunk := file.read(1 << 20):
        digest.update(chunk)
print(peak, digest.hexdigest())
"""
BARE_SOUNDFILE = """
import sys, soundfile
mix = soundfile.SoundFile(sys.argv[1])
with soundfile.SoundFile(sys.argv[2], "w", mix.samplerate, 2, "PCM_24", format=sys.argv[3]) as file:
    for block in mix.blocks(65536, dtype="float64"):
        file.write(block)
for block in soundfile.blocks(sys.argv[2], 65536, dtype="float64"):
    pass
"""
BARE_AV = """
import sys, av, numpy as np, soundfile
mix_path, out, codec, kbps, form = sys.argv[1:]
mix = soundfile.SoundFile(mix_path)
with av.open(out, "w", format=form) as container:
    stream = container.add_stream(codec, rate=mix.samplerate, layout="stereo", bit_rate=1000 * int(kbps))
    at, kind = 0, "flt" if codec == "libopus" else "fltp"
    for block in mix.blocks(65536, dtype="float32"):
        packed = np.ascontiguousarray(block.T) if kind == "fltp" else block.reshape(1, -1)
        frame = av.AudioFrame.from_ndarray(packed, format=kind, layout="stereo")
        frame.sample_rate, frame.pts = mix.samplerate, at
        at += len(block)
        container.mux(stream.encode(frame))
    container.mux(stream.encode(None))
if codec == "aac":
    with av.open(out) as container:
        for frame in container.decode(audio=0):
            frame.to_ndarray()
else:
    for block in soundfile.blocks(out, 65536, dtype="float64"):
        pass
"""


def make_mix(path: Path, seconds: int, rate_hz: int) -> Path:
    """Tones, noise and hits that swell and fall, in 24 bits."""
    random = np.random.default_rng(1)
    with WavWriter(path, "s24", rate_hz, 2) as writer:
        for second in range(seconds):
            times = np.arange(second * rate_hz, (second + 1) * rate_hz) / rate_hz
            swell = 0.04 + 0.08 * np.sin(np.pi * times / 30) ** 2
            tones = np.sin(2 * np.pi * 220 * times) + 0.5 * np.sin(2 * np.pi * 1_310 * times)
            hits = 4 * np.exp(-((times % 0.5) / 0.03))
            wave = swell * (tones + (0.4 + hits) * random.standard_normal((2, rate_hz)) / 2)
            writer.write(np.rint(np.clip(wave.T, -1, 1) * (2**31 - 256)).astype(np.int32))
    return path


class Bench:
    """One folder with a mix, in which everything is pressed."""

    def __init__(self, folder: Path, seconds: int, rate_hz: int) -> None:
        self.folder = folder
        self.mix = make_mix(folder / f"{seconds}-{rate_hz}.wav", seconds, rate_hz)
        self._turn = 0

    def press(self, *changes: dict[str, object]) -> Cost:
        """Presses deliveries of the blank brief with these departures, as a command."""
        self._turn += 1
        ticket = self.folder / "ticket.json"
        subprocess.run([COMMAND, "plan", str(self.mix), "--ticket-out", str(ticket)], check=True, capture_output=True)
        document = json.loads(ticket.read_text())
        bench = document["mixes"][0]["bench"]
        (line,) = bench["ticket"]
        bench["ticket"] = [
            {**line, "id": f"d{number}", "changes": {**line["changes"], **one}} for number, one in enumerate(changes)
        ]
        ticket.write_text(json.dumps(document))
        out = self.folder / f"out-{self._turn}"
        cost = run(COMMAND, "press", str(self.mix), "--ticket", str(ticket), "--out", str(out), "--json")
        for file in out.iterdir():
            file.unlink()
        return cost

    def bare(self, code: str, *arguments: str) -> Cost:
        """Runs a straight script on the mix."""
        return run(sys.executable, "-c", code, str(self.mix), str(self.folder / "bare"), *arguments)

    def bare_six(self) -> list[Cost]:
        """What the libraries alone need for the six files, each encoded and decoded in a process of its own."""
        return [
            self.bare(STRAIGHT_CD),
            self.bare(BARE_SOUNDFILE, "WAV"),
            self.bare(BARE_SOUNDFILE, "FLAC"),
            self.bare(BARE_AV, "libmp3lame", "320", "mp3"),
            self.bare(BARE_AV, "aac", "256", "ipod"),
            self.bare(BARE_AV, "libopus", "160", "ogg"),
        ]


def paired(turns: int, one: Callable[[], tuple[float, ...]]) -> list[float]:
    """The medians of several ratios over pairs that are run one after the other."""
    return [statistics.median(column) for column in zip(*(one() for _ in range(turns)), strict=True)]


def six(bench: Bench) -> tuple[float, ...]:
    """Wall and processor time of the six over their bounds; and the memory."""
    ours, bare = bench.press(*SIX.values()), bench.bare_six()
    cpu = sum(cost.cpu_s for cost in bare)
    bound = max(*(cost.wall_s for cost in bare), cpu / (os.cpu_count() or 1))
    return ours.wall_s / bound, ours.cpu_s / cpu, ours.memory_mb


def lone(bench: Bench) -> tuple[float, ...]:
    """Wall and processor time of a CD file over the straight script."""
    ours, straight = bench.press(SIX["CD"]), bench.bare(STRAIGHT_CD)
    return ours.wall_s / straight.wall_s, ours.cpu_s / straight.cpu_s, ours.memory_mb


def sixteen(bench: Bench) -> tuple[float, ...]:
    """Sixteen files off one trunk over one."""
    changes = [{"container": "wav", "encoding": "s24", "label_pattern": f"{{title}} {at}"} for at in range(16)]
    many, one = bench.press(*changes), bench.press(changes[0])
    return many.wall_s / one.wall_s, many.cpu_s / one.cpu_s, many.memory_mb


def target(bench: Bench) -> tuple[float, ...]:
    """Pressing to a loudness behind a limiter, over writing and proving the same file with the gain known already."""
    wish = LevelRequest("loudness", -11.0, max_reduction_db=12.0)
    facts = facts_of_file(bench.mix)
    asked = Changes(level=wish, encoding="s24").applied_to(BLANK.delivery(Stretch(0, facts.frames), facts))
    (file,) = resolve(asked, Mix(FileSource(facts), "Target"))
    known = walk_settled(file)[0]
    if not known.settled or known.settled.ceiling_dbtp is None:
        message = "the limiter is to act"
        raise RuntimeError(message)
    out = bench.folder / "target.wav"

    def write() -> None:
        walk([known], {0: out})
        prove(out, loudness=True)
        out.unlink()

    def weighed(work: Callable[[], object]) -> tuple[float, float]:
        began = os.times()
        work()
        ended = os.times()
        return ended.elapsed - began.elapsed, ended.user + ended.system - began.user - began.system

    def made() -> None:
        order = PressOrder((OrderedFile(file, BLANK, str(out)),))
        press(order, lambda _event: None, lambda: False)
        out.unlink()

    write()
    whole, alone = weighed(made), weighed(write)
    return whole[0] / alone[0], whole[1] / alone[1], 0.0


def main() -> None:
    """Prints the ratios beside their aims."""
    options = argparse.ArgumentParser(description=__doc__)
    options.add_argument("--turns", type=int, default=5)
    options.add_argument("--only", choices=("six", "lone", "sixteen", "target"))
    wish = options.parse_args()
    with tempfile.TemporaryDirectory() as name:
        os.environ["RIPE_PRESS_DATA"] = str(Path(name) / "data")
        bench, long = Bench(Path(name), 150, 48_000), Bench(Path(name), 600, 48_000)
        bench.press(SIX["CD"])
        for title, aim, one in (
            ("six", "six deliveries over the bare libraries' bound: aims 1.1 and 1.15", lambda: six(bench)),
            ("lone", "a lone CD file of 150 s over the straight script: aim 1.0 of CPU", lambda: lone(bench)),
            ("lone", "a lone CD file of 600 s over the straight script: aim 1.0 of CPU", lambda: lone(long)),
            ("sixteen", "sixteen files off one trunk over one: aim 4 of wall", lambda: sixteen(bench)),
            (
                "target",
                "a loudness target behind a limiter over the same with its gain known: aim 1.5",
                lambda: target(bench),
            ),
        ):
            if wish.only in (None, title):
                wall, cpu, memory = paired(wish.turns, one)
                print(f"{aim}: wall {wall:.2f}, CPU {cpu:.2f}, {memory:.0f} MB", flush=True)


if __name__ == "__main__":
    main()
