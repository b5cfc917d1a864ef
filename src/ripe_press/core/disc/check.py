"""Check a disc image and cue sheet against the standard and each other."""

import itertools
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from ripe_press.core.blocks import Progress, no_progress
from ripe_press.core.disc.cue import CueSheet, CueTrack, read_cue
from ripe_press.core.disc.cue_writer import cue_text
from ripe_press.core.disc.frames import (
    CAPACITY_FRAMES,
    FRAME_SAMPLES,
    LEAST_TRACK_FRAMES,
    MOST_TRACKS,
    PAUSE_FRAMES,
    print_frames,
)
from ripe_press.core.disc.image import Image, look_at_image
from ripe_press.core.disc.sums import changed_second, digest_of, read_sums, sums_beside
from ripe_press.core.disc.text import DiscText, read_text
from ripe_press.core.errors import NotFound
from ripe_press.core.measure.loudness import LoudnessMeter
from ripe_press.core.tags.codes import barcode_problem, compact_isrc, isrc_problem
from ripe_press.core.timeline import CD_FRAMES_PER_SECOND, DISC_HZ
from ripe_press.core.units import db_from_linear
from ripe_press.core.words import quoted

LONG_SILENCE_S = 5.0
_CLIPPED_RUN = 3
_NEAR_S = 0.1
_FULL = 32767 / 32768
_SILENT = 2.0**-15


@dataclass(frozen=True, slots=True)
class DiscCheck:
    """One rule: requirement, found value, and a sentence if it fails; ``stops`` if the result is not a valid disc."""

    rule: str
    asked: str
    found: str
    holds: bool
    sentence: str = ""
    stops: bool = False


@dataclass(frozen=True, slots=True)
class DiscTrack:
    """A track of the image, in CD frames, with its measurements."""

    number: int
    title: str
    isrc: str
    pause_frames: int
    start_frame: int
    frames: int
    peak_dbfs: float
    integrated_lufs: float
    longest_silence_s: float
    clipped_runs: int
    head_silence_s: float
    tail_silence_s: float
    clipped_at_join: bool
    """Whether it is clipped within a tenth of a second of its beginning or its end."""


@dataclass(frozen=True, slots=True)
class DiscReport:
    """Everything that was looked at."""

    cue: Path
    image: Path
    lead_out_frame: int
    tracks: tuple[DiscTrack, ...]
    checks: tuple[DiscCheck, ...]


def check_disc(cue: Path, progress: Progress = no_progress) -> DiscReport:
    """Reads a cue sheet, its image and its CD-Text; the image is gone through once.

    Raises: NotFound ``disc.no-image`` where there is none; OSError.
    """
    sheet, faults = read_cue(cue.read_bytes())
    path = cue.parent / sheet.image
    if not sheet.image or not path.is_file():
        message = f"{quoted(cue.name)} names the image {quoted(sheet.image)}, which is missing. Restore it."
        raise NotFound("disc.no-image", message, path=str(path))
    image = look_at_image(path, sheet.kind)
    lines = [f"Line {one.line}: {one.sentence}" if one.line else one.sentence for one in faults]
    checks = [
        *_rule("cue_sheet", "same result in all common readers", lines, "pass", stops=False),
        *_rule("image", "samples of a disc", list(image.faults), f"{image.frames:,} CD frames"),
    ]
    checks += _layout(sheet, image)
    checks += _codes(sheet)
    checks += _disc_text(sheet, cue.parent)
    checks += _sums(sheet, cue, path)
    tracks = _heard(sheet, image, progress) if image.samples else ()
    checks += _sound(tracks)
    return DiscReport(cue, path, image.frames, tracks, tuple(checks))


def _rule(rule: str, asked: str, faults: list[str], found: str, stops: bool = True) -> Iterator[DiscCheck]:
    """A row for every fault, or one that it holds."""
    if not faults:
        yield DiscCheck(rule, asked, found, True)
    for fault in faults:
        yield DiscCheck(rule, asked, found, False, fault, stops)


def _layout(sheet: CueSheet, image: Image) -> Iterator[DiscCheck]:
    tracks, end = sheet.tracks, image.frames
    numbers = [one.number for one in tracks]
    wrong = (
        []
        if numbers == list(range(1, len(tracks) + 1)) and tracks
        else [f"Track numbers are {numbers}. Number them from 1."]
    )
    if len(tracks) > MOST_TRACKS:
        wrong.append(f"{len(tracks)} tracks; disc maximum {MOST_TRACKS}.")
    yield from _rule("track_numbers", "1 to 99, in order", wrong, f"{len(tracks)} tracks")
    asked = "rising, INDEX 01 in each track, inside the image"
    yield from _rule("indexes", asked, list(_indexes(tracks, end)), "in order")
    short = [
        f"Track {one.number} is {print_frames(length)} long; disc minimum 4 s."
        for one, length in _lengths(tracks, end)
        if 0 <= length < LEAST_TRACK_FRAMES
    ]
    yield from _rule("track_length", "min 4 s", short, "all tracks")
    last = CAPACITY_FRAMES[80]
    beyond = f"Lead-out {print_frames(end)}; an 80-minute disc ends at {print_frames(last)}."
    long = [beyond] if end > last else []
    fits = "fits 74 minutes" if end <= CAPACITY_FRAMES[74] else "fits 80 minutes"
    yield from _rule("capacity", "80 minutes", long, fits)
    yield from _rule("pre_emphasis", "changes only across a 2 s pause", list(_emphasis(tracks)), "pass")


def _indexes(tracks: list[CueTrack], end: int) -> Iterator[str]:
    before, last = -1, ""
    for track in tracks:
        if track.start is None:
            yield f"Track {track.number} has no INDEX 01. Add one to the cue sheet."
        for number, frame in sorted(track.indexes.items()):
            here = f"INDEX {number:02d} of track {track.number}"
            if frame <= before:
                yield f"{here} is at {print_frames(frame)}, not after {last}."
            if frame >= end:
                yield f"{here} is at {print_frames(frame)}; the image ends at {print_frames(end)}."
            before, last = max(before, frame), here


def _lengths(tracks: list[CueTrack], end: int) -> Iterator[tuple[CueTrack, int]]:
    for at, track in enumerate(tracks):
        follows = tracks[at + 1].first if at + 1 < len(tracks) else end
        if track.start is not None and follows is not None:
            yield track, follows - track.start


def _emphasis(tracks: list[CueTrack]) -> Iterator[str]:
    for before, track in itertools.pairwise(tracks):
        pause = (track.start or 0) - (track.first or 0)
        if ("PRE" in before.flags) != ("PRE" in track.flags) and pause < PAUSE_FRAMES:
            yield f"Pre-emphasis changes at track {track.number} after a pause of {print_frames(pause)}."


def _codes(sheet: CueSheet) -> Iterator[DiscCheck]:
    problem = barcode_problem(sheet.catalog) if sheet.catalog else None
    wrong = [f"The barcode {sheet.catalog} {problem}."] if problem else []
    yield from _rule("barcode", "13 digits with their check digit", wrong, sheet.catalog or "none", stops=False)
    faults = ((one, _isrc_fault(one)) for one in sheet.tracks)
    wrong = [f"The ISRC of track {one.number}, {quoted(one.isrc)}, {fault}." for one, fault in faults if fault]
    codes = [one.isrc for one in sheet.tracks if one.isrc]
    wrong += [
        f"The ISRC {code} is used more than once. Each recording needs its own."
        for code in sorted(set(codes))
        if codes.count(code) > 1
    ]
    yield from _rule("isrc", "one per recording", wrong, f"{len(codes)} codes", stops=False)


def _isrc_fault(track: CueTrack) -> str | None:
    if not track.isrc:
        return None
    bare = "is not 12 capitals and digits. Remove hyphens and spaces"
    return isrc_problem(track.isrc) or (None if compact_isrc(track.isrc) == track.isrc else bare)


def _disc_text(sheet: CueSheet, folder: Path) -> Iterator[DiscCheck]:
    if not sheet.text_file:
        return
    path = folder / sheet.text_file
    if not path.is_file():
        yield DiscCheck(
            "cd_text", "CD-Text file", "none", False, f"{quoted(sheet.text_file)} is missing. Restore it.", stops=True
        )
        return
    found, faults = read_text(path.read_bytes())
    yield from _rule(
        "cd_text", "complete packs", list(faults), f"{sum(len(one) for one in found.texts.values())} texts"
    )
    yield from _rule("cd_text_agrees", "same as cue sheet", list(_apart(sheet, found)), "the same", stops=False)


def _sums(sheet: CueSheet, cue: Path, image: Path) -> Iterator[DiscCheck]:
    """The files as the list of checksums beside the cue sheet has them, where there is one."""
    path = sums_beside(cue)
    if path is None:
        return
    listed = read_sums(path)
    faults = []
    for name, digest in listed.files.items():
        file = cue.parent / name
        if not file.is_file():
            faults.append(f"{name} is missing. Restore it or assemble the disc again.")
        elif digest_of(file) != digest:
            where = _place_of_change(sheet, changed_second(file, listed.seconds) if file == image else None)
            faults.append(f"{name} changed after writing{where}. Assemble the disc again.")
    yield from _rule("checksums", f"those of {path.name}", faults, f"{len(listed.files)} files unchanged")


def _place_of_change(sheet: CueSheet, second: int | None) -> str:
    if second is None:
        return ""
    frame = second * CD_FRAMES_PER_SECOND
    # The second may begin before the track that has the change.
    track = next((one for one in reversed(sheet.tracks) if (one.first or 0) < frame + CD_FRAMES_PER_SECOND), None)
    if track is None:
        return f", first at {print_frames(frame)}"
    into = max(0, frame - (track.start or 0)) // CD_FRAMES_PER_SECOND
    return f", first in track {track.number} at {into // 60}:{into % 60:02d} (disc {print_frames(frame)})"


def _apart(sheet: CueSheet, text: DiscText) -> Iterator[str]:
    tracks = [(0, sheet.texts, sheet.catalog), *((one.number, one.texts, one.isrc) for one in sheet.tracks)]
    for number, texts, code in tracks:
        where = f"track {number}" if number else "the disc"
        for kind, said in texts.items():
            other = text.texts.get(kind, {}).get(number)
            if other is not None and other != said and cue_text(other) != cue_text(said):
                yield f"{kind.capitalize()} of {where}: cue sheet {quoted(said)}, CD-Text {quoted(other)}."
        other = text.codes.get(number)
        if other and code and other != code:
            yield f"The code of {where}: cue sheet {code}, CD-Text {other}."
    beyond = sorted({number for one in text.texts.values() for number in one if number > len(sheet.tracks)})
    if beyond:
        yield f"CD-Text names track {beyond[0]}; the disc has {len(sheet.tracks)} tracks."


def _sound(tracks: tuple[DiscTrack, ...]) -> Iterator[DiscCheck]:
    silent = [
        f"Track {one.number} is silent for {one.longest_silence_s:.1f} s."
        for one in tracks
        if one.longest_silence_s > LONG_SILENCE_S
    ]
    yield from _rule("silence", f"{LONG_SILENCE_S:.0f} s max within a track", silent, "none", stops=False)
    clipped = [f"Track {one.number} is clipped in {one.clipped_runs} places." for one in tracks if one.clipped_runs]
    quiet = []
    for before, one in itertools.pairwise(tracks):
        seconds = before.tail_silence_s + one.pause_frames / CD_FRAMES_PER_SECOND + one.head_silence_s
        if seconds > LONG_SILENCE_S:
            quiet.append(f"Between tracks {before.number} and {one.number}: {seconds:.1f} s of silence.")
    yield from _rule("joins_silence", f"{LONG_SILENCE_S:.0f} s max between tracks", quiet, "shorter", stops=False)
    hard = [f"Track {one.number} is clipped where it meets another." for one in tracks if one.clipped_at_join]
    yield from _rule("joins_clipping", "no clipping within 0.1 s of a join", hard, "none", stops=False)
    yield from _rule("clipping", "max 2 samples in a row at full scale", clipped, "none", stops=False)


class _Ear:
    """Peak, loudness, silence and clipped runs of one track, block by block."""

    def __init__(self) -> None:
        self.peak, self.runs = 0.0, 0
        self.silent = self.longest = 0
        self.head: int | None = None
        self.heard, self.last_clipped = 0, -(1 << 40)
        self.first_clipped: int | None = None
        self.loudness = LoudnessMeter(2, DISC_HZ)
        self._full: NDArray[np.bool_] = np.zeros((0, 2), dtype=bool)
        self._running: NDArray[np.int8] = np.zeros(2, dtype=np.int8)

    def take(self, part: NDArray[np.float64]) -> None:
        self.loudness.process(part)
        levels = np.abs(part)
        self.peak = max(self.peak, float(levels.max(initial=0.0)))
        loud = np.flatnonzero(levels.max(axis=1) > _SILENT)
        if len(loud):
            if self.head is None:
                self.head = self.heard + int(loud[0])
            self.longest = max(self.longest, self.silent + int(loud[0]), int(np.diff(loud).max(initial=1)) - 1)
            self.silent = len(part) - 1 - int(loud[-1])
        else:
            self.silent += len(part)
        self.heard += len(part)
        if self._full.any() or levels.max(initial=0.0) >= _FULL:
            self._count(levels)
        else:
            self._full, self._running = levels[-(_CLIPPED_RUN - 1) :] >= _FULL, np.zeros(2, dtype=np.int8)

    @property
    def clipped_at_join(self) -> bool:
        """Whether it is clipped close to either end."""
        near = round(_NEAR_S * DISC_HZ)
        first = self.first_clipped is not None and self.first_clipped < near
        return first or self.last_clipped >= self.heard - near

    def _count(self, levels: NDArray[np.float64]) -> None:
        full = np.concatenate((self._full, levels >= _FULL))
        run = np.ones((max(0, len(full) - _CLIPPED_RUN + 1), 2), dtype=bool)
        for shift in range(_CLIPPED_RUN):
            run &= full[shift : shift + len(run)]
        for side in range(2):
            # A run continued from the previous block is already counted.
            steps = np.diff(run[:, side].astype(np.int8), prepend=self._running[side])
            begins = np.flatnonzero(steps == 1)
            self.runs += len(begins)
            if len(begins):
                first = self.heard - len(full)
                self.first_clipped = first + int(begins[0]) if self.first_clipped is None else self.first_clipped
                self.last_clipped = max(self.last_clipped, first + int(begins[-1]))
        if len(run):
            self._running = run[-1].astype(np.int8)
        self._full = full[-(_CLIPPED_RUN - 1) :]


def _heard(sheet: CueSheet, image: Image, progress: Progress) -> tuple[DiscTrack, ...]:
    tracks = [one for one in sheet.tracks if one.start is not None and 0 <= one.start < image.frames]
    starts = [(one.start or 0) * FRAME_SAMPLES for one in tracks]
    ends = [*((one.first or 0) * FRAME_SAMPLES for one in tracks[1:]), image.samples]
    ears = [_Ear() for _ in tracks]
    at = 0
    for block in image.blocks():
        both = block if block.shape[1] == 2 else np.repeat(block[:, :1], 2, axis=1)
        for ear, start, end in zip(ears, starts, ends, strict=True):
            part = both[max(0, start - at) : max(0, end - at)]
            if len(part):
                ear.take(part)
        at += len(block)
        progress(at, image.samples)
    return tuple(
        DiscTrack(
            one.number, one.texts.get("TITLE", ""), one.isrc, (one.start or 0) - (one.first or 0), one.start or 0,
            max(0, end - start) // FRAME_SAMPLES, db_from_linear(ear.peak), ear.loudness.result().integrated_lufs,
            max(ear.longest, ear.silent) / DISC_HZ, ear.runs, (ear.heard if ear.head is None else ear.head) / DISC_HZ,
            ear.silent / DISC_HZ, ear.clipped_at_join,
        )
        for one, ear, start, end in zip(tracks, ears, starts, ends, strict=True)
    )  # fmt: skip
