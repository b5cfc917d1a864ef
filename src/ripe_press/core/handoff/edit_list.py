"""The timeline as plain text: one line per clip, one line per marker."""

from fractions import Fraction

from ripe_press.core.handoff.frame_rate import FrameRate
from ripe_press.core.handoff.timeline import HandedTimeline
from ripe_press.core.units import print_rate

COLUMNS = ("Nr", "Track", "Begins", "Ends", "Start (sample)", "Source sample", "Samples", "Rate", "File")


def write_edit_list(timeline: HandedTimeline, rate: FrameRate) -> str:
    """Columns parted by tabs. Timecode is that of the frame in which something happens; samples say it exactly."""
    reference = Fraction(timeline.time_reference or 0, timeline.rate_hz)

    def code(seconds: Fraction) -> str:
        return rate.timecode(int((reference + seconds) * rate.exact))

    lines = [
        f"Title\t{_cell(timeline.title)}",
        f"Frame rate\t{rate.name}",
        f"Sample rate\t{print_rate(timeline.rate_hz)}",
        f"Begins\t{code(Fraction(0))}\tsample {timeline.time_reference or 0}",
        f"Length\t{timeline.frames} samples",
        "",
        "\t".join(COLUMNS),
    ]
    for number, one in enumerate(timeline.clips, 1):
        end = one.start_s + Fraction(one.frames, one.rate_hz)
        cells = (
            number, _cell(one.track), code(one.start_s), code(end), one.gap_frames, one.first_frame, one.frames,
            one.rate_hz, _cell(one.media),
        )  # fmt: skip
        lines.append("\t".join(str(cell) for cell in cells))
    if timeline.markers:
        lines += ["", "\t".join(("Marker", "At", "Sample"))]
        for marker in timeline.markers:
            at = Fraction(marker.frame, timeline.rate_hz)
            lines.append("\t".join((_cell(marker.name) or "(no name)", code(at), str(marker.frame))))
    return "\n".join(lines) + "\n"


def _cell(text: str) -> str:
    return " ".join(text.split())
