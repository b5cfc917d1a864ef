"""Rules about the file itself."""

from dataclasses import replace
from pathlib import Path

import pytest
from PIL import Image

from ripe_press.core.briefs.library import brief_of
from ripe_press.core.engine import stations as st
from ripe_press.core.formats.capabilities import Container
from ripe_press.core.naming import Placed
from ripe_press.core.rules.files import (
    becomes_rf64,
    clash_told,
    clips_when_decoded,
    findings_for_tags,
    float_over_full_scale,
    played_by_few,
    problems,
    will_clip_when_decoded,
)
from ripe_press.core.tags.sheet import FileTags
from support.formats import SHEET


def codec(container: Container) -> st.Codec:
    return st.Codec(container, "s16", 44_100, 2, 100)


def test_a_float_file_past_full_scale_is_told() -> None:
    held = replace(codec("wav"), encoding="f32")
    found = float_over_full_scale(held, 5.0)
    assert found is not None
    assert found.sentence.startswith("Samples reach +5.0 dBFS")
    assert found.verdict == "look"
    assert float_over_full_scale(held, 0.0) is None
    assert float_over_full_scale(held, None) is None
    assert float_over_full_scale(codec("wav"), 5.0) is None


def test_what_a_brief_needs_and_the_sheet_lacks_is_told_with_its_field() -> None:
    brief = brief_of("distributor")
    found = findings_for_tags(brief, codec("wav"), FileTags((("title", "Millrace"), ("artist", "The Sluicekeepers"))))
    assert [one.field for one in found] == ["album", "isrc", "date", "genre", "copyright"]
    assert found[1].sentence == "Distributor needs ISRC; the tag sheet has none."
    assert {one.verdict for one in found} == {"look"}
    assert findings_for_tags(brief, codec("wav"), FileTags(SHEET)) == ()


def test_a_format_without_a_place_for_what_is_needed_is_told() -> None:
    brief = replace(brief_of("audio-cd"), tags=("cover",))
    (missing,) = findings_for_tags(brief, codec("wav"), FileTags(SHEET))
    assert missing.field == "cover"
    (nowhere,) = findings_for_tags(brief, codec("caf"), FileTags(SHEET, "somewhere.png"))
    assert "CAF has no place for it" in nowhere.sentence


@pytest.mark.parametrize(
    ("field", "wrong", "right"),
    [
        ("isrc", "QZWLT26", "QZ-WLT-26-00001"),
        ("barcode", "6291041500214", "6291041500213"),
        ("date", "18.9.2026", "2026-09"),
        ("date", "2026-13-01", "2026"),
        ("track", "A1", "1"),
        ("track", "13/12", "12/12"),
        ("tempo", "fast", "84.5"),
        ("tempo", "2000", "120"),
        ("key", "H", "F#m"),
        ("language", "english", "eng"),
        ("contact_email", "weir", "hello@weir.example"),
        ("web", "weir.example", "https://weir.example"),
    ],
)
def test_fields_are_held_to_their_rules(field: str, wrong: str, right: str) -> None:
    ((found, sentence),) = problems(((field, wrong),))
    assert found == field
    assert wrong in sentence
    assert problems(((field, right),)) == ()


def test_covers_are_looked_at(tmp_path: Path) -> None:
    path = tmp_path / "wide.png"
    Image.new("RGB", (120, 80)).save(path)
    (wide,) = findings_for_tags(brief_of("blank"), codec("mp3"), FileTags((), str(path)))
    assert "120 × 80; shops and players expect a square" in wide.sentence
    assert findings_for_tags(brief_of("blank"), codec("video"), FileTags((), str(path))) == ()
    (gone,) = findings_for_tags(brief_of("blank"), codec("mp3"), FileTags((), str(tmp_path / "gone.png")))
    assert "Choose it again" in gone.sentence
    (dark,) = findings_for_tags(brief_of("blank"), codec("video"), FileTags())
    assert (dark.field, "dark field" in dark.sentence) == ("cover", True)


@pytest.mark.parametrize(
    ("container", "size", "rule"),
    [("wav", 2**31, None), ("wav", 2**31 + 1, "past_two_gib"), ("wav", 2**32, "becomes_rf64"),
     ("bwf", 2**32 + 9, "becomes_rf64"), ("rf64", 100, "becomes_rf64"), ("caf", 2**33, None)],
)  # fmt: skip
def test_long_wav_files_say_who_may_refuse_them(container: Container, size: int, rule: str | None) -> None:
    found = becomes_rf64(codec(container), size)
    assert (found.rule if found else None) == rule


def test_a_lossy_file_at_a_rate_that_few_play() -> None:
    found = played_by_few(replace(codec("aac"), rate_hz=96_000))
    assert found is not None
    assert "AAC in MP4 at 96 kHz" in found.sentence
    assert played_by_few(replace(codec("aac"), rate_hz=48_000)) is None
    assert played_by_few(replace(codec("flac"), rate_hz=96_000)) is None


def test_a_lossy_file_that_clips_when_it_is_decoded() -> None:
    found = clips_when_decoded(codec("mp3"), 0.8)
    assert found is not None
    assert "+0.8 dBTP" in found.sentence
    assert "by 0.9 dB" in found.sentence
    assert clips_when_decoded(codec("mp3"), -0.1) is None
    assert clips_when_decoded(codec("wav"), 0.8) is None


def test_a_lossy_file_that_will_clip_is_told_beforehand() -> None:
    found = will_clip_when_decoded(codec("aac"), 1.3)
    assert found is not None
    assert "+1.3 dBTP go into this file" in found.sentence
    assert will_clip_when_decoded(codec("aac"), -0.1) is None
    assert will_clip_when_decoded(codec("flac"), 1.3) is None


def test_clashes_are_told_where_something_is_lost() -> None:
    path = Path("/pressed/Millrace.wav")
    assert clash_told(Placed(path)) is None
    assert clash_told(Placed(path, "disk")) is None
    told = [
        clash_told(Placed(path, "disk", replaces=True)),
        clash_told(Placed(path, "disk", skipped=True)),
        clash_told(Placed(path, "ticket")),
    ]
    assert [one.rule for one in told if one] == ["name_replaced", "name_skipped", "name_twice"]
