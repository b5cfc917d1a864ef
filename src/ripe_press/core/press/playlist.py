"""Playlists of pressed files.

Sources: RFC 8216 section 4.1 for the encoding of M3U8; extended M3U lines are common practice, no source. XSPF
version 1 (xspf.org, from memory of the text): locations are relative URIs, durations milliseconds.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path
from urllib.parse import quote
from xml.etree import ElementTree


@dataclass(frozen=True, slots=True)
class PlaylistLine:
    """A file by its path relative to the playlist, with title and length."""

    path: Path
    seconds: float
    title: str
    artist: str
    album: str
    number: int


def m3u8(lines: Sequence[PlaylistLine], title: str) -> str:
    """An extended M3U in UTF-8."""
    said = [f"#EXTINF:{round(one.seconds)},{_said(one)}\n{one.path.as_posix()}\n" for one in lines]
    head = f"#EXTM3U\n#PLAYLIST:{_plain(title)}\n" if title else "#EXTM3U\n"
    return head + "".join(said)


def xspf(lines: Sequence[PlaylistLine], title: str) -> str:
    """A playlist in XML."""
    root = ElementTree.Element("playlist", {"version": "1", "xmlns": "http://xspf.org/ns/0/"})
    if title:
        ElementTree.SubElement(root, "title").text = title
    tracks = ElementTree.SubElement(root, "trackList")
    for one in lines:
        track = ElementTree.SubElement(tracks, "track")
        fields = {
            "location": quote(one.path.as_posix()), "title": one.title, "creator": one.artist, "album": one.album,
            "trackNum": str(one.number), "duration": str(round(one.seconds * 1000)),
        }  # fmt: skip
        for name, text in fields.items():
            if text:
                ElementTree.SubElement(track, name).text = text
    ElementTree.indent(root)
    return '<?xml version="1.0" encoding="UTF-8"?>\n' + ElementTree.tostring(root, encoding="unicode") + "\n"


def _said(one: PlaylistLine) -> str:
    return _plain(f"{one.artist} - {one.title}" if one.artist else one.title)


def _plain(text: str) -> str:
    return " ".join(text.split())
