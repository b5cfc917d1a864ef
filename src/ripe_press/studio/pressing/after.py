"""Steps after the files of a pressing: tempo maps, playlists, and the folder of a disc."""

from collections.abc import Sequence
from pathlib import Path

from ripe_press.core.requests.document import Document
from ripe_press.core.requests.running_order import RunningOrder
from ripe_press.store.pressings import StoredFile
from ripe_press.studio.planning import Plan
from ripe_press.studio.pressing.playlists import write_playlists
from ripe_press.studio.pressing.tempo_maps import write_tempo_maps

TRACKS = "tracks"


def list_files(order: RunningOrder, planned: Plan, files: Sequence[StoredFile]) -> list[str]:
    """Write the playlists of the finished files."""
    made = {planned.files[one.number].placed.path: Path(one.path) for one in files if one.state == "named"}
    return write_playlists(order, planned.files, made)


def map_tempo(document: Document, planned: Plan, files: Sequence[StoredFile]) -> list[str]:
    """Write the tempo maps of the finished files."""
    made = {planned.files[one.number].placed.path: Path(one.path) for one in files if one.state == "named"}
    return write_tempo_maps(document, planned.files, made)


def disc_folder(tracks: Sequence[StoredFile]) -> Path:
    """Where the disc of these tracks goes: beside their own folder."""
    folder = Path(tracks[0].path).parent
    return folder.parent if folder.name == TRACKS else folder
