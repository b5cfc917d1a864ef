"""Steps after the files of a running order: playlists, and the disc of its tracks."""

from collections.abc import Callable, Sequence
from concurrent.futures import Executor
from pathlib import Path
from typing import Any

from ripe_press.core.briefs.library import DISC_TRACK
from ripe_press.core.requests.document import Document
from ripe_press.core.requests.running_order import RunningOrder
from ripe_press.core.words import quoted
from ripe_press.store.pressings import StoredFile
from ripe_press.studio.discs.task import disc_of
from ripe_press.studio.jobs.folder import JobFolder
from ripe_press.studio.planning.planner import Plan
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


def make_disc_of(
    order: RunningOrder,
    document: str,
    planned: Plan,
    files: Sequence[StoredFile],
    job: JobFolder,
    workers: Executor,
    keep: Callable[[dict[str, Any]], None],
    note: Path,
) -> str:
    """Makes the disc of an order whose tracks are all there; gives why there is none, or an empty sentence.

    Raises: as `disc_of`.
    """
    if not order.disc:
        return ""
    tracks = [one for one in files if planned.files[one.number].brief.id == DISC_TRACK.id]
    missing = [one for one in tracks if one.state != "named"]
    if missing:
        return f"{quoted(Path(missing[0].path).name)} failed, so no disc was made."
    folder = Path(tracks[0].path).parent
    place = folder.parent if folder.name == TRACKS else folder
    keep(workers.submit(disc_of, document, [one.path for one in tracks], str(place), str(job.path), str(note)).result())
    return ""
