from pathlib import Path
from urllib.parse import unquote
from xml.etree import ElementTree

from ripe_press.core.press.playlist import PlaylistLine, m3u8, xspf
from ripe_press.core.whole_files import write_whole

LINES = [
    PlaylistLine(Path("01 Towpath & more.mp3"), 151.42, "Towpath", "The Sluicekeepers", "Nine Weirs", 1),
    PlaylistLine(Path("side b/02 Älv #2.mp3"), 9.6, "Älv #2\nlive", "", "", 2),
]


def test_m3u8_has_a_line_and_a_path_each() -> None:
    assert m3u8(LINES, "Nine Weirs").splitlines() == [
        "#EXTM3U", "#PLAYLIST:Nine Weirs", "#EXTINF:151,The Sluicekeepers - Towpath", "01 Towpath & more.mp3",
        "#EXTINF:10,Älv #2 live", "side b/02 Älv #2.mp3",
    ]  # fmt: skip


def test_xspf_is_read_by_a_parser() -> None:
    root = ElementTree.fromstring(xspf(LINES, "Nine Weirs").split("?>", 1)[1])
    name = "{http://xspf.org/ns/0/}"
    tracks = root.findall(f"{name}trackList/{name}track")
    assert [unquote(one.findtext(f"{name}location") or "") for one in tracks] == [str(one.path) for one in LINES]
    assert [one.findtext(f"{name}duration") for one in tracks] == ["151420", "9600"]
    assert tracks[1].find(f"{name}creator") is None and root.findtext(f"{name}title") == "Nine Weirs"


def test_a_small_file_is_there_whole(tmp_path: Path) -> None:
    path = tmp_path / "list.m3u8"
    write_whole(path, b"one")
    write_whole(path, b"two")
    assert path.read_bytes() == b"two" and list(tmp_path.iterdir()) == [path]
