from dataclasses import replace

import pytest

from ripe_press.core import stations as st
from ripe_press.core.briefs.library import brief_of
from ripe_press.core.errors import BadInput, Unsupported
from ripe_press.core.formats.facts import SourceFacts
from ripe_press.core.requests.edges import Stretch
from ripe_press.core.tags.sheet import NO_TAGS
from support.press import paths_for

FACTS = SourceFacts("/mixes/Millrace.wav", "wav", "pcm-float", 96_000, 2, 960_000, 32)


def path_of(facts: SourceFacts, start: int = 0, end: int | None = None) -> st.Path:
    stretch = Stretch(start, facts.frames if end is None else end)
    return paths_for(brief_of("audio-cd").delivery(stretch, facts), facts, "Millrace")[0]


def test_a_float_mix_at_96_khz_becomes_a_cd_file() -> None:
    path = path_of(FACTS)
    assert path.source.facts == FACTS
    assert path.cut == st.Range(0, 960_000, 960_000)
    assert path.rate == st.Rate(96_000, 44_100, "very-high")
    assert path.depth
    assert (path.depth.bits, path.depth.dither, path.depth.exact) == (16, "triangular", False)
    assert path.codec == st.Codec("wav", "s16", 44_100, 2, 441_000)
    assert path.tags == st.Tags(replace(NO_TAGS, frames=441_000))
    assert path.name == st.Name("Millrace 44k1 16b.wav")
    assert [station.idle for station in path] == [True, True, False, False, False, True, False]


@pytest.mark.parametrize(
    ("codec", "bits", "rate_hz", "dither"),
    [
        ("pcm", 16, 44_100, "none"),
        ("pcm", 8, 44_100, "none"),
        ("pcm", 24, 44_100, "triangular"),
        ("pcm", 16, 48_000, "triangular"),
        ("pcm-float", 32, 44_100, "triangular"),
        ("mp3", None, 44_100, "triangular"),
    ],
)
def test_dither_is_decided_by_rule(codec: str, bits: int | None, rate_hz: int, dither: str) -> None:
    path = path_of(replace(FACTS, codec=codec, bit_depth=bits, rate_hz=rate_hz))
    assert path.depth
    assert (path.depth.dither, path.depth.idle) == (dither, dither == "none")
    words = st.describe(path, st.PathFacts())[3].sentence
    assert words.endswith("bit-exact." if dither == "none" else "dither, once, at the end.")


@pytest.mark.parametrize(
    ("start", "end", "code"), [(10, 10, "range.empty"), (20, 10, "range.empty"), (0, 960_001, "range.outside")]
)
def test_ranges_that_cannot_be_are_refused(start: int, end: int, code: str) -> None:
    with pytest.raises(BadInput) as caught:
        path_of(FACTS, start, end)
    assert caught.value.code == code


def test_float_files_have_no_depth_station_and_rates_may_be_kept() -> None:
    wish = replace(brief_of("audio-cd").delivery(Stretch(0, 100), FACTS), encoding="f32", rate_hz="keep")
    (path,) = paths_for(wish, FACTS, "Millrace")
    assert [type(station) for station in path] == [st.Source, st.Range, st.Rate, st.Codec, st.Tags, st.Name]
    assert path.name == st.Name("Millrace 96k 32f.wav")


def test_the_capability_table_is_asked() -> None:
    with pytest.raises(Unsupported):
        paths_for(replace(brief_of("audio-cd").delivery(Stretch(0, 100), FACTS), rate_hz=400_000), FACTS, "Millrace")


def test_a_range_that_leaves_no_frame_is_refused() -> None:
    with pytest.raises(BadInput) as caught:
        path_of(FACTS, 0, 1)
    assert caught.value.message.startswith("The range is shorter than one sample at 44.1 kHz.")
