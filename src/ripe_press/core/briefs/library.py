"""Briefs as data: what a recipient asks for, read from the JSON files beside this module."""

import json
from dataclasses import dataclass
from functools import cache
from importlib.resources import files

from ripe_press.core.engine.edges import Stretch
from ripe_press.core.engine.resolve import Delivery
from ripe_press.core.errors import NotFound
from ripe_press.core.formats.capabilities import Container, Encoding
from ripe_press.core.signal.resample import Quality


@dataclass(frozen=True, slots=True)
class Brief:
    """A recipient's wishes. ``rate_hz`` and ``channels`` None mean the mix's own.

    A plain value, so that a command need not wait for a validation library to start; the files that ship are
    validated against these types by a test.
    """

    id: str
    title: str
    sentence: str
    why: str
    container: Container
    encoding: Encoding
    rate_hz: int | None
    quality: Quality
    label_pattern: str
    channels: int | None = None

    def delivery(self, stretch: Stretch) -> Delivery:
        """A delivery of a stretch to this brief, with everything as the brief prefers it."""
        return Delivery(
            self.id, stretch, self.container, self.encoding, self.rate_hz, self.quality, self.label_pattern,
            self.channels,
        )  # fmt: skip


@cache
def built_in_briefs() -> dict[str, Brief]:
    """The briefs that ship with the product, by their id."""
    folder = files("ripe_press.core.briefs")
    briefs = [
        Brief(**json.loads(entry.read_text(encoding="utf-8")))
        for entry in sorted(folder.iterdir(), key=lambda entry: entry.name)
        if entry.name.endswith(".json")
    ]
    return {brief.id: brief for brief in briefs}


def brief_of(brief_id: str) -> Brief:
    """The brief with this id.

    Raises: NotFound ``brief.unknown``, naming the briefs there are.
    """
    briefs = built_in_briefs()
    if brief_id not in briefs:
        message = f"There is no brief called {brief_id!r}. There is: {', '.join(briefs)}."
        raise NotFound("brief.unknown", message, brief=brief_id)
    return briefs[brief_id]
