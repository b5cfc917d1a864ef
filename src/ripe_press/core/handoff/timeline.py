"""Mix, stems and captures on one timeline: where each lies, to the sample, before any format has it."""

from collections.abc import Sequence
from dataclasses import dataclass
from fractions import Fraction

from ripe_press.core.timeline import Marker
from ripe_press.core.units import frames_after_conversion


@dataclass(frozen=True, slots=True)
class HandedClip:
    """A file on a track of its own. ``gap_frames`` of silence come first, then the file from ``first_frame`` on, as
    long as it sounds within the mix; all in frames of the file.
    """

    track: str
    media: str
    """Where the file is, from the folder of the timeline on."""
    rate_hz: int
    file_frames: int
    channels: int
    gap_frames: int = 0
    first_frame: int = 0
    frames: int = 0

    @property
    def start_s(self) -> Fraction:
        """Where it begins to sound, from the beginning of the timeline on."""
        return Fraction(self.gap_frames, self.rate_hz)


@dataclass(frozen=True, slots=True)
class HandedTimeline:
    """Everything that is handed off. ``time_reference`` are the frames of the mix since midnight at its first, where it
    says so.
    """

    title: str
    rate_hz: int
    frames: int
    clips: tuple[HandedClip, ...]
    markers: tuple[Marker, ...] = ()
    time_reference: int | None = None


def placed_clip(
    track: str, media: str, rate_hz: int, file_frames: int, channels: int, late_frames: int, mix: tuple[int, int]
) -> HandedClip:
    """A file next to a mix of ``frames`` samples at a rate, without the parts before its first and after its last
    sample. ``late_frames`` is the delay of a stem, in samples of the mix.
    """
    mix_frames, mix_rate_hz = mix
    late = frames_after_conversion(abs(late_frames), mix_rate_hz, rate_hz)
    gap, first = (late, 0) if late_frames < 0 else (0, late)
    room = frames_after_conversion(mix_frames, mix_rate_hz, rate_hz) - gap
    return HandedClip(track, media, rate_hz, file_frames, channels, gap, first, max(0, min(file_frames - first, room)))


def tracks_of(clips: Sequence[HandedClip]) -> tuple[HandedClip, ...]:
    """The clips that sound at all, in their order."""
    return tuple(one for one in clips if one.frames > 0)
