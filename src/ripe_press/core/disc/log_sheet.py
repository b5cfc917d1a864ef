"""The log sheet of a disc, for people: one page that prints well, and needs nothing but itself."""

from collections.abc import Sequence
from dataclasses import dataclass
from html import escape

from ripe_press.core.disc.frames import CAPACITY_FRAMES, print_frames
from ripe_press.core.disc.programme import Programme
from ripe_press.core.paper import Cells, page, paragraph, table
from ripe_press.core.timeline import CD_FRAMES_PER_SECOND, DISC_HZ
from ripe_press.core.units import print_clock, print_db

_TIMES = "Times: minutes, seconds and CD frames (1/75 s) from the start of the image, without the 2 s before track 1."


@dataclass(frozen=True, slots=True)
class TrackLevels:
    """Measurements of a track: sample peak in dBFS, true peak in dBTP, loudness in LUFS."""

    sample_peak_dbfs: float
    true_peak_dbtp: float | None
    integrated_lufs: float | None


@dataclass(frozen=True, slots=True)
class Sums:
    """The files of a disc, each by its name with its SHA-256."""

    files: tuple[tuple[str, str], ...]


def write_log_sheet(
    programme: Programme, levels: Sequence[TrackLevels], crcs: Sequence[int], sums: Sums, day: str
) -> str:
    """HTML, everything in it."""
    texts, end = programme.texts, programme.lead_out_frame
    title = texts.get("TITLE") or "Disc"
    rows = [_row(at, programme, levels, crcs) for at in range(len(programme.tracks))]
    left = "; ".join(
        f"{print_frames(most - end)} left on a {minutes}-minute disc" if end <= most
        else f"{print_frames(end - most)} over a {minutes}-minute disc"
        for minutes, most in CAPACITY_FRAMES.items()
    )  # fmt: skip
    heads = (
        ("Track", "n"), ("Title", ""), ("Starts", "n"), ("Gap before", "n"), ("Length", "n"), ("Indexes", ""),
        ("ISRC", ""), ("Flags", ""), ("Peak", "n"), ("True peak", "n"), ("Loudness", "n"), ("CRC-32", ""),
    )  # fmt: skip
    files = table([("Name", ""), ("SHA-256", "")], [[(name, ""), (digest, "small")] for name, digest in sums.files])
    body = [
        f"<h1>{escape(title)}</h1>", f"<p>{escape(texts.get('PERFORMER', ''))}</p>",
        f"<p>{len(programme.tracks)} tracks · {print_frames(end)} · {left}</p>",
        f"<p>Barcode {escape(programme.barcode or 'none')} · 44.1 kHz, 16 bits, stereo · pressed {escape(day)}</p>",
        paragraph(_TIMES),
        table(heads, rows), "<h2>Files</h2>", files,
    ]  # fmt: skip
    return page(f"{title}: log sheet", "".join(body))


def _row(at: int, programme: Programme, levels: Sequence[TrackLevels], crcs: Sequence[int]) -> Cells:
    track, level = programme.tracks[at], levels[at]
    length = track.end_frame - track.start_frame
    clock = print_clock(length * (DISC_HZ // CD_FRAMES_PER_SECOND), DISC_HZ, 1)
    peak = "" if level.true_peak_dbtp is None else print_db(level.true_peak_dbtp, "dBTP")
    loudness = "" if level.integrated_lufs is None else print_db(level.integrated_lufs, "LUFS")
    indexes = ", ".join(f"{number:02d} at {print_frames(frame)}" for number, frame in enumerate(track.indexes, 2))
    return (
        (str(track.number), "n"), (track.texts.get("TITLE", ""), ""), (print_frames(track.start_frame), "n"),
        (print_frames(track.start_frame - track.pause_frame), "n"), (f"{print_frames(length)} ({clock})", "n"),
        (indexes, ""), (track.isrc, ""), (" ".join(track.flags), ""), (print_db(level.sample_peak_dbfs), "n"),
        (peak, "n"), (loudness, "n"), (f"{crcs[at]:08X}", ""),
    )  # fmt: skip
