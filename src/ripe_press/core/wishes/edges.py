"""The edges a delivery asks for, and what they become in frames."""

import re
from dataclasses import dataclass
from typing import Literal, get_args

from ripe_press.core.errors import BadInput
from ripe_press.core.formats.facts import SourceFacts
from ripe_press.core.signal.edges import MOST_SILENCE_S
from ripe_press.core.signal.fade import NO_FADE, Curve, Fade
from ripe_press.core.stations.range import Range

EndKind = Literal["stop", "hold", "ring", "fold"]

RING_BELOW_DBFS = -70.0
RING_LIMIT_S = 30.0
MOST_DECLICK_MS = 50.0
DECLICK_MS = 3.0
"""Long enough to take a click away, too short to be heard as a fade (common practice, no source)."""


@dataclass(frozen=True, slots=True)
class Edges:
    """End treatment, fades in seconds, silence in seconds. ``hold_s`` is for *hold* alone.

    *Ring out* and *fold* go on until everything stays below ``ring_below_dbfs``, at most ``ring_limit_s``.
    """

    end: EndKind = "stop"
    hold_s: float = 0.0
    ring_below_dbfs: float = RING_BELOW_DBFS
    ring_limit_s: float = RING_LIMIT_S
    fade_in_s: float = 0.0
    fade_in_curve: Curve = "equal-power"
    fade_out_s: float = 0.0
    fade_out_curve: Curve = "equal-power"
    silence_before_s: float = 0.0
    silence_after_s: float = 0.0
    declick_ms: float = 0.0
    """A very short fade at an edge that has none of its own, so that a cut does not click; not for *fold*."""

    def __post_init__(self) -> None:
        for name in ("hold_s", "ring_limit_s", "fade_in_s", "fade_out_s", "silence_before_s", "silence_after_s"):
            value = getattr(self, name)
            if not 0 <= value <= 3600 or (name.startswith("silence") and value > MOST_SILENCE_S):
                most = MOST_SILENCE_S if name.startswith("silence") else 3600
                words = name.removesuffix("_s").replace("_", " ")
                message = f"{words.capitalize()} is {value:g} s; it goes from 0 to {most:g} s."
                raise BadInput("edges.range", message, field=name, value=value)
        if not 0 <= self.declick_ms <= MOST_DECLICK_MS:
            message = f"A de-click fade is {self.declick_ms:g} ms; it goes from 0 to {MOST_DECLICK_MS:g} ms."
            raise BadInput("edges.range", message, field="declick_ms", value=self.declick_ms)


NO_EDGES = Edges()


@dataclass(frozen=True, slots=True)
class Stretch:
    """What part of a mix leaves: frames, edges, how long the tail rings when the edges ask for that, and its name."""

    start_frame: int
    end_frame: int
    edges: Edges = NO_EDGES
    ring_frames: int = 0
    name: str = ""


def range_of(
    facts: SourceFacts, start_frame: int, end_frame: int, edges: Edges = NO_EDGES, ring_frames: int = 0
) -> Range:
    """The range station: everything in frames, never reaching past the mix.

    ``ring_frames`` is what `measure_ring` found; it counts only for *ring* and *fold*. Fades longer than what is
    heard are cut to it.
    """
    rate = facts.rate_hz
    wanted = {"stop": 0, "hold": round(edges.hold_s * rate), "ring": ring_frames, "fold": ring_frames}[edges.end]
    tail = min(wanted, facts.frames - end_frame)
    fold = edges.end == "fold"
    heard = end_frame - start_frame + (0 if fold else tail)
    short = NO_FADE if fold else _fade(edges.declick_ms / 1000, "s", rate, heard) or NO_FADE
    return Range(
        start_frame,
        end_frame,
        facts.frames,
        tail,
        fold,
        _fade(edges.fade_in_s, edges.fade_in_curve, rate, heard) or short,
        _fade(edges.fade_out_s, edges.fade_out_curve, rate, heard) or short,
        round(edges.silence_before_s * rate),
        round(edges.silence_after_s * rate),
    )


def _fade(seconds: float, curve: Curve, rate_hz: int, heard: int) -> Fade | None:
    frames = min(heard, round(seconds * rate_hz))
    return Fade(frames, curve) if frames else None


_END = re.compile(r"^(stop|ring|fold|hold:(\d+(?:\.\d+)?)s?)$")
_FADE = re.compile(r"^(\d+(?:\.\d+)?)s?(?::([a-z-]+))?$")


def parse_end(text: str) -> tuple[EndKind, float]:
    """``stop``, ``hold:2s``, ``ring`` or ``fold`` as (kind, seconds). Raises: BadInput ``edges.end``."""
    found = _END.match(text.strip().lower())
    if not found:
        message = f"{text!r} is not an end treatment. Write stop, hold:2s, ring or fold."
        raise BadInput("edges.end", message, text=text)
    if found[2]:
        return "hold", float(found[2])
    kind: EndKind = next(kind for kind in get_args(EndKind) if kind == found[1])
    return kind, 0.0


def parse_fade(text: str) -> tuple[float, Curve]:
    """``2s`` or ``0.5s:linear`` as (seconds, curve). Raises: BadInput ``edges.fade``."""
    found = _FADE.match(text.strip().lower())
    curve = next((curve for curve in get_args(Curve) if found and curve == (found[2] or "equal-power")), None)
    if not found or curve is None:
        curves = ", ".join(get_args(Curve))
        message = f"{text!r} is not a fade. Write its seconds and, after a colon, its curve: 2s:linear ({curves})."
        raise BadInput("edges.fade", message, text=text)
    return float(found[1]), curve
