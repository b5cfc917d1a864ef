"""The log sheet of a disc, for people: one page that prints well, and needs nothing but itself."""

from collections.abc import Sequence
from dataclasses import dataclass
from html import escape

from ripe_press.core.disc.frames import CAPACITY_FRAMES, print_frames
from ripe_press.core.disc.programme import Programme
from ripe_press.core.timeline import CD_FRAMES_PER_SECOND, DISC_HZ
from ripe_press.core.units import print_clock, print_db

_STYLE = """
body { font: 11pt/1.45 Georgia, "Times New Roman", serif; color: #2b1f26; margin: 18mm; }
h1 { font-size: 20pt; margin: 0 0 2mm; } h2 { font-size: 12pt; margin: 8mm 0 2mm; }
p { margin: 0 0 1mm; } table { border-collapse: collapse; width: 100%; margin-top: 5mm; }
th, td { text-align: left; padding: 1.6mm 2mm; border-bottom: .3pt solid #a99; vertical-align: top; }
th { font-weight: 600; border-bottom: 1pt solid #2b1f26; }
td.n, th.n { text-align: right; font-variant-numeric: tabular-nums; }
td.small { font-size: 9pt; color: #6b5b62; word-break: break-all; }
tr { break-inside: avoid; } thead { display: table-header-group; }
@page { size: A4 landscape; margin: 14mm; } @media print { body { margin: 0; } }
"""


@dataclass(frozen=True, slots=True)
class Levels:
    """What was measured of a track: sample peak in dBFS, true peak in dBTP, loudness in LUFS."""

    sample_peak_dbfs: float
    true_peak_dbtp: float | None
    integrated_lufs: float | None


@dataclass(frozen=True, slots=True)
class Sums:
    """The files of a disc, each by its name with its SHA-256."""

    files: tuple[tuple[str, str], ...]


def write_log_sheet(programme: Programme, levels: Sequence[Levels], crcs: Sequence[int], sums: Sums, day: str) -> str:
    """HTML, everything in it."""
    texts, end = programme.texts, programme.lead_out_frame
    title = texts.get("TITLE") or "Disc"
    rows = "".join(_row(at, programme, levels, crcs) for at in range(len(programme.tracks)))
    left = "; ".join(
        f"{print_frames(most - end)} left on a {minutes}-minute disc" if end <= most
        else f"{print_frames(end - most)} too long for a {minutes}-minute disc"
        for minutes, most in CAPACITY_FRAMES.items()
    )  # fmt: skip
    heads = (
        ("Track", "n"), ("Title", ""), ("Starts", "n"), ("Gap before", "n"), ("Length", "n"), ("Indexes", ""),
        ("ISRC", ""), ("Flags", ""), ("Peak", "n"), ("True peak", "n"), ("Loudness", "n"), ("CRC-32", ""),
    )  # fmt: skip
    head = "".join(f'<th class="{kind}">{name}</th>' for name, kind in heads)
    files = "".join(f'<tr><td>{escape(name)}</td><td class="small">{digest}</td></tr>' for name, digest in sums.files)
    return (
        f'<!doctype html>\n<html lang="en"><head><meta charset="utf-8"><title>{escape(title)}: log sheet</title>'
        f"<style>{_STYLE}</style></head><body><h1>{escape(title)}</h1>"
        f"<p>{escape(texts.get('PERFORMER', ''))}</p>"
        f"<p>{len(programme.tracks)} tracks · {print_frames(end)} · {left}</p>"
        f"<p>Barcode {escape(programme.barcode or 'none')} · 44.1 kHz, 16 bits, stereo · pressed {escape(day)}</p>"
        f"<p>Times are minutes, seconds and frames of 1/75 s from the start of the image; the two seconds before "
        f"track 1 are not counted.</p>"
        f"<table><thead><tr>{head}</tr></thead><tbody>{rows}</tbody></table>"
        f"<h2>Files</h2><table><thead><tr><th>Name</th><th>SHA-256</th></tr></thead><tbody>{files}</tbody></table>"
        f"</body></html>\n"
    )


def _row(at: int, programme: Programme, levels: Sequence[Levels], crcs: Sequence[int]) -> str:
    track, level = programme.tracks[at], levels[at]
    length = track.end_frame - track.start_frame
    clock = print_clock(length * (DISC_HZ // CD_FRAMES_PER_SECOND), DISC_HZ, 1)
    peak = "" if level.true_peak_dbtp is None else print_db(level.true_peak_dbtp, "dBTP")
    loudness = "" if level.integrated_lufs is None else print_db(level.integrated_lufs, "LUFS")
    indexes = ", ".join(f"{number:02d} at {print_frames(frame)}" for number, frame in enumerate(track.indexes, 2))
    cells = (
        (str(track.number), "n"), (track.texts.get("TITLE", ""), ""), (print_frames(track.start_frame), "n"),
        (print_frames(track.start_frame - track.pause_frame), "n"), (f"{print_frames(length)} ({clock})", "n"),
        (indexes, ""), (track.isrc, ""), (" ".join(track.flags), ""), (print_db(level.sample_peak_dbfs), "n"),
        (peak, "n"), (loudness, "n"), (f"{crcs[at]:08X}", ""),
    )  # fmt: skip
    return "<tr>" + "".join(f'<td class="{kind}">{escape(text)}</td>' for text, kind in cells) + "</tr>"
