"""Write a cue sheet that all common readers interpret the same way (four readers were measured).

One image, common commands, ASCII, texts in double quotes; CD-Text has the full characters.
"""

import unicodedata

from ripe_press.core.disc.cue import TEXTS, CueSheet
from ripe_press.core.disc.frames import print_frames

_SPELT = str.maketrans({
    "ß": "ss", "æ": "ae", "Æ": "AE", "ø": "o", "Ø": "O", "œ": "oe", "Œ": "OE", "ð": "d", "Ð": "D", "þ": "th",
    "Þ": "Th", "ł": "l", "Ł": "L", "–": "-", "—": "-", "‘": "'", "’": "'", "“": "'", "”": "'", '"': "'", "…": "...",
})  # fmt: skip


def write_cue(sheet: CueSheet) -> bytes:
    """The sheet, line by line, each ended."""
    lines = []
    if sheet.catalog:
        lines.append(f"CATALOG {sheet.catalog}")
    if sheet.text_file:
        lines.append(f"CDTEXTFILE {cue_text(sheet.text_file)}")
    lines += [f"{name} {cue_text(sheet.texts[name])}" for name in TEXTS if sheet.texts.get(name)]
    lines.append(f"FILE {cue_text(sheet.image)} {sheet.kind}")
    for track in sheet.tracks:
        lines.append(f"  TRACK {track.number:02d} AUDIO")
        lines += [f"    {name} {cue_text(track.texts[name])}" for name in TEXTS if track.texts.get(name)]
        if track.flags:
            lines.append(f"    FLAGS {' '.join(track.flags)}")
        if track.isrc:
            lines.append(f"    ISRC {track.isrc}")
        lines += [f"    INDEX {index:02d} {print_frames(at)}" for index, at in sorted(track.indexes.items())]
    return ("\n".join(lines) + "\n").encode("ascii")


def cue_text(text: str) -> str:
    """A text in double quotes, in letters that all readers take alike; what has no such letter becomes ``?``."""
    letters = (one if one.isprintable() else " " for one in in_ascii(text))
    return f'"{"".join(letters)}"'


def in_ascii(text: str) -> str:
    """A text without marks on its letters, spelt out where that is usual."""
    plain = unicodedata.normalize("NFKD", text.translate(_SPELT))
    plain = "".join(one for one in plain if not unicodedata.combining(one))
    return plain.encode("ascii", "replace").decode()
