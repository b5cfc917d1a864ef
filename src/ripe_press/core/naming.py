"""Label patterns: literal text and ``{fields}`` (level 1 of RFC 6570), made safe for every file system."""

import re
import unicodedata
from collections.abc import Mapping
from pathlib import Path

from ripe_press.core.errors import BadInput, Conflict

MAX_NAME_BYTES = 200
"""Bytes of UTF-8 left to a stem: most file systems stop at 255, and a number or an ending may follow."""

_FIELD = re.compile(r"\{([^{}]*)\}")
_FORBIDDEN = re.compile(r'[<>:"/\\|?*\x00-\x1f\x7f]')
# Names that one widespread family of systems keeps for devices, with any ending (common practice, no source).
_RESERVED = re.compile(r"^(con|prn|aux|nul|com[0-9]|lpt[0-9])(\..*)?$", re.IGNORECASE)


def expand(pattern: str, fields: Mapping[str, str]) -> str:
    """The pattern with every field filled in.

    Raises: BadInput ``label.unknown-field``, naming the fields there are.
    """

    def fill(found: re.Match[str]) -> str:
        name = found[1].strip()
        if name not in fields:
            known = ", ".join(sorted(fields))
            message = f"The label pattern asks for {{{name}}}, which is not a field. There are: {known}."
            raise BadInput("label.unknown-field", message, field=name)
        return fields[name]

    return _FIELD.sub(fill, pattern)


def safe_stem(text: str) -> str:
    """A file name without its ending that every file system takes; never empty."""
    cleaned = _FORBIDDEN.sub("-", unicodedata.normalize("NFC", text))
    cleaned = re.sub(r"\s+", " ", cleaned).strip(" .")
    while len(cleaned.encode()) > MAX_NAME_BYTES:
        cleaned = cleaned[:-1].rstrip(" .")
    if _RESERVED.match(cleaned):
        cleaned = f"{cleaned}-"
    return cleaned or "untitled"


def rate_label(rate_hz: int) -> str:
    """A rate as file names carry it: ``44k1``, ``96k``, ``22k05``."""
    kilo, rest = divmod(rate_hz, 1000)
    return f"{kilo}k{f'{rest:03d}'.rstrip('0')}"


def numbered(path: Path, taken: frozenset[Path] = frozenset()) -> Path:
    """The path itself, or the first ``name (2).wav`` that neither exists nor is already taken."""
    if path not in taken and not path.exists():
        return path
    for number in range(2, 10_000):
        other = path.with_name(f"{path.stem} ({number}){path.suffix}")
        if other not in taken and not other.exists():
            return other
    message = f"There are ten thousand files called {path.name!r} in {str(path.parent)!r}. Choose another folder."
    raise Conflict("label.no-free-name", message, path=str(path))
