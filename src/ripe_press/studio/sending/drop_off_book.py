"""Drop-offs: stored, tested, found by their names."""

import threading
from collections.abc import Callable, Iterable
from concurrent.futures import Future, ThreadPoolExecutor
from dataclasses import asdict, replace
from typing import Any

from ripe_press.core.errors import BadInput, NotFound, RipePressError
from ripe_press.core.requests.delivery import Delivery
from ripe_press.core.sending.drop_off import DropOff, checked, drop_off_from
from ripe_press.core.sending.parcel import Refusal, Sends, reasons_from
from ripe_press.core.words import quoted
from ripe_press.store.drop_offs import DropOffs, StoredDropOff
from ripe_press.store.parcels import Parcels
from ripe_press.studio.jobs import Events
from ripe_press.studio.log import logger
from ripe_press.studio.sending.carriers import carrier_of
from ripe_press.studio.sending.secrets import Secrets

_LOG = logger("send")
LOOKERS = 4
"""So many drop-offs are tried at a time: one that answers slowly holds up no route of the interface."""


class DropOffBook:
    """Drop-offs with what they are let in with, which never leaves this book but to their carriers."""

    def __init__(self, table: DropOffs, parcels: Parcels, secrets: Secrets, events: Events) -> None:
        self._table = table
        self._parcels = parcels
        self._events = events
        self.secrets = secrets
        self._closing = threading.Event()
        self._lookers = ThreadPoolExecutor(LOOKERS, thread_name_prefix="trying")
        self._looks: dict[int, Future[StoredDropOff]] = {}
        self._lock = threading.Lock()

    def close(self) -> None:
        """Ends the tries under way."""
        self._closing.set()
        self._lookers.shutdown(wait=False, cancel_futures=True)

    def all(self) -> list[StoredDropOff]:
        """All of them."""
        return self._table.all()

    def get(self, number: int) -> StoredDropOff:
        """One of them. Raises: NotFound ``drop-off.unknown``."""
        found = self._table.get(number)
        if found is None:
            message = "Drop-off not found."
            raise NotFound("drop-off.unknown", message, drop_off=number)
        return found

    def add(self, drop_off: DropOff, secret: str = "") -> int:
        """Sets one up; gives its number. Raises: BadInput, Conflict ``drop-off.…``; as `Secrets.set`."""
        drop_off = checked(drop_off)
        number = self._table.add(drop_off.name, asdict(drop_off))
        if secret:
            self.secrets.set(number, drop_off.word, secret)
        self._events.publish("outbox")
        return number

    def change(self, number: int, drop_off: DropOff, secret: str | None = None) -> None:
        """Change a drop-off; without a new secret, the old one is kept if kind and place are the same, and deleted
        otherwise. Raises: as `add`; NotFound.
        """
        before = drop_off_of(self.get(number)).word
        drop_off = checked(drop_off)
        # First, for it may be refused: then nothing has changed, and nothing is forgotten.
        self._table.set(number, drop_off.name, asdict(drop_off))
        if before != drop_off.word:
            self.secrets.set(number, before, "")
        if secret is not None:
            self.secrets.set(number, drop_off.word, secret)
        self._events.publish("outbox")

    def remove(self, number: int) -> None:
        """Delete a drop-off; its transfers stay in the record. Raises: NotFound ``drop-off.unknown``."""
        self.secrets.set(number, drop_off_of(self.get(number)).word, "")
        self._table.remove(number)
        self._events.publish("outbox")

    def look(self, number: int) -> StoredDropOff:
        """Tries one now, and keeps what it says. Raises: NotFound ``drop-off.unknown``."""
        stored = self.get(number)
        try:
            drop_off = drop_off_of(stored)
            looked = carrier_of(drop_off, self.secrets.get(number, drop_off.word), self._closing.is_set).look()
        except RipePressError as error:
            said: dict[str, Any] = {"good": False, "sentence": error.message}
        else:
            said = {"good": True, "sentence": looked.sentence, "limit_bytes": looked.limit_bytes}
        self._table.say(number, said)
        _LOG.info("drop-off tried", drop_off=number, good=said["good"])
        self._events.publish("outbox")
        return self.get(number)

    def begin_look(self, number: int) -> "Future[StoredDropOff]":
        """The same in a thread of its own, a few at a time, and each drop-off once at a time."""
        with self._lock:
            found = self._looks.get(number)
            if found is None or found.done():
                found = self._looks[number] = self._lookers.submit(self.look, number)
            return found

    def named(self, names: Iterable[str]) -> list[DropOff]:
        """Those of some names. Raises: NotFound ``drop-off.unknown``, naming those there are."""
        found, missing = self.find(names)
        if missing:
            there = ", ".join(one.name for one in self.all()) or "none"
            message = f"Unknown drop-off {quoted(missing[0])}. Available: {there}."
            raise NotFound("drop-off.unknown", message, name=missing[0])
        return found

    def find(self, names: Iterable[str]) -> tuple[list[DropOff], list[str]]:
        """Those of some names, and the names that none has."""
        by_name = {one.name.casefold(): drop_off_of(one) for one in self.all()}
        wanted = list(dict.fromkeys(names))
        found = [by_name[one.casefold()] for one in wanted if one.casefold() in by_name]
        return found, [one for one in wanted if one.casefold() not in by_name]

    def secret_of(self, drop_off: DropOff) -> str:
        """The secret of a drop-off at exactly this place; empty where none is kept for it."""
        if drop_off.kind not in ("mail", "desk"):
            return ""
        there = [one for one in self.all() if drop_off_of(one).word == drop_off.word]
        found = next((one for one in there if one.name == drop_off.name), there[0] if there else None)
        return self.secrets.get(found.id, drop_off.word) if found else ""

    def sends_of(self, mix_id: int) -> Callable[[Delivery], Sends]:
        """Return the facts about the drop-offs of a mix's deliveries, for their tickets."""
        by_name = {one.name.casefold(): drop_off_of(one) for one in self.all()}
        refused = self._parcels.lines_refused(mix_id)

        def sends(wish: Delivery) -> Sends:
            there = [by_name[one.casefold()] for one in wish.sends_to if one.casefold() in by_name]
            missing = [one for one in wish.sends_to if one.casefold() not in by_name]
            rows = self._parcels.refusals(mix_id, wish.id) if wish.id in refused else []
            refusals = [Refusal(str(place["name"]), one) for place, why in rows for one in reasons_from(why)]
            return Sends(tuple(there), tuple(missing), tuple(refusals))

        return sends


def drop_off_of(stored: StoredDropOff) -> DropOff:
    """A drop-off as a value, with the limit that it was heard to have where none was set."""
    try:
        found = drop_off_from(stored.settings)
    except BadInput:
        # Written by a version that knew more: as much of it as is known here.
        known = {name: value for name, value in stored.settings.items() if name in DropOff.__dataclass_fields__}
        found = DropOff(**known)
    return found if found.limit_bytes else replace(found, limit_bytes=int(stored.said.get("limit_bytes") or 0))
