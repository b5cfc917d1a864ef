import pytest
from hypothesis import given, strategies as st

from ripe_press.core.errors import BadInput
from ripe_press.core.formats.marker_lists import markers_csv, markers_json, parse_markers
from ripe_press.core.timeline import Marker, TempoChange, TempoMap

NAMES = st.text(st.characters(blacklist_categories=["Cs", "Cc"]), min_size=1, max_size=40).map(str.strip).filter(bool)
MARKERS = st.lists(st.builds(Marker, st.integers(0, 10**9), NAMES), min_size=1, max_size=20)


@given(MARKERS, st.sampled_from([44_100, 96_000]))
def test_exported_markers_are_imported_unchanged(markers: list[Marker], rate_hz: int) -> None:
    expected = tuple(sorted(markers, key=lambda marker: marker.frame))
    assert parse_markers(markers_csv(expected, rate_hz), rate_hz) == expected
    assert parse_markers(markers_json(expected, rate_hz), rate_hz) == expected


def test_lines_may_be_written_by_hand_in_any_unit() -> None:
    tempo = TempoMap((TempoChange(1, 120.0),))
    text = "0:01.5,Verse\n2|3,Bridge, the quiet one\n\n1:00cdf,\n96000smp,Close\n"
    assert parse_markers(text, 48_000, tempo) == (
        Marker(48_000, "Marker 3"),
        Marker(72_000, "Verse"),
        Marker(96_000, "Close"),
        Marker(144_000, "Bridge, the quiet one"),
    )


def test_a_list_made_at_another_rate_keeps_its_times() -> None:
    text = markers_json([Marker(44_100, "Verse")], 44_100)
    assert parse_markers(text, 96_000) == (Marker(96_000, "Verse"),)


@pytest.mark.parametrize(
    ("text", "words"),
    [("", "No markers"), ("0:01,A\nsoon,B", "Line 2"), ('{"markers": 3}', "JSON"), ("[1, 2]", "JSON"), ("{", "JSON")],
)
def test_nonsense_is_explained_with_its_line(text: str, words: str) -> None:
    with pytest.raises(BadInput, match=words) as caught:
        parse_markers(text, 48_000)
    assert caught.value.code == "marker.unreadable"
