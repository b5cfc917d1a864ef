"""Briefs: built in, and the user's own."""

import re
from collections.abc import Mapping
from dataclasses import asdict, replace
from typing import Any

from ripe_press.core.briefs.library import brief_from, built_in_briefs, check_possible
from ripe_press.core.briefs.own import saved_brief
from ripe_press.core.errors import BadInput, Conflict, NotFound
from ripe_press.core.naming import check_pattern
from ripe_press.core.requests.brief import Brief
from ripe_press.core.words import quoted
from ripe_press.store.briefs import OwnBriefs
from ripe_press.store.db import Database
from ripe_press.studio.data_folder import data_folder
from ripe_press.studio.planning import RequestedFile, bring_up_to_date

MOST_BRIEFS = 500


class BriefBook:
    """Briefs by id. Those that ship can be copied, not changed."""

    def __init__(self, own: OwnBriefs) -> None:
        self._own = own

    def all(self) -> Mapping[str, Brief]:
        """Every brief, those that ship first."""
        mine = [brief_from(row) for row in self._own.all()]
        return {**built_in_briefs(), **{brief.id: brief for brief in mine}}

    def brief(self, brief_id: str) -> Brief:
        """One brief. Raises: NotFound ``brief.unknown``."""
        briefs = self.all()
        if brief_id not in briefs:
            message = f"Unknown brief {quoted(brief_id)}. Available: {', '.join(briefs)}."
            raise NotFound("brief.unknown", message, brief=brief_id)
        return briefs[brief_id]

    def keep(self, brief: Brief) -> Brief:
        """Keeps a brief of one's own.

        Raises: Conflict ``brief.ships`` for the id of one that ships; Unsupported ``brief.impossible``; BadInput
        ``label.unknown-field`` or ``brief.too-many``.
        """
        if brief.id in built_in_briefs():
            message = f"{quoted(brief.title)} is built in and cannot be changed. Duplicate it instead."
            raise Conflict("brief.ships", message, brief=brief.id)
        if len(self._own.all()) >= MOST_BRIEFS:
            message = f"{MOST_BRIEFS} custom briefs is the maximum. Delete one first."
            raise BadInput("brief.too-many", message)
        check_possible(brief)
        check_pattern(brief.label_pattern)
        self._own.keep(brief.id, brief_row(brief))
        return brief

    def copy(self, brief_id: str) -> Brief:
        """A copy of a brief under a name of its own."""
        brief, taken = self.brief(brief_id), self.all()
        number = 2
        stem = re.sub(r"-copy(-\d+)?$", "", brief.id)
        name = f"{stem}-copy"
        while name in taken:
            name = f"{stem}-copy-{number}"
            number += 1
        return self.keep(
            replace(
                brief, id=name, title=f"{brief.title}, copy" if number == 2 else f"{brief.title}, copy {number - 1}"
            )
        )

    def save_as(self, title: str, file: RequestedFile) -> Brief:
        """A new brief with the settings of a file of a ticket. Raises: as `keep`; BadInput ``brief.title``."""
        if not title.strip() or any(not one.isprintable() for one in title):
            message = "Enter a title for the brief."
            raise BadInput("brief.title", message)
        made = saved_brief(title.strip(), file.planned.wish, file.brief, file.line.changes, file.planned.path.codec)
        taken, number = self.all(), 2
        name = made.id
        while name in taken:
            name, number = f"{made.id}-{number}", number + 1
        return self.keep(replace(made, id=name))

    def remove(self, brief_id: str) -> None:
        """Takes a brief of one's own away. Raises: Conflict ``brief.ships``, NotFound ``brief.unknown``."""
        brief = self.brief(brief_id)
        if brief.id in built_in_briefs():
            message = f"{quoted(brief.title)} is built in and cannot be deleted. Duplicate it instead."
            raise Conflict("brief.ships", message, brief=brief_id)
        self._own.remove(brief_id)


def brief_row(brief: Brief) -> dict[str, Any]:
    """A brief as its file has it."""
    return asdict(brief)


def is_own(brief: Brief) -> bool:
    """Return whether a brief was made by a user."""
    return brief.id not in built_in_briefs()


def briefs_here() -> dict[str, Brief]:
    """The briefs that ship, and those of the data folder where it can be read."""
    try:
        database = Database(data_folder().database)
    except Conflict:
        return dict(built_in_briefs())
    try:
        bring_up_to_date(database)
        return dict(BriefBook(OwnBriefs(database)).all())
    finally:
        database.close()
