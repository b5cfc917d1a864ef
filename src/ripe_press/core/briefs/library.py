"""Briefs as data: what a recipient asks for, read from the JSON files beside this module."""

import json
from collections.abc import Sequence
from dataclasses import dataclass, field
from functools import cache
from importlib.resources import files
from typing import Any, Literal

from ripe_press.core.engine.edges import Stretch
from ripe_press.core.engine.resolve import LEAVE, ChannelWish, Delivery, LevelWish, fits, kept_encoding
from ripe_press.core.errors import NotFound, Unsupported
from ripe_press.core.formats.capabilities import BITS, CAPABILITIES, Container, Encoding
from ripe_press.core.formats.reader import SourceFacts
from ripe_press.core.signal.channels import MonoLaw
from ripe_press.core.signal.quantise import Dither
from ripe_press.core.signal.resample import Quality


@dataclass(frozen=True, slots=True)
class Requirements:
    """What is allowed; None, or an empty list, allows everything. Loudness is a range in LUFS."""

    containers: tuple[Container, ...] = ()
    encodings: tuple[Encoding, ...] = ()
    rates_hz: tuple[int, ...] = ()
    channels: tuple[int, ...] = ()
    sample_peak_max_dbfs: float | None = None
    true_peak_max_dbtp: float | None = None
    loudness_lufs: tuple[float, float] | None = None
    bytes_max: int | None = None


@dataclass(frozen=True, slots=True)
class Preferences:
    """What is made when nobody says otherwise; *keep* is what the mix has, where that is allowed."""

    container: Container = "wav"
    encoding: Encoding | Literal["keep"] = "keep"
    rate_hz: int | Literal["keep"] = "keep"
    quality: Quality = "very-high"
    channels: ChannelWish = "keep"
    mono_law_db: MonoLaw = -6
    dither: Dither | Literal["auto"] = "auto"
    level: LevelWish = LEAVE
    finish: bool = True


@dataclass(frozen=True, slots=True)
class Brief:
    """A recipient's wishes.

    Plain values, so that a command need not wait for a validation library to start; the files that ship are
    validated against these types by a test, and briefs that people bring by the same types.
    """

    id: str
    title: str
    sentence: str
    why: str
    label_pattern: str = "{title} {range} {rate} {depth}"
    drop_off: str = ""
    """The sub-folder of the mix's own that its files go to."""
    tags: tuple[str, ...] = ()
    """Tags that the recipient needs."""
    require: Requirements = field(default_factory=Requirements)
    prefer: Preferences = field(default_factory=Preferences)

    def delivery(self, stretch: Stretch, facts: SourceFacts) -> Delivery:
        """A delivery of a stretch of a mix to this brief, with everything as the brief prefers it."""
        prefer = self.prefer
        return Delivery(
            brief=self.id, stretch=stretch, container=prefer.container, encoding=self._encoding(facts),
            rate_hz=self._rate_hz(facts), quality=prefer.quality, label_pattern=self.label_pattern,
            channels=prefer.channels, mono_law_db=prefer.mono_law_db, dither=prefer.dither, level=prefer.level,
            finish=prefer.finish,
        )  # fmt: skip

    def _encoding(self, facts: SourceFacts) -> Encoding:
        if self.prefer.encoding != "keep":
            return self.prefer.encoding
        can = CAPABILITIES[self.prefer.container].encodings
        allowed = [one for one in can if not self.require.encodings or one in self.require.encodings]
        kept = kept_encoding(facts)
        # What is kept must not lose anything that the mix has, as far as the recipient takes it.
        whole = [one for one in allowed if fits(facts, one)]
        return (
            kept
            if kept in allowed
            else min(whole, key=BITS.__getitem__)
            if whole
            else max(allowed, key=BITS.__getitem__)
        )

    def _rate_hz(self, facts: SourceFacts) -> int | None:
        if self.prefer.rate_hz != "keep":
            return self.prefer.rate_hz
        allowed = self.require.rates_hz
        if not allowed or facts.rate_hz in allowed:
            return None
        return nearest_rate(facts.rate_hz, allowed)


def nearest_rate(rate_hz: int, allowed: Sequence[int]) -> int:
    """The allowed rate to convert to: one that the mix's is a multiple of before others, high before low."""
    lower = [one for one in allowed if one <= rate_hz]
    even = [one for one in lower if rate_hz % one == 0]
    return max(even or lower) if lower else min(allowed)


BLANK = Brief(
    "blank", "Blank", "A delivery without a brief: everything as the mix has it, until you say otherwise.",
    "Nobody asks for anything in particular, so nothing is changed.",
)  # fmt: skip


@cache
def built_in_briefs() -> dict[str, Brief]:
    """The briefs that ship with the product, by their id, in the order in which they are offered."""
    folder = files("ripe_press.core.briefs")
    rows = [json.loads(entry.read_text(encoding="utf-8")) for entry in folder.iterdir() if entry.name.endswith(".json")]
    briefs = [brief_from(row) for row in sorted(rows, key=lambda row: (row.get("order", 99), row["id"]))]
    return {brief.id: brief for brief in [*briefs, BLANK]}


def brief_from(row: dict[str, Any]) -> Brief:
    """A brief from plain values that are known to be valid. Raises: Unsupported as `check_possible`."""
    require = dict(row.get("require") or {})
    for name in ("containers", "encodings", "rates_hz", "channels"):
        require[name] = tuple(require.get(name) or ())
    if require.get("loudness_lufs"):
        require["loudness_lufs"] = tuple(require["loudness_lufs"])
    prefer = dict(row.get("prefer") or {})
    prefer["level"] = LevelWish(**(prefer.get("level") or {}))
    plain = {name: row[name] for name in ("id", "title", "sentence", "why", "label_pattern", "drop_off") if name in row}
    brief = Brief(
        **plain, tags=tuple(row.get("tags") or ()), require=Requirements(**require), prefer=Preferences(**prefer)
    )
    check_possible(brief)
    return brief


def check_possible(brief: Brief) -> None:
    """Refuses a brief that no file could meet, by the capability table.

    Raises: Unsupported ``brief.impossible``.
    """
    prefer, require = brief.prefer, brief.require
    can = CAPABILITIES[prefer.container]
    problem = None
    if require.containers and prefer.container not in require.containers:
        problem = f"it prefers {can.title}, which it does not allow"
    elif prefer.encoding != "keep" and prefer.encoding not in can.encodings:
        problem = f"{can.title} does not hold {prefer.encoding}; it holds {', '.join(can.encodings)}"
    elif require.encodings and not set(require.encodings) & set(can.encodings):
        problem = f"{can.title} holds none of {', '.join(require.encodings)}"
    elif require.encodings and prefer.encoding not in ("keep", *require.encodings):
        problem = f"it prefers {prefer.encoding}, which it does not allow"
    elif prefer.rate_hz != "keep" and not can.min_rate_hz <= prefer.rate_hz <= can.max_rate_hz:
        problem = f"{can.title} is written from {can.min_rate_hz:,} to {can.max_rate_hz:,} Hz"
    elif prefer.rate_hz != "keep" and require.rates_hz and prefer.rate_hz not in require.rates_hz:
        problem = f"it prefers {prefer.rate_hz:,} Hz, which it does not allow"
    elif any(not can.min_rate_hz <= one <= can.max_rate_hz for one in require.rates_hz):
        problem = f"{can.title} is written from {can.min_rate_hz:,} to {can.max_rate_hz:,} Hz"
    elif any(not 1 <= one <= can.max_channels for one in require.channels):
        problem = f"{can.title} is written with one or two channels"
    if problem:
        message = f"The brief {brief.title!r} asks for what cannot be: {problem}."
        raise Unsupported("brief.impossible", message, brief=brief.id)


def brief_of(brief_id: str) -> Brief:
    """The brief with this id, of those that ship.

    Raises: NotFound ``brief.unknown``, naming the briefs there are.
    """
    briefs = built_in_briefs()
    if brief_id not in briefs:
        message = f"There is no brief called {brief_id!r}. There are: {', '.join(briefs)}."
        raise NotFound("brief.unknown", message, brief=brief_id)
    return briefs[brief_id]
