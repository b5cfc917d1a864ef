import pytest

from ripe_press.core.engine import stations as st
from ripe_press.core.engine.describe import MixKnowledge, depth_label, describe
from ripe_press.core.formats.capabilities import Coding
from ripe_press.core.tags.sheet import FileTags
from ripe_press.core.timeline import Marker

SOURCE = st.Source("/mix.wav", 96_000, 2, 96_000 * 151, 32, "pcm-float")


def test_a_depth_station_sets_its_noise_against_this_mix() -> None:
    depth = st.Depth(16, "triangular", "The mix is finer.", exact=False)
    told = describe(depth, SOURCE, MixKnowledge(-61.2))
    assert told.sentence.startswith(
        "At 16 bits with triangular dither the noise sits at −93.3 dBFS; the quietest half second of this range "
        "is at −61.2 dBFS."
    )
    silent = describe(depth, SOURCE, MixKnowledge(float("-inf")))
    assert "digital silence" in silent.sentence
    assert describe(depth, SOURCE, MixKnowledge()).figures == (("Dither noise", "−93.3 dBFS"),)


def test_idle_stations_say_that_they_change_nothing() -> None:
    for station in (
        SOURCE,
        st.Range(0, SOURCE.frames, SOURCE.frames),
        st.Rate(96_000, 96_000, "high"),
        st.Depth(16, "none", "As it came.", exact=True),
    ):
        assert describe(station, SOURCE, MixKnowledge()).idle


def test_working_stations_name_what_they_change() -> None:
    rate = describe(st.Rate(96_000, 44_100, "very-high"), SOURCE, MixKnowledge())
    assert (rate.label, rate.detail, rate.idle) == ("44.1 kHz", "from 96 k", False)
    cut = describe(st.Range(96_000, 192_000, SOURCE.frames), SOURCE, MixKnowledge())
    assert "0:01.000" in cut.sentence
    assert (
        dict(describe(st.Codec("wav", "s16", 44_100, 2, 441_000), SOURCE, MixKnowledge()).figures)["Size"]
        == "1,764,080 bytes"
    )
    assert [depth_label(16, "pcm"), depth_label(32, "pcm-float"), depth_label(None, "mp3")] == [
        "16 bits",
        "32-bit float",
        "mp3",
    ]


@pytest.mark.parametrize(
    ("coding", "words"),
    [
        (Coding("constant", 320), "MP3 at 320 kbit/s spends the same on every moment, about 4.4 times smaller"),
        (Coding("average", 128), "about 11.0 times smaller"),
        (Coding("variable", quality=7), "MP3 at quality 7 of 10 spends what the sound needs. It leaves out"),
    ],
)
def test_lossy_codecs_say_what_they_do(coding: Coding, words: str) -> None:
    codec = st.Codec("mp3", "lossy", 44_100, 2, 441_000, coding=coding)
    found = describe(codec, SOURCE, MixKnowledge())
    assert words in found.sentence
    assert dict(found.figures)["Encoder"] == str(coding)


def test_tags_say_what_is_carried() -> None:
    assert describe(st.Tags(FileTags()), SOURCE, MixKnowledge()).idle
    full = FileTags((("title", "Millrace"),), "a.png", markers=(Marker(0, "Intro"),), loop=(0, 9), gain_tags=True)
    found = describe(st.Tags(full), SOURCE, MixKnowledge())
    assert found.sentence == "Beside the sound this file carries 1 field, cover, 1 marker, loop points, loudness."


def test_a_rate_that_a_codec_lacks_is_explained() -> None:
    rate = st.Rate(96_000, 48_000, "very-high")
    assert "Ogg Opus exists at 48 kHz only" in describe(rate, SOURCE, MixKnowledge(container="opus")).sentence
    assert "exists at" not in describe(rate, SOURCE, MixKnowledge(container="wav")).sentence
