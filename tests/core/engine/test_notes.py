"""What of a mix goes into each file beside its sound."""

from dataclasses import replace

import pytest

from ripe_press.core import stations as st
from ripe_press.core.briefs.library import BLANK, brief_of
from ripe_press.core.engine.notes import coding_history, place_in_file
from ripe_press.core.errors import Unsupported
from ripe_press.core.formats.capabilities import Container
from ripe_press.core.formats.facts import SourceFacts
from ripe_press.core.naming import LABEL_FIELDS
from ripe_press.core.requests.delivery import Changes
from ripe_press.core.requests.edges import Edges, Stretch
from ripe_press.core.requests.making import LevelRequest
from ripe_press.core.requests.notes import MixNotes
from ripe_press.core.tags.forms import carried
from ripe_press.core.tags.sheet import FileTags
from ripe_press.core.timeline import Marker
from support.press import paths_for

FACTS = SourceFacts("/mixes/Millrace.wav", "wav", "pcm-float", 96_000, 2, 9_600_000, 32)
MARKERS = (Marker(0, "Intro"), Marker(960_000, "Verse"), Marker(960_000, "Again"), Marker(5_000_000, "Close"))
NOTES = MixNotes((("title", "Millrace"), ("artist", "The Sluicekeepers")), "cover.png", MARKERS, 96_000 * 3600)


def tags_of(
    container: Container = "bwf", stretch: Stretch | None = None, changes: Changes | None = None, brief: str = "blank"
) -> FileTags:
    wish = brief_of(brief).delivery(stretch or Stretch(480_000, 4_800_000), FACTS)
    wish = replace((changes or Changes()).applied_to(wish), container=container, rate_hz=48_000, encoding="keep")
    (path,) = paths_for(wish, FACTS, "Millrace", notes=NOTES)
    return path.tags.content


def test_markers_inside_the_range_stand_where_they_are_heard() -> None:
    stretch = Stretch(480_000, 4_800_000, Edges(silence_before_s=1.0))
    tags = tags_of(stretch=stretch)
    # Five seconds into the range, a second of silence before it, at half the rate; two at one place are one.
    assert tags.markers == (Marker(6 * 48_000, "Verse"),)
    assert tags.time_reference == (3600 + 5 - 1) * 48_000
    assert tags.coding_history.startswith("A=PCM,F=96000,W=32,M=stereo,T=mix\r\nA=PCM,F=48000,")


def test_format_gets_only_supported_tags() -> None:
    assert carried("caf", tags_of("caf")).markers == ()
    assert carried("flac", tags_of("flac")).markers
    assert tags_of("flac").time_reference is None
    assert tags_of("flac").coding_history == ""
    assert not tags_of("wav", changes=Changes(gain_tags=True)).gain_tags
    assert tags_of("flac", changes=Changes(gain_tags=True)).gain_tags


def test_a_delivery_departs_from_the_sheet() -> None:
    changes = Changes(tags=(("title", "Millrace, edit"), ("artist", "")), cover=False, markers=False, id3_version="2.3")
    tags = tags_of("mp3", changes=changes)
    assert tags.values == (("title", "Millrace, edit"),)
    assert (tags.cover, tags.markers, tags.id3_version) == ("", (), "2.3")


def test_texts_may_name_fields_of_their_file() -> None:
    stretch = Stretch(480_000, 4_800_000, name="Verse")
    changes = Changes(tags=(("title", "{title}, {range}"), ("comment", "{format} {colour} {comment}")))
    tags = tags_of("flac", stretch, changes)
    assert (tags.text("title"), tags.text("comment")) == ("Millrace, Verse", "FLAC {colour} {comment}")
    wish = changes.applied_to(BLANK.delivery(stretch, FACTS))
    (path,) = paths_for(replace(wish, label_pattern="{title}"), FACTS, "mix", notes=NOTES)
    assert path.name == st.Name("Millrace, Verse.wav")


def test_loops_carry_their_points() -> None:
    assert tags_of("wav", brief="loop").loop == (0, 2_160_000)
    assert tags_of("wav").loop is None
    assert carried("flac", tags_of("flac", brief="loop")).loop == (0, 2_160_000)
    assert carried("caf", tags_of("caf", brief="loop")).loop is None
    folded = Stretch(0, 960_000, Edges(end="fold"), 96_000)
    assert tags_of("wav", folded).loop == (0, 480_000)


def test_places_are_rounded_once() -> None:
    cut = st.Range(100, 1_000, 2_000, silence_before=10)
    assert place_in_file(100, cut, 96_000, 44_100) == round(10 * 44_100 / 96_000)


def test_history_names_dither_and_mode() -> None:
    facts = SourceFacts("a", "wav", "pcm", 96_000, 1, 100, 24)
    codec = st.Codec("bwf", "s16", 44_100, 2, 46)
    assert coding_history(facts, codec, "triangular-high-pass") == (
        "A=PCM,F=96000,W=24,M=mono,T=mix\r\nA=PCM,F=44100,W=16,M=stereo,T=Ripe Press; triangular high pass dither\r\n"
    )


@pytest.mark.parametrize(
    ("pattern", "name"),
    [
        ("{artist}/{title} {rate} {depth}", "The Sluicekeepers/Millrace 48k 320k.mp3"),
        ("{format} {kbps} {channels} {length}", "MP3 320 stereo 0m45s.mp3"),
        ("{mix} {level} {number}", "Millrace -1dBTP.mp3"),
        ("{mode} {start} {metre} {pressed} {dither}", "constant 0m05s 6-8 2026-11-23.mp3"),
    ],
)
def test_names_know_everything(pattern: str, name: str) -> None:
    wish = brief_of("phone-and-car").delivery(Stretch(480_000, 4_800_000), FACTS)
    wish = replace(wish, label_pattern=pattern, rate_hz=48_000, metre="6-8", day="2026-11-23")
    (path,) = paths_for(wish, FACTS, "mix", notes=NOTES)
    assert path.name == st.Name(name)


def test_every_field_of_names_is_filled() -> None:
    wish = brief_of("audio-cd").delivery(Stretch(0, 960_000, name="Verse"), FACTS)
    wish = replace(
        wish, label_pattern="{dither} {depth}", level=LevelRequest("peak", -1.0), tempo="84bpm", bars="1-9",
        metre="4-4", day="2026-11-23", number=3,
    )  # fmt: skip
    (path,) = paths_for(wish, FACTS, "mix", notes=NOTES)
    assert path.name == st.Name("triangular 16b.wav")
    for field in LABEL_FIELDS:
        assert paths_for(replace(wish, label_pattern=f"x{{{field}}}"), FACTS, "mix", notes=NOTES)


def test_other_format_gets_the_nearest_default_and_rejects_a_typed_value() -> None:
    cd = brief_of("audio-cd").delivery(Stretch(0, 960_000), FACTS)
    (path,) = paths_for(Changes(container="opus").applied_to(cd), FACTS, "Millrace")
    codec = path.codec
    assert (codec.encoding, codec.rate_hz, str(codec.coding)) == ("lossy", 48_000, "160 kbit/s variable")
    phone = brief_of("phone-and-car").delivery(Stretch(0, 960_000), FACTS)
    (path,) = paths_for(Changes(container="wav").applied_to(phone), FACTS, "Millrace")
    assert path.codec.encoding == "f32"
    for changes in (Changes(container="mp3", encoding="s24"), Changes(container="opus", rate_hz=44_100),
                    Changes(container="mp3", dither="triangular"), Changes(container="wav", kbps=320)):  # fmt: skip
        with pytest.raises(Unsupported):
            paths_for(changes.applied_to(cd), FACTS, "Millrace")


def test_value_too_long_for_a_format_is_rejected_with_the_limit() -> None:
    long = replace(FACTS, frames=96_000 * 3600 * 3)
    wish = replace(BLANK.delivery(Stretch(0, long.frames), long), container="aiff")
    with pytest.raises(Unsupported, match="AIFF ends at 4 GiB"):
        paths_for(wish, long, "Millrace")
    assert paths_for(replace(wish, container="wav"), long, "Millrace")
