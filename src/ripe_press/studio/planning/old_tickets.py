"""Tickets of the first versions: without fingerprints of their audio and without their briefs (version 0).

Brought up to date once, from the mixes that they were of, so that everybody reads documents of one form.
"""

import json
from collections.abc import Mapping
from dataclasses import asdict
from typing import Any

from ripe_press.core.briefs.library import brief_of
from ripe_press.core.errors import RipePressError
from ripe_press.core.formats.facts import SourceFacts
from ripe_press.core.requests.document import Document, document_from, document_row
from ripe_press.store.db import Database
from ripe_press.store.mixes import Mixes, StoredMix
from ripe_press.store.settings import Settings
from ripe_press.store.upkeep import Upkeep
from ripe_press.studio.log import logger
from ripe_press.studio.planning.kept_levels import facts_of

_LOG = logger("record")
_DONE = "old tickets"


def bring_up_to_date(database: Database) -> None:
    """Applies the missing migrations, and updates the oldest tickets. Raises: Conflict."""
    database.migrate()
    settings = Settings(database)
    if settings.get(_DONE, ""):
        return
    upgrade_tickets(database)
    settings.set(_DONE, "read")


def upgrade_tickets(database: Database) -> int:
    """Updates every ticket without a version whose mix is known; gives their number."""
    record, mixes = Upkeep(database), Mixes(database)
    upgraded = 0
    for number, mix_id, made_at, title, ticket in record.without_version():
        mix = mixes.get(mix_id) if mix_id is not None else None
        if mix is None:
            continue
        try:
            document = old_document(json.loads(ticket), facts_of(_as_it_was(mixes, mix, made_at)), title)
        except (RipePressError, ValueError) as error:
            _LOG.warning("an old ticket cannot be read", pressing=number, why=str(error))
            continue
        record.set_ticket(number, document_row(document))
        upgraded += 1
    return upgraded


def old_document(row: Mapping[str, Any], facts: SourceFacts, title: str) -> Document:
    """A document of version 0. Raises: BadInput ``document.…``; NotFound ``brief.unknown``."""
    row = {**row, "version": 2 if "deliveries" in row else 1, "source": {"facts": asdict(facts), "title": title}}
    if row["version"] == 1:
        row["shipped"] = [asdict(brief_of(name)) for name in row.get("briefs") or ("audio-cd",)]
        row = {"start_frame": 0, "end_frame": facts.frames, "briefs": ["audio-cd"], **row}
    elif not isinstance(row.get("briefs"), dict):
        row["briefs"] = {one["brief"]: asdict(brief_of(one["brief"])) for one in row["deliveries"]}
    return document_from(row)


def _as_it_was(mixes: Mixes, mix: StoredMix, made_at: str) -> StoredMix:
    """The version of a mix that was in use at some time."""
    earlier = [one for one in (mix, *mixes.others(mix.id)) if one.version_at <= made_at]
    return max(earlier, key=lambda one: one.version_at, default=mix)
