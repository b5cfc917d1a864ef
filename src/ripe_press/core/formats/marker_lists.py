"""Markers as files of their own: CSV (RFC 4180) for people and spreadsheets, JSON for programs."""

import csv
import io
import json
from collections.abc import Sequence

from ripe_press.core.errors import BadInput
from ripe_press.core.formats.cells import as_cell, of_cell
from ripe_press.core.timeline import MOST_MARKERS, MOST_NAME, Marker, TempoMap, parse_place
from ripe_press.core.units import print_clock


def markers_csv(markers: Sequence[Marker], rate_hz: int) -> str:
    """``time,samples,name`` a line, with a head; the samples are what counts when it is read back."""
    out = io.StringIO()
    writer = csv.writer(out)
    writer.writerow(("time", "samples", "name"))
    writer.writerows((print_clock(one.frame, rate_hz, 6), one.frame, as_cell(one.name)) for one in markers)
    return out.getvalue()


def markers_json(markers: Sequence[Marker], rate_hz: int) -> str:
    """An object with the rate and a list of ``{"samples": …, "seconds": …, "name": …}``."""
    rows = [{"samples": one.frame, "seconds": one.frame / rate_hz, "name": one.name} for one in markers]
    return json.dumps({"rate_hz": rate_hz, "markers": rows}, ensure_ascii=False, indent=1)


def parse_markers(text: str, rate_hz: int, tempo: TempoMap | None = None) -> tuple[Marker, ...]:
    """Markers from either form; in CSV a time may be written in any unit that the product reads.

    Positions in samples count at the rate the file names; without one, at the rate of the mix.

    Raises: BadInput ``marker.unreadable`` with the line, and whatever `parse_place` raises.
    """
    cleaned = text.strip().removeprefix("\ufeff")
    markers = _from_json(cleaned, rate_hz) if cleaned.startswith(("{", "[")) else _from_csv(cleaned, rate_hz, tempo)
    if not markers:
        message = "No markers found. Write one per line: 0:31.5, Verse."
        raise BadInput("marker.unreadable", message)
    if len(markers) > MOST_MARKERS:
        message = f"{len(markers):,} markers; maximum {MOST_MARKERS:,}. Remove some."
        raise BadInput("marker.unreadable", message)
    return tuple(sorted(markers, key=lambda marker: marker.frame))


def _from_csv(text: str, rate_hz: int, tempo: TempoMap | None) -> list[Marker]:
    rows = [row for row in csv.reader(io.StringIO(text)) if any(cell.strip() for cell in row)]
    columns = [cell.strip().lower() for cell in rows[0]] if rows else []
    headed = "name" in columns and ("time" in columns or "samples" in columns)
    markers: list[Marker] = []
    for number, row in enumerate(rows[1:] if headed else rows, 2 if headed else 1):
        cells = [cell.strip() for cell in row]
        if headed:
            fields = dict(zip(columns, cells, strict=False))
            place = f"{fields['samples']}smp" if fields.get("samples") else fields.get("time", "")
            name = of_cell(fields.get("name", ""))
        else:
            place, name = cells[0], ", ".join(cells[1:])
        try:
            frame = parse_place(place, rate_hz, tempo)
        except BadInput as error:
            message = f"Line {number} of the markers: {error.message}"
            raise BadInput("marker.unreadable", message, line=number) from error
        markers.append(Marker(frame, name[:MOST_NAME] or f"Marker {len(markers) + 1}"))
    return markers


def _from_json(text: str, rate_hz: int) -> list[Marker]:
    try:
        found = json.loads(text)
        rows = found if isinstance(found, list) else found["markers"]
        own_rate = rate_hz if isinstance(found, list) else int(found.get("rate_hz", rate_hz))
        markers: list[Marker] = []
        for row in rows:
            exact = "samples" in row and own_rate == rate_hz
            seconds = row["seconds"] if "seconds" in row else row["samples"] / own_rate
            frame = int(row["samples"]) if exact else round(float(seconds) * rate_hz)
            markers.append(Marker(frame, str(row.get("name", ""))[:MOST_NAME] or f"Marker {len(markers) + 1}"))
    except (ValueError, KeyError, TypeError, AttributeError, ZeroDivisionError, OverflowError) as error:
        message = 'Markers must be JSON of the form {"rate_hz": 48000, "markers": [{"samples": 0, "name": "A"}]}.'
        raise BadInput("marker.unreadable", message) from error
    return markers
