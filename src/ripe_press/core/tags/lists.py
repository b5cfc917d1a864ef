"""Tag sheets as files: JSON and CSV, one mix or many."""

import csv
import io
import json
from collections.abc import Mapping, Sequence
from pathlib import Path
from typing import Any

from ripe_press.core.errors import BadInput
from ripe_press.core.formats.cells import as_cell, of_cell
from ripe_press.core.tags.sheet import FIELDS, Values, in_order
from ripe_press.core.words import quoted

MIX_COLUMN = "mix"
_MOST_BYTES = 8_000_000


def sheets_json(sheets: Sequence[tuple[str, Values]]) -> str:
    """Sheets of mixes by their titles: ``{"sheets": [{"mix": …, "title": …}]}``."""
    rows = [{MIX_COLUMN: mix, **dict(values)} for mix, values in sheets]
    return json.dumps({"sheets": rows}, ensure_ascii=False, indent=2)


def sheets_csv(sheets: Sequence[tuple[str, Values]]) -> str:
    """The same as a table: one line a mix, one column a field."""
    out = io.StringIO()
    writer = csv.DictWriter(out, [MIX_COLUMN, *FIELDS], lineterminator="\r\n")
    writer.writeheader()
    for mix, values in sheets:
        row = {MIX_COLUMN: mix, **dict(values)}
        writer.writerow({name: as_cell(text) for name, text in row.items()})
    return out.getvalue()


def parse_sheets(text: str) -> list[tuple[str, Values]]:
    """Sheets from JSON (one sheet, a list, or as we write it) or CSV with a heading; a missing mix is empty.

    Raises: BadInput ``tags.unreadable``, ``tags.unknown-field``, ``tags.too-long``.
    """
    stripped = text.lstrip("\ufeff \r\n\t")
    rows = _json_rows(stripped) if stripped[:1] in ("{", "[") else _csv_rows(stripped)
    return [_sheet(row) for row in rows]


def read_sheet(path: Path, mix: str) -> Values:
    """The sheet of one mix out of a file: the one that names it, or the only one there is.

    Raises: BadInput as `parse_sheets`, and ``tags.which`` when the file has several and none for this mix.
    """
    try:
        if path.stat().st_size > _MOST_BYTES:
            raise BadInput(
                "tags.unreadable", f"{quoted(path.name)} is too large for tags. Choose another file.", path=str(path)
            )
        text = path.read_text(encoding="utf-8-sig")
    except OSError as error:
        message = f"Cannot read the tags {quoted(path)}: {error.strerror}. Check the path."
        raise BadInput("tags.unreadable", message, path=str(path)) from error
    except UnicodeDecodeError as error:
        message = f"The tags in {quoted(path)} are not text. Use a JSON or CSV file in UTF-8."
        raise BadInput("tags.unreadable", message, path=str(path)) from error
    sheets = parse_sheets(text)
    for name, values in sheets:
        if name and name.casefold() in (mix.casefold(), Path(mix).stem.casefold()):
            return values
    if len(sheets) != 1:
        message = f"{quoted(path.name)} has {len(sheets)} sheets, none named {quoted(Path(mix).stem)}."
        raise BadInput("tags.which", message, path=str(path))
    return sheets[0][1]


def split_tag(text: str) -> tuple[str, str]:
    """``KEY=VALUE`` as field and text; keys with hyphens, in any case. Raises: BadInput ``tags.unreadable``."""
    name, equals, value = text.partition("=")
    field = name.strip().lower().replace("-", "_")
    if not equals or field not in FIELDS:
        message = f"{quoted(text)} is not a tag. Use KEY=VALUE with {', '.join(FIELDS)}."
        raise BadInput("tags.unreadable", message, text=text)
    return field, value


def _json_rows(text: str) -> list[Mapping[str, Any]]:
    try:
        found = json.loads(text)
    except json.JSONDecodeError as error:
        message = f"Tags are not valid JSON: {error.msg} in line {error.lineno}."
        raise BadInput("tags.unreadable", message, line=error.lineno) from error
    rows = found.get("sheets", [found]) if isinstance(found, dict) else found
    if not isinstance(rows, list) or not all(isinstance(row, dict) for row in rows):
        message = "Tags are not a sheet. Use an object with fields or a list of objects."
        raise BadInput("tags.unreadable", message)
    return rows


def _csv_rows(text: str) -> list[Mapping[str, Any]]:
    first = text.split("\n", 1)[0]
    delimiter = max(",;\t", key=first.count)
    reader = csv.DictReader(io.StringIO(text), delimiter=delimiter)
    names = [(name or "").strip().lower() for name in reader.fieldnames or ()]
    if not set(names) & set(FIELDS):
        message = f"No tag field in the first line. Available: {', '.join(FIELDS)}."
        raise BadInput("tags.unreadable", message)
    reader.fieldnames = names
    try:
        return [
            {name: of_cell(cell) if isinstance(cell, str) else cell for name, cell in row.items()} for row in reader
        ]
    except csv.Error as error:
        message = f"Tags are not a CSV table: {error}."
        raise BadInput("tags.unreadable", message) from error


def _sheet(row: Mapping[str, Any]) -> tuple[str, Values]:
    texts = {str(name).lower(): str(value) for name, value in row.items() if value is not None and name is not None}
    return texts.pop(MIX_COLUMN, "").strip(), in_order(texts)
