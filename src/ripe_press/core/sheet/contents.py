"""The delivery sheet as a value: files, findings, sign-offs, contact."""

from collections.abc import Mapping, Sequence
from dataclasses import asdict, dataclass, field
from typing import Any, Literal

from ripe_press.core.rules.findings import Verdict
from ripe_press.core.units import print_clock, print_db, print_rate
from ripe_press.core.words import VERDICTS

VERSION: Literal[1] = 1
NAMES = ("delivery-sheet.html", "delivery-sheet.pdf", "delivery-sheet.json", "checksums.sha256")
"""What a sheet is written as, in a folder: for reading, for printing, for machines, and for `sha256sum -c`."""


@dataclass(frozen=True, slots=True)
class Remark:
    """A finding of a file, with name and reason if a person signed it off."""

    rule: str
    verdict: Verdict
    sentence: str
    accepted_by: str = ""
    reason: str = ""


@dataclass(frozen=True, slots=True)
class SheetFile:
    """A delivered file. ``name`` is its path in the folder of the sheet, with slashes; unmeasured values are
    None. ``tags`` are those in the file.
    """

    name: str
    brief: str
    container: str
    codec: str
    sample_rate_hz: int
    bit_depth: int | None
    channels: int
    frames: int
    bytes: int
    sha256: str
    verdict: Verdict = "ready"
    findings: tuple[Remark, ...] = ()
    sample_peak_dbfs: float | None = None
    true_peak_dbtp: float | None = None
    integrated_lufs: float | None = None
    tags: Mapping[str, str] = field(default_factory=dict)

    def tag(self, name: str) -> str:
        """What the file says in one of its tags; empty where it does not have it."""
        return self.tags.get(name, "")

    @property
    def length(self) -> str:
        """As a clock says it."""
        return print_clock(self.frames, self.sample_rate_hz)

    @property
    def form(self) -> str:
        """Rate, depth and channels in a few words."""
        depth = f"{self.bit_depth}-bit" if self.bit_depth else self.codec.upper()
        sides = "stereo" if self.channels == 2 else "mono" if self.channels == 1 else f"{self.channels} channels"
        return f"{print_rate(self.sample_rate_hz)}, {depth}, {sides}"

    @property
    def levels(self) -> str:
        """The measurements, loudness first."""
        found = (
            (self.integrated_lufs, "LUFS"), (self.true_peak_dbtp, "dBTP"), (self.sample_peak_dbfs, "dBFS"),
        )  # fmt: skip
        return ", ".join(print_db(value, unit) for value, unit in found if value is not None)


@dataclass(frozen=True, slots=True)
class DeliverySheet:
    """The delivery sheet. ``pressing`` is its number in the history, ``day`` its date."""

    title: str
    files: tuple[SheetFile, ...]
    artist: str = ""
    day: str = ""
    pressing: int | None = None
    contact: Mapping[str, str] = field(default_factory=dict)
    """Name, phone, mail and web of whom to ask, as far as the tag sheet has them."""
    written_by: str = "Ripe Press"
    version: Literal[1] = VERSION

    @property
    def seconds(self) -> float:
        """How long all of it is."""
        return sum(one.frames / one.sample_rate_hz for one in self.files)


@dataclass(frozen=True, slots=True)
class SheetColumn:
    """A column of the file table: title, content, and whether it is a number."""

    title: str
    of: str
    number: bool = False
    share: float = 1.0
    """Of the width of a page."""


COLUMNS: Sequence[SheetColumn] = (
    SheetColumn("File", "name", share=3.1),
    SheetColumn("Length", "length", number=True, share=1.0),
    SheetColumn("Format", "form", share=1.7),
    SheetColumn("Levels", "levels", share=1.5),
    SheetColumn("ISRC", "isrc", share=1.2),
    SheetColumn("Verdict", "verdict", share=0.8),
)


def cell(file: SheetFile, column: SheetColumn) -> str:
    """The text of a column for a file."""
    if column.of == "isrc":
        return file.tag("isrc")
    return VERDICTS[file.verdict] if column.of == "verdict" else str(getattr(file, column.of))


def sheet_row(sheet: DeliverySheet) -> dict[str, Any]:
    """The sheet as plain values, for machines."""
    return asdict(sheet)


def checksums(files: Sequence[tuple[str, str]]) -> str:
    """Names with their SHA-256, as GNU coreutils write and read them: with a name that has a backslash or a new line
    in it, the line begins with a backslash and those are written as two characters.
    """
    lines = []
    for name, digest in files:
        plain = name.replace("\\", "\\\\").replace("\n", "\\n").replace("\r", "\\r")
        lines.append(f"{'' if plain == name else chr(92)}{digest}  {plain}\n")
    return "".join(lines)
