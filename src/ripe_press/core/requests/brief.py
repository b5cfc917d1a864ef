"""A brief: what a recipient asks for."""

from dataclasses import dataclass, field
from typing import Annotated, Any, ClassVar, Literal

from annotated_types import Ge, Gt, Le, Len, MaxLen

from ripe_press.core.formats.capabilities import BITS, CAPABILITIES, Container, Encoding
from ripe_press.core.formats.facts import SourceFacts
from ripe_press.core.formats.fitting import encoding_for, fits, kept_encoding, nearest_rate
from ripe_press.core.requests.delivery import Delivery
from ripe_press.core.requests.edges import SilenceLevel, Stretch
from ripe_press.core.requests.fit_to_brief import from_bar_line, no_longer, with_fades
from ripe_press.core.requests.making import STRICT, Making, settings_of
from ripe_press.core.timeline import TempoMap


@dataclass(frozen=True, slots=True)
class Requirements:
    """Requirements; None or an empty list allows everything. Loudness is a range in LUFS."""

    containers: tuple[Container, ...] = ()
    encodings: tuple[Encoding, ...] = ()
    rates_hz: tuple[int, ...] = ()
    channels: tuple[int, ...] = ()
    sample_peak_max_dbfs: float | None = None
    true_peak_max_dbtp: float | None = None
    loudness_lufs: tuple[float, float] | None = None
    bytes_max: Annotated[int, Gt(0)] | None = None
    kbps_min: Annotated[int, Gt(0)] | None = None
    """The least bit rate in kbit/s, of lossy files."""
    seconds_max: Annotated[float, Gt(0)] | None = None
    rms_dbfs: tuple[float, float] | None = None
    """Plain RMS of the whole, a full-scale sine at −3 dBFS."""
    noise_max_dbfs: float | None = None
    """RMS of the quietest half second, at most."""
    head_s: tuple[float, float] | None = None
    tail_s: tuple[float, float] | None = None
    """Room tone before and after the speech, in seconds."""
    constant_bit_rate: bool = False
    whole_bars: bool = False
    """Whether it is a loop: whole bars at a known tempo, with a seam that is not heard."""

    @property
    def of_speech(self) -> bool:
        """Whether anything is asked that only spoken recordings are measured for."""
        return any(one is not None for one in (self.rms_dbfs, self.noise_max_dbfs, self.head_s, self.tail_s))


@dataclass(frozen=True, slots=True)
class Preferences(Making):
    """Default settings of a brief, with those of the range."""

    from_bar: bool = False
    """Whether it begins on a bar line, where the tempo of the mix is known."""
    tempo_map: bool = False
    """Whether the tempo goes along: as a Standard MIDI File beside it, and in its tags."""
    longest_s: Annotated[float, Ge(0), Le(36_000)] = 0.0
    """It is cut to at most so many seconds, and to whole bars where they are known; 0 cuts nothing."""
    crossfade: bool = False
    """Whether an end that is only cut is crossfaded into its start, unless it repeats without a click as it is."""
    silence_dbfs: SilenceLevel | None = None
    """What counts as silence, where the mix does not say; None is decided by its noise floor."""
    fade_in_s: Annotated[float, Ge(0), Le(60)] = 0.0
    fade_out_s: Annotated[float, Ge(0), Le(60)] = 0.0
    """Fades for ends that have none of their own."""


@dataclass(frozen=True, slots=True)
class Brief:
    """A recipient's requirements and default settings.

    Plain values, so that commands start without a validation library; a test validates the built-in files, and
    imported briefs are validated by the same types.
    """

    id: Annotated[str, Len(1, 61)]
    title: Annotated[str, Len(1, 80)]
    sentence: Annotated[str, Len(1, 300)]
    why: Annotated[str, MaxLen(400)]
    label_pattern: Annotated[str, Len(1, 300)] = "{title} {range} {rate} {depth}"
    drop_off: Annotated[str, MaxLen(120)] = ""
    """The sub-folder of the mix's own that its files go to."""
    tags: tuple[str, ...] = ()
    """Tags that the recipient needs."""
    sends_to: Annotated[tuple[Annotated[str, MaxLen(80)], ...], MaxLen(20)] = ()
    """The drop-offs that its files go to once they are pressed, by their names."""
    require: Requirements = field(default_factory=Requirements)
    prefer: Preferences = field(default_factory=Preferences)
    __pydantic_config__: ClassVar[Any] = STRICT

    def delivery(self, stretch: Stretch, facts: SourceFacts, tempo: TempoMap | None = None) -> Delivery:
        """A delivery of a stretch of a mix to this brief, with everything as the brief prefers it."""
        settled = {"encoding": self._encoding(facts), "rate_hz": self._rate_hz(facts)}
        return Delivery(
            **settings_of(self.prefer) | settled, brief=self.id, stretch=self._stretch(stretch, facts, tempo),
            label_pattern=self.label_pattern, sends_to=self.sends_to,
        )  # fmt: skip

    def _stretch(self, stretch: Stretch, facts: SourceFacts, tempo: TempoMap | None) -> Stretch:
        prefer = self.prefer
        if prefer.from_bar and tempo:
            stretch = from_bar_line(stretch, tempo, facts.rate_hz)
        if prefer.longest_s:
            stretch = no_longer(stretch, prefer.longest_s, tempo, facts.rate_hz, facts.frames)
        return with_fades(stretch, prefer.fade_in_s, prefer.fade_out_s)

    def _encoding(self, facts: SourceFacts) -> Encoding:
        if self.prefer.encoding != "keep":
            return self.prefer.encoding
        can = CAPABILITIES[self.prefer.container].encodings
        allowed = [one for one in can if not self.require.encodings or one in self.require.encodings]
        if CAPABILITIES[self.prefer.container].lossy or not allowed:
            return encoding_for(self.prefer.container, facts)
        kept = kept_encoding(facts)
        # A kept value must not lose anything of the mix, as far as the recipient accepts it.
        whole = [one for one in allowed if fits(facts, one)]
        return (
            kept
            if kept in allowed
            else min(whole, key=BITS.__getitem__)
            if whole
            else max(allowed, key=BITS.__getitem__)
        )

    def _rate_hz(self, facts: SourceFacts) -> int | Literal["keep"]:
        if self.prefer.rate_hz != "keep":
            return self.prefer.rate_hz
        can = CAPABILITIES[self.prefer.container]
        allowed = tuple(one for one in self.require.rates_hz if can.takes_rate(one)) or can.rates_hz
        if not allowed or facts.rate_hz in allowed:
            return "keep"
        return nearest_rate(facts.rate_hz, allowed)
