"""The demo mixes: made once, from fixed seeds, into a folder, and kept."""

import shutil
from collections.abc import Callable, Sequence
from concurrent.futures import ProcessPoolExecutor
from multiprocessing import get_context
from pathlib import Path

import numpy as np
import soxr
from numpy.typing import NDArray

from ripe_press.core.formats.capabilities import Encoding, is_float
from ripe_press.core.formats.writing.wav import WavWriter
from ripe_press.core.processes import end_with_parent
from ripe_press.core.signal.quantise import Quantiser
from ripe_press.core.tags.sheet import FileTags, in_order
from ripe_press.core.tags.write import write_tags
from ripe_press.core.timeline import Marker
from ripe_press.demo.cover import draw_cover
from ripe_press.demo.instruments import syllable
from ripe_press.demo.room import convolve, room_response
from ripe_press.demo.score import Band, Section, play

VERSION = "3"
"""Changed whenever a mix would sound different, so that kept ones are made again."""

_ALL = ("Strings", "Marimba", "Bass", "Hand drum")
_VOWELS = (
    (730.0, 1090.0, 2440.0),
    (270.0, 2290.0, 3010.0),
    (570.0, 840.0, 2410.0),
    (530.0, 1840.0, 2480.0),
    (440.0, 1020.0, 2240.0),
)
"""Mean formants of five English vowels (Peterson and Barney, 1952; from memory)."""

COVER = "Nine Weirs.png"

_SET = ("Headwater", "Penstock", "Towpath", "Eel Ladder", "Sluice Song", "Low Water")
"""The pieces of the live set."""

Tracks = dict[str, NDArray[np.float32]]


def make_demo_mixes(folder: Path, say: Callable[[str], None]) -> tuple[Path, ...]:
    """Make the missing mixes, two at a time, and return the paths of all."""
    stamp = folder / "version"
    paths = tuple(folder / f"{title}.wav" for title in _MAKERS)
    if stamp.is_file() and stamp.read_text() == VERSION and all(path.is_file() for path in paths):
        return paths
    say("Creating demo mixes (first start only) …")
    shutil.rmtree(folder, ignore_errors=True)
    folder.mkdir(parents=True)
    draw_cover(folder / COVER)
    with ProcessPoolExecutor(2, mp_context=get_context("spawn"), initializer=end_with_parent) as makers:
        for path, done in [(path, makers.submit(_make, path)) for path in paths]:
            done.result()
            say(f"  {path.stem}")
    stamp.write_text(VERSION)
    return paths


def _make(path: Path) -> None:
    _MAKERS[path.stem](path)


def _long_pound(path: Path) -> None:
    """A live set of about twenty minutes: six pieces, 16 bits in a 24-bit file at 44.1 kHz."""
    rate = 44_100
    response = room_response(rate, 1.8, 1.4, 31)
    quantiser = Quantiser(16, 2, "triangular")
    random = np.random.default_rng(300)
    tempos = (88.0, 104.0, 76.0, 96.0, 112.0, 80.0)
    markers: list[Marker] = []
    with WavWriter(path, "s24", rate, 2) as writer:
        for number, tempo in enumerate(tempos):
            markers.append(Marker(writer.frames, _SET[number]))
            bars = int(185 / (240 / tempo))
            rest = bars - bars // 6 - bars // 3 - bars // 4
            sections = (
                Section(bars // 6, ("Strings",), 0.2), Section(bars // 3, ("Strings", "Bass", "Hand drum"), 0.45),
                Section(bars // 4, ("Marimba", "Bass"), 0.35), Section(rest, _ALL, 0.75),
            )  # fmt: skip
            frames = int((bars * 240 / tempo + 12) * rate)
            band = Band(rate, frames)
            end_s = play(band, sections, tempo, 0.8, 310 + number)
            tracks = _with_room(band, response)
            mix = _applause(sum(tracks.values(), np.zeros((frames, 2), np.float32)), rate, end_s + 2.0, random)
            mix *= np.float32(0.8) / np.abs(mix).max()
            mix += random.standard_normal(mix.shape, dtype=np.float32) * np.float32(2e-4)
            for start in range(0, frames, rate):
                writer.write(quantiser.process(mix[start : start + rate].astype(np.float64)))
    _describe(path, rate, {"title": "Long Pound", "genre": "Live"}, markers)


def _applause(mix: NDArray[np.float32], rate: int, at_s: float, random: np.random.Generator) -> NDArray[np.float32]:
    start = int(at_s * rate)
    frames = len(mix) - start
    claps = random.standard_normal((frames, 2)) * (random.random((frames, 1)) < 0.02)
    swell = np.sin(np.pi * np.linspace(0, 1, frames)) ** 0.8
    mix[start:] += (claps * swell[:, None] * 0.35).astype(np.float32)
    return mix


def _millrace(path: Path) -> None:
    """The finished mix: 84 beats a minute from 3.1 s on, overs, a long tail, and stems that sum to it."""
    rate, start_s = 96_000, 3.1
    sections = (
        Section(4, ("Strings",), 0.15), Section(9, ("Strings", "Bass", "Hand drum"), 0.4),
        Section(10, ("Strings", "Marimba", "Bass"), 0.3), Section(13, _ALL, 0.85),
        Section(10, _ALL, 1.0), Section(2, ("Strings",), 0.35),
    )  # fmt: skip
    frames = int(151.4 * rate)
    band = Band(rate, frames)
    play(band, sections, 84.0, start_s, 84)
    tracks = _with_room(band, room_response(rate, 3.4, 3.0, 21))
    peak = max(float(np.abs(_sum(tracks, at, at + rate)).max()) for at in range(0, frames, rate))
    gain = np.float32(10 ** (1.3 / 20) / peak)
    stems = path.parent / f"{path.stem} stems"
    stems.mkdir()
    for name, track in tracks.items():
        np.multiply(track, gain, out=track)
        # Before the first stroke there is digital silence, as when a project is exported from its first bar.
        track[: int(start_s * rate)] = 0
        _write(stems / f"{path.stem} {name.lower()}.wav", track, rate, "f32")
    with WavWriter(path, "f32", rate, 2, frames) as writer:
        for at in range(0, frames, rate):
            writer.write(_sum(tracks, at, at + rate))
    names = ("Intro", "Verse", "Bridge", "Refrain", "Last refrain", "Close")
    bars = (0, 4, 13, 23, 36, 46)
    markers = [Marker(round((start_s + bar * 240 / 84) * rate), name) for bar, name in zip(bars, names, strict=True)]
    sheet = {"title": "Millrace", "track": "3/9", "tempo": "84", "key": "Dm", "isrc": "QZ-WLT-26-00003"}
    _describe(path, rate, sheet, markers)


def _describe(path: Path, rate: int, values: dict[str, str], markers: Sequence[Marker] = ()) -> None:
    """Tags, markers and the record's cover, in the demo's own world."""
    cover = path.with_name(COVER)
    record = {
        "artist": "The Sluicekeepers", "album": "Nine Weirs", "album_artist": "The Sluicekeepers",
        "date": "2026-09-18", "genre": "Folk", "publisher": "Weir & Lantern", "copyright": "2026 Weir & Lantern",
        "contact_email": "licensing@weirandlantern.example", "web": "https://weirandlantern.example",
    }  # fmt: skip
    tags = FileTags(in_order(record | values), str(cover), markers=tuple(markers))
    write_tags(path, "wav", "s24", rate, 2, tags)


def _eel_ladder(path: Path) -> None:
    """Eight bars at 92, ringing past their end: the loop."""
    rate = 48_000
    bars_s = 8 * 240 / 92
    band = Band(rate, int((bars_s + 3.5) * rate))
    play(band, (Section(4, ("Marimba", "Bass", "Hand drum"), 0.5), Section(4, _ALL, 0.7)), 92.0, 0.0, 92)
    mix = _sum(_with_room(band, room_response(rate, 2.2, 1.8, 41)), 0, band.frames)
    mix *= 0.7 / np.abs(mix).max()
    _write(path, mix, rate, "s24")
    sheet = {"title": "Eel Ladder", "track": "5/9", "tempo": "92", "key": "G", "isrc": "QZ-WLT-26-00005"}
    _describe(path, rate, sheet)


def _lock_cottage_tapes(path: Path) -> None:
    """A spoken recording: 48 kHz material in a 96 kHz file, mono in stereo, with hum and hiss under it."""
    rate, seconds = 48_000, 78
    random = np.random.default_rng(500)
    voice = np.zeros(rate * seconds, dtype=np.float64)
    at = 1.2
    while at < seconds - 2.5:
        for _ in range(int(random.integers(5, 14))):
            length = float(random.uniform(0.11, 0.26))
            vowel = _VOWELS[int(random.integers(len(_VOWELS)))]
            sound = syllable(
                rate,
                float(random.uniform(96, 128)),
                length,
                vowel,
                float(random.uniform(0, 0.5)),
                int(at * 1000),
            )
            start = int(at * rate)
            end = min(len(voice), start + len(sound))
            voice[start:end] += sound[: end - start] * random.uniform(0.6, 1.0)
            at += length * 0.92
            if at > seconds - 2.5:
                break
        at += float(random.uniform(0.35, 1.1))
    voice *= 0.42 / np.abs(voice).max()
    times = np.arange(len(voice)) / rate
    voice += 9e-4 * np.sin(2 * np.pi * 50 * times) + 4e-4 * np.sin(2 * np.pi * 150 * times)
    voice += random.standard_normal(len(voice)) * 10 ** (-62 / 20)
    wide = soxr.resample(voice, rate, 96_000, quality="VHQ")
    _write(path, np.stack((wide, wide), axis=1), 96_000, "s24")


def _with_room(band: Band, response: NDArray[np.float32]) -> Tracks:
    return {**band.tracks, "Room": convolve(band.send, response) * np.float32(0.55)}


def _sum(tracks: Tracks, start: int, end: int) -> NDArray[np.float64]:
    whole: NDArray[np.float64] = np.sum([track[start:end] for track in tracks.values()], axis=0, dtype=np.float64)
    return whole


def _write(path: Path, samples: NDArray[np.floating], rate: int, encoding: Encoding) -> None:
    quantiser = None if is_float(encoding) else Quantiser(24, samples.shape[1], "triangular")
    with WavWriter(path, encoding, rate, samples.shape[1], len(samples)) as writer:
        for start in range(0, len(samples), rate):
            block = samples[start : start + rate].astype(np.float64)
            writer.write(quantiser.process(block) if quantiser else block)


_MAKERS: dict[str, Callable[[Path], None]] = {
    "Millrace": _millrace,
    "Eel Ladder": _eel_ladder,
    "Long Pound": _long_pound,
    "Lock Cottage Tapes": _lock_cottage_tapes,
}
