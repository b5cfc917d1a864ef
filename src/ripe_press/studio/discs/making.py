"""The disc of a running order's tracks: image, cue sheet, CD-Text, checksums and log sheet."""

import json
from collections.abc import Callable, Sequence
from dataclasses import asdict, dataclass, replace
from datetime import date
from pathlib import Path
from typing import Any

from ripe_press.core.blocks import Progress, no_progress
from ripe_press.core.disc.assembly import LaidFile, assemble
from ripe_press.core.disc.check import DiscReport, check_disc
from ripe_press.core.disc.cue_writer import in_ascii, write_cue
from ripe_press.core.disc.frames import CAPACITY_FRAMES, print_frames, print_signed_frames
from ripe_press.core.disc.log_sheet import Sums, TrackLevels, write_log_sheet
from ripe_press.core.disc.programme import Programme, programme_of
from ripe_press.core.disc.sums import ENDING, write_sums
from ripe_press.core.errors import BadInput, Conflict
from ripe_press.core.naming import safe_stem
from ripe_press.core.proof.read_back import hash_file
from ripe_press.core.requests.document import Document, MixRequest
from ripe_press.core.requests.order_timeline import PlacedEntry, lay_out
from ripe_press.core.requests.running_order import RunningOrder
from ripe_press.core.rules.checks.running_order import Entry, judge_order
from ripe_press.core.rules.findings import Finding
from ripe_press.core.whole_files import sweep_dead, whole_set, write_whole
from ripe_press.core.words import quoted
from ripe_press.studio.discs.images import checked_report
from ripe_press.studio.planning import EntryMix, Knowledge, lengths_of, placed_entries

CUE, IMAGE, TEXT, LOG, SUMS = ".cue", ".bin", ".cdt", " log sheet.html", ENDING


@dataclass(frozen=True, slots=True)
class DiscFile:
    """The layout of a running order on its disc."""

    order: RunningOrder
    laid: tuple[PlacedEntry, ...]
    programme: Programme
    entries: tuple[Entry, ...]


def on_disc(document: Document, order: RunningOrder, knowledge_of: Callable[[MixRequest], Knowledge]) -> DiscFile:
    """The positions of an order on its disc, with their texts."""
    placed = placed_entries(document, order, knowledge_of)
    lengths = lengths_of(placed)
    laid = lay_out(order, lengths)
    sheets = [one.mix.notes.values for one in placed]
    programme = programme_of(order, laid, sheets, [one.rate_hz for one in lengths])
    entries = tuple(
        Entry(
            one.mix.title,
            one.mix.notes.values,
            place,
            length.frames / length.rate_hz,
            length.rate_hz,
            goes_on(placed, at),
        )
        for at, (one, place, length) in enumerate(zip(placed, laid, lengths, strict=True))
    )
    return DiscFile(order, laid, programme, entries)


def goes_on(placed: Sequence[EntryMix], at: int) -> bool:
    """Return whether an entry continues in its mix at the end of the previous one."""
    if not at:
        return False
    before, entry = placed[at - 1].entry, placed[at].entry
    return before.mix == entry.mix and before.end_frame == entry.start_frame


def order_report(document: Document, knowledge_of: Callable[[MixRequest], Knowledge]) -> dict[str, Any]:
    """A running order's layout: positions in CD frames, free time on a disc, and findings."""
    order = document.order
    if order is None:
        raise TypeError(document)
    disc = on_disc(document, order, knowledge_of)
    rows = [
        {
            "number": at,
            "title": entry.title,
            "mix": document.mixes[one.mix].source.title,
            "runs_on": one.runs_on,
            "gap_frames": place.gap_frames,
            "gap": print_frames(place.gap_frames),
            "start_frame": place.start_frame,
            "start": print_frames(place.start_frame),
            "frames": place.frames,
            "length": print_frames(place.frames),
        }
        for at, (one, entry, place) in enumerate(zip(order.entries, disc.entries, disc.laid, strict=True), 1)
    ]
    end = disc.laid[-1].end_frame
    left = {f"left_{minutes}_frames": most - end for minutes, most in CAPACITY_FRAMES.items()}
    free = {f"left_{minutes}": print_signed_frames(most - end) for minutes, most in CAPACITY_FRAMES.items()}
    return {
        "title": order.title, "entries": rows, "frames": end, "length": print_frames(end), **left, **free,
        "findings": [asdict(one) for one in judge_order(order, disc.entries)],
    }  # fmt: skip


def refuse_no_disc(disc: DiscFile) -> tuple[Finding, ...]:
    """Raise the findings that prevent a disc. Raises: BadInput ``disc.not-one`` for what no disc can have; as
    `write_text`.
    """
    found = judge_order(disc.order, disc.entries)
    wrong = [one for one in found if one.verdict == "stop"]
    if wrong:
        message = f"{wrong[0].sentence} No disc was made."
        raise BadInput("disc.not-one", message, rule=wrong[0].rule)
    # Texts that have no room are refused here, too, and not once everything is pressed.
    disc.programme.text()
    return found


def free_stem(folder: Path, title: str) -> str:
    """A name for the files of a disc that none in a folder has yet: in ASCII, for the cue sheet names them."""
    stem = safe_stem(in_ascii(title)) if title else "Disc"
    for number in range(1, 10_000):
        name = stem if number == 1 else f"{stem} ({number})"
        if not any((folder / f"{name}{ending}").exists() for ending in (CUE, IMAGE, TEXT, LOG, SUMS)):
            return name
    message = f"{quoted(folder)} has too many discs named {quoted(stem)}. Choose another folder."
    raise Conflict("disc.name-taken", message, folder=str(folder))


def make_disc(
    disc: DiscFile,
    tracks: Sequence[Path],
    folder: Path,
    progress: Progress = no_progress,
    should_stop: Callable[[], bool] = lambda: False,
    note: Path | None = None,
) -> dict[str, Any]:
    """Puts the disc together beside its folder, checks it, and gives all of its files their names; gives its report.

    ``tracks`` are the files of all entries, in order. The cue sheet gets its name last: where there is one, the disc is
    whole. ``note`` records the disc: a resume after a power cut does not make it again. Raises: Cancelled; Interrupted
    ``write.failed``; BadInput for texts that a disc cannot say.
    """
    if note and (there := _made_before(note)):
        return _report(there, check_disc(there.cue, progress))
    programme, title = disc.programme, disc.order.title
    text = programme.text()
    sweep_dead(folder)
    stem = free_stem(folder, title)
    laid = [LaidFile(path, place.start_frame) for path, place in zip(tracks, disc.laid, strict=True)]
    with whole_set(folder, stem, CUE) as aside:
        named = {ending: aside / f"{stem}{ending}" for ending in (CUE, IMAGE, TEXT, LOG, SUMS)}
        made = assemble(named[IMAGE], laid, programme.lead_out_frame, lambda at, of: progress(at, 2 * of), should_stop)
        if text:
            named[TEXT].write_bytes(text)
        sheet = programme.cue(named[IMAGE].name, named[TEXT].name if text else "")
        named[CUE].write_bytes(write_cue(sheet))
        report = check_disc(named[CUE], lambda at, of: progress(of + at, 2 * of))
        sums = [(named[IMAGE].name, made.sha256)]
        sums += [(named[one].name, hash_file(named[one])) for one in ((TEXT, CUE) if text else (CUE,))]
        levels = [TrackLevels(one.peak_dbfs, None, one.integrated_lufs) for one in report.tracks]
        crcs = made.crcs[int(disc.order.hidden_first and len(made.crcs) > len(report.tracks)) :]
        page = write_log_sheet(programme, levels, crcs, Sums(tuple(sums)), date.today().isoformat())
        named[LOG].write_text(page, encoding="utf-8")
        listed = write_sums([*sums, (named[LOG].name, hash_file(named[LOG]))], made.seconds)
        named[SUMS].write_text(listed, encoding="utf-8")
        done = _Disc(folder / named[CUE].name, made.sha256, made.bytes, bool(text))
        if note:
            write_whole(note, json.dumps({**asdict(done), "cue": str(done.cue)}))
    return _report(done, replace(report, cue=done.cue, image=folder / named[IMAGE].name))


@dataclass(frozen=True, slots=True)
class _Disc:
    """The identity of a disc: its cue sheet, and the checksum of its image."""

    cue: Path
    sha256: str
    bytes: int
    text: bool

    def beside(self, ending: str) -> Path:
        """Another of its files."""
        return self.cue.with_name(f"{self.cue.stem}{ending}")


def _made_before(note: Path) -> _Disc | None:
    """The disc of a note, if its image is unchanged."""
    try:
        row = json.loads(note.read_bytes())
        found = _Disc(Path(row["cue"]), row["sha256"], row["bytes"], row["text"])
        same = found.cue.is_file() and hash_file(found.beside(IMAGE)) == found.sha256
    except (OSError, ValueError, KeyError, TypeError):
        return None
    return found if same else None


def _report(disc: _Disc, checked: DiscReport) -> dict[str, Any]:
    return {
        **checked_report(checked), "cd_text": str(disc.beside(TEXT)) if disc.text else None,
        "log_sheet": str(disc.beside(LOG)), "checksums": str(disc.beside(SUMS)), "sha256": disc.sha256,
        "bytes": disc.bytes,
    }  # fmt: skip
