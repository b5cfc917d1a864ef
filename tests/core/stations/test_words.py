"""What stations say of themselves."""

import pytest

from ripe_press.core import stations as st
from ripe_press.core.formats.coding import Coding
from ripe_press.core.formats.facts import SourceFacts
from ripe_press.core.measure.signal import SignalResult
from ripe_press.core.requests.making import LevelRequest
from ripe_press.core.sources.file import FileSource
from ripe_press.core.stations.source import depth_label
from ripe_press.core.tags.sheet import FileTags
from ripe_press.core.timeline import Marker
from support.press import delivery_of, files_for

FACTS = SourceFacts("/mix.wav", "wav", "pcm-float", 96_000, 2, 96_000 * 151, 32)
KNOWN = st.PathFacts(rate_hz=96_000)
LOUD = st.PathFacts(signal=SignalResult(-1.0, -0.5, -18.0), group="album")


def test_a_depth_station_sets_its_noise_against_this_mix() -> None:
    depth = st.Depth(16, "triangular", exact=False)
    told = depth.words(st.PathFacts(-61.2))
    assert told.sentence.startswith(
        "Noise at 16 bits with triangular dither: −93.3 dBFS; quietest half second: −61.2 dBFS."
    )
    assert "digital silence" in depth.words(st.PathFacts(float("-inf"))).sentence
    assert depth.words(KNOWN).figures == (("Dither noise", "−93.3 dBFS"),)


@pytest.mark.parametrize(
    ("wish", "words"),
    [
        ({}, "Rate conversion uses floating point: reduced to 16 bits with triangular dither, once"),
        ({"rate_hz": "keep", "channels": "mono"}, "The mono sum uses floating point"),
        ({"rate_hz": "keep"}, "The mix is 32-bit floating point"),
        ({"rate_hz": "keep", "level": LevelRequest("peak", -1.0)}, "The gain uses"),
        ({"dither": "none"}, "without dither. Automatic would use triangular."),
        ({"dither": "triangular"}, "with triangular dither."),
    ],
)
def test_why_integers_are_made_so(wish: dict[str, object], words: str) -> None:
    made = delivery_of(FACTS, **{"encoding": "s16", "rate_hz": 44_100, **wish})
    (file,) = files_for(made, FACTS)
    cells = st.describe(file.path, st.PathFacts(dither_asked=made.dither))
    assert words in next(cell.sentence for cell in cells if cell.kind == "depth")
    assert dict(cells[-3].figures)["Size"]


def test_idle_stations_say_that_they_change_nothing() -> None:
    for station in (
        st.Source(FileSource(FACTS)), st.Range(0, FACTS.frames, FACTS.frames), st.Rate(96_000, 96_000, "high"),
        st.Depth(16, "none", exact=True), st.Tags(FileTags()), st.Measure(), st.Level(0.0),
    ):  # fmt: skip
        assert station.idle
        assert station.words(KNOWN).idle


def test_working_stations_name_their_changes() -> None:
    rate = st.Rate(96_000, 44_100, "very-high").words(KNOWN)
    assert (rate.label, rate.detail, rate.idle) == ("44.1 kHz", "from 96 k", False)
    assert "0:01.000" in st.Range(96_000, 192_000, FACTS.frames).words(KNOWN).sentence
    finish = st.Finish(-2.0, (0.01,), 30.0, -1.0).words(KNOWN)
    assert finish.detail == "4 steps"
    assert "high-pass at 30 Hz, then gain −2.0 dB" in finish.sentence
    mono = st.Channels("mono", -3).words(KNOWN)
    assert (mono.label, mono.detail) == ("Mono sum", "−3 dB")
    assert st.Channels("right").words(st.PathFacts(pair=True)).detail == "of a pair"
    assert [depth_label(16, "pcm"), depth_label(32, "pcm-float"), depth_label(None, "mp3")] == [
        "16 bits", "32-bit float", "mp3",
    ]  # fmt: skip


def test_level_shows_forecast_and_result() -> None:
    asked = st.Target("loudness", -14.0, -1.0)
    level = asked.words(LOUD)
    assert (level.label, level.detail) == ("−14.0 LUFS", "≈ +4.0 dB")
    assert ("Gain reduction", "−4.5 dB") in level.figures
    assert "“album”" in level.sentence
    assert "ceiling −1.0 dBTP (limiter, max 12 dB reduction)" in level.sentence
    peak = st.Target("peak", -0.3)
    assert st.Level(0.7).words(st.PathFacts(target=peak)).detail == "+0.7 dB"
    assert st.Level(0.0).words(st.PathFacts(target=peak)).detail == "no change"
    assert st.Level(-1.0).words(KNOWN).sentence == "Gain −1.0 dB."
    words = [st.Target(*one).in_words for one in (("peak", -0.3), ("true-peak", -1.0), ("loudness", -23.0))]  # type: ignore[arg-type]
    assert words == ["peak −0.3 dBFS", "−1.0 dBTP", "−23.0 LUFS"]


@pytest.mark.parametrize(
    ("coding", "words"),
    [
        (Coding("constant", 320), "constant bit rate, 4.4 times smaller"),
        (Coding("average", 128), "11.0 times smaller"),
        (Coding("variable", quality=7), "Lossy, variable bit rate."),
    ],
)
def test_lossy_codecs_describe_their_effect(coding: Coding, words: str) -> None:
    found = st.Codec("mp3", "lossy", 44_100, 2, 441_000, coding=coding).words(KNOWN)
    assert words in found.sentence
    assert dict(found.figures)["Encoder"] == str(coding)


def test_tags_list_their_fields() -> None:
    full = FileTags((("title", "Millrace"),), "a.png", markers=(Marker(0, "Intro"),), loop=(0, 9), gain_tags=True)
    found = st.Tags(full).words(KNOWN)
    assert found.sentence == "Written to the file: 1 field, cover, 1 marker, loop points, loudness."


def test_a_rate_that_a_codec_lacks_is_explained() -> None:
    rate = st.Rate(96_000, 48_000, "very-high")
    assert "Ogg Opus supports 48 kHz only" in rate.words(st.PathFacts(container="opus")).sentence
    assert "exists at" not in rate.words(st.PathFacts(container="wav")).sentence
