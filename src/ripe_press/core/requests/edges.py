"""The edges a delivery asks for, and what they become in frames."""

import re
from dataclasses import dataclass
from typing import Annotated, Literal, get_args

from annotated_types import Ge, Le

from ripe_press.core.errors import BadInput
from ripe_press.core.formats.facts import SourceFacts
from ripe_press.core.measure.places.tail import NOTHING_FOLLOWS, Tail
from ripe_press.core.signal.edges import MOST_SILENCE_S
from ripe_press.core.signal.fade import NO_FADE, Curve, Fade
from ripe_press.core.stations.range import Range
from ripe_press.core.words import quoted

EndKind = Literal["stop", "hold", "ring", "fold", "crossfade"]
TAKES_A_TAIL: tuple[EndKind, ...] = ("ring", "fold")
"""Ends that need a tail that decays behind them."""

SilenceLevel = Annotated[float, Ge(-120), Le(-20)]
"""A level in dBFS, as a full-scale sine reads 0, that counts as silence."""

RING_BELOW_DBFS = -70.0
RING_LIMIT_S = 30.0
MOST_DECLICK_MS = 50.0
MOST_CROSSFADE_MS = 200.0
DECLICK_MS = 3.0
"""Long enough to take a click away, too short to be heard as a fade (common practice, no source)."""


@dataclass(frozen=True, slots=True)
class Edges:
    """End treatment, fades in seconds, silence in seconds. ``hold_s`` is for *hold* alone.

    *Ring out* and *fold* continue until everything stays below ``ring_below_dbfs``, at most ``ring_limit_s``.
    *Crossfade* fades the last ``crossfade_ms`` into the sound before the start; 0 chooses the length by its seam.
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
    crossfade_ms: float = 0.0
    room_tone: bool = False
    """Whether the silence before and after is room tone of the recording itself."""
    """A very short fade at an edge that has none of its own, so that a cut does not click; not for *fold*."""

    def __post_init__(self) -> None:
        for name in ("hold_s", "ring_limit_s", "fade_in_s", "fade_out_s", "silence_before_s", "silence_after_s"):
            value = getattr(self, name)
            if not 0 <= value <= 3600 or (name.startswith("silence") and value > MOST_SILENCE_S):
                most = MOST_SILENCE_S if name.startswith("silence") else 3600
                words = name.removesuffix("_s").replace("_", " ")
                message = f"{words.capitalize()} is {value:g} s. Use 0 to {most:g} s."
                raise BadInput("edges.range", message, field=name, value=value)
        if not 0 <= self.declick_ms <= MOST_DECLICK_MS:
            message = f"A de-click fade is {self.declick_ms:g} ms. Use 0 to {MOST_DECLICK_MS:g} ms."
            raise BadInput("edges.range", message, field="declick_ms", value=self.declick_ms)
        if not 0 <= self.crossfade_ms <= MOST_CROSSFADE_MS:
            message = f"Crossfade is {self.crossfade_ms:g} ms. Use 0 (automatic) to {MOST_CROSSFADE_MS:g} ms."
            raise BadInput("edges.range", message, field="crossfade_ms", value=self.crossfade_ms)


NO_EDGES = Edges()


@dataclass(frozen=True, slots=True)
class Stretch:
    """What part of a mix leaves: frames, edges, what follows its end, and its name.

    ``ring_frames`` is how long a tail rings, ``crossfade_frames`` the length of a crossfade, where the edges ask for
    one. ``sounding`` is from where to where the programme of the whole mix sounds, where that is known.
    """

    start_frame: int
    end_frame: int
    edges: Edges = NO_EDGES
    ring_frames: int = 0
    name: str = ""
    tail: Tail = NOTHING_FOLLOWS
    crossfade_frames: int = 0
    tone: tuple[int, int] | None = None
    """The quiet stretch of the mix that room tone is made of, where the edges ask for it."""
    sounding: tuple[int, int] | None = None
    shortened: bool = False
    """Whether the brief took less than was asked for."""
    loudest: tuple[int, int] | None = None
    """Then: the loudest part of the mix of about that length, from a bar line on where bars are known."""
    on_bars: tuple[int, int] | None = None
    """The whole bars nearest to it, where it is to be whole bars and is not."""
    moved_frames: int = 0
    """How much earlier than asked for it begins, so that it begins on a bar line."""

    def cut(self, facts: SourceFacts) -> Range:
        """Its range station."""
        return range_of(
            facts, self.start_frame, self.end_frame, self.edges, self.ring_frames, self.crossfade_frames, self.tone
        )


def range_of(
    facts: SourceFacts,
    start_frame: int,
    end_frame: int,
    edges: Edges = NO_EDGES,
    ring_frames: int = 0,
    crossfade_frames: int = 0,
    tone: tuple[int, int] | None = None,
) -> Range:
    """The range station: everything in frames, never reaching past the mix.

    ``ring_frames`` counts only for *ring* and *fold*, ``crossfade_frames`` only for *crossfade*. Fades longer than the
    range are shortened to it.
    """
    rate = facts.rate_hz
    hold = round(edges.hold_s * rate)
    wanted = {"stop": 0, "hold": hold, "ring": ring_frames, "fold": ring_frames, "crossfade": 0}[edges.end]
    tail = min(wanted, facts.frames - end_frame)
    fold = edges.end == "fold"
    heard = end_frame - start_frame + (0 if fold else tail)
    loops = edges.end in ("fold", "crossfade")
    short = NO_FADE if loops else _fade(edges.declick_ms / 1000, "s", rate, heard) or NO_FADE
    around = round(edges.silence_before_s * rate), round(edges.silence_after_s * rate)
    toned = edges.room_tone and tone is not None and not loops
    return Range(
        start_frame,
        end_frame,
        facts.frames,
        tail,
        fold,
        _fade(edges.fade_in_s, edges.fade_in_curve, rate, heard) or short,
        _fade(edges.fade_out_s, edges.fade_out_curve, rate, heard) or short,
        *((0, 0) if toned else around),
        crossfade_frames=min(crossfade_frames, heard) if edges.end == "crossfade" else 0,
        tone=tone if toned else None,
        tone_before=around[0] if toned else 0,
        tone_after=around[1] if toned else 0,
    )


def _fade(seconds: float, curve: Curve, rate_hz: int, heard: int) -> Fade | None:
    frames = min(heard, round(seconds * rate_hz))
    return Fade(frames, curve) if frames else None


_END = re.compile(r"^(stop|ring|fold|crossfade|(hold):(\d+(?:\.\d+)?)s?|(crossfade):(\d+(?:\.\d+)?)(?:ms)?)$")
_FADE = re.compile(r"^(\d+(?:\.\d+)?)s?(?::([a-z-]+))?$")


def parse_end(text: str) -> Edges:
    """``cut``, ``extend:2s``, ``ring``, ``fold``, ``crossfade`` or ``crossfade:10ms``. Raises: BadInput ``edges.end``.

    ``stop`` and ``hold`` are older names of the first two.
    """
    wish = text.strip().lower()
    found = _END.match(wish.replace("cut", "stop", 1).replace("extend", "hold", 1))
    if not found:
        message = f"“{text}” is not an end treatment. Use cut, extend:2s, ring, fold or crossfade."
        raise BadInput("edges.end", message, text=text)
    if found[2]:
        return Edges("hold", hold_s=float(found[3]))
    if found[4]:
        return Edges("crossfade", crossfade_ms=float(found[5]))
    return Edges(next(kind for kind in get_args(EndKind) if kind == found[1]))


def parse_fade(text: str) -> tuple[float, Curve]:
    """``2s`` or ``0.5s:linear`` as (seconds, curve). Raises: BadInput ``edges.fade``."""
    found = _FADE.match(text.strip().lower())
    curve = next((curve for curve in get_args(Curve) if found and curve == (found[2] or "equal-power")), None)
    if not found or curve is None:
        curves = ", ".join(get_args(Curve))
        message = f"{quoted(text)} is not a fade. Use seconds and curve, for example 2s:linear ({curves})."
        raise BadInput("edges.fade", message, text=text)
    return float(found[1]), curve
