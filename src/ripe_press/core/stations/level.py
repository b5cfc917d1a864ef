"""The level: its target and, after measuring, its gain and limiter.

They are two types, so that a level that is not settled yet cannot be walked as if it were none.
"""

import math
from dataclasses import dataclass
from typing import ClassVar, Literal

from ripe_press.core.blocks import Processor
from ripe_press.core.measure.loudness import LoudnessMeter
from ripe_press.core.measure.signal import SignalResult
from ripe_press.core.signal.gain import Gain
from ripe_press.core.signal.limiter import AHEAD_S, REACH_S, USUAL_LIMITING, Limiter, Limiting
from ripe_press.core.stations.base import Description, PathFacts, Signal, Station, Tap, Work
from ripe_press.core.stations.report import Reduction
from ripe_press.core.units import print_db
from ripe_press.core.words import LEVEL_UNITS

LevelKind = Literal["leave", "peak", "true-peak", "loudness"]

USUAL_TARGETS: dict[LevelKind, float] = {"leave": 0.0, "peak": -0.3, "true-peak": -1.0, "loudness": -14.0}
"""Where a level begins when its kind is chosen."""

MOST_REDUCTION_DB = 12.0
"""More reduction than this changes the mix (our own choice)."""
MOST_GAIN_DB = 60.0
"""Silence and nearly silent mixes are not raised without end."""
_COMPUTES = "The gain uses floating point"


@dataclass(frozen=True, slots=True)
class Target(Station):
    """The level that is asked for, after the rate was converted; it has no gain yet, and cannot be walked.

    ``target`` is in dBFS, dBTP or LUFS by ``level``; loudness is held under ``ceiling_dbtp``, with ``limit`` by a
    limiter and otherwise by staying below the target.
    """

    level: LevelKind
    target: float = 0.0
    ceiling_dbtp: float = -1.0
    limit: bool = True
    only_down: bool = False
    max_reduction_db: float = MOST_REDUCTION_DB
    """Maximum reduction of the limiter: a loudness that needs more is not reached."""
    limiting: Limiting = USUAL_LIMITING
    kind: ClassVar[str] = "level"

    @property
    def peak_max_dbtp(self) -> float:
        """The true peak that a file of this level should not pass, by its target or its ceiling."""
        return self.ceiling_dbtp if self.level == "loudness" else self.target

    @property
    def limits(self) -> bool:
        """Whether a limiter stands behind the gain."""
        return self.level == "loudness" and self.limit

    @property
    def computes(self) -> str:
        """It will, unless it is found that nothing is to be done."""
        return _COMPUTES

    def settled(self, gain_db: float) -> "Level":
        """The work that it comes to at a gain."""
        return Level(gain_db, self.ceiling_dbtp if self.limits else None, self.limiting)

    def first_gain(self, heard: SignalResult) -> float:
        """The gain in dB that meets it, as far as gain alone goes and a limiter may follow; 0 for silence."""
        match self.level:
            case "peak":
                gain = self.target - heard.sample_peak_dbfs
            case "true-peak":
                gain = self.target - heard.true_peak_dbtp
            case "loudness":
                gain = self.target - heard.integrated_lufs
                if math.isfinite(gain):
                    # What has no loudness, for it is too short, is not raised to its ceiling instead.
                    over = self.max_reduction_db if self.limit else 0.0
                    gain = min(gain, self.ceiling_dbtp + over - heard.true_peak_dbtp)
            case _:
                gain = 0.0
        if not math.isfinite(gain):
            return 0.0
        return min(0.0, gain) if self.only_down else min(MOST_GAIN_DB, gain)

    @property
    def in_words(self) -> str:
        """``−14.0 LUFS``, ``peak −0.3 dBFS``, ``−1.0 dBTP``."""
        return ("peak " if self.level == "peak" else "") + print_db(self.target, LEVEL_UNITS[self.level])

    def words(self, known: PathFacts) -> Description:
        """What it aims at, how it is held, and what that comes to as far as is known."""
        gain = None if known.signal is None else self.first_gain(known.signal)
        return level_words(self, known, gain, "≈ ", False)

    def reach(self, rate_hz: int) -> tuple[float, float]:
        """A level without a gain cannot be walked. Raises: TypeError."""
        raise TypeError(_UNSETTLED)

    def work(self, here: Signal) -> Work:
        """A level without a gain cannot be walked. Raises: TypeError."""
        raise TypeError(_UNSETTLED)


_UNSETTLED = "a level is settled before it is walked"


@dataclass(frozen=True, slots=True)
class Level(Station):
    """A gain, and a limiter behind it that holds a ceiling; None means no limiter."""

    gain_db: float
    ceiling_dbtp: float | None = None
    limiting: Limiting = USUAL_LIMITING
    kind: ClassVar[str] = "level"

    @property
    def effort_ms(self) -> float:
        """A limiter looks at every sample four times over."""
        return 13.0 if self.ceiling_dbtp is not None else 1.0

    @property
    def idle(self) -> bool:
        """Whether nothing is done."""
        return not self.gain_db and self.ceiling_dbtp is None

    @property
    def computes(self) -> str:
        """Gain and limiting make new numbers."""
        return "" if self.idle else _COMPUTES

    def lowered(self, by_db: float) -> "Level":
        """The same sound, so much quieter: a limiter holds so much less."""
        lower = None if self.ceiling_dbtp is None else self.ceiling_dbtp - by_db
        return Level(self.gain_db - by_db, lower, self.limiting)

    def reach(self, rate_hz: int) -> tuple[float, float]:
        """What the limiter remembers, and looks ahead."""
        return (0.0, 0.0) if self.ceiling_dbtp is None else (REACH_S * rate_hz, AHEAD_S * rate_hz)

    def work(self, here: Signal) -> Work:
        """Gain where there is any, and the limiter, behind which it is measured what the gain came to."""
        chain: list[Processor] = [Gain(self.gain_db, here.channels)] if self.gain_db else []
        work = limited(Work(chain), self.ceiling_dbtp, here, self.limiting)
        if self.ceiling_dbtp is not None:
            meter = LoudnessMeter(here.channels, here.rate_hz)
            work.taps.append(Tap("limited", meter, len(work.processors), threaded=True))
        return work

    def words(self, known: PathFacts) -> Description:
        """The target and the resulting gain."""
        if not isinstance(known.target, Target):
            sentence = f"Gain {print_db(self.gain_db, 'dB')}."
            return Description(self.kind, "Level", print_db(self.gain_db, "dB"), self.idle, sentence)
        return level_words(known.target, known, self.gain_db, "", self.idle)


def limited(work: Work, ceiling_dbtp: float | None, here: Signal, limiting: Limiting = USUAL_LIMITING) -> Work:
    """The processing followed by a limiter that reports its reduction; unchanged without a ceiling."""
    if ceiling_dbtp is not None:
        limiter = Limiter(ceiling_dbtp, here.rate_hz, here.channels, here.lead, here.frames, limiting)
        work.processors.append(limiter)
        work.readings.append(("reductions", lambda: Reduction(here.rate_hz, limiter.reduction_db)))
    return work


def limiting_words(limiting: Limiting) -> tuple[str, ...]:
    """What departs from the usual: ``dense``, ``sides together``, ``brief peaks clipped``."""
    said = (
        (limiting.character == "dense", "dense"),
        (limiting.sides == "together", "sides together"),
        (limiting.clip, "brief peaks clipped"),
    )
    return tuple(words for holds, words in said if holds)


def level_words(asked: Target, known: PathFacts, gain: float | None, about: str, idle: bool) -> Description:
    """The words for a level that is asked for, at the gain that it comes to, ``about`` or exactly."""
    aim = {"peak": "sample peak", "true-peak": "true peak", "loudness": "integrated loudness"}.get(asked.level, "")
    sentence = f"Target {aim}: {asked.in_words.removeprefix('peak ')}"
    if asked.level == "loudness":
        held = ", ".join((f"limiter, max {asked.max_reduction_db:g} dB reduction", *limiting_words(asked.limiting)))
        how = held if asked.limit else "no limiter"
        sentence += f"; ceiling {print_db(asked.ceiling_dbtp, 'dBTP')} ({how})"
    sentence += "; never raised." if asked.only_down else "."
    if known.back_off:
        ceiling = print_db(asked.peak_max_dbtp, "dBTP")
        sentence += f" Re-encodes lower if decoded peaks exceed {ceiling}."
    figures: list[tuple[str, str]] = []
    detail = "measured when pressed"
    if gain is not None:
        detail = f"{about}{print_db(gain, 'dB')}"
        figures.append(("Gain", detail))
        sentence += f" Gain for this range: {detail}."
    if known.signal is not None:
        figures.append(("Loudness before", print_db(known.signal.integrated_lufs, "LUFS")))
        figures.append(("Peak before", print_db(known.signal.sample_peak_dbfs)))
        if gain is not None and asked.limits and not idle:
            over = known.signal.true_peak_dbtp + gain - asked.ceiling_dbtp
            figures.append(("Gain reduction", print_db(-over, "dB") if over > 0 else "nothing"))
    if idle:
        detail = "no change"
        sentence += " Already at target: no change."
    if known.group:
        sentence += f" All files of group “{known.group}” share one gain."
    return Description("level", asked.in_words, detail, idle, sentence, tuple(figures))
