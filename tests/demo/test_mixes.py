import hashlib
from pathlib import Path

import soundfile

from ripe_press.demo import mixes
from ripe_press.demo.cover import draw_cover
from ripe_press.demo.mixes import make_demo_mixes


def test_a_demo_mix_is_the_same_whenever_it_is_made(tmp_path: Path) -> None:
    hashes = set()
    for name in ("a", "b"):
        (tmp_path / name).mkdir()
        draw_cover(tmp_path / name / mixes.COVER)
        path = tmp_path / name / "Eel Ladder.wav"
        mixes._MAKERS["Eel Ladder"](path)
        hashes.add(hashlib.sha256(path.read_bytes()).hexdigest())
    assert len(hashes) == 1
    info = soundfile.info(path)
    assert (info.samplerate, info.subtype) == (48_000, "PCM_24")
    # Eight bars of four at 92 a minute, and it rings on.
    assert info.frames > 8 * 240 / 92 * 48_000


def test_mixes_that_are_there_are_kept(tmp_path: Path) -> None:
    (tmp_path / "version").write_text(mixes.VERSION)
    for title in mixes._MAKERS:
        (tmp_path / f"{title}.wav").write_bytes(b"kept")
    said: list[str] = []
    paths = make_demo_mixes(tmp_path, said.append)
    assert [path.read_bytes() for path in paths] == [b"kept"] * 4
    assert said == []
