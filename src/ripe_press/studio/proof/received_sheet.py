"""The delivery sheet in a folder of received files, and its facts about each."""

import json
from collections.abc import Mapping
from pathlib import Path, PurePosixPath
from typing import Any

from ripe_press.core.errors import BadInput
from ripe_press.core.proof.read_back import Proof
from ripe_press.core.words import quoted

NAME = "delivery-sheet.json"
"""One JSON object; each of its ``files`` has a ``path`` or ``name``, and any facts of those below as in reports."""
_MOST_BYTES = 16 << 20

Said = Mapping[str, Any]
"""What a sheet says of one file; empty for a file that is not on it."""


def read_sheet(folder: Path) -> dict[Path, Said] | None:
    """What the sheet of a folder says, file by file; None where there is none. A path counts by its last part.

    Raises: BadInput ``sheet.unreadable``.
    """
    sheet = folder / NAME
    if not sheet.is_file():
        return None
    try:
        with sheet.open("rb") as file:
            found = json.loads(file.read(_MOST_BYTES))
        rows = found["files"]
        names = [PurePosixPath(str(row.get("name") or row["path"]).replace("\\", "/")) for row in rows]
    except (ValueError, TypeError, KeyError, AttributeError) as error:
        message = f"The delivery sheet in {quoted(folder)} is damaged. Ask for it again."
        raise BadInput("sheet.unreadable", message, path=str(sheet)) from error
    there: dict[str, Path] = {}
    for one in sorted(folder.rglob("*")):
        if one.is_file():
            there.setdefault(one.name, one)
    return {_place(folder, name, there): row for name, row in zip(names, rows, strict=True)}


def departures(said: Said, proof: Proof) -> list[tuple[str, str, str]]:
    """Where a file is not what its sheet says: (fact, said, found)."""
    facts = {
        "bytes": proof.bytes, "sha256": proof.sha256, "frames": proof.frames, "sample_rate_hz": proof.rate_hz,
        "bit_depth": proof.bit_depth, "channels": proof.channels, "container": proof.container, "codec": proof.codec,
    }  # fmt: skip
    return [
        (fact, str(said[fact]), str(found)) for fact, found in facts.items() if fact in said and said[fact] != found
    ]


def _place(folder: Path, name: PurePosixPath, there: Mapping[str, Path]) -> Path:
    """The file of a folder that is meant: at the place that is named, or of that name anywhere in it."""
    if not name.is_absolute() and ".." not in name.parts and (folder / name).is_file():
        return folder / name
    return there.get(name.name, folder / name.name)
