"""Label patterns: literal text and ``{fields}`` (level 1 of RFC 6570), made safe for every file system.

A slash parts sub-folders from each other and from the name.
"""

import re
import unicodedata
from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass
from pathlib import Path, PurePosixPath
from typing import Annotated, Literal

from annotated_types import Ge, Le

from ripe_press.core.errors import BadInput, Conflict
from ripe_press.core.words import quoted

MAX_NAME_BYTES = 200
"""Bytes of UTF-8 left to a stem: most file systems stop at 255, and a number or an ending may follow."""

MOST_FOLDERS = 6

_FIELD = re.compile(r"\{([^{}]*)\}")
_FORBIDDEN = re.compile(r'[<>:"/\\|?*\x00-\x1f\x7f-\x9f\u2028\u2029\ud800-\udfff]')
# What turns the direction of letters, or is not seen at all, shows another name than there is: "Weir\u202e3pm.exe".
_UNSEEN = re.compile("[\u061c\u200b\u200e\u200f\u202a-\u202e\u2060-\u2069\ufeff\ufff9-\ufffb\U000e0000-\U000e007f]")
# Names that one widespread family of systems keeps for devices, with any ending (common practice, no source).
_RESERVED = re.compile(r"^(con|prn|aux|nul|com[0-9]|lpt[0-9])(\..*)?$", re.IGNORECASE)

Case = Literal["as-is", "lower", "upper"]
Spaces = Literal["keep", "hyphen", "underscore", "none"]
Clash = Literal["keep-both", "replace", "skip"]
"""What happens where a file of that name is there already."""

LABEL_FIELDS: dict[str, str] = {
    "title": "title from the tag sheet, or mix title", "range": "range name", "brief": "brief name",
    "stem": "stem, or summed stems",
    "number": "number on the ticket", "side": "L or R of two files", "tempo": "tempo with bpm", "metre": "metre, 4-4",
    "bars": "bars of the range", "start": "start of the range in the mix, 0m03s",
    "rate": "sample rate, 44k1", "depth": "bit depth, 24b, or bit rate, 320k", "channels": "stereo or mono",
    "format": "format name", "kbps": "bit rate in kbit/s", "mode": "constant, average or variable",
    "dither": "dither type", "level": "target level with its unit",
    "length": "length, 2m31s", "mix": "file name of the mix", "pressed": "date of the pressing, 2026-11-23",
    "version": "from the tag sheet",
    "artist": "from the tag sheet", "album_artist": "from the tag sheet", "album": "from the tag sheet",
    "track": "from the tag sheet, without the total", "disc": "from the tag sheet, without the total",
    "date": "from the tag sheet", "year": "year of the date in the tag sheet", "genre": "from the tag sheet",
    "key": "from the tag sheet", "composer": "from the tag sheet", "publisher": "from the tag sheet",
    "isrc": "from the tag sheet", "barcode": "from the tag sheet", "language": "from the tag sheet",
    "copyright": "from the tag sheet", "contact_name": "from the tag sheet", "contact_phone": "from the tag sheet",
    "contact_email": "from the tag sheet", "web": "from the tag sheet",
}  # fmt: skip
"""Every field of a pattern with its meaning."""

_NUMBERS = ("number", "track", "disc")


@dataclass(frozen=True, slots=True)
class NameStyle:
    """Format of label pattern fields: digits, case, spaces."""

    digits: Annotated[int, Ge(1), Le(4)] = 2
    case: Case = "as-is"
    spaces: Spaces = "keep"


PLAIN_STYLE = NameStyle()


def expand(pattern: str, fields: Mapping[str, str]) -> str:
    """The pattern with every field filled in.

    Raises: BadInput ``label.unknown-field``, naming the fields there are.
    """

    def fill(found: re.Match[str]) -> str:
        name = found[1].strip()
        if name not in fields:
            known = ", ".join(sorted(fields))
            message = f"Unknown label pattern field {{{name}}}. Available: {known}."
            raise BadInput("label.unknown-field", message, field=name)
        return fields[name]

    return _FIELD.sub(fill, pattern)


def fill_known(text: str, fields: Mapping[str, str]) -> str:
    """A text with the fields that there are filled in; any other braces stay as they are."""
    return _FIELD.sub(lambda found: fields.get(found[1].strip(), found[0]), text)


def check_pattern(pattern: str) -> str:
    """The pattern itself, once it is one.

    Raises: BadInput ``label.unknown-field``, ``label.unclosed``, ``label.empty`` or ``label.too-deep``.
    """
    if not pattern.strip(" /"):
        message = "The label pattern is empty. Write at least {title}."
        raise BadInput("label.empty", message)
    if re.search(r"[{}]", _FIELD.sub("", pattern)):
        message = "Unmatched brace in the label pattern. Write fields as {title}."
        raise BadInput("label.unclosed", message)
    if (folders := len(_parts(pattern)) - 1) > MOST_FOLDERS:
        message = f"The label pattern has {folders} nested folders; maximum {MOST_FOLDERS}. Remove some."
        raise BadInput("label.too-deep", message, folders=folders)
    expand(pattern, dict.fromkeys(LABEL_FIELDS, "x"))
    return pattern


def file_name(pattern: str, fields: Mapping[str, str], style: NameStyle, suffix: str) -> str:
    """The name of a file with its sub-folders, parted by slashes, safe on every file system.

    Raises: BadInput as `check_pattern`.
    """
    check_pattern(pattern)
    padded = {name: text.zfill(style.digits) if name in _NUMBERS and text else text for name, text in fields.items()}
    # Slashes of the pattern part folders; those that come in with a field do not.
    parts = [_styled(expand(part, padded), style) for part in _parts(pattern)]
    kept = [safe_stem(part) for part in parts if part.strip(" .")] or [safe_stem("")]
    return str(PurePosixPath(*kept[:-1], kept[-1] + suffix))


def _parts(pattern: str) -> list[str]:
    return [part for part in pattern.split("/") if part.strip(" .")]


def _styled(text: str, style: NameStyle) -> str:
    tidy = re.sub(r"\s+", " ", text).strip()
    # A field that is empty leaves no doubled or dangling hyphens behind.
    tidy = re.sub(r"(?:\s-)+(?=\s-\s)|^(?:-\s)+|(?:\s-)+$", "", tidy).strip()
    if style.case != "as-is":
        tidy = tidy.lower() if style.case == "lower" else tidy.upper()
    joint = {"keep": " ", "hyphen": "-", "underscore": "_", "none": ""}[style.spaces]
    return tidy.replace(" ", joint)


def safe_stem(text: str) -> str:
    """A file name without its ending that every file system takes; never empty."""
    cleaned = _FORBIDDEN.sub("-", _UNSEEN.sub("", unicodedata.normalize("NFC", text)))
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


def length_label(frames: int, rate_hz: int) -> str:
    """A length as file names carry it: ``2m31s``, ``1h02m03s``."""
    seconds = (2 * frames + rate_hz) // (2 * rate_hz)
    hours, minutes = seconds // 3600, seconds // 60 % 60
    return f"{hours}h{minutes:02d}m{seconds % 60:02d}s" if hours else f"{minutes}m{seconds % 60:02d}s"


@dataclass(frozen=True, slots=True)
class FilePlace:
    """Where a file goes. ``clash`` is the obstacle: none, another file of the ticket, or one on the disk."""

    path: Path
    clash: Literal["", "ticket", "disk"] = ""
    skipped: bool = False
    replaces: bool = False


InTheWay = Literal["", "file", "other"]
"""What exists at a path: nothing, a file, or another kind of object."""


def place(wanted: Iterable[Path], clash: Clash, in_the_way: Callable[[Path], InTheWay]) -> list[FilePlace]:
    """The places of files in order, with every clash settled; ``in_the_way`` looks at the disk, or anywhere else.

    Files of one ticket never take each other's place: the later gets a number. Names that differ only in case or
    in Unicode form are the same name, for on many disks they are. Raises: Conflict ``label.no-free-name``.
    """
    taken: set[str] = set()
    placed = []
    for path in wanted:
        within = folded_name(path) in taken
        there = in_the_way(path)
        if there and not within and clash == "skip":
            placed.append(FilePlace(path, "disk", skipped=True))
            continue
        replaces = there == "file" and not within and clash == "replace"
        chosen = path if replaces else _free(path, taken, in_the_way)
        taken.add(folded_name(chosen))
        placed.append(FilePlace(chosen, "ticket" if within else "disk" if there else "", replaces=replaces))
    return placed


def folded_name(path: Path) -> str:
    """What a path is to a disk that knows neither case nor Unicode forms."""
    return unicodedata.normalize("NFC", str(path)).casefold()


def _free(path: Path, taken: set[str], in_the_way: Callable[[Path], InTheWay]) -> Path:
    if folded_name(path) not in taken and not in_the_way(path):
        return path
    for number in range(2, 10_000):
        other = path.with_name(f"{path.stem} ({number}){path.suffix}")
        if folded_name(other) not in taken and not in_the_way(other):
            return other
    message = f"Too many files named {quoted(path.name)} in {quoted(path.parent)}. Choose another folder."
    raise Conflict("label.no-free-name", message, path=str(path))
