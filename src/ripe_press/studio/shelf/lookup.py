"""The shelf of the data folder, without a server."""

from pathlib import Path

from ripe_press.core.errors import Conflict
from ripe_press.core.requests.document import stem_from
from ripe_press.core.requests.part import StemNote
from ripe_press.store.db import Database
from ripe_press.store.mixes import Mixes, StoredMix
from ripe_press.store.stems import Stems
from ripe_press.studio.data_folder import data_folder
from ripe_press.studio.planning import bring_up_to_date


def on_shelf(mix: Path) -> StoredMix | None:
    """What the shelf has of a file, if it is there."""
    try:
        database = Database(data_folder().database)
    except Conflict:
        return None
    try:
        bring_up_to_date(database)
        return Mixes(database).by_path(str(mix.resolve()))
    finally:
        database.close()


def stems_beside(stored: StoredMix | None) -> tuple[StemNote, ...]:
    """What the shelf has beside a mix."""
    if stored is None:
        return ()
    database = Database(data_folder().database)
    try:
        return tuple(stem_from(one.note) for one in Stems(database).of(stored.id))
    finally:
        database.close()
