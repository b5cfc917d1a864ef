"""The file itself: container, encoding, and how a lossy encoder is set."""

from dataclasses import dataclass
from pathlib import Path
from typing import ClassVar

import numpy as np

from ripe_press.core.blocks import Meter
from ripe_press.core.formats.capabilities import BITS, CAPABILITIES, Container, Encoding, is_float
from ripe_press.core.formats.coding import Coding
from ripe_press.core.formats.writing._file import NewFile
from ripe_press.core.formats.writing.encoders import BY_RATE, Masked
from ripe_press.core.formats.writing.writers import open_writer
from ripe_press.core.measure.signal import SamplesHash, SignalMeter
from ripe_press.core.stations.base import Description, OfIntegers, PathFacts, Signal, Station, Tap, Work
from ripe_press.core.tags.cover import still_picture
from ripe_press.core.timeline import Marker
from ripe_press.core.units import print_clock, print_count


@dataclass(frozen=True, slots=True)
class Codec(Station):
    """Container and encoding of the file, the frames it must hold, and how a lossy encoder is set."""

    container: Container
    encoding: Encoding
    rate_hz: int
    channels: int
    frames: int
    exact: bool = False
    """Whether the samples that leave are the samples that came, to the bit."""
    coding: Coding | None = None
    loudness: bool = False
    """Whether the file stores its loudness, which is then measured on the input."""
    chapters: tuple[Marker, ...] = ()
    """Where the container keeps them as a part of the sound's own structure."""
    picture: str = ""
    """The still picture of a video; everything else is added when the file is closed."""
    kind: ClassVar[str] = "codec"
    writes: ClassVar[bool] = True
    apart: ClassVar[bool] = True
    trims: ClassVar[bool] = True

    @property
    def lossy(self) -> bool:
        """Return whether decoding gives other samples than were encoded."""
        return self.encoding == "lossy"

    @property
    def effort_ms(self) -> float:
        """What the encoder takes."""
        return CAPABILITIES[self.container].effort_ms

    def writer(self, path: Path) -> NewFile:
        """The new file. Raises: Interrupted ``write.failed``."""
        picture = still_picture(self.picture) if CAPABILITIES[self.container].shows_picture else None
        return open_writer(
            path, self.container, self.encoding, self.rate_hz, self.channels, self.frames, self.coding, self.chapters,
            picture,
        )  # fmt: skip

    def work(self, here: Signal) -> Work:
        """Besides writing: a fingerprint where samples are promised, loudness where the file stores it."""
        work = Work()
        if self.exact and not here.integers:
            work.taps.append(Tap("fingerprint", SamplesHash()))
        if self.loudness:
            meter: Meter = SignalMeter(here.channels, here.rate_hz)
            work.taps.append(Tap("signal", OfIntegers(meter) if here.integers else meter))
        return work

    def words(self, known: PathFacts) -> Description:
        """What the file keeps, and how large it will be."""
        can = CAPABILITIES[self.container]
        figures = [("Samples", f"{self.frames:,}")]
        if known.forecast:
            figures.append(("Size", str(known.forecast)))
        figures.append(("Length", print_clock(self.frames, self.rate_hz)))
        if self.coding:
            return self._lossy(self.coding, figures)
        exact = " Bit-exact." if self.exact else ""
        kind = "floating-point samples" if is_float(self.encoding) else f"{BITS[self.encoding]}-bit integers"
        sentence = f"Uncompressed {kind}. The size is exact."
        if can.compressed:
            sentence = f"Lossless compression of {kind}. The size depends on the audio."
        detail = "bit-exact" if self.exact else "float" if is_float(self.encoding) else "PCM"
        return Description(self.kind, can.title, detail, False, sentence + exact, tuple(figures))

    def _lossy(self, coding: Coding, figures: list[tuple[str, str]]) -> Description:
        can = CAPABILITIES[self.container]
        how = {
            "constant": "constant bit rate", "average": "average bit rate", "variable": "variable bit rate",
        }[coding.mode]  # fmt: skip
        share = ""
        if coding.kbps:
            times = self.rate_hz * self.channels * 16 / (coding.kbps * 1000)
            share = f", {times:.1f} times smaller than 16-bit PCM"
        sentence = f"Lossy, {how}{share}. Decodes to exactly {print_count(self.frames, 'sample')}."
        sentence += self._masked(coding)
        if can.shows_picture:
            sentence = f"Video with the cover as a still picture. {sentence}"
        figures.insert(0, ("Encoder", str(coding)))
        detail = f"{coding.kbps}k" if coding.kbps else f"quality {coding.quality}"
        return Description(self.kind, can.title.split(",")[0], detail, False, sentence, tuple(figures))

    def _masked(self, coding: Coding) -> str:
        """How far the error lies below what the ear masks, and that of other codecs at the same rate, by a model."""

        def below(table: Masked) -> float | None:
            # One channel alone has twice the bits of each of two.
            value = coding.kbps * 2 / self.channels if coding.kbps else coding.quality
            if not table or not table[0][0] <= value <= table[-1][0]:
                return None
            return -float(np.interp(value, [rate for rate, _ in table], [db for _, db in table]))

        can = CAPABILITIES[self.container]
        own = below(can.masked) if bool(coding.kbps) == (can.knobs[0][1] == "kbps") else None
        if own is None:
            return ""
        others = (
            []
            if not coding.kbps
            else [
                f"{named} {db:.0f}" for named, table in BY_RATE.items() if table != can.masked and (db := below(table))
            ]
        )
        beside = f" (at the same bit rate: {', '.join(others)})" if others else ""
        return f" Typical coding error: {own:.0f} dB below masking{beside}."
