from ripe_press.core.engine import stations as st
from ripe_press.core.engine.describe import MixKnowledge, depth_label, describe

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
