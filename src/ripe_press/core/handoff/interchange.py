"""The timeline in OpenTimelineIO, the open interchange format of picture editing (its own library writes it)."""

from pathlib import Path
from typing import Any
from urllib.parse import quote

from ripe_press.core.handoff.frame_rate import FrameRate
from ripe_press.core.handoff.timeline import HandedClip, HandedTimeline

NAMESPACE = "ripe_press"


def write_interchange(timeline: HandedTimeline, rate: FrameRate) -> str:
    """The timeline as OTIO's JSON. Times are whole samples of each file, so that nothing is rounded to a frame."""
    import opentimelineio as otio

    made = otio.schema.Timeline(timeline.title)
    reference = timeline.time_reference or 0
    made.global_start_time = otio.opentime.RationalTime(reference, timeline.rate_hz)
    made.metadata[NAMESPACE] = {
        "frame_rate": rate.name, "frames_per_second": [rate.exact.numerator, rate.exact.denominator],
        "drop_frame": rate.drop, "start_timecode": rate.timecode(rate.frame_at(reference, timeline.rate_hz)),
        "sample_rate_hz": timeline.rate_hz,
    }  # fmt: skip
    for number, clip in enumerate(timeline.clips, 1):
        track = otio.schema.Track(clip.track, kind=otio.schema.TrackKind.Audio)
        track.metadata[NAMESPACE] = {"number": number, "channels": clip.channels}
        if clip.gap_frames:
            track.append(otio.schema.Gap(duration=otio.opentime.RationalTime(clip.gap_frames, clip.rate_hz)))
        track.append(_clip(clip, otio))
        made.tracks.append(track)
    for marker in timeline.markers:
        at = otio.opentime.TimeRange(
            otio.opentime.RationalTime(marker.frame, timeline.rate_hz),
            otio.opentime.RationalTime(0, timeline.rate_hz),
        )
        made.tracks.markers.append(otio.schema.Marker(marker.name, at))
    return str(otio.adapters.write_to_string(made, "otio_json")) + "\n"


def address_of(media: str) -> str:
    """Where a file is, as a URL: within the folder of the timeline, or anywhere on the machine."""
    path = Path(media)
    return path.as_uri() if path.is_absolute() else quote(path.as_posix())


def _clip(clip: HandedClip, otio: Any) -> Any:
    def span(start: int, frames: int) -> Any:
        return otio.opentime.TimeRange(
            otio.opentime.RationalTime(start, clip.rate_hz), otio.opentime.RationalTime(frames, clip.rate_hz)
        )

    media = otio.schema.ExternalReference(address_of(clip.media), span(0, clip.file_frames))
    return otio.schema.Clip(clip.track, media, span(clip.first_frame, clip.frames))
