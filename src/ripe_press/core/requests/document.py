"""The one document of wishes: ticket, briefs and fingerprints of some mixes.

The record keeps it, the API takes its bench, the command line takes and gives it, and a worker receives it, on this
machine or another. It is validated by the dataclasses themselves. What older versions wrote is brought up to date by
one function a version; `tests/core/requests/old` keeps an example of every one.
"""

import base64
import json
from collections.abc import Callable, Mapping, Sequence
from dataclasses import asdict, dataclass, replace
from functools import cache
from importlib.metadata import version as library_version
from pathlib import Path
from typing import TYPE_CHECKING, Annotated, Any, ClassVar, Literal, TypeVar, cast

from annotated_types import MaxLen

from ripe_press.core.errors import BadInput
from ripe_press.core.formats.facts import SourceFacts
from ripe_press.core.requests.bench import Bench
from ripe_press.core.requests.brief import Brief
from ripe_press.core.requests.making import STRICT
from ripe_press.core.requests.part import StemNote
from ripe_press.core.requests.running_order import RunningOrder
from ripe_press.core.tags.sheet import Values
from ripe_press.core.words import quoted

if TYPE_CHECKING:
    from pydantic import TypeAdapter

T = TypeVar("T")
VERSION: Literal[8] = 8
BENCH_VERSION = 6
"""Benches are kept on the shelf, too, with a version of their own."""
_LIBRARIES = ("ripe-press", "numpy", "soxr", "soundfile", "av", "mutagen")
"""Whatever can change a byte of a file."""


@dataclass(frozen=True, slots=True)
class SourceNote:
    """The source of a mix: path, properties, title and metadata."""

    facts: SourceFacts
    title: str
    offsets: tuple[float, ...] = ()
    """Offset of each channel, for a finishing chain that removes it."""
    time_reference: int | None = None


@dataclass(frozen=True, slots=True)
class CoverNote:
    """A cover picture: its checksum, and in an exported document its data as base64."""

    name: str
    sha256: str
    path: str = ""
    data: str = ""

    def carrying(self) -> "CoverNote":
        """The same with the picture in it, for a document that leaves its machine."""
        return replace(self, data=base64.b64encode(Path(self.path).read_bytes()).decode(), path="")


@dataclass(frozen=True, slots=True)
class MixRequest:
    """One mix and its deliveries."""

    source: SourceNote
    bench: Bench
    cover: CoverNote | None = None
    stems: tuple[StemNote, ...] = ()
    """Its stems, as far as its ticket needs them."""


@dataclass(frozen=True, slots=True)
class Document:
    """A ticket for any number of mixes, with copies of its briefs."""

    version: Literal[8]
    mixes: tuple[MixRequest, ...]
    briefs: tuple[Brief, ...]
    day: Annotated[str, MaxLen(10)] = ""
    """The day of the pressing, for names."""
    libraries: tuple[tuple[str, str], ...] = ()
    """The versions of what made it."""
    order: RunningOrder | None = None
    """Where there is one, it is pressed in place of the tickets of the mixes."""
    __pydantic_config__: ClassVar[Any] = {**STRICT, "title": "Order"}

    @property
    def briefs_by_id(self) -> dict[str, Brief]:
        """Its briefs by their ids."""
        return {brief.id: brief for brief in self.briefs}


def document_of(
    mixes: tuple[MixRequest, ...], briefs: Mapping[str, Brief], day: str, order: RunningOrder | None = None
) -> Document:
    """The document of some wishes, with the briefs that their lines name, and the versions of the libraries here."""
    lines = order.lines if order else (line for mix in mixes for line in mix.bench.ticket)
    named = {line.brief for line in lines}
    used = tuple(brief for name, brief in briefs.items() if name in named)
    return Document(VERSION, mixes, used, day, libraries_here(), order)


@cache
def libraries_here() -> tuple[tuple[str, str], ...]:
    """The versions of whatever can change a byte of a file."""
    return tuple((name, library_version(name)) for name in _LIBRARIES)


def document_row(document: Document) -> dict[str, Any]:
    """The document as plain values."""
    return asdict(document)


def document_text(document: Document) -> str:
    """The document as JSON that travels alone, with the pictures that it embeds."""
    mixes = tuple(replace(one, cover=one.cover.carrying() if one.cover else None) for one in document.mixes)
    return json.dumps(document_row(replace(document, mixes=mixes)), indent=2, ensure_ascii=False) + "\n"


def read_document(text: str) -> Document:
    """A document out of JSON, of whatever version. Raises: BadInput ``document.…`` in one sentence."""
    try:
        row = json.loads(text)
    except ValueError as error:
        message = f"Not a ticket (invalid JSON: {error})."
        raise BadInput("document.not-json", message) from error
    return document_from(row)


def document_from(row: Any) -> Document:
    """The same out of plain values. Raises: BadInput ``document.…``."""
    if not isinstance(row, dict) or not isinstance(row.get("version"), int):
        message = (
            'This ticket has no "version", so it does not say which sound it was made from. Write a new one with '
            "`ripe-press plan --ticket-out`, or press the mix again."
        )
        raise BadInput("document.no-version", message)
    return validated(Document, _upgraded(row, row["version"], VERSION, _UPGRADES))


def bench_row(bench: Bench) -> dict[str, Any]:
    """The bench as plain values, for the database."""
    return {"version": BENCH_VERSION, **asdict(bench)}


def bench_of(row: Mapping[str, Any]) -> Bench:
    """The bench from plain values as `bench_row` gives them, now or in older versions. Raises: BadInput."""
    row = dict(row)
    return validated(Bench, _upgraded(row, row.pop("version", 1), BENCH_VERSION, _BENCH_UPGRADES))


def stem_from(row: Any) -> StemNote:
    """A stem out of plain values. Raises: BadInput ``document.unreadable``."""
    return validated(StemNote, row, "stem")


def order_from(row: Any) -> RunningOrder:
    """A running order out of plain values, new or old. Raises: BadInput ``document.unreadable``."""
    return validated(RunningOrder, _lines_keep_rate(row) if isinstance(row, Mapping) else row, "running order")


def brief_from_row(row: Any) -> Brief:
    """A brief from unchecked plain values, as `ripe-press briefs` and the page write them. Raises: BadInput."""
    if not isinstance(row, dict):
        message = "Not a brief. It needs an id and a title."
        raise BadInput("brief.unreadable", message)
    return validated(Brief, row, "brief")


@cache
def _adapter(kind: Any) -> "TypeAdapter[Any]":
    # Loaded only where something is read: a command that only writes starts without it.
    from pydantic import TypeAdapter

    return TypeAdapter(kind)


def validated(kind: type[T], row: Mapping[str, Any], named: str = "ticket") -> T:
    """A frozen value of a kind from plain ones, validated by its types. Raises: BadInput ``document.…``."""
    from pydantic import ValidationError

    try:
        found = cast("T", _adapter(cast("Any", kind)).validate_python(row))
    except ValidationError as error:
        place, what = first_problem(error.errors(include_url=False))
        message = f"Cannot read the {named}: {place} {what}."
        raise BadInput("document.unreadable", message, place=place) from error
    return found


def first_problem(errors: Sequence[Mapping[str, Any]]) -> tuple[str, str]:
    """The place and the fault of the first validation error."""
    first = errors[0]
    place = ".".join(str(one) for one in first["loc"]) or "it"
    texts = {
        "unexpected_keyword_argument": "is not known", "missing": "is missing", "missing_argument": "is missing",
    }  # fmt: skip
    said, given = first["msg"], first["input"]
    value = quoted(given) if isinstance(given, str) else json.dumps(given, default=str)
    return place, texts.get(first["type"], f"cannot be {value}: {said[:1].lower()}{said[1:]}")


Upgrade = Callable[[dict[str, Any]], dict[str, Any]]


def _upgraded(row: dict[str, Any], version: int, newest: int, upgrades: Mapping[int, Upgrade]) -> dict[str, Any]:
    if not min(upgrades) <= version <= newest:
        message = f"Unsupported ticket version {version} (supported: {min(upgrades)} to {newest}). Update Ripe Press."
        raise BadInput("document.version", message, version=version)
    for old in range(version, newest):
        try:
            row = upgrades[old](row)
        except (LookupError, TypeError, ValueError, AttributeError) as error:
            message = f"Damaged ticket of version {version}. Write it again."
            raise BadInput("document.not-read", message, version=version) from error
    return row


def _bench_1(row: dict[str, Any]) -> dict[str, Any]:
    """Before there was a ticket, every range was pressed for an audio CD; and an empty value could be null."""
    kept = {name: value for name, value in row.items() if value is not None}
    if "ticket" not in kept:
        kept["ticket"] = [
            {"id": f"d{number}", "brief": "audio-cd", "range_id": one["id"]}
            for number, one in enumerate(row["ranges"], 1)
        ]
    return kept


def _bench_5(row: dict[str, Any]) -> dict[str, Any]:
    """The rate of the mix was 0 in departures."""
    return {**row, "ticket": [_keeps_rate(line) for line in row["ticket"]]}


def _keeps_rate(line: dict[str, Any]) -> dict[str, Any]:
    changes = line.get("changes") or {}
    return {**line, "changes": {**changes, "rate_hz": "keep"}} if changes.get("rate_hz") == 0 else line


_BENCH_UPGRADES: Mapping[int, Upgrade] = {1: _bench_1, 2: dict, 3: dict, 4: dict, 5: _bench_5}
"""The second had no parts, the fourth no level of silence and no crossfades."""


def _document_1(row: dict[str, Any]) -> dict[str, Any]:
    """The first tickets had one range and the names of briefs; their mixes are in a field of their own."""
    whole = {"start_frame": row["start_frame"], "end_frame": row["end_frame"], "edges": row.get("edges") or {}}
    deliveries = [{"brief": name, "stretch": {**whole, "name": ""}} for name in row["briefs"]]
    return {"version": 2, "source": row["source"], "deliveries": deliveries, "briefs": row["shipped"]}


_WISHES = (
    "container", "quality", "channels", "mono_law_db", "dither", "level", "finish", "label_pattern", "style", "mode",
    "kbps", "coding_quality",
)  # fmt: skip
_TAG_WISHES = ("cover", "id3_version", "gain_tags", "markers")


def _document_2(row: dict[str, Any]) -> dict[str, Any]:
    """Deliveries used to be kept with everything that brief and departures came to; each becomes a line of its own."""
    notes, chain = row.get("notes") or {}, row.get("finish") or {}
    cover = notes.get("cover") or ""
    deliveries = list(enumerate(row["deliveries"], 1))
    return {
        "version": 3,
        "mixes": [
            {
                "source": {**row["source"], "offsets": chain.get("offsets") or (), **_time_reference(notes)},
                "bench": {
                    "ranges": [_old_range(number, one["stretch"]) for number, one in deliveries],
                    "ticket": [
                        {
                            "id": one.get("id") or f"d{number}", "brief": one["brief"], "range_id": f"r{number}",
                            "group": one.get("group") or "", "changes": _old_changes(one),
                        }
                        for number, one in deliveries
                    ],
                    "markers": notes.get("markers") or (),
                    "tags": notes.get("values") or (),
                    "cover": Path(cover).name,
                    "clash": row.get("clash") or "keep-both",
                    "finish": {
                        "remove_dc": bool(chain.get("offsets")), "high_pass_hz": chain.get("high_pass_hz") or 0.0,
                        "gain_db": chain.get("gain_db") or 0.0, "ceiling_dbtp": chain.get("ceiling_dbtp"),
                    },
                },
                "cover": {"name": Path(cover).name, "sha256": "", "path": cover} if cover else None,
            }
        ],
        "briefs": [{name: one[name] for name in Brief.__slots__ if name in one} for one in _old_briefs(row["briefs"])],
    }  # fmt: skip


def _old_briefs(briefs: Any) -> list[dict[str, Any]]:
    return list(briefs.values()) if isinstance(briefs, dict) else list(briefs)


def _time_reference(notes: dict[str, Any]) -> dict[str, Any]:
    return {"time_reference": notes.get("time_reference")}


def _old_range(number: int, stretch: dict[str, Any]) -> dict[str, Any]:
    kept: dict[str, Any] = {
        name: stretch[name] for name in ("start_frame", "end_frame", "edges", "name") if name in stretch
    }
    return {"id": f"r{number}", **kept}


def _old_changes(delivery: dict[str, Any]) -> dict[str, Any]:
    wish = delivery.get("tags") or {}
    changes = {name: delivery[name] for name in _WISHES if delivery.get(name) is not None}
    # Channels used to be a number.
    if not isinstance(changes.get("channels", ""), str):
        changes["channels"] = "stereo"
    if "container" in delivery:
        changes["encoding"] = delivery.get("encoding") or "keep"
        changes["rate_hz"] = delivery.get("rate_hz") or 0
    departures: Values | None = wish.get("departures") or None
    return {**changes, "tags": departures, **{name: wish[name] for name in _TAG_WISHES if name in wish}}


def _document_3(row: dict[str, Any]) -> dict[str, Any]:
    """There were no running orders."""
    return {**row, "version": 4}


def _document_4(row: dict[str, Any]) -> dict[str, Any]:
    """There were no stems."""
    return {**row, "version": 5}


def _document_5(row: dict[str, Any]) -> dict[str, Any]:
    """Nothing was sent."""
    return {**row, "version": 6}


def _document_6(row: dict[str, Any]) -> dict[str, Any]:
    """No loop was crossfaded, and silence was the same for every mix."""
    return {**row, "version": 7}


def _document_7(row: dict[str, Any]) -> dict[str, Any]:
    """The rate of the mix was 0 in departures."""
    mixes = [{**one, "bench": _bench_5(one["bench"])} for one in row["mixes"]]
    order = row.get("order")
    return {**row, "version": 8, "mixes": mixes, "order": _lines_keep_rate(order) if order else None}


def _lines_keep_rate(order: Mapping[str, Any]) -> dict[str, Any]:
    return {**order, "lines": [_keeps_rate(one) for one in order.get("lines") or ()]}


_UPGRADES: Mapping[int, Upgrade] = {
    1: _document_1, 2: _document_2, 3: _document_3, 4: _document_4, 5: _document_5, 6: _document_6, 7: _document_7,
}  # fmt: skip
