"""Read a cue sheet and report what other readers interpret differently.

Readers differ: some ignore unknown lines, some reject the sheet. Anything that is not read the same way by all is a
fault (the behaviour of four readers was measured).
"""

import re
from dataclasses import dataclass, field

from ripe_press.core.disc.frames import parse_frames
from ripe_press.core.errors import BadInput
from ripe_press.core.words import quoted

TEXTS = ("TITLE", "PERFORMER", "SONGWRITER", "COMPOSER", "ARRANGER", "MESSAGE")
FLAGS = ("DCP", "PRE", "4CH")
_QUOTED = re.compile(r'^"([^"]*)"$')
_WORDS = re.compile(r'"[^"]*"|\S+')


@dataclass(slots=True)
class CueTrack:
    """A track: its indexes in frames from the start of the image, its texts, code and flags."""

    number: int
    indexes: dict[int, int] = field(default_factory=dict)
    texts: dict[str, str] = field(default_factory=dict)
    isrc: str = ""
    flags: tuple[str, ...] = ()

    @property
    def start(self) -> int | None:
        """Where it begins to count: its index 1."""
        return self.indexes.get(1)

    @property
    def first(self) -> int | None:
        """Where its pause begins, or else itself."""
        return min(self.indexes.values(), default=None)


@dataclass(slots=True)
class CueSheet:
    """A sheet: its one image and what kind that is, the disc's texts and code, and its tracks."""

    image: str = ""
    kind: str = ""
    catalog: str = ""
    text_file: str = ""
    texts: dict[str, str] = field(default_factory=dict)
    tracks: list[CueTrack] = field(default_factory=list)


@dataclass(frozen=True, slots=True)
class CueFault:
    """A fault in a line, counted from 1."""

    line: int
    sentence: str


def read_cue(data: bytes) -> tuple[CueSheet, tuple[CueFault, ...]]:
    """What a sheet says, read line by line, and everything in it that not every reader takes."""
    return _Reader().read(data)


class _Reader:
    def __init__(self) -> None:
        self._sheet = CueSheet()
        self._faults: list[CueFault] = []
        self._line = 0

    def read(self, data: bytes) -> tuple[CueSheet, tuple[CueFault, ...]]:
        if data.startswith(b"\xef\xbb\xbf"):
            self._fault("Byte-order mark at the start. Save the sheet without one.")
            data = data[3:]
        if not data.isascii():
            self._fault("Characters outside ASCII are read differently by each program. Use ASCII only.")
        if data and not data.endswith(b"\n"):
            self._fault("The last line has no line break. Add one.")
        for self._line, line in enumerate(_decoded(data).splitlines(), 1):
            if line.strip():
                self._take(line.strip())
        self._line = 0
        return self._sheet, tuple(self._faults)

    def _fault(self, sentence: str) -> None:
        self._faults.append(CueFault(self._line, sentence))

    def _take(self, line: str) -> None:
        keyword, _, rest = line.partition(" ")
        rest = rest.strip()
        known = keyword.upper()
        if known != keyword:
            self._fault(f"{quoted(keyword)} is not in capitals. Write it in capitals.")
        if known == "REM":
            return
        take = getattr(self, f"_{known.lower()}", None)
        if known in TEXTS:
            self._text(known, rest)
        elif take is None:
            self._fault(f"{quoted(keyword)} is not a cue sheet command. Remove the line.")
        else:
            take(rest)

    @property
    def _track_(self) -> CueTrack | None:
        return self._sheet.tracks[-1] if self._sheet.tracks else None

    def _text(self, keyword: str, rest: str) -> None:
        found = _QUOTED.match(rest)
        if not found:
            self._fault(f"{keyword} needs one pair of double quotes.")
        texts = self._track_.texts if self._track_ else self._sheet.texts
        texts[keyword] = found[1] if found else rest.strip('"')

    def _catalog(self, rest: str) -> None:
        if self._track_:
            self._fault("CATALOG is after a track. Move it to the top.")
        if not re.fullmatch(r"\d{13}", rest):
            self._fault(f"CATALOG {quoted(rest)} is not 13 digits.")
        self._sheet.catalog = rest.strip('"')

    def _cdtextfile(self, rest: str) -> None:
        if self._track_:
            self._fault("CDTEXTFILE is after a track. Move it to the top.")
        self._sheet.text_file = rest.strip('"')

    def _file(self, rest: str) -> None:
        words = _WORDS.findall(rest)
        if self._sheet.image:
            self._fault("More than one FILE. Use a single image.")
            return
        kind = words[-1].upper() if len(words) > 1 else ""
        if kind not in ("BINARY", "WAVE"):
            self._fault(f"FILE type is {quoted(kind or 'missing')}. Use BINARY or WAVE.")
        self._sheet.image = " ".join(words[:-1] if len(words) > 1 else words).strip('"')
        self._sheet.kind = kind

    def _track(self, rest: str) -> None:
        number, _, kind = rest.partition(" ")
        if kind.strip().upper() != "AUDIO":
            self._fault(f"Track {number} is {kind.strip() or 'missing a type'}. Use AUDIO.")
        if not number.isdigit():
            self._fault(f"{quoted(number)} is not a track number. Use 01 to 99.")
            return
        self._sheet.tracks.append(CueTrack(int(number)))

    def _isrc(self, rest: str) -> None:
        if track := self._before_index("ISRC"):
            track.isrc = rest.strip('"')
            if rest != track.isrc:
                self._fault("ISRC is in quotes. Remove them.")

    def _flags(self, rest: str) -> None:
        if track := self._before_index("FLAGS"):
            track.flags = tuple(rest.split())
            for flag in track.flags:
                if flag not in FLAGS:
                    self._fault(f"{quoted(flag)} is not a flag. Available: {', '.join(FLAGS)}.")

    def _before_index(self, word: str) -> CueTrack | None:
        track = self._track_
        if track is None:
            self._fault(f"{word} is before any track. Move it into one.")
        elif track.indexes:
            self._fault(f"{word} of track {track.number} is after its INDEX. Move it before.")
        return track

    def _index(self, rest: str) -> None:
        number, _, time = rest.partition(" ")
        track = self._track_
        if track is None or not number.isdigit():
            self._fault(f"INDEX {rest} is outside a track. Move it into one.")
            return
        try:
            track.indexes[int(number)] = parse_frames(time.strip())
        except BadInput as error:
            self._fault(f"INDEX {number} of track {track.number}: {error.message}")

    def _pregap(self, rest: str) -> None:
        self._fault(f"PREGAP {rest} has no samples in the image. Use INDEX 00.")

    def _postgap(self, rest: str) -> None:
        self._fault(f"POSTGAP {rest} has no samples in the image. Remove it.")


def _decoded(data: bytes) -> str:
    try:
        return data.decode("utf-8")
    except UnicodeDecodeError:
        return data.decode("latin-1")
