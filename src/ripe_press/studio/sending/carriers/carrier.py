"""The interface of all carriers, and their answers."""

from collections.abc import Callable
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any, Literal, Protocol, runtime_checkable

from ripe_press.core.blocks import Progress, no_progress
from ripe_press.core.errors import Cancelled, Interrupted, NotFound
from ripe_press.core.sending.parcel import Parcel, Reason
from ripe_press.core.words import quoted

LOOK_AGAIN_S = 2.0
"""Seconds until the first question whether a delivered file is accepted."""


@dataclass(frozen=True, slots=True)
class TransferResult:
    """The result of a transfer. ``receipt`` is what its recipient gave for it; ``kept`` has the data for the next
    question, due in ``look_again_s`` seconds; None if the state is final.
    """

    state: Literal["taken", "accepted", "refused"]
    sentence: str = ""
    receipt: dict[str, Any] = field(default_factory=dict)
    reasons: tuple[Reason, ...] = ()
    kept: dict[str, Any] = field(default_factory=dict)
    look_again_s: float | None = None


@dataclass(frozen=True, slots=True)
class DropOffState:
    """What a drop-off says of itself; ``limit_bytes`` is 0 where it names none."""

    sentence: str
    limit_bytes: int = 0


@dataclass(frozen=True, slots=True)
class RunningTransfer:
    """A running transfer: progress in bytes, data to keep for a retry, and the request to stop."""

    progress: Progress = no_progress
    keep: Callable[[dict[str, Any]], None] = lambda _kept: None
    should_stop: Callable[[], bool] = lambda: False

    def go_on(self) -> None:
        """Raises: Cancelled ``send.stopped`` after a request to stop."""
        if self.should_stop():
            raise stopped_before()


class Carrier(Protocol):
    """Takes files to one drop-off.

    Everything but `Interrupted` that is raised is a refusal for good; `Interrupted` is tried again.
    """

    def carry(self, parcel: Parcel, kept: dict[str, Any], hand: RunningTransfer, /) -> TransferResult:
        """Transfer a file; resume where an earlier try ended."""
        ...

    def look(self) -> DropOffState:
        """Whether files could be taken there now."""
        ...


@runtime_checkable
class AnsweringCarrier(Protocol):
    """A carrier whose recipient says afterwards what became of a file."""

    def ask(self, parcel: Parcel, kept: dict[str, Any], /) -> TransferResult:
        """What became of a file that was taken."""
        ...


def stopped_before() -> Cancelled:
    """The error for a stopped transfer."""
    return Cancelled("send.stopped", "Interrupted before delivery.")


def later(sentence: str, **facts: object) -> Interrupted:
    """An error that means: not now, and it is tried again."""
    return Interrupted("send.later", sentence, **facts)


def file_of(parcel: Parcel) -> Path:
    """The file itself. Raises: NotFound ``send.gone``."""
    path = Path(parcel.path)
    try:
        size = path.stat().st_size
    except OSError as error:
        message = f"{quoted(path.name)} moved or deleted. Press again."
        raise NotFound("send.gone", message, path=parcel.path) from error
    if size != parcel.bytes:
        raise changed(parcel)
    return path


def changed(parcel: Parcel) -> NotFound:
    """The error for a file that changed after it was queued."""
    message = f"{quoted(Path(parcel.path).name)} changed after pressing; not sent. Press again."
    return NotFound("send.changed", message, path=parcel.path)
