"""Overrides as they are typed: level, depth, rate, channels."""

import re
from collections.abc import Callable, Iterable, Sequence
from dataclasses import replace
from typing import Any, Literal, TypeVar, get_args

from ripe_press.core.errors import BadInput
from ripe_press.core.formats.capabilities import CAPABILITIES, Encoding, Mode
from ripe_press.core.naming import Case, Clash, NameStyle, Spaces, check_pattern
from ripe_press.core.requests.delivery import Changes
from ripe_press.core.requests.making import ChannelRequest, LevelRequest, checked_level
from ripe_press.core.requests.running_order import MOST_GAP_FRAMES
from ripe_press.core.signal.channels import MonoLaw
from ripe_press.core.signal.quantise import DITHERS
from ripe_press.core.signal.resample import Quality
from ripe_press.core.stations.level import LevelKind
from ripe_press.core.tags.sheet import Id3Version
from ripe_press.core.timeline import CD_FRAMES_PER_SECOND, parse_place
from ripe_press.core.words import quoted

T = TypeVar("T")

_DEPTHS: dict[str, Encoding] = {
    "8": "u8", "16": "s16", "20": "s20", "24": "s24", "32": "s32", "float32": "f32", "float64": "f64",
}  # fmt: skip
_LEVEL = re.compile(r"^(peak|true-peak|loudness)=(-?\d+(?:\.\d+)?)$")
_CEILING = re.compile(r"^ceiling=(-?\d+(?:\.\d+)?)$")
_REDUCTION = re.compile(r"^reduction=(\d+(?:\.\d+)?)$")


def parse_level(text: str) -> LevelRequest:
    """``leave``, ``peak=-0.3``, ``true-peak=-1``, ``loudness=-14,ceiling=-1``.

    With ``,only-down``, ``,back-off`` or, for a loudness, ``,no-limiter`` or of the limiter ``,reduction=12`` (its
    maximum in dB), ``,dense``, ``,sides-together``, ``,clip`` after it.
    Raises: BadInput ``level.unreadable`` or ``level.range``.
    """
    first, *more = [part.strip() for part in text.strip().lower().split(",")]
    if first == "leave" and not more:
        return LevelRequest()
    found = _LEVEL.match(first)
    if found:
        level: LevelRequest | None = LevelRequest(
            next(kind for kind in get_args(LevelKind) if kind == found[1]), float(found[2])
        )
        for part in more:
            level = level and _with_option(level, part)
        if level:
            return checked_level(level)
    message = f"{quoted(text)} is not a level. Use leave, peak=-0.3, true-peak=-1 or loudness=-14,ceiling=-1."
    raise BadInput("level.unreadable", message, text=text)


def _with_option(level: LevelRequest, part: str) -> LevelRequest | None:
    """The level with one more option; None where it is none of that level."""
    if part == "only-down":
        return replace(level, only_down=True)
    if part == "back-off":
        return replace(level, back_off=True)
    if level.kind != "loudness":
        return None
    if held := _CEILING.match(part):
        return replace(level, ceiling_dbtp=float(held[1]))
    if held := _REDUCTION.match(part):
        return replace(level, max_reduction_db=float(held[1]))
    match part:
        case "no-limiter":
            return replace(level, limit=False)
        case "dense":
            return replace(level, limiting=replace(level.limiting, character="dense"))
        case "sides-together":
            return replace(level, limiting=replace(level.limiting, sides="together"))
        case "clip":
            return replace(level, limiting=replace(level.limiting, clip=True))
    return None


def parse_changes(**typed: Any) -> Changes:
    """Read `OPTIONS` and ``style``; an empty value or None follows the brief.

    Raises: BadInput with the values there are.
    """
    given = {name: value for name, value in typed.items() if value not in (None, "")}
    settings: dict[str, Any] = {"style": given.pop("style")} if "style" in given else {}
    if str(given.get("channels", "")).startswith("mono:"):
        given["channels"], _, law = given["channels"].partition(":")
        settings["mono_law_db"] = _law(law)
    for name, value in given.items():
        setting, read = OPTIONS[name]
        settings[setting] = read(value)
    return Changes(**settings)


def parse_briefs(texts: Sequence[str]) -> dict[str, Changes]:
    """Briefs with their own settings: ``phone-and-car:format=mp3:kbps=192``, by brief.

    Raises: BadInput ``brief.setting``, ``brief.twice``, and as `parse_changes`.
    """
    found: dict[str, Changes] = {}
    for text in dict.fromkeys(texts):
        brief, *settings = re.split(r":(?=[a-z0-9-]+=)", text)
        if brief in found:
            message = f"The brief {quoted(brief)} is there twice with different settings. Keep one."
            raise BadInput("brief.twice", message, brief=brief)
        typed = dict(one.split("=", 1) for one in settings)
        names = {spoken(name): name for name in OPTIONS}
        for setting in typed:
            if setting not in names:
                message = f"Unknown setting {quoted(setting)} in {quoted(text)}. Available: {', '.join(names)}."
                raise BadInput("brief.setting", message, setting=setting)
        found[brief] = parse_changes(**{names[setting]: value for setting, value in typed.items()})
    return found


def spoken(option: str) -> str:
    """An option of `OPTIONS` as it is typed, without its hyphens in front."""
    return {"container": "format", "label_pattern": "name"}.get(option, option).replace("_", "-")


def refuse_overrides(given: Iterable[str], briefs: Sequence[str]) -> None:
    """Raises: BadInput ``override.several`` where given `OPTIONS` but the name would override several briefs."""
    several = list(dict.fromkeys(briefs))
    wide = [spoken(one) for one in given if one != "label_pattern"]
    if len(several) > 1 and wide:
        message = (
            f"--{wide[0]} overrides {len(several)} briefs at once. Give it to each: "
            f"--brief {several[0]}:{wide[0]}=VALUE."
        )
        raise BadInput("override.several", message, options=wide)


def parse_style(digits: int | None, case: str, spaces: str) -> NameStyle | None:
    """How names are written, None where nothing was said. Raises: BadInput ``override.unknown``."""
    if digits is None and not case and not spaces:
        return None
    cases: tuple[Case, ...] = get_args(Case)
    joints: tuple[Spaces, ...] = get_args(Spaces)
    plain = NameStyle()
    return NameStyle(
        plain.digits if digits is None else digits,
        _one_of("case", case, cases) or plain.case,
        _one_of("space style", spaces, joints) or plain.spaces,
    )


def parse_gap(text: str) -> int:
    """A gap in CD frames: ``2s``, ``0:02.5`` or ``150cdf``. Raises: BadInput ``time.…`` or ``order.gap``."""
    frames = parse_place(text.strip().removesuffix("s"), CD_FRAMES_PER_SECOND)
    if frames > MOST_GAP_FRAMES:
        message = f"A gap of {quoted(text)} is too long. Use max 10 min."
        raise BadInput("order.gap", message, text=text)
    return frames


def parse_clash(text: str) -> Clash:
    """What happens where a name is taken. Raises: BadInput ``override.unknown``."""
    clashes: tuple[Clash, ...] = get_args(Clash)
    return _one_of("option for existing files", text, clashes) or "keep-both"


def _one_of(what: str, text: str, known: tuple[T, ...]) -> T | None:
    if not text:
        return None
    for one in known:
        if one == text.strip().lower():
            return one
    message = f"Unknown {what} {quoted(text)}. Use {', '.join(str(one) for one in known)}."
    raise BadInput("override.unknown", message, what=what, text=text)


def _choice(what: str, kind: Any) -> Callable[[str], Any]:
    return lambda text: _one_of(what, text, get_args(kind) or kind)


def _depth(text: str) -> Encoding | Literal["keep"]:
    depth = text.strip().lower()
    if depth == "keep":
        return "keep"
    if depth not in _DEPTHS:
        message = f"{quoted(text)} is not a depth. Use keep, {', '.join(_DEPTHS)}."
        raise BadInput("depth.unknown", message, text=text)
    return _DEPTHS[depth]


def _rate(text: str) -> int | Literal["keep"]:
    if text.strip().lower() == "keep":
        return "keep"
    if not text.strip().isdigit() or not 8_000 <= int(text) <= 384_000:
        message = f"{quoted(text)} is not a rate. Use keep or 8000 to 384000 (Hz)."
        raise BadInput("rate.unreadable", message, text=text)
    return int(text)


def _law(text: str) -> MonoLaw:
    laws: dict[str, MonoLaw] = {"-6": -6, "-3": -3}
    if text not in laws:
        message = f"{quoted(text)} is not a mono sum. Use mono:-6 or mono:-3."
        raise BadInput("channels.law", message, text=text)
    return laws[text]


def _switch(text: str | bool) -> bool:
    if isinstance(text, bool):
        return text
    return _one_of("answer", text, ("yes", "no")) == "yes"


def _number(what: str, least: int, most: int) -> Callable[[Any], int]:
    def read(text: str | int) -> int:
        if not str(text).isdigit() or not least <= int(text) <= most:
            message = f"{quoted(str(text))} is not a {what}. Use {least} to {most}."
            raise BadInput("override.number", message, text=str(text))
        return int(text)

    return read


OPTIONS: dict[str, tuple[str, Callable[[Any], Any]]] = {
    "container": ("container", _choice("container", tuple(CAPABILITIES))),
    "depth": ("encoding", _depth),
    "rate": ("rate_hz", _rate),
    "quality": ("quality", _choice("quality", Quality)),
    "channels": ("channels", _choice("channels", ChannelRequest)),
    "dither": ("dither", _choice("dither", ("auto", *DITHERS))),
    "level": ("level", parse_level),
    "finish": ("finish", _switch),
    "mode": ("mode", _choice("mode", Mode)),
    "kbps": ("kbps", _number("bit rate", 1, 1000)),
    "encoder_quality": ("coding_quality", _number("quality", 0, 10)),
    "id3": ("id3_version", _choice("ID3 version", Id3Version)),
    "loudness_tags": ("gain_tags", _switch),
    "write_cover": ("cover", _switch),
    "write_markers": ("markers", _switch),
    "label_pattern": ("label_pattern", check_pattern),
}
"""Options of the command line, with the setting that each is of and how it is read."""
