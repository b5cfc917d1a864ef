"""A transfer: one file to one drop-off, its state and the recipient's answer."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any, Literal, get_args

from ripe_press.core.sending.drop_off import DropOff

ParcelState = Literal[
    "asks", "held", "waiting", "sending", "taken", "accepted", "refused", "recalled", "failed"
]  # fmt: skip
"""*asks*: its findings need a sign-off. *taken*: delivered; the recipient may still accept or reject it. *failed*: it
was tried for long enough, or cannot be sent as it is.
"""
OVER: tuple[ParcelState, ...] = ("accepted", "refused", "recalled", "failed")
"""The final states, besides *taken* by a recipient that sends no answer."""

ReasonKind = Literal[
    "container", "depth", "rate", "channels", "tag", "code-used", "cover", "clipped", "size", "damaged", "other"
]
REASON_KINDS: tuple[ReasonKind, ...] = get_args(ReasonKind)


@dataclass(frozen=True, slots=True)
class Reason:
    """The reason of a rejection: type, sentence, and accepted values if known.

    ``asked`` has rates in Hz, containers, encodings, channel counts, missing tags, the used code, the minimum cover
    side in pixels, or the maximum bytes.
    """

    kind: ReasonKind
    sentence: str
    asked: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True)
class Parcel:
    """A file to send: its bytes, name and properties.

    ``about`` is its row of the delivery sheet, ``fields`` the values for patterns.
    """

    path: str
    name: str
    sha256: str
    bytes: int
    day: str
    """When it was handed over, as ISO 8601; the same at every try."""
    fields: Mapping[str, str] = field(default_factory=dict)
    about: Mapping[str, Any] = field(default_factory=dict)


def reasons_from(rows: object) -> tuple[Reason, ...]:
    """Reasons from a recipient's answer; unknown types keep their sentence."""
    found = []
    for row in rows if isinstance(rows, Sequence) and not isinstance(rows, str) else ():
        if not isinstance(row, Mapping) or not str(row.get("sentence") or "").strip():
            continue
        kind: ReasonKind = next((one for one in REASON_KINDS if one == row.get("kind")), "other")
        asked = row.get("asked")
        words = tuple(str(one)[:200] for one in asked[:40]) if isinstance(asked, list | tuple) else ()
        found.append(Reason(kind, plain_line(str(row["sentence"]))[:500], words))
    return tuple(found[:40])


def plain_line(text: str) -> str:
    """A text as one line that breaks nothing: no control characters, no lone halves of letters."""
    tidy = text.encode("utf-8", "replace").decode()
    return " ".join("".join(" " if ord(one) < 32 or 127 <= ord(one) < 160 else one for one in tidy).split())


@dataclass(frozen=True, slots=True)
class Refusal:
    """That a drop-off, by its name, did not take a file of a delivery when it was last sent, and why."""

    drop_off: str
    reason: Reason


@dataclass(frozen=True, slots=True)
class Sends:
    """The destinations of a delivery: drop-offs, unknown names, rejections."""

    drop_offs: tuple[DropOff, ...] = ()
    missing: tuple[str, ...] = ()
    refusals: tuple[Refusal, ...] = ()


GOES_NOWHERE = Sends()
