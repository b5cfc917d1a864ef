"""The stored form of an imported mix: its row, and its folder."""

import hashlib
import shutil
from collections.abc import Callable
from dataclasses import asdict, replace
from pathlib import Path
from typing import Any

from ripe_press.core.disk import not_written
from ripe_press.core.errors import Interrupted
from ripe_press.core.requests.bench import bench_from
from ripe_press.core.requests.document import bench_row
from ripe_press.core.survey import Survey
from ripe_press.core.tags.cover import Cover
from ripe_press.core.tempo_hints import first_bar_frame, tempo_hint
from ripe_press.core.timeline import TempoMap
from ripe_press.core.whole_files import move_whole, sync_folder, write_whole
from ripe_press.store.mixes import NewMix
from ripe_press.studio.planning import keep_measures
from ripe_press.studio.reports import measures_of, spectrum_of
from ripe_press.studio.shelf.tasks import ReadIn


def stamp_of(path: Path) -> str:
    """Size and time of a file, by which a change is seen without reading it; empty where it is gone."""
    try:
        found = path.stat()
    except OSError:
        return ""
    return f"{found.st_size}-{found.st_mtime_ns}"


def keep_folder(
    folder_of: Callable[[NewMix], Path], path: Path, title: str, owned: bool, found: ReadIn, pyramid: Path
) -> NewMix:
    """The row of an imported mix, after all its files are in its folder.

    Raises: Interrupted ``shelf.not-kept``; nothing is left then.
    """
    mix = new_mix(path, title, owned, found)
    folder = folder_of(mix)
    shutil.rmtree(folder, ignore_errors=True)
    folder.mkdir(parents=True)
    try:
        write_measures(folder, found.survey, pyramid)
        if found.cover:
            write_whole(folder / cover_name(found.cover), found.cover.data)
        kept = Path(found.decoded) if found.decoded else path if owned else None
        if kept:
            move_whole(kept, folder / kept.name)
            mix = replace(mix, path=str(folder / kept.name), owned=True)
    except OSError as error:
        shutil.rmtree(folder, ignore_errors=True)
        raise Interrupted("shelf.not-kept", not_written(folder / path.name, error)) from error
    except Interrupted:
        shutil.rmtree(folder, ignore_errors=True)
        raise
    sync_folder(folder.parent)
    return mix


def write_measures(folder: Path, result: Survey, pyramid: Path) -> None:
    """Write the measurements of a mix into its folder."""
    move_whole(pyramid, folder / "pyramid.bin")
    keep_measures(folder, result)


def cover_name(cover: Cover | None) -> str:
    """The file name of a kept picture, by its content; empty for none."""
    if cover is None:
        return ""
    ending = "png" if cover.mime == "image/png" else "jpg"
    return f"cover-{hashlib.sha256(cover.data).hexdigest()[:12]}.{ending}"


def measures_row(result: Survey, content: str, channels_asked: bool = False) -> dict[str, Any]:
    """The measures of a mix as its row has them."""
    return {
        **measures_of(result), "spectrum": spectrum_of(result), "content_sum": content,
        "layout": list(result.facts.layout or ()), "channels_asked": channels_asked,
    }  # fmt: skip


def _tempo_of(path: Path, title: str, found: ReadIn) -> TempoMap | None:
    """The tempo that tags, a MIDI file beside it or its name tell, with bar 1 by its sound; None where none does."""
    hint = tempo_hint(path, found.embedded.tempo_bpm, title)
    if hint is None:
        return None
    history, rate_hz = found.survey.history, found.survey.facts.rate_hz
    bar_one = first_bar_frame(history.sounding(), history.tempo(), hint.changes[0].tempo_bpm, rate_hz)
    return TempoMap(hint.changes, bar_one)


def new_mix(path: Path, title: str, owned: bool, found: ReadIn) -> NewMix:
    """The row of a mix that has been read, with a bench as its file suggests."""
    result, facts, embedded = found.survey, found.survey.facts, found.embedded
    return NewMix(
        title=title, path=str(path), owned=owned, came_from="" if owned else str(path),
        sha256=found.sha256, container=facts.container, codec=facts.codec,
        rate_hz=facts.rate_hz, channels=facts.channels, frames=facts.frames, bit_depth=facts.bit_depth,
        downmix=facts.downmix, file_channels=facts.file_channels,
        measures=measures_row(result, found.content_sum, found.channels_asked),
        embedded=asdict(embedded), bench=bench_row(
            bench_from(embedded, facts.frames, _tempo_of(path, title, found), title, cover_name(found.cover))
        ),
    )  # fmt: skip
