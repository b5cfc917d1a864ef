"""Handing a mix off to picture, from the command line: timeline, edit list, and the media or where they lie."""

import shutil
from collections.abc import Callable, Sequence
from dataclasses import asdict, dataclass
from pathlib import Path
from typing import Any

from ripe_press.core.disk import not_written
from ripe_press.core.errors import Cancelled, Interrupted
from ripe_press.core.formats.facts import SourceFacts
from ripe_press.core.handoff.edit_list import write_edit_list
from ripe_press.core.handoff.frame_rate import FrameRate
from ripe_press.core.handoff.interchange import write_interchange
from ripe_press.core.handoff.timeline import HandedClip, HandedTimeline, placed_clip, tracks_of
from ripe_press.core.naming import safe_stem
from ripe_press.core.sources.source import facts_of_file
from ripe_press.core.tags.embedded import read_embedded
from ripe_press.core.timeline import Marker
from ripe_press.core.wishes.document import bench_of
from ripe_press.core.wishes.part import StemNote
from ripe_press.studio.stems import stems_in
from ripe_press.studio.typed import on_shelf, stems_beside

MEDIA = "media"


@dataclass(frozen=True, slots=True)
class HandoffWish:
    """What is handed off, and how: stems from a folder, or those that the shelf has; media copied, or only named."""

    frame_rate: FrameRate
    stems: Path | None = None
    link: bool = False


def hand_off(
    mix: Path,
    wish: HandoffWish,
    out: Path,
    told: Callable[[int, int], None] = lambda _done, _total: None,
    should_stop: Callable[[], bool] = lambda: False,
) -> dict[str, Any]:
    """Writes the timeline (``.otio``), the edit list (``.txt``) and the media into a folder.

    Raises: as reading a mix; NotFound ``stems.no-folder``; Interrupted ``write.failed`` or Cancelled.
    """
    facts = facts_of_file(mix)
    stored = on_shelf(mix)
    bench = bench_of(stored.bench) if stored else None
    embedded = read_embedded(mix, facts.rate_hz, facts.frames)
    markers: tuple[Marker, ...] = bench.markers if bench else embedded.markers
    stems = _stems(mix, wish, stems_beside(stored))
    title = stored.title if stored else mix.stem
    try:
        out.mkdir(parents=True, exist_ok=True)
        clips = tuple(_clips(mix, facts, stems, wish, out, told, should_stop))
        timeline = HandedTimeline(title, facts.rate_hz, facts.frames, clips, markers, embedded.time_reference)
        name = safe_stem(title)
        written = {
            f"{name}.otio": write_interchange(timeline, wish.frame_rate),
            f"{name} edit list.txt": write_edit_list(timeline, wish.frame_rate),
        }
        for file, text in written.items():
            new = out / f".{file}.new"
            new.write_text(text, encoding="utf-8")
            new.replace(out / file)
    except OSError as error:
        raise Interrupted("write.failed", not_written(Path(error.filename or out), error)) from error
    return {
        "timeline": str(out / f"{name}.otio"), "edit_list": str(out / f"{name} edit list.txt"),
        "frame_rate": wish.frame_rate.name, "clips": [asdict(one) for one in clips],
        "markers": [asdict(one) for one in markers], "time_reference": embedded.time_reference,
    }  # fmt: skip


def _stems(mix: Path, wish: HandoffWish, kept: Sequence[StemNote]) -> tuple[StemNote, ...]:
    """What stands beside the mix, as far as it is there already."""
    if wish.stems is None:
        return tuple(one for one in kept if not one.live_s)
    return tuple(StemNote(name, facts_of_file(path)) for name, path in stems_in(wish.stems, mix))


def _clips(
    mix: Path,
    facts: SourceFacts,
    stems: Sequence[StemNote],
    wish: HandoffWish,
    out: Path,
    told: Callable[[int, int], None],
    should_stop: Callable[[], bool],
) -> tuple[HandedClip, ...]:
    whole = (facts.frames, facts.rate_hz)
    files = [(mix.stem, mix.absolute(), facts, 0)]
    files += [(one.name, Path(one.facts.path).absolute(), one.facts, one.late_frames) for one in stems]
    taken: set[str] = set()
    clips = []
    for number, (track, path, about, late) in enumerate(files):
        if should_stop():
            raise Cancelled("handoff.cancelled", "The hand-off was cancelled; media that were copied already are left.")
        told(number, len(files))
        media = str(path) if wish.link else f"{MEDIA}/{_copied(path, out / MEDIA, taken)}"
        clips.append(placed_clip(track, media, about.rate_hz, about.frames, about.file_channels, late, whole))
    told(len(files), len(files))
    return tracks_of(clips)


def _copied(path: Path, folder: Path, taken: set[str]) -> str:
    """Copies a file, whole or not at all; two of one name are told apart by a number."""
    folder.mkdir(exist_ok=True)
    name = path.name
    number = 2
    while name.casefold() in taken:
        name = f"{path.stem} ({number}){path.suffix}"
        number += 1
    taken.add(name.casefold())
    new = folder / f".{name}.new"
    shutil.copyfile(path, new)
    new.replace(folder / name)
    return name
