"""The source of a path: the mix on disk, or a replacement for it."""

from dataclasses import dataclass
from typing import ClassVar

from ripe_press.core.formats.facts import SourceFacts
from ripe_press.core.formats.reading.downmix import FOLD_DOWN, describe_downmix
from ripe_press.core.sources.converted import CONVERTED
from ripe_press.core.sources.source import AudioSource, Reader, Sharing
from ripe_press.core.sources.sums import SUM
from ripe_press.core.stations.base import Description, PathFacts, Signal, Station
from ripe_press.core.units import print_clock, print_rate


@dataclass(frozen=True, slots=True)
class Source(Station):
    """Where a walk begins."""

    of: AudioSource
    kind: ClassVar[str] = "source"

    @property
    def facts(self) -> SourceFacts:
        """The facts of the source."""
        return self.of.facts

    def open(self, sharing: Sharing | None = None) -> Reader:
        """Open the source. Raises: as `sources.Source.open`."""
        return self.of.open(sharing)

    @property
    def idle(self) -> bool:
        """A source changes nothing, unless channels are folded down or picked."""
        return not self.facts.downmix

    @property
    def computes(self) -> str:
        """Why its samples are no integers, where they are none."""
        facts = self.facts
        if facts.holds_integers:
            return ""
        if facts.codec == SUM:
            return "Summing uses floating point"
        if facts.codec == CONVERTED:
            return "Rate conversion uses floating point"
        if facts.declares_integers:
            return "Downmixing uses floating point"
        if facts.is_float:
            return f"The mix is {facts.bit_depth}-bit floating point"
        return f"Decoding {facts.codec} gives floating point"

    def begin(self, start_frame: int) -> Signal:
        """What leaves when a walk starts at a frame."""
        return Signal(self.of, self.facts.channels, self.facts.rate_hz, start_frame)

    def words(self, known: PathFacts) -> Description:
        """The mix, its rate, depth, channels and length."""
        facts = self.facts
        depth = depth_label(facts.bit_depth, facts.codec)
        channels = "stereo" if facts.channels == 2 else "mono"
        sentence = "Original file. Never changed."
        label, detail = "Mix", f"{print_rate(facts.rate_hz)} · {depth}"
        if facts.downmix:
            channels = describe_downmix(facts.downmix, facts.file_channels, facts.layout)
            sentence += f" Channels: {channels}."
            folded = facts.downmix == FOLD_DOWN
            label = "Downmix" if folded else f"Channels {facts.downmix}"
            detail = (
                f"downmix of {facts.file_channels} channels" if folded else f"{facts.downmix} of {facts.file_channels}"
            )
        if known.part:
            label, sentence = known.part[:1].upper() + known.part[1:], self._of_part()
            detail = f"{print_rate(facts.rate_hz)} · {'sum' if facts.codec == SUM else depth}"
        return Description(
            self.kind, label, detail, self.idle, sentence,
            (
                ("Rate", print_rate(facts.rate_hz)), ("Depth", depth), ("Channels", channels),
                ("Length", print_clock(facts.frames, facts.rate_hz)),
            ),
        )  # fmt: skip

    def _of_part(self) -> str:
        """The description of a stem or other part as a source."""
        sentence = "Stem or capture, aligned with the mix and as long as it."
        if self.facts.channels == 1 and self.facts.file_channels == 2:
            sentence += " Dual mono: one of the two channels is used."
        return f"{sentence} {self.of.description}".strip()


def depth_label(bit_depth: int | None, codec: str) -> str:
    """``16 bits``, ``32-bit float``, or the codec's name where it has no depth."""
    if bit_depth is None:
        return codec
    return f"{bit_depth}-bit float" if codec == "pcm-float" else f"{bit_depth} bits"
