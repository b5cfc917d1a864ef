"""Sets of deliveries: saved, built in, and last pressed; one of them opens new mixes."""

import json
from collections.abc import Iterable, Mapping

from ripe_press.core.errors import BadInput, Conflict, NotFound
from ripe_press.core.requests.bench import Bench
from ripe_press.core.requests.document import bench_of, bench_row
from ripe_press.core.requests.sets import FIRST_SET, opened, set_of, usable
from ripe_press.core.words import quoted
from ripe_press.store.briefs import DeliverySets, OwnBriefs
from ripe_press.store.db import Database
from ripe_press.store.settings import Settings
from ripe_press.studio.briefs import BriefBook
from ripe_press.studio.data_folder import data_folder
from ripe_press.studio.planning import bring_up_to_date

LAST = "Last pressed"
FIRST = "CD and archive"
"""Reserved names."""
MOST_SETS = 200
MOST_NAME = 80
_LAST = "set-last"
_DEFAULT = "set-default"


class SetBook:
    """Sets by name."""

    def __init__(self, saved: DeliverySets, settings: Settings, briefs: BriefBook) -> None:
        self._saved = saved
        self._settings = settings
        self._briefs = briefs

    def all(self) -> dict[str, Bench]:
        """Every set by name: the last pressed one, the built-in one, saved ones."""
        last = json.loads(self._settings.get(_LAST, "null"))
        found = {LAST: bench_of(last)} if last else {}
        return {**found, FIRST: FIRST_SET, **{name: bench_of(body) for name, body in self._saved.all().items()}}

    def named(self, name: str) -> Bench:
        """One set. Raises: NotFound ``set.unknown``."""
        sets = self.all()
        return sets[name_in(name, sets)]

    def save(self, name: str, bench: Bench) -> None:
        """Saves the deliveries of a bench, in the place of a set with the same name.

        Raises: BadInput ``set.name``, ``set.empty``, ``set.too-many``; Conflict ``set.ships``.
        """
        name = name.strip()
        if not name or len(name) > MOST_NAME or not name.isprintable():
            message = f"Enter a name for the set, max {MOST_NAME} characters."
            raise BadInput("set.name", message, name=name)
        _refuse_fixed(name)
        if not bench.ticket:
            message = "No deliveries to save. Add one first."
            raise BadInput("set.empty", message)
        there = self._saved.all()
        same = _same(name, there)
        if len(there) >= MOST_SETS and same is None:
            message = f"{MOST_SETS} sets is the maximum. Delete one first."
            raise BadInput("set.too-many", message)
        # It keeps the name that it has, so that what refers to it still finds it.
        self._saved.keep(same or name, bench_row(set_of(bench)))

    def remove(self, name: str) -> None:
        """Deletes a saved set. Raises: Conflict ``set.ships``; NotFound ``set.unknown``."""
        _refuse_fixed(name)
        name = name_in(name, self.all())
        self._saved.remove(name)
        if self.default == name:
            self._settings.set(_DEFAULT, LAST)

    @property
    def default(self) -> str:
        """The name of the set that a new mix opens with."""
        return self._settings.get(_DEFAULT, LAST)

    def set_default(self, name: str) -> None:
        """Chooses the set that a new mix opens with. Raises: NotFound ``set.unknown``."""
        self._settings.set(_DEFAULT, LAST if name == LAST else name_in(name, self.all()))

    def pressed(self, bench: Bench) -> None:
        """Notes the deliveries that were pressed last, without the edges of their ranges: a fade is of one mix."""
        self._settings.set(_LAST, json.dumps(bench_row(set_of(bench, edges=False))))

    def opening(self, own: Bench, frames: int) -> Bench:
        """The bench of a new mix with the deliveries of the chosen set, as far as any mix can have them."""
        like = usable(self.all().get(self.default, FIRST_SET), self._briefs.all().__contains__)
        return opened(own, like if like.ticket else FIRST_SET, (0, frames))


def _refuse_fixed(name: str) -> None:
    if name.casefold() in (LAST.casefold(), FIRST.casefold()):
        message = f"{quoted(name)} is built in. Use another name."
        raise Conflict("set.ships", message, name=name)


def sets_of(database: Database, briefs: BriefBook) -> SetBook:
    """The sets of a database."""
    return SetBook(DeliverySets(database), Settings(database), briefs)


def sets_here() -> dict[str, Bench]:
    """The sets of the data folder, for the command line. Raises: Conflict."""
    database = Database(data_folder().database)
    try:
        bring_up_to_date(database)
        return sets_of(database, BriefBook(OwnBriefs(database))).all()
    finally:
        database.close()


def name_in(name: str, sets: Mapping[str, Bench]) -> str:
    """The name of a set as it was saved, from one in any case. Raises: NotFound ``set.unknown``."""
    found = _same(name, sets)
    if found is None:
        message = f"Unknown set {quoted(name)}. Available: {', '.join(quoted(one) for one in sets)}."
        raise NotFound("set.unknown", message, name=name)
    return found


def _same(name: str, names: Iterable[str]) -> str | None:
    return next((one for one in names if one.casefold() == name.strip().casefold()), None)
