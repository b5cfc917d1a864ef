"""The edges of a range, from the typed text to the samples of the pressed file."""

import math
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
import soundfile
from hypothesis import given, strategies as st

from ripe_press.core import stations
from ripe_press.core.engine.edges import EdgeLevels, measure_edge_levels
from ripe_press.core.engine.walker import walk
from ripe_press.core.errors import BadInput
from ripe_press.core.formats.facts import SourceFacts
from ripe_press.core.requests.edges import Edges, parse_end, parse_fade, range_of
from ripe_press.core.signal.fade import CURVES, gain_at
from ripe_press.core.sources.file import FileSource
from ripe_press.studio.planning.measured import measured
from support.press import facts_of
from support.signals import noise, sine, write

RATE = 48_000


def ring_of(facts: SourceFacts, end_frame: int, edges: Edges) -> int:
    found = measured(facts).tail(end_frame, edges.ring_below_dbfs, edges.ring_limit_s)
    assert found.kind in ("tail", "nothing")
    return round(found.decay_s * facts.rate_hz)


def render(mix: Path, cut: stations.Range, target: Path) -> np.ndarray:
    source = stations.Source(FileSource.at(mix))
    target.unlink(missing_ok=True)
    walk([(source, cut, stations.Codec("wav", "f64", RATE, 2, cut.frames))], {0: target})
    read: np.ndarray = soundfile.read(target, always_2d=True)[0]
    assert len(read) == cut.frames
    return read


@pytest.fixture
def ringing(tmp_path: Path) -> Path:
    """Two seconds of a tone that then dies away by 60 dB a second."""
    decay = 10 ** (-np.maximum(0, np.arange(RATE * 5) - RATE * 2) * 60 / RATE / 20)
    return write(tmp_path / "mix.wav", sine(1_000, 5.0, RATE, 0.5) * decay[:, None], RATE, "DOUBLE")


def test_hold_and_ring_out_go_on_and_stop_does_not(ringing: Path, tmp_path: Path) -> None:
    facts, whole = facts_of(ringing), soundfile.read(ringing)[0]
    end = RATE * 2
    ring = ring_of(facts, end, Edges(end="ring"))
    # From -6 to -70 dBFS at 60 dB a second.
    assert ring / RATE == pytest.approx(64 / 60, abs=0.05)
    for edges, frames in ((Edges(), end), (Edges("hold", 0.5), end + RATE // 2), (Edges("ring"), end + ring)):
        read = render(ringing, range_of(facts, 0, end, edges, ring), tmp_path / "out.wav")
        assert np.array_equal(read, whole[:frames])
    limited = ring_of(facts, end, Edges(end="ring", ring_limit_s=0.25))
    assert limited == pytest.approx(RATE // 4, abs=50)
    assert range_of(facts, 0, facts.frames, Edges("hold", 9.0)).tail_frames == 0


@pytest.mark.parametrize("loop_s", [2.0, 0.3])
def test_fold_keeps_length_and_every_sample(ringing: Path, tmp_path: Path, loop_s: float) -> None:
    facts, whole = facts_of(ringing), soundfile.read(ringing)[0]
    end, start = RATE * 2, RATE * 2 - round(loop_s * RATE)
    ring = ring_of(facts, end, Edges(end="fold"))
    read = render(ringing, range_of(facts, start, end, Edges("fold"), ring), tmp_path / "out.wav")
    assert len(read) == end - start
    assert read.sum(axis=0) == pytest.approx(whole[start : end + ring].sum(axis=0), abs=1e-9)
    again = np.zeros_like(read)
    for at in range(start, end + ring, end - start):
        piece = whole[at : min(at + end - start, end + ring)]
        again[: len(piece)] += piece
    assert np.allclose(read, again, atol=1e-12)


def test_a_folded_loop_repeats_without_a_seam(tmp_path: Path) -> None:
    """Notes that ring over the loop's end: repeated, it is the endless pattern itself."""
    loop, notes = RATE, 8
    pattern = np.zeros(RATE * 12)
    decay = sine(220, 2.0, RATE, 0.2, 1)[:, 0] * np.exp(-np.arange(RATE * 2) / (RATE * 0.25))
    for note in range(notes * 8):
        at = note * loop // notes
        pattern[at : at + len(decay)] += decay[: len(pattern) - at]
    single = np.zeros(RATE * 4)
    for note in range(notes):
        single[note * loop // notes :][: len(decay)] += decay[: len(single) - note * loop // notes]
    mix = write(tmp_path / "loop.wav", np.repeat(single[:, None], 2, axis=1), RATE, "DOUBLE")
    cut = range_of(facts_of(mix), 0, loop, Edges("fold"), RATE * 2)
    read = render(mix, cut, tmp_path / "out.wav")[:, 0]
    assert np.abs(read - pattern[4 * loop : 5 * loop]).max() < 2e-4
    joined = np.tile(read, 3)
    around = joined[loop - 2_048 : loop + 2_048] * np.hanning(4_096)
    inside = joined[loop + loop // notes - 2_048 : loop + loop // notes + 2_048] * np.hanning(4_096)
    high = slice(800, None)  # above 9.4 kHz a click would stand out
    assert np.abs(np.fft.rfft(around))[high].max() < np.abs(np.fft.rfft(inside))[high].max() * 2 + 1e-6


@pytest.mark.parametrize("curve", CURVES)
def test_fades_rise_from_nothing_and_never_exceed_one(curve: str) -> None:
    gain = gain_at(curve, np.linspace(0, 1, 1001))  # type: ignore[arg-type]
    assert (gain[0], gain[-1]) == (pytest.approx(0.0, abs=1e-12), pytest.approx(1.0))
    assert (np.diff(gain) >= 0).all()
    assert gain.max() <= 1.0
    middle = {"linear": 0.5, "equal-power": np.sqrt(0.5), "s": 0.5, "logarithmic": 0.0306}[curve]
    assert gain[500] == pytest.approx(middle, abs=1e-3)


def test_fades_and_silence_lie_where_they_are_said_to(tmp_path: Path) -> None:
    mix = write(tmp_path / "ones.wav", np.ones((RATE, 2)) * 0.5, RATE, "DOUBLE")
    edges = Edges(
        fade_in_s=0.1,
        fade_in_curve="linear",
        fade_out_s=0.2,
        fade_out_curve="s",
        silence_before_s=0.05,
        silence_after_s=0.025,
    )
    read = render(mix, range_of(facts_of(mix), 0, RATE, edges), tmp_path / "out.wav")[:, 0]
    assert len(read) == RATE * 1.075
    assert not read[: RATE // 20].any()
    assert not read[-RATE // 40 :].any()
    heard = read[RATE // 20 : -RATE // 40]
    assert heard[2_400] == pytest.approx(0.25)
    assert (heard[4_800:38_399] == 0.5).all()
    assert heard[-4_801] == pytest.approx(0.25, abs=1e-3)
    assert heard[-1] == 0.0


@given(
    start=st.integers(0, 9_000),
    length=st.integers(1, 5_000),
    fade=st.floats(0, 0.2),
    kind=st.sampled_from(["stop", "hold", "fold", "crossfade"]),
)
def test_window_equals_that_piece_of_the_whole(
    tmp_path_factory: pytest.TempPathFactory, start: int, length: int, fade: float, kind: str
) -> None:
    folder = tmp_path_factory.getbasetemp()
    mix = folder / "window.wav"
    if not mix.exists():
        write(mix, noise(20_000), RATE, "DOUBLE")
    edges = Edges(end=kind, hold_s=0.02, fade_in_s=fade, fade_out_s=fade)  # type: ignore[arg-type]
    cut = range_of(facts_of(mix), start, start + length, edges, 700, 300)
    whole = render(mix, cut, folder / "whole.wav")
    first, last = cut.sounding_frames // 3, max(cut.sounding_frames // 3 + 1, cut.sounding_frames * 2 // 3)
    assert np.array_equal(render(mix, replace(cut, window=(first, last)), folder / "part.wav"), whole[first:last])


def test_levels_at_the_edges(ringing: Path) -> None:
    facts = facts_of(ringing)
    source = FileSource(facts)
    levels = measure_edge_levels(source, range_of(facts, RATE, RATE * 2))
    assert levels.before_start_dbfs == pytest.approx(-6.02, abs=0.05)
    assert levels.after_end_dbfs == pytest.approx(-7.4, abs=0.3)
    assert measure_edge_levels(source, range_of(facts, 0, facts.frames)).before_start_dbfs == float("-inf")


def test_typed_edges_are_parsed() -> None:
    assert [parse_end(text) for text in ("stop", "cut", "hold:2s", "extend:0.5", "ring", "FOLD")] == [
        Edges(), Edges(), Edges("hold", 2.0), Edges("hold", 0.5), Edges("ring"), Edges("fold"),
    ]  # fmt: skip
    crossfades = [parse_end(text) for text in ("crossfade", "crossfade:10", "crossfade:7.5ms")]
    assert crossfades == [Edges("crossfade", crossfade_ms=length) for length in (0.0, 10.0, 7.5)]
    assert [parse_fade(text) for text in ("2s", "0.5:linear", "1s:s")] == [
        (2.0, "equal-power"),
        (0.5, "linear"),
        (1.0, "s"),
    ]
    for parse, text in ((parse_end, "hold"), (parse_end, "loop"), (parse_fade, "fast"), (parse_fade, "1s:cubic")):
        with pytest.raises(BadInput):
            parse(text)
    with pytest.raises(BadInput, match="Silence before"):
        Edges(silence_before_s=61)


def test_room_tone_is_made_of_the_recording_and_never_steps(tmp_path: Path) -> None:
    quiet, loud = noise(RATE, 2, 1, 1e-3), noise(2 * RATE, 2, 2, 0.2)
    mix = write(tmp_path / "mix.wav", np.concatenate((quiet, loud)), RATE, "DOUBLE")
    facts = facts_of(mix)
    found = measured(facts).quiet_stretch()
    assert found is not None and found[1] - found[0] == RATE // 2 and found[1] <= RATE
    edges = Edges(silence_before_s=0.75, silence_after_s=2.0, room_tone=True)
    cut = range_of(facts, RATE, 3 * RATE, edges, tone=found)
    read = render(mix, cut, tmp_path / "out.wav")
    assert cut.frames == round(4.75 * RATE) and np.array_equal(read[round(0.75 * RATE) : round(2.75 * RATE)], loud)
    for tone in (read[: round(0.75 * RATE)], read[round(2.75 * RATE) :]):
        assert 20 * np.log10(np.sqrt((tone**2).mean())) == pytest.approx(-60.0, abs=0.3)
        assert np.abs(np.diff(tone, axis=0)).max() <= np.abs(np.diff(quiet, axis=0)).max()
    plain = range_of(facts, RATE, 3 * RATE, replace(edges, room_tone=False), tone=found)
    assert (plain.tone_before, plain.silence_before) == (0, round(0.75 * RATE))
    assert measured(facts_of(write(tmp_path / "still.wav", np.zeros((RATE, 2)), RATE))).quiet_stretch() is None


def test_nothing_is_cut_where_another_entry_continues() -> None:
    levels = EdgeLevels(-20.0, -21.0, -22.0, -23.0)
    assert levels.joined(before=True, behind=False) == EdgeLevels(-math.inf, -21.0, -22.0, -23.0)
    assert levels.joined(before=False, behind=True) == EdgeLevels(-20.0, -21.0, -22.0, -math.inf)
