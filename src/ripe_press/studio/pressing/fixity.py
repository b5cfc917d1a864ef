"""Nightly check of all recorded files, one pressing after the other."""

from dataclasses import dataclass
from datetime import UTC, datetime, timedelta

from ripe_press.core.errors import RipePressError
from ripe_press.store.settings import Settings
from ripe_press.store.upkeep import Upkeep
from ripe_press.studio.jobs import Watch
from ripe_press.studio.log import logger
from ripe_press.studio.pressing.files_check import Checks
from ripe_press.studio.pressing.room import PressRoom

_LOG = logger("checks")
_NIGHTLY, _LAST = "checks nightly", "checked at"
NIGHT_HOURS = range(2, 6)
"""Local hours in which it is done; where nothing ran in the night, it is done as soon as something runs."""
_LATE = timedelta(hours=30)
_LOOK_S, _STEP_S = 60.0, 0.2


@dataclass(frozen=True, slots=True)
class Fixity:
    """Whether files are checked nightly, when that was done last, and which are not as they were pressed."""

    nightly: bool
    checked_at: str
    changed: int
    gone: int
    pressings: tuple[int, ...]
    """The newest of them, a few."""


class FixityWatch(Watch):
    """Runs the nightly check while the application runs, and never during a pressing."""

    def __init__(self, record: Upkeep, settings: Settings, checks: Checks, press_room: PressRoom) -> None:
        super().__init__("fixity", _LOOK_S)
        self._record, self._settings, self._checks, self._room = record, settings, checks, press_room

    def state(self) -> Fixity:
        """How the record stands."""
        changed, gone, where = self._record.not_as_pressed()
        return Fixity(self.nightly, self._settings.get(_LAST, ""), changed, gone, where)

    @property
    def nightly(self) -> bool:
        """Whether the nightly check is on."""
        return self._settings.get(_NIGHTLY, "no") == "yes"

    def set_nightly(self, nightly: bool) -> None:
        """Switches the nightly check."""
        self._settings.set(_NIGHTLY, "yes" if nightly else "no")

    def is_due(self, now: datetime) -> bool:
        """Whether a night has come, at a local time, in which nothing was checked yet."""
        last = self._settings.get(_LAST, "")
        if not last:
            return True
        since = now - datetime.fromisoformat(last)
        return since > _LATE or (since > timedelta(hours=12) and now.hour in NIGHT_HOURS)

    def check_all(self) -> None:
        """Checks every file of the record, those first that were not looked at for the longest time."""
        for number in self._record.longest_unseen():
            while self._room.busy and not self.closing.wait(_STEP_S):
                pass
            try:
                self._checks.look(number, self._room.pressing(number).files)
            except RipePressError:
                continue
            while self._checks.runs(number) and not self.closing.wait(_STEP_S):
                pass
            if self.closing.is_set():
                return
        self._settings.set(_LAST, datetime.now(UTC).isoformat(timespec="seconds"))
        found = self.state()
        _LOG.info("record checked", changed=found.changed, gone=found.gone)

    def look(self) -> None:
        """Checks everything where a night has come."""
        if self.nightly and self.is_due(datetime.now().astimezone()):
            self.check_all()
