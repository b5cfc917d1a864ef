"""Files written for a disc are read back unchanged, whatever their texts."""

import hashlib
import re
import zlib
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given, strategies as hy

from ripe_press.core.disc.assembly import LaidFile, assemble
from ripe_press.core.disc.cue import CueSheet, CueTrack, read_cue
from ripe_press.core.disc.cue_writer import cue_text, write_cue
from ripe_press.core.disc.frames import print_frames
from ripe_press.core.disc.log_sheet import Sums, TrackLevels, write_log_sheet
from ripe_press.core.disc.programme import Programme, barcode_of, programme_of
from ripe_press.core.disc.text import not_in_latin_1, read_text, write_text
from ripe_press.core.errors import BadInput, Cancelled
from ripe_press.core.requests.order_timeline import PlacedEntry
from ripe_press.core.requests.running_order import OrderEntry, RunningOrder
from ripe_press.core.units import print_clock
from support.signals import noise, write

LATIN = hy.text(hy.characters(codec="latin-1", exclude_categories=["Cc"]), max_size=40).map(lambda one: one.strip())
SHEETS = [
    (("title", "Towpath"), ("artist", "The Sluicekeepers"), ("isrc", "QZ-WLT-26-00001")),
    (("title", "Älvdal"), ("artist", "The Sluicekeepers"), ("composer", "A. Lock"), ("isrc", "wrong")),
    (("title", "Ebb"), ("artist", "The Sluicekeepers")),
]
ORDER = RunningOrder(
    (
        OrderEntry("a", 0, 0, 441_000, indexes=(100_000, 900_000)),
        OrderEntry("b", 0, 441_000, 882_000, runs_on=True, may_copy=True, disc_text=(("message", "Live"),)),
        OrderEntry("c", 0, 0, 441_000),
    ),
    "Nine Weirs", (("barcode", "036000291452"),),
)  # fmt: skip
LAID = (PlacedEntry(0, 0, 750), PlacedEntry(750, 750, 1_500), PlacedEntry(1_500, 1_650, 2_400))


def programme(order: RunningOrder = ORDER) -> Programme:
    return programme_of(order, LAID, SHEETS, [44_100] * 3)


@given(
    titles=hy.lists(LATIN, min_size=2, max_size=30), others=hy.lists(LATIN, min_size=30, max_size=30),
    codes=hy.booleans(),
)  # fmt: skip
def test_texts_come_back_from_their_packs(titles: list[str], others: list[str], codes: bool) -> None:
    tracks = len(titles)
    texts = {"TITLE": titles, "MESSAGE": others[:tracks]}
    isrcs = ["4006381333931", *["GBAYE0000351"] * (tracks - 1)] if codes else [""] * tracks
    data = write_text(texts, isrcs)
    if not any(titles) and not any(others[:tracks]) and not codes:
        assert data == b""
        return
    found, faults = read_text(data)
    assert faults == ()
    for kind, wanted in texts.items():
        if any(wanted):
            assert [found.texts[kind].get(at, "") for at in range(tracks)] == [one or " " for one in wanted]
    assert found.codes == (dict(enumerate(isrcs)) if codes else {})


def test_text_outside_cd_text_is_reported() -> None:
    assert not_in_latin_1("Łódź Ångström") == "Łź"
    found, faults = read_text(write_text({"TITLE": ["Łódź Ångström 水", "One"]}, ["", ""]))
    assert faults == () and found.texts["TITLE"][0] == "Lódz Ångström ?"
    with pytest.raises(BadInput, match="maximum"):
        write_text({"TITLE": ["x" * 160] * 100}, [""] * 100)
    assert write_text({"TITLE": ["x" * 29] * 98, "PERFORMER": [""] * 98}, [""] * 98)


def test_a_sheet_is_written_as_it_is_read() -> None:
    sheet = programme().cue("Nine Weirs.bin", "Nine Weirs.cdt")
    read, faults = read_cue(write_cue(sheet))
    assert faults == ()
    assert (read.catalog, read.text_file, read.kind) == ("0036000291452", "Nine Weirs.cdt", "BINARY")
    assert [one.indexes for one in read.tracks] == [
        {1: 0, 2: 170}, {1: 750}, {0: 1_500, 1: 1_650},
    ]  # fmt: skip
    assert [one.isrc for one in read.tracks] == ["QZWLT2600001", "", ""]
    assert [one.flags for one in read.tracks] == [(), ("DCP",), ()]
    assert read.tracks[1].texts["TITLE"] == "Alvdal"
    assert read.texts == {"TITLE": "Nine Weirs", "PERFORMER": "The Sluicekeepers"}


@given(text=hy.text(max_size=60))
def test_any_text_is_one_line_in_quotes(text: str) -> None:
    sheet = CueSheet("a.bin", "BINARY", texts={"TITLE": text or "x"}, tracks=[CueTrack(1, {1: 0})])
    data = write_cue(sheet)
    read, faults = read_cue(data)
    assert faults == () and data.isascii()
    assert len(read.tracks) == 1 and f'"{read.texts["TITLE"]}"' == cue_text(text or "x")


def test_the_first_entry_may_lie_hidden_in_the_pause() -> None:
    found = programme(replace(ORDER, hidden_first=True))
    assert [one.number for one in found.tracks] == [1, 2]
    assert (found.tracks[0].pause_frame, found.tracks[0].start_frame) == (0, 750)
    assert read_cue(write_cue(found.cue("a.bin", "")))[0].tracks[0].indexes == {0: 0, 1: 750}


@pytest.mark.parametrize(
    ("code", "thirteen"),
    [("036000291452", "0036000291452"), ("4006381333931", "4006381333931"), ("4006381333932", ""), ("", "")],
)
def test_a_barcode_has_thirteen_digits(code: str, thirteen: str) -> None:
    assert barcode_of({"barcode": code}) == thirteen


def test_an_image_has_its_tracks_in_their_places(tmp_path: Path) -> None:
    parts = [(noise(samples, seed=samples) * 20_000).astype(np.int16) for samples in (588 * 300, 588 * 300 + 100)]
    paths = [write(tmp_path / f"{at}.wav", one, 44_100, "PCM_16") for at, one in enumerate(parts)]
    target = tmp_path / "disc.bin"
    made = assemble(target, [LaidFile(paths[0], 0), LaidFile(paths[1], 450)], 751)
    data = target.read_bytes()
    samples = np.frombuffer(data, "<i2").reshape(-1, 2)
    assert np.array_equal(samples[: 588 * 300], parts[0])
    assert not samples[588 * 300 : 588 * 450].any()
    assert np.array_equal(samples[588 * 450 : 588 * 750 + 100], parts[1])
    assert len(samples) == 751 * 588 and not samples[588 * 750 + 100 :].any()
    assert made.sha256 == hashlib.sha256(data).hexdigest()
    assert made.crcs == tuple(zlib.crc32(one.astype("<i2").tobytes()) for one in parts)
    with pytest.raises(Cancelled):
        assemble(tmp_path / "other.bin", [LaidFile(paths[0], 0)], 300, should_stop=lambda: True)


def test_the_log_sheet_says_everything() -> None:
    levels = [TrackLevels(-1.0, None, -14.2), TrackLevels(-3.0, -2.5, None), TrackLevels(float("-inf"), None, None)]
    sums = Sums((("Nine <Weirs>.bin", "ab" * 32),))
    page = write_log_sheet(programme(), levels, [1, 2, 0xABCDEF], sums, "2026-11-26")
    told = ("00:22:00", "−14.2 LUFS", "QZWLT2600001", "00ABCDEF", "02 at 00:02:20", "Nine &lt;Weirs&gt;.bin", "DCP")
    for said in told:
        assert said in page, said
    assert "left on a 74-minute disc" in page
    rows = re.findall(r"<tr>(.*?)</tr>", page, re.S)[1:4]
    times = [re.findall(r"\d\d:\d\d:\d\d(?: \([^)]*\))?", row)[:3] for row in rows]
    for track, shown in zip(programme().tracks, times, strict=True):
        length = track.end_frame - track.start_frame
        starts = [print_frames(track.start_frame), print_frames(track.start_frame - track.pause_frame)]
        assert shown == [*starts, f"{print_frames(length)} ({print_clock(length * 588, 44_100, 1)})"]
