"""Audio around a cut: adjoining ranges make the whole, loops repeat, windows are pieces."""

from dataclasses import replace
from itertools import pairwise
from pathlib import Path

import numpy as np
import pytest

from ripe_press.core import stations as st
from ripe_press.core.blocks import Block
from ripe_press.core.engine.preroll import behind
from ripe_press.core.engine.resolve import Mix, files_of
from ripe_press.core.engine.tree import merge
from ripe_press.core.engine.walker import walk
from ripe_press.core.formats.facts import SourceFacts
from ripe_press.core.requests.delivery import Delivery
from ripe_press.core.requests.edges import Edges, Stretch, range_of
from ripe_press.core.requests.making import LevelRequest
from ripe_press.core.signal.limiter import AHEAD_S, REACH_S
from ripe_press.core.sources.file import FileSource
from ripe_press.core.stations import NO_FINISH
from support.press import facts_of, paths_for, walked
from support.signals import noise, write

WHOLE_DB = -140


def db(samples: Block) -> float:
    return float(20 * np.log10(np.abs(samples).max() + 1e-30))


def wish(stretch: Stretch, rate_hz: int | None, **more: object) -> Delivery:
    return Delivery(
        brief="blank", stretch=stretch, encoding="f64", rate_hz=rate_hz or "keep", label_pattern="x", **more
    )  # type: ignore[arg-type]


def parts_and_whole(
    folder: Path, mix: Path, bounds: list[int], rate_hz: int, finish: st.Finish = NO_FINISH, **more: object
) -> tuple[Block, Block]:
    facts = facts_of(mix)
    stretches = [Stretch(0, facts.frames), *(Stretch(*pair) for pair in pairwise(bounds))]
    paths = [paths_for(wish(one, rate_hz, **more), facts, "x", finish)[0] for one in stretches]
    (whole, *parts), _ = walked(folder, *paths)
    return np.concatenate(parts), whole


def cosine(frames: int, rate_hz: int, hz: float = 1_000) -> Block:
    wave = 0.5 * np.cos(2 * np.pi * hz * np.arange(frames) / rate_hz)
    return np.stack((wave, -wave), axis=1)


MATERIAL = {
    "cosine at −6 dBFS": cosine,
    "noise": lambda frames, rate: noise(frames, 2, 3),
    "offset": lambda frames, rate: np.full((frames, 2), 0.5),
}
CHAINS: dict[str, tuple[st.Finish, LevelRequest]] = {
    "nothing": (NO_FINISH, LevelRequest()),
    "high-pass": (st.Finish(high_pass_hz=20.0), LevelRequest()),
    "limiter": (st.Finish(gain_db=6.0, ceiling_dbtp=-3.0), LevelRequest()),
    "all of it": (st.Finish(high_pass_hz=40.0, gain_db=9.0, ceiling_dbtp=-1.0), LevelRequest()),
}


@pytest.mark.parametrize("chain", CHAINS)
@pytest.mark.parametrize("material", MATERIAL)
@pytest.mark.parametrize(("from_hz", "to_hz"), [(96_000, 44_100), (44_100, 48_000), (48_000, 48_000)])
def test_adjoining_ranges_are_the_whole(tmp_path: Path, from_hz: int, to_hz: int, material: str, chain: str) -> None:
    mix = write(tmp_path / "mix.wav", MATERIAL[material](6 * from_hz, from_hz), from_hz, "DOUBLE")
    finish, level = CHAINS[chain]
    # Boundaries on both grids: whole seconds, and one three hundredth of a second past.
    bounds = [0, from_hz, 3 * from_hz + from_hz // 300, 6 * from_hz]
    joined, whole = parts_and_whole(tmp_path, mix, bounds, to_hz, finish, level=level)
    assert joined.shape == whole.shape
    assert db(joined - whole) < WHOLE_DB


def test_a_cut_that_lies_between_frames_does_not_ring(tmp_path: Path) -> None:
    """One that begins on no frame of the other rate: what leaves is the cosine that its first frame begins."""
    mix = write(tmp_path / "mix.wav", cosine(4 * 96_000, 96_000), 96_000, "DOUBLE")
    first = 96_000 + 7
    (path,) = paths_for(wish(Stretch(first, 3 * 96_000), 44_100), facts_of(mix), "x")
    (cut,), _ = walked(tmp_path, path)
    at = first / 96_000 + np.arange(len(cut)) / 44_100
    assert db(cut[:, 0] - 0.5 * np.cos(2 * np.pi * 1_000 * at)) < WHOLE_DB


def test_silence_and_fades_stay_where_they_are(tmp_path: Path) -> None:
    mix = write(tmp_path / "mix.wav", cosine(4 * 96_000, 96_000), 96_000, "DOUBLE")
    edges = Edges(silence_before_s=0.5, silence_after_s=0.25, fade_out_s=0.5)
    part = Stretch(96_000, 3 * 96_000, edges)
    (path,) = paths_for(wish(part, 44_100), facts_of(mix), "x")
    plain, faded = paths_for(wish(Stretch(96_000, 3 * 96_000), 44_100), facts_of(mix), "x")[0], path
    (bare, out), reports = walked(tmp_path, plain, faded)
    before, sounding = 22_050, 88_200
    assert len(out) == before + sounding + 11_025
    assert not out[:before].any()
    assert not out[before + sounding :].any()
    assert db(out[before : before + 44_100] - bare[:44_100]) < WHOLE_DB
    assert db(out[before + sounding - 441 : before + sounding]) < -20
    # The measurements of a range are those of the range alone.
    assert {one.silence.frames for one in reports if one.silence} == {2 * 96_000}


@pytest.mark.parametrize(("from_hz", "to_hz"), [(96_000, 44_100), (44_100, 48_000), (48_000, 96_000)])
@pytest.mark.parametrize("tail_s", [0.0, 0.7])
def test_folded_loop_is_processed_with_its_repeats(tmp_path: Path, from_hz: int, to_hz: int, tail_s: float) -> None:
    """Played three times in a row, the second time is what a conversion of the three gives."""
    wave = noise(2 * from_hz, 2, 5)
    wave[from_hz + round(tail_s * from_hz) :] = 0
    mix = write(tmp_path / "mix.wav", wave, from_hz, "DOUBLE")
    facts = facts_of(mix)
    finish = st.Finish(high_pass_hz=30.0, gain_db=12.0, ceiling_dbtp=-1.0)
    part = Stretch(0, from_hz, Edges("fold"), round(tail_s * from_hz))
    (path,) = paths_for(wish(part, to_hz), facts, "loop", finish)
    (loop,), _ = walked(tmp_path, path)
    assert len(loop) == to_hz
    folded = wave[:from_hz].copy()
    folded[: round(tail_s * from_hz)] += wave[from_hz : from_hz + round(tail_s * from_hz)]
    again = write(tmp_path / "again.wav", np.concatenate([folded] * 5), from_hz, "DOUBLE")
    (whole,) = paths_for(wish(Stretch(0, 5 * from_hz), to_hz), facts_of(again), "again", finish)
    (five,), _ = walked(tmp_path, whole)
    assert db(loop - five[2 * to_hz : 3 * to_hz]) < WHOLE_DB


def test_the_seam_of_a_loop_is_as_deep_after_conversion(tmp_path: Path) -> None:
    """A cosine of whole periods: at its own rate and at another nothing is heard where the loop begins again."""
    mix = write(tmp_path / "mix.wav", cosine(2 * 96_000, 96_000), 96_000, "DOUBLE")
    (path,) = paths_for(wish(Stretch(0, 96_000, Edges("fold")), 44_100), facts_of(mix), "loop")
    (loop,), _ = walked(tmp_path, path)
    assert db(np.concatenate([loop] * 2)[:, 0] - cosine(2 * 44_100, 44_100)[:, 0]) < WHOLE_DB


@pytest.mark.parametrize("fold", [False, True])
def test_a_window_is_a_piece_of_its_range(tmp_path: Path, fold: bool) -> None:
    mix = write(tmp_path / "mix.wav", noise(5 * 96_000, 2, 8), 96_000, "DOUBLE")
    facts = facts_of(mix)
    edges = Edges("fold" if fold else "stop", fade_in_s=0.0 if fold else 0.2)
    part = Stretch(96_000, 4 * 96_000, edges, 9_600 if fold else 0)
    finish = st.Finish(gain_db=12.0, ceiling_dbtp=-1.0)
    cut = range_of(facts, part.start_frame, part.end_frame, edges, part.ring_frames)
    windows = [(0, 48_000), (48_000, 2 * 96_000), (2 * 96_000, 3 * 96_000)]
    paths = [
        files_of(wish(part, 44_100), Mix(FileSource(facts), "x", finish), one)[0].path
        for one in (cut, *(replace(cut, window=window) for window in windows))
    ]
    (whole, *pieces), _ = walked(tmp_path, *paths)
    assert db(np.concatenate(pieces) - whole) < WHOLE_DB


def test_exact_paths_bring_nothing_more(tmp_path: Path) -> None:
    mix = write(tmp_path / "mix.wav", noise(96_000), 48_000, "PCM_24")
    (path,) = paths_for(replace(wish(Stretch(480, 48_000), None), encoding="s24"), facts_of(mix), "x")
    reads: list[tuple[int, int]] = []
    walk([path], {0: tmp_path / "out.wav"}, lambda done, total: reads.append((done, total)))
    assert reads[-1] == (48_000 - 480, 48_000 - 480)


def test_later_stations_request_their_context() -> None:
    source = st.Source(FileSource(SourceFacts("/mix.wav", "wav", "pcm", 96_000, 2, 96_000, 24)))
    cut, rate = st.Range(0, 96_000, 96_000), st.Rate(96_000, 48_000, "high")
    (root,) = merge([(source, cut, rate, st.Level(0.0, -1.0), st.Measure()), (source, cut, st.Measure())])
    (alone,) = rate.reach(96_000)[:1]
    before, after = behind(root.children[0], 96_000)
    # The limiter stands behind the conversion, and hears at half the rate.
    assert before == pytest.approx(alone + REACH_S * 96_000, abs=2)
    assert after == pytest.approx(alone + AHEAD_S * 96_000, abs=2)


def test_conversion_begins_at_a_common_point_of_both_grids() -> None:
    source = FileSource(SourceFacts("/mix.wav", "wav", "pcm", 96_000, 2, 96_000, 24))
    for lead in (0, 1, 319, 320, 1_000):
        after = st.Rate(96_000, 44_100, "very-high").after(st.Signal(source, 2, 96_000, lead=lead))
        # Silence is put before it, so that it begins at a multiple of 320 frames, which are 147 at the other rate.
        assert after.lead == -(-lead // 320) * 147
    assert st.Rate(96_000, 96_000, "high").after(st.Signal(source, 2, 96_000, lead=7)).lead == 7
