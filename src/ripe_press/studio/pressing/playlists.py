"""Playlists of a pressed running order: both kinds for each brief, next to its files."""

from collections.abc import Iterable, Mapping, Sequence
from os.path import commonpath, relpath
from pathlib import Path

from ripe_press.core.briefs.library import DISC_TRACK
from ripe_press.core.naming import safe_stem
from ripe_press.core.press.playlist import PlaylistLine, m3u8, xspf
from ripe_press.core.requests.running_order import RunningOrder
from ripe_press.core.whole_files import write_whole
from ripe_press.studio.planning import RequestedFile


def write_playlists(order: RunningOrder, files: Iterable[RequestedFile], made: Mapping[Path, Path]) -> list[str]:
    """Writes them, of the files that were ``made`` (by their planned places); gives the paths. Raises: OSError."""
    by_brief: dict[str, list[RequestedFile]] = {}
    for one in files:
        if one.brief.id != DISC_TRACK.id and one.placed.path in made:
            by_brief.setdefault(one.brief.id, []).append(one)
    folders = {name: _folder(wanted) for name, wanted in by_brief.items()}
    written = []
    for name, wanted in by_brief.items():
        folder = folders[name]
        alone = list(folders.values()).count(folder) == 1
        title = order.title or "Running order"
        stem = safe_stem(title if alone else f"{title}, {wanted[0].brief.title}")
        lines = [_line(one, made[one.placed.path], folder) for one in wanted]
        for ending, text in ((".m3u8", m3u8(lines, title)), (".xspf", xspf(lines, title))):
            path = folder / f"{stem}{ending}"
            write_whole(path, text.encode())
            written.append(str(path))
    return written


def _folder(wanted: Sequence[RequestedFile]) -> Path:
    return Path(commonpath([one.placed.path.parent for one in wanted]))


def _line(one: RequestedFile, path: Path, folder: Path) -> PlaylistLine:
    codec, texts = one.planned.path.codec, dict(one.planned.path.tags.content.values)
    title = texts.get("title") or one.mix.title
    return PlaylistLine(
        Path(relpath(path, folder)), codec.frames / codec.rate_hz, title, texts.get("artist", ""),
        texts.get("album", ""), one.planned.wish.number,
    )  # fmt: skip
