"""Frame rates of picture, and timecode by them (SMPTE ST 12-1, from memory of the text)."""

from dataclasses import dataclass
from fractions import Fraction

from ripe_press.core.errors import BadInput
from ripe_press.core.words import quoted

_NTSC = Fraction(1000, 1001)


@dataclass(frozen=True, slots=True)
class FrameRate:
    """Frames a second as timecode counts them (``nominal``), slower by 1001/1000 where it is ``pulled``. With ``drop``
    timecode leaves out numbers, so that it says the time of the clock; no frame of the picture is left out.
    """

    nominal: int
    pulled: bool = False
    drop: bool = False

    @property
    def exact(self) -> Fraction:
        """Frames a second."""
        return self.nominal * (_NTSC if self.pulled else Fraction(1))

    @property
    def name(self) -> str:
        """``25``, ``23.976``, ``29.97 drop frame``."""
        shown = f"{float(self.exact):.3f}".rstrip("0").rstrip(".")
        return f"{shown} drop frame" if self.drop else shown

    def frame_at(self, sample: int, rate_hz: int) -> int:
        """The frame of the picture that is shown at a sample."""
        return int(Fraction(sample, rate_hz) * self.exact)

    def timecode(self, frame: int) -> str:
        """Hours, minutes, seconds and frames; drop frame has a semicolon before the frames."""
        if self.drop:
            # Two numbers of thirty, four of sixty, are left out at every minute but the tenth.
            left_out = self.nominal // 15
            minute = self.nominal * 60 - left_out
            tens, rest = divmod(frame, minute * 10 + left_out)
            frame += left_out * 9 * tens
            if rest >= self.nominal * 60:
                frame += left_out * ((rest - self.nominal * 60) // minute + 1)
        seconds, frames = divmod(frame, self.nominal)
        mark = ";" if self.drop else ":"
        return f"{seconds // 3600 % 24:02}:{seconds // 60 % 60:02}:{seconds % 60:02}{mark}{frames:02}"


RATES: dict[str, FrameRate] = {
    "23.976": FrameRate(24, pulled=True), "24": FrameRate(24), "25": FrameRate(25),
    "29.97": FrameRate(30, pulled=True), "29.97df": FrameRate(30, pulled=True, drop=True), "30": FrameRate(30),
    "48": FrameRate(48), "50": FrameRate(50), "59.94": FrameRate(60, pulled=True),
    "59.94df": FrameRate(60, pulled=True, drop=True), "60": FrameRate(60),
}  # fmt: skip
"""Every rate by its typed form."""


def parse_frame_rate(text: str) -> FrameRate:
    """A rate as it is typed. Raises: BadInput ``frame-rate.unknown``."""
    found = RATES.get(text.strip().lower().replace(" ", "").replace("23.98", "23.976"))
    if found is None:
        message = f"{quoted(text)} is not a frame rate. Available: {', '.join(RATES)} (df is drop frame)."
        raise BadInput("frame-rate.unknown", message, text=text)
    return found
