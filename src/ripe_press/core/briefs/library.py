"""Briefs as data: what a recipient asks for, read from the JSON files beside this module."""

import json
from dataclasses import dataclass, field
from functools import cache
from importlib.resources import files
from typing import Any, Literal

from ripe_press.core.engine.delivery import LEAVE, ChannelWish, Delivery, LevelWish
from ripe_press.core.engine.edges import Stretch
from ripe_press.core.engine.notes import TagWish
from ripe_press.core.engine.resolve import encoding_for, fits, kept_encoding, kept_rate, nearest_rate
from ripe_press.core.errors import NotFound, Unsupported
from ripe_press.core.formats.capabilities import (
    BITS,
    CAPABILITIES,
    DEPTH_WORDS,
    Capability,
    Container,
    Encoding,
    Mode,
    print_depths,
    settle_coding,
)
from ripe_press.core.formats.reader import SourceFacts
from ripe_press.core.naming import PLAIN_STYLE, NameStyle
from ripe_press.core.signal.channels import MonoLaw
from ripe_press.core.signal.quantise import Dither
from ripe_press.core.signal.resample import Quality
from ripe_press.core.tags.sheet import COVER, FIELDS, Id3Version


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
    kbps_min: int | None = None
    """The least bit rate in kbit/s, of lossy files."""


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
    mode: Mode | None = None
    kbps: int | None = None
    coding_quality: int | None = None
    """For lossy containers; None is left to the capability table."""
    id3_version: Id3Version = "2.4"
    gain_tags: bool = False
    markers: bool = True
    loop_points: bool = False
    style: NameStyle = PLAIN_STYLE


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
            finish=prefer.finish, mode=prefer.mode, kbps=prefer.kbps, coding_quality=prefer.coding_quality,
            style=prefer.style,
            tags=TagWish(
                id3_version=prefer.id3_version, gain_tags=prefer.gain_tags, markers=prefer.markers,
                loop_points=prefer.loop_points,
            ),
        )  # fmt: skip

    def _encoding(self, facts: SourceFacts) -> Encoding:
        if self.prefer.encoding != "keep":
            return self.prefer.encoding
        can = CAPABILITIES[self.prefer.container].encodings
        allowed = [one for one in can if not self.require.encodings or one in self.require.encodings]
        if CAPABILITIES[self.prefer.container].lossy or not allowed:
            return encoding_for(self.prefer.container, facts)
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
        can = CAPABILITIES[self.prefer.container]
        allowed = tuple(one for one in self.require.rates_hz if can.takes_rate(one)) or can.rates_hz
        if not allowed or facts.rate_hz in allowed:
            return None
        return nearest_rate(facts.rate_hz, allowed)


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
    prefer["style"] = NameStyle(**(prefer.get("style") or {}))
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
    for find in (_container_problem, _depth_problem, _rate_problem, _coding_problem, _tag_problem):
        if problem := find(brief, CAPABILITIES[brief.prefer.container]):
            message = f"The brief {brief.title!r} asks for what cannot be: {problem}."
            raise Unsupported("brief.impossible", message, brief=brief.id)


def _container_problem(brief: Brief, can: Capability) -> str | None:
    require = brief.require
    if require.containers and can.container not in require.containers:
        return f"it prefers {can.title}, which it does not allow"
    if any(not 1 <= one <= can.max_channels for one in require.channels):
        return f"{can.title} is written with one or two channels"
    return None


def _depth_problem(brief: Brief, can: Capability) -> str | None:
    asked, allowed = brief.prefer.encoding, brief.require.encodings
    if can.lossy and asked not in ("keep", "lossy"):
        return f"{can.title} is lossy and has no bit depth"
    if asked != "keep" and asked not in can.encodings:
        return f"{can.title} does not hold {DEPTH_WORDS[asked]}; it holds {print_depths(can.encodings)}"
    if not can.lossy and allowed and not set(allowed) & set(can.encodings):
        return f"{can.title} holds none of {print_depths(allowed)}"
    if not can.lossy and allowed and asked != "keep" and asked not in allowed:
        return f"it prefers {DEPTH_WORDS[asked]}, which it does not allow"
    return None


def _rate_problem(brief: Brief, can: Capability) -> str | None:
    asked, allowed = brief.prefer.rate_hz, brief.require.rates_hz
    if (asked != "keep" and not can.takes_rate(asked)) or (allowed and not any(map(can.takes_rate, allowed))):
        return f"{can.title} is written at {can.print_rates()}"
    if asked != "keep" and allowed and asked not in allowed:
        return f"it prefers {asked:,} Hz, which it does not allow"
    return None


def _coding_problem(brief: Brief, can: Capability) -> str | None:
    prefer, least = brief.prefer, brief.require.kbps_min
    rate_hz = prefer.rate_hz if prefer.rate_hz != "keep" else kept_rate(48_000, can.container)
    if prefer.kbps and least and prefer.kbps < least:
        return f"it prefers {prefer.kbps} kbit/s and asks for at least {least}"
    try:
        settle_coding(can.container, rate_hz, 2, prefer.mode, prefer.kbps, prefer.coding_quality)
    except Unsupported as error:
        return error.message.rstrip(".")
    return None


def _tag_problem(brief: Brief, _can: Capability) -> str | None:
    unknown = [one for one in brief.tags if one not in FIELDS and one != COVER]
    if unknown:
        return f"{unknown[0]!r} is no field of the tag sheet; there are {', '.join(FIELDS)} and {COVER}"
    return None


def brief_of(brief_id: str) -> Brief:
    """The brief with this id, of those that ship.

    Raises: NotFound ``brief.unknown``, naming the briefs there are.
    """
    briefs = built_in_briefs()
    if brief_id not in briefs:
        message = f"There is no brief called {brief_id!r}. There are: {', '.join(briefs)}."
        raise NotFound("brief.unknown", message, brief=brief_id)
    return briefs[brief_id]
