"""Handoff of a mix to picture: timeline, edit list, and media, copied or linked."""

from collections.abc import Callable, Iterator
from dataclasses import asdict, dataclass
from pathlib import Path
from typing import Any

from ripe_press.core.blocks import Progress, no_progress
from ripe_press.core.disk import not_written
from ripe_press.core.errors import Cancelled, Interrupted
from ripe_press.core.formats.facts import SourceFacts
from ripe_press.core.handoff.edit_list import write_edit_list
from ripe_press.core.handoff.frame_rate import FrameRate
from ripe_press.core.handoff.interchange import write_interchange
from ripe_press.core.handoff.timeline import HandedClip, HandedTimeline, placed_clip, tracks_of
from ripe_press.core.naming import safe_stem
from ripe_press.core.requests.part import StemNote
from ripe_press.core.timeline import Marker
from ripe_press.core.whole_files import whole, write_whole

MEDIA = "media"
_BLOCK = 1 << 20


@dataclass(frozen=True, slots=True)
class HandedMix:
    """A handed-off mix: its markers, its place in time, and its stems."""

    facts: SourceFacts
    title: str
    markers: tuple[Marker, ...] = ()
    time_reference: int | None = None
    stems: tuple[StemNote, ...] = ()


@dataclass(frozen=True, slots=True)
class HandoffRequest:
    """How it is handed off: the frame rate of the picture, and whether media are only named, and not copied."""

    frame_rate: FrameRate
    link: bool = False


def hand_off(
    mix: HandedMix,
    wish: HandoffRequest,
    out: Path,
    progress: Progress = no_progress,
    should_stop: Callable[[], bool] = lambda: False,
) -> dict[str, Any]:
    """Write the timeline (``.otio``), the edit list (``.txt``) and the media into a folder; report bytes copied of all.

    Raises: Interrupted ``write.failed`` or Cancelled ``handoff.cancelled``.
    """
    facts = mix.facts
    try:
        out.mkdir(parents=True, exist_ok=True)
        clips = _clips(mix, wish, out, progress, should_stop)
        timeline = HandedTimeline(mix.title, facts.rate_hz, facts.frames, clips, mix.markers, mix.time_reference)
        name = safe_stem(mix.title)
        written = {
            f"{name}.otio": write_interchange(timeline, wish.frame_rate),
            f"{name} edit list.txt": write_edit_list(timeline, wish.frame_rate),
        }
        for file, text in written.items():
            write_whole(out / file, text)
    except OSError as error:
        raise Interrupted("write.failed", not_written(Path(error.filename or out), error)) from error
    return {
        "timeline": str(out / f"{name}.otio"), "edit_list": str(out / f"{name} edit list.txt"),
        "frame_rate": wish.frame_rate.name, "clips": [asdict(one) for one in clips],
        "markers": [asdict(one) for one in mix.markers], "time_reference": mix.time_reference,
    }  # fmt: skip


def _clips(
    mix: HandedMix,
    wish: HandoffRequest,
    out: Path,
    progress: Progress,
    should_stop: Callable[[], bool],
) -> tuple[HandedClip, ...]:
    facts = mix.facts
    whole = (facts.frames, facts.rate_hz)
    path = Path(facts.path).absolute()
    files = [(path.stem, path, facts, 0)]
    files += [(one.name, Path(one.facts.path).absolute(), one.facts, one.late_frames) for one in mix.stems]
    total = 0 if wish.link else sum(one.stat().st_size for _, one, _, _ in files)
    done = 0
    taken: set[str] = set()
    clips = []
    for track, path, about, late in files:
        media = str(path)
        if not wish.link:
            name = _name_of(path, taken)
            for size in _copied(path, out / MEDIA / name, should_stop):
                done += size
                progress(done, total)
            media = f"{MEDIA}/{name}"
        channels = about.file_channels or about.channels
        clips.append(placed_clip(track, media, about.rate_hz, about.frames, channels, late, whole))
    progress(total, total)
    return tracks_of(clips)


def _name_of(path: Path, taken: set[str]) -> str:
    """The name of a file among the media; equal names get a number."""
    stem = safe_stem(path.stem)
    name, number = f"{stem}{path.suffix}", 2
    while name.casefold() in taken:
        name = f"{stem} ({number}){path.suffix}"
        number += 1
    taken.add(name.casefold())
    return name


def _copied(path: Path, target: Path, should_stop: Callable[[], bool]) -> Iterator[int]:
    """Copies a file, whole or not at all; gives the bytes of each block."""
    target.parent.mkdir(exist_ok=True)
    with whole(target) as new, path.open("rb") as reader, new.open("wb") as writer:
        while block := reader.read(_BLOCK):
            if should_stop():
                message = "Cancelled. Copied media were kept."
                raise Cancelled("handoff.cancelled", message)
            writer.write(block)
            yield len(block)
