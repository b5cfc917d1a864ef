"""Briefs as data: what recipients ask for, read from the JSON files beside this module."""

import json
import re
from functools import cache
from importlib.resources import files
from typing import Any

from ripe_press.core.errors import NotFound, Unsupported
from ripe_press.core.formats.capabilities import CAPABILITIES, DEPTH_WORDS, PLAIN, Capability, print_depths
from ripe_press.core.formats.coding import settle_coding
from ripe_press.core.formats.fitting import kept_rate
from ripe_press.core.naming import NameStyle
from ripe_press.core.requests.brief import Brief, Preferences, Requirements
from ripe_press.core.requests.making import LevelRequest
from ripe_press.core.signal.limiter import Limiting
from ripe_press.core.tags.sheet import COVER, FIELDS
from ripe_press.core.words import quoted

BLANK = Brief(
    "blank", "Blank", "No brief: every setting as in the mix until you change it.",
    "No requirements, so nothing is changed.",
)  # fmt: skip

DISC_TRACK = Brief(
    "disc-track", "Disc", "A track of an audio disc: 44.1 kHz, 16 bits, stereo.",
    "The disc format fixes rate, depth and channels.", "{number} {title}",
    require=Requirements((PLAIN,), ("s16",), (44_100,), (2,)),
    prefer=Preferences(PLAIN, "s16", 44_100, channels="stereo", markers=False),
)  # fmt: skip
"""What the image of a disc is put together from."""


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
    for name in ("loudness_lufs", "rms_dbfs", "head_s", "tail_s"):
        if require.get(name):
            require[name] = tuple(require[name])
    prefer = dict(row.get("prefer") or {})
    level = dict(prefer.get("level") or {})
    prefer["level"] = LevelRequest(**level | {"limiting": Limiting(**(level.get("limiting") or {}))})
    prefer["style"] = NameStyle(**(prefer.get("style") or {}))
    plain = {name: row[name] for name in ("id", "title", "sentence", "why", "label_pattern", "drop_off") if name in row}
    brief = Brief(
        **plain,
        tags=tuple(row.get("tags") or ()),
        sends_to=tuple(row.get("sends_to") or ()),
        require=Requirements(**require),
        prefer=Preferences(**prefer),
    )
    check_possible(brief)
    return brief


def check_possible(brief: Brief) -> None:
    """Refuses a brief that no file could meet, by the capability table.

    Raises: Unsupported ``brief.impossible``.
    """
    for find in (_id_problem, _container_problem, _depth_problem, _rate_problem, _coding_problem, _tag_problem):
        if problem := find(brief, CAPABILITIES[brief.prefer.container]):
            message = f"Brief {quoted(brief.title)}: {problem}."
            raise Unsupported("brief.impossible", message, brief=brief.id)


def _id_problem(brief: Brief, _can: Capability) -> str | None:
    if not re.fullmatch(r"[a-z0-9][a-z0-9-]{0,60}", brief.id):
        return f"its id {quoted(brief.id)} may have lower-case letters, digits and hyphens only"
    return None


def _container_problem(brief: Brief, can: Capability) -> str | None:
    require = brief.require
    if require.containers and can.container not in require.containers:
        return f"it prefers {can.title}, which it does not allow"
    if any(not 1 <= one <= can.max_channels for one in require.channels):
        return f"{can.title} has one or two channels"
    return None


def _depth_problem(brief: Brief, can: Capability) -> str | None:
    asked, allowed = brief.prefer.encoding, brief.require.encodings
    if can.lossy and asked not in ("keep", "lossy"):
        return f"{can.title} is lossy: remove the bit depth"
    if asked != "keep" and asked not in can.encodings:
        return f"{can.title} does not support {DEPTH_WORDS[asked]}; it supports {print_depths(can.encodings)}"
    if not can.lossy and allowed and not set(allowed) & set(can.encodings):
        return f"{can.title} supports none of {print_depths(allowed)}"
    if not can.lossy and allowed and asked != "keep" and asked not in allowed:
        return f"it prefers {DEPTH_WORDS[asked]}, which it does not allow"
    return None


def _rate_problem(brief: Brief, can: Capability) -> str | None:
    asked, allowed = brief.prefer.rate_hz, brief.require.rates_hz
    if (asked != "keep" and not can.takes_rate(asked)) or (allowed and not any(map(can.takes_rate, allowed))):
        return f"{can.title} supports {can.print_rates()} only"
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
        return f"{quoted(unknown[0])} is not a tag field. Available: {', '.join(FIELDS)} and {COVER}"
    return None


def brief_of(brief_id: str) -> Brief:
    """The brief with this id, of those that ship.

    Raises: NotFound ``brief.unknown``, naming the briefs there are.
    """
    briefs = built_in_briefs()
    if brief_id not in briefs:
        message = f"Unknown brief {quoted(brief_id)}. Available: {', '.join(briefs)}."
        raise NotFound("brief.unknown", message, brief=brief_id)
    return briefs[brief_id]
