from dataclasses import replace

import pytest

from ripe_press.core.engine import stations as st
from ripe_press.core.engine.edges import EdgeLevels
from ripe_press.core.measure.clipping import ClippedRun, ClippingResult
from ripe_press.core.rules.before import BEFORE, RangeMeasures, findings_before, range_measures
from ripe_press.core.rules.findings import Finding, Remedy, worst
from ripe_press.core.signal.fade import Fade

PATH: st.Path = (
    st.Source("/mix.wav", 96_000, 2, 960_000, 32, "pcm-float"),
    st.Range(0, 960_000, 960_000),
    st.Depth(16, "triangular", "", exact=False),
    st.Codec("wav", "s16", 96_000, 2, 960_000),
    st.Name("a.wav"),
)
CLEAN = RangeMeasures(0, None, 0, None)
FIRES: dict[str, RangeMeasures] = {
    "samples_over_full_scale": RangeMeasures(3, 48_000, 3, 48_000),
    "clipped_in_the_mix": RangeMeasures(0, None, 12, 96_000),
    "range_is_silent": RangeMeasures(0, None, 0, None, sounding=False),
    "end_cuts_sound": RangeMeasures(0, None, 0, None, edges=EdgeLevels(-90.0, -20.0, -38.0, -38.5)),
    "start_cuts_sound": RangeMeasures(0, None, 0, None, edges=EdgeLevels(-20.0, -21.0, -80.0, -90.0)),
    "dead_air": RangeMeasures(0, None, 0, None, head_silence_frames=96_000, tail_silence_frames=0),
}


@pytest.mark.parametrize("rule", BEFORE, ids=lambda rule: rule.__name__)
def test_every_rule_fires_and_stays_quiet(rule: object) -> None:
    name = rule.__name__  # type: ignore[attr-defined]
    (found,) = findings_before(PATH, FIRES[name])
    assert found.rule == name
    assert found.sentence.endswith((".", "?"))
    assert findings_before(PATH, CLEAN) == ()


def test_overs_are_told_with_their_count_and_time_and_only_when_integers_are_made() -> None:
    (found,) = findings_before(PATH, FIRES["samples_over_full_scale"])
    assert "3 samples" in found.sentence
    assert "0:00.50" in found.sentence
    assert found.frame == 48_000
    to_float = tuple(station for station in PATH if not isinstance(station, st.Depth))
    assert findings_before(to_float, FIRES["samples_over_full_scale"]) == ()


def test_remedies_clear_what_they_are_for() -> None:
    (cut_off,) = findings_before(PATH, FIRES["end_cuts_sound"])
    assert "−38.0 dBFS" in cut_off.sentence
    assert cut_off.remedy == Remedy("Ring out", end="ring")
    faded = tuple(replace(one, fade_out=Fade(48_000, "s")) if isinstance(one, st.Range) else one for one in PATH)
    assert findings_before(faded, FIRES["end_cuts_sound"]) == ()
    (silent,) = findings_before(PATH, FIRES["dead_air"])
    assert silent.remedy == Remedy("Only what sounds", 96_000, 960_000)


def test_measures_of_a_range_name_the_first_of_each() -> None:
    runs = (ClippedRun(10, 3, 0, 0), ClippedRun(20, 1, 1, 1))
    assert range_measures(ClippingResult(4, 1, runs, complete=True)) == RangeMeasures(1, 20, 4, 10)


def test_the_worst_finding_is_the_verdict() -> None:
    look, stop = Finding("a", "look", "."), Finding("b", "stop", ".")
    assert [worst(()), worst((look,)), worst((look, stop, look))] == ["ready", "look", "stop"]
