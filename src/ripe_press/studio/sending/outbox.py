"""The outbox: queued transfers, retried at growing intervals, each with a receipt in the record.

Each drop-off is served by a thread of its own, so that a slow one delays no other. A transfer interrupted by a power
cut is repeated: every carrier recognises delivered files.
"""

import threading
import time
from collections.abc import Callable
from contextlib import ExitStack
from dataclasses import dataclass, replace
from functools import partial
from pathlib import Path
from typing import Literal

from ripe_press.core.blocks import Progress
from ripe_press.core.errors import BadInput, Cancelled, Conflict, NotFound, RipePressError
from ripe_press.core.sending.drop_off import drop_off_from
from ripe_press.core.sending.parcel import ParcelState
from ripe_press.core.words import TRANSFERS, quoted
from ripe_press.store.parcels import Parcels, StoredParcel, TransferStep
from ripe_press.store.pressings import Pressings
from ripe_press.studio.error_text import sentence_of
from ripe_press.studio.handoff import Accepted
from ripe_press.studio.jobs import Events
from ripe_press.studio.log import logger
from ripe_press.studio.sending.attempt import asked_state, failed_step, fault, transfer_file
from ripe_press.studio.sending.carriers import Carrier, carrier_of
from ripe_press.studio.sending.carriers.carrier import RunningTransfer
from ripe_press.studio.sending.drop_off_book import DropOffBook
from ripe_press.studio.sending.handing_over import fitting_copies, handed_over, named_files, not_handed_over

_LOG = logger("send")
PAUSES_S = (5.0, 15.0, 60.0, 300.0, 900.0, 3600.0)
"""How long it waits before it tries again, try by try; the last from then on."""
MOST_TRIES = 30
"""So often something is tried: about a day."""
_AT_ONCE = 4
_LOOK_S = 5.0
"""So often the outbox looks for what others put into it, as the command line does."""
_AGAIN_S = 0.5
MOST_SHOWN = 300


@dataclass(frozen=True, slots=True)
class TransferProgress:
    """Progress of a transfer: bytes of all, and bytes per second since its start."""

    done: int = 0
    total: int = 0
    bytes_a_second: float = 0.0


class Outbox:
    """Sends queued files, asks for the state of delivered ones, and reports both."""

    def __init__(
        self,
        table: Parcels,
        record: Pressings,
        book: DropOffBook,
        events: Events,
        pauses_s: tuple[float, ...] = PAUSES_S,
        carrier: Callable[..., Carrier] = carrier_of,
    ) -> None:
        self._table, self._record, self._book, self._events = table, record, book, events
        self._pauses_s, self._carrier = pauses_s, carrier
        self._lock = threading.Lock()
        self._wake = threading.Event()
        self._closing = threading.Event()
        self._places: dict[str, threading.Thread] = {}
        self._underway: dict[int, TransferProgress] = {}
        self._stopping: dict[int, Literal["held", "recalled"]] = {}
        self._hearing = ExitStack()
        self._thread = threading.Thread(target=self._work, name="outbox", daemon=True)

    def start(self) -> None:
        """Restore interrupted transfers, and start sending."""
        if back := self._table.put_back_cut_off(time.time()):
            _LOG.info("transfers are resumed", parcels=back)
        self._thread.start()
        self._event_listening()

    def close(self) -> None:
        """Stop at the next block; interrupted transfers resume at the next start."""
        self._closing.set()
        self._hearing.close()
        self._wake.set()
        if self._thread.ident:
            self._thread.join(5)
        for thread in list(self._places.values()):
            thread.join(3)

    @property
    def busy(self) -> bool:
        """Whether anything is on its way."""
        return bool(self._underway)

    def shown(self) -> list[tuple[StoredParcel, TransferProgress | None]]:
        """Return the transfers, unfinished first, with their progress."""
        with self._lock:
            underway = dict(self._underway)
        return [(one, underway.get(one.id)) for one in self._table.recent(MOST_SHOWN)]

    def of_pressing(self, number: int) -> list[StoredParcel]:
        """What of a pressing was sent, and how that stands."""
        return self._table.of_pressing(number)

    def accepted(self, pressing_id: int) -> Accepted:
        """Return the sign-offs of a pressing's files, for its delivery sheet."""
        return sign_offs_of(self._table, pressing_id)

    def counts(self) -> dict[str, dict[str, int]]:
        """Return the number of transfers by drop-off and state."""
        return self._table.counts()

    def get(self, number: int) -> StoredParcel:
        """One of them. Raises: NotFound ``parcel.unknown``."""
        found = self._table.get(number)
        if found is None:
            message = f"Transfer {number} not found."
            raise NotFound("parcel.unknown", message, parcel=number)
        return found

    def send(
        self, pressing_id: int, numbers: list[int], names: list[str], accepted_by: str = "", because: str = ""
    ) -> list[tuple[int, bool]]:
        """Queue files of a pressing for some drop-offs; return the transfers, and which are new.

        A music library gets one copy of each recording.

        Raises: NotFound ``pressing.unknown``, ``send.nothing``, ``drop-off.unknown``; BadInput ``send.nowhere``,
        ``send.because``.
        """
        pressing = self._record.get(pressing_id)
        if pressing is None:
            message = f"Pressing {pressing_id} not found."
            raise NotFound("pressing.unknown", message, pressing=pressing_id)
        if not names:
            message = "No drop-off chosen. Choose one."
            raise BadInput("send.nowhere", message)
        _check_reason(accepted_by, because)
        drop_offs = self._book.named(names)
        files = named_files(pressing, numbers)
        if not files:
            message = "Files moved or deleted. Press again."
            raise NotFound("send.nothing", message)
        parcels = [
            one
            for file, report in files
            for one in handed_over(
                report, drop_offs, pressing=pressing, number=file.number, accepted_by=accepted_by,
                because=because,
            )
        ]  # fmt: skip
        made = self._table.add(fitting_copies(parcels), time.time())
        _LOG.info("transfers created", pressing=pressing_id, parcels=len(made))
        self._changed()
        return made

    def accept(self, number: int, accepted_by: str, because: str) -> None:
        """Release a transfer with findings, with a sign-off. Raises: BadInput; NotFound; Conflict ``parcel.state``."""
        parcel = self.get(number)
        _check_reason(accepted_by, because)
        if not accepted_by.strip() or not because.strip():
            message = "Sign-off needs a name and a reason."
            raise BadInput("send.because", message)
        if not self._table.accept(number, accepted_by.strip(), because.strip(), time.time()):
            raise _not_now(parcel, "signed off")
        self._changed()

    def hold(self, number: int) -> None:
        """Pause a queued or running transfer. Raises: NotFound; Conflict ``parcel.state``."""
        self._stop(number, "held", ("waiting",))

    def recall(self, number: int) -> None:
        """Cancel a transfer that is not delivered yet. Raises: NotFound; Conflict ``parcel.state``."""
        self._stop(number, "recalled", ("waiting", "held", "asks"))

    def go_on(self, number: int) -> None:
        """Send a file now: a paused or waiting one, or again a rejected or failed one.

        Raises: NotFound; Conflict ``parcel.state``, ``parcel.twice`` if another transfer is sending the file.
        """
        parcel = self.get(number)
        if parcel.state == "refused" and parcel.verdict == "stop":
            raise _not_now(parcel, "sent")
        if parcel.state not in ("held", "waiting", "failed", "refused", "recalled"):
            raise _not_now(parcel, "sent")
        standing = TransferStep("waiting", "", kept=parcel.kept, next_at=time.time())
        if parcel.state == "refused":
            standing = TransferStep("waiting", next_at=time.time())
        if not self._table.put(number, parcel.state, standing, anew=True):
            raise _not_now(parcel, "sent")
        self._changed()

    def _stop(self, number: int, wanted: Literal["held", "recalled"], before: tuple[ParcelState, ...]) -> None:
        parcel = self.get(number)
        with self._lock:
            if number in self._underway:
                self._stopping[number] = wanted
                if parcel.state == "sending":
                    return
        if parcel.state not in before or not self._table.put(
            number, parcel.state, TransferStep(wanted, kept=parcel.kept), anew=wanted == "held"
        ):
            raise _not_now(self.get(number), TRANSFERS[wanted])
        self._changed()

    def _changed(self) -> None:
        self._events.publish("outbox")
        self._wake.set()

    def _event_listening(self) -> None:
        # A pressing that ends is looked at at once; events that were missed are found by checks at intervals.
        self._hearing.enter_context(
            self._events.subscribed(lambda topic: self._wake.set() if topic == "pressings" else None)
        )

    def _work(self) -> None:
        while not self._closing.is_set():
            self._wake.clear()
            try:
                self._hand_over()
                self._begin_places()
                due = self._table.next_due()
            except RipePressError as error:
                _LOG.warning("the outbox waits for the record", why=error.message)
                due = None
            except Exception:
                # An unexpected error in one pressing must not end the transfers of all others.
                _LOG.exception("the outbox failed with an internal error")
                due = None
            pause = _LOOK_S if due is None else min(_LOOK_S, max(0.02, due - time.time()))
            self._wake.wait(pause)

    def _hand_over(self) -> None:
        """Queue the pressed files for their deliveries' drop-offs, once."""
        for number in self._table.to_hand_over():
            pressing = self._record.get(number)
            if pressing is None:
                continue
            parcels = []
            for file, report in named_files(pressing):
                drop_offs, _ = self._book.find(report.sends_to)
                if not drop_offs:
                    continue
                try:
                    parcels += handed_over(report, drop_offs, pressing=pressing, number=file.number)
                except (RipePressError, OSError) as error:
                    # One file that cannot be read must not keep all others back, now and at every look.
                    why = f"{quoted(Path(file.path).name)} cannot be read: {sentence_of(error)} Press again."
                    parcels += not_handed_over(report, drop_offs, why, pressing=pressing, number=file.number)
            if self._table.hand_over(number, fitting_copies(parcels), time.time()):
                _LOG.info("pressing handed over", pressing=number, parcels=len(parcels))
                self._events.publish("outbox")

    def _begin_places(self) -> None:
        due = self._table.places_due(time.time())
        with self._lock:
            self._places = {place: thread for place, thread in self._places.items() if thread.is_alive()}
            for place in due:
                if place not in self._places and len(self._places) < _AT_ONCE:
                    thread = threading.Thread(target=self._serve, args=(place,), name="sending", daemon=True)
                    self._places[place] = thread
                    thread.start()

    def _serve(self, place: str) -> None:
        """All that there is to do at one place now, one after the other."""
        while not self._closing.is_set():
            due = self._table.due(place, time.time())
            if not due:
                break
            for one in due:
                if self._closing.is_set():
                    break
                self._one(one)
        self._wake.set()

    def _one(self, parcel: StoredParcel) -> None:
        carries = parcel.state == "waiting"
        tries = parcel.attempts + 1 if carries else int(parcel.kept.get("asked", 0)) + 1
        with self._lock:
            self._underway[parcel.id] = TransferProgress(0, int(parcel.parcel["bytes"]))
        try:
            if carries and not self._table.take_up(parcel.id):
                return
            self._events.publish("outbox")
            standing = self._done(parcel, carries, tries)
        finally:
            with self._lock:
                self._underway.pop(parcel.id, None)
                self._stopping.pop(parcel.id, None)
        self._persist(parcel.id, "sending" if carries else "taken", standing)
        self._events.publish("outbox")
        _LOG.info("parcel", parcel=parcel.id, place=parcel.place.partition(":")[0], state=standing.state, tries=tries)

    def _done(self, parcel: StoredParcel, carries: bool, tries: int) -> TransferStep:
        """The state of a transfer after a try, whatever happens."""
        kept = dict(parcel.kept)
        pause_s = self._pauses_s[min(tries, len(self._pauses_s)) - 1]
        try:
            drop_off = drop_off_from(parcel.drop_off)
            carrier = self._carrier(drop_off, self._book.secret_of(drop_off), self._asks(parcel.id))
            if not carries:
                standing = asked_state(parcel, carrier, pause_s)
            else:
                hand = RunningTransfer(
                    self._teller(parcel.id), partial(self._keep, parcel.id, kept), self._asks(parcel.id)
                )
                standing = transfer_file(parcel, carrier, kept, hand, pause_s)
        except Cancelled as error:
            wanted = self._stopping.get(parcel.id)
            waits = TransferStep("waiting", error.message, kept=kept, next_at=time.time())
            return TransferStep(wanted, kept=kept) if wanted else waits
        except RipePressError as error:
            standing = failed_step(error, kept, pause_s)
        except Exception as error:
            standing = fault(error, parcel.id, kept)
        if standing.state == "waiting" and (wanted := self._stopping.get(parcel.id)):
            return replace(standing, state=wanted, next_at=None)
        if tries >= MOST_TRIES and standing.next_at is not None and standing.sentence:
            # A file under review is asked for repeatedly; once a minute costs nothing.
            over: ParcelState = "failed" if standing.state == "waiting" else standing.state
            text = f"Failed after {tries} attempts. {standing.sentence}"
            return replace(standing, state=over, sentence=text, next_at=None if over == "failed" else standing.next_at)
        return standing

    def _keep(self, number: int, kept: dict[str, object], new: dict[str, object]) -> None:
        kept.update(new)
        self._table.keep(number, kept)

    def _asks(self, number: int) -> Callable[[], bool]:
        return lambda: self._closing.is_set() or number in self._stopping

    def _teller(self, number: int) -> Progress:
        began = time.monotonic()
        first: list[int] = []

        def report(done: int, total: int) -> None:
            # Bytes there from an earlier try do not count for the speed.
            first.append(done) if not first else None
            seconds = time.monotonic() - began
            with self._lock:
                self._underway[number] = TransferProgress(
                    done, total, (done - first[0]) / seconds if seconds > 0 else 0.0
                )

        return report

    def _persist(self, number: int, before: ParcelState, standing: TransferStep) -> None:
        """Write to the record, however long another program locks it: a delivered file must not be sent again."""
        while True:
            try:
                self._table.put(number, before, standing)
            except Conflict as error:
                if error.code != "store.busy" or self._closing.wait(_AGAIN_S):
                    _LOG.warning("a transfer could not be saved", parcel=number, why=error.message)
                    return
            else:
                return


def sign_offs_of(table: Parcels, pressing_id: int) -> Accepted:
    """Return the sign-offs of a pressing's files with their reasons; the last one counts."""
    return {
        one.file_number: (one.accepted_by, one.because)
        for one in table.of_pressing(pressing_id)
        if one.accepted_by and one.file_number is not None
    }


def _check_reason(accepted_by: str, because: str) -> None:
    if len(accepted_by) > 200 or len(because) > 1000:
        message = "Use max 200 characters for a name, 1000 for a reason."
        raise BadInput("send.because", message)


def _not_now(parcel: StoredParcel, wanted: str) -> Conflict:
    message = f"{quoted(parcel.name)} cannot be {wanted} now: {TRANSFERS[parcel.state]}."
    return Conflict("parcel.state", message, parcel=parcel.id, state=parcel.state)
