"""A gapless passage is one signal through all stations, cut after the last of them: the joined pieces are the whole."""

from collections.abc import Sequence
from dataclasses import replace
from itertools import pairwise
from pathlib import Path

import numpy as np
import pytest

from ripe_press.core import stations as st
from ripe_press.core.briefs.library import BLANK
from ripe_press.core.engine.levels import settled_at
from ripe_press.core.engine.range_source import part_of
from ripe_press.core.engine.resolve import Mix
from ripe_press.core.engine.runs import RunEntry, resolve_run
from ripe_press.core.errors import BadInput
from ripe_press.core.formats.capabilities import CAPABILITIES, CONTAINERS, Container
from ripe_press.core.press import PressedFile
from ripe_press.core.proof.against import hold_against
from ripe_press.core.requests.delivery import Changes, Delivery
from ripe_press.core.requests.edges import Stretch, range_of
from ripe_press.core.requests.making import LevelRequest
from ripe_press.core.signal.fade import Fade
from ripe_press.core.sources.file import FileSource
from ripe_press.core.sources.joined import joined
from support.press import press_files, read_all
from support.signals import noise, rms_db, sine, write

RATE = 96_000
CUTS = (0, 130_001, 222_223, 400_000)
LOUD = LevelRequest("loudness", -9.0, -1.0)
LOSSLESS = [one for one in CONTAINERS if not CAPABILITIES[one].lossy]


@pytest.fixture(scope="module")
def mix(tmp_path_factory: pytest.TempPathFactory) -> FileSource:
    """Noise that comes and goes, so that a limiter has something to do at every place."""
    swell = 0.3 + 0.25 * np.sin(np.arange(CUTS[-1]) / 9_000)[:, None]
    samples = noise(CUTS[-1], seed=3, level=1.0) * swell * 0.3
    return FileSource.at(write(tmp_path_factory.mktemp("mix") / "Long Pound.wav", samples, RATE, "PCM_24"))


def delivery(source: FileSource, start: int, end: int, **changes: object) -> Delivery:
    made = Changes(**changes).applied_to(BLANK.delivery(Stretch(start, end), source.facts))  # type: ignore[arg-type]
    return replace(made, id=f"{start}", group="album")


def entry(source: FileSource, start: int, end: int, finish: st.Finish = st.NO_FINISH, **changes: object) -> RunEntry:
    cut = range_of(source.facts, start, end)
    return RunEntry(delivery(source, start, end, **changes), Mix(source, Path(source.facts.path).stem, finish), cut)


def pressed(folder: Path, entries: Sequence[RunEntry], on_cd_frames: bool = True) -> tuple[PressedFile, ...]:
    folder.mkdir(exist_ok=True)
    files = [file for (file,) in resolve_run(entries, on_cd_frames)]
    return press_files(folder, files)


def put_together(files: Sequence[PressedFile]) -> np.ndarray:
    return np.concatenate([read_all(one.path) for one in files])


@pytest.mark.parametrize(
    ("container", "on_cd_frames"), [*((one, True) for one in LOSSLESS), (LOSSLESS[0], False), ("flac", False)]
)
def test_the_pieces_of_a_mix_are_the_whole_to_the_bit(
    mix: FileSource, tmp_path: Path, container: Container, on_cd_frames: bool
) -> None:
    """Rate conversion, limiter and dither go through the joins."""
    rate_hz = 48_000 if CAPABILITIES[container].takes_rate(48_000) else 44_100
    changes = {"container": container, "encoding": "s16", "rate_hz": rate_hz, "level": LOUD}
    parts = [entry(mix, start, end, **changes) for start, end in pairwise(CUTS)]
    pieces = pressed(tmp_path / "pieces", parts, on_cd_frames)
    (whole,) = pressed(tmp_path / "whole", [entry(mix, 0, CUTS[-1], **changes)])
    assert all(one.reduction_db is not None and one.reduction_db < -1 for one in pieces)
    assert np.array_equal(put_together(pieces), read_all(whole.path))
    lengths = [one.proof.frames for one in pieces]
    if on_cd_frames:
        assert [length * 75 % rate_hz for length in lengths[:-1]] == [0, 0]
    else:
        assert lengths[0] == (CUTS[1] + 1) * rate_hz // RATE
    assert {one.verdict for one in pieces} <= {"ready", "look"}


def test_gapless_mixes_share_converter_limiter_and_dither(mix: FileSource, tmp_path: Path) -> None:
    """Two files, each with a part of one signal, come to what the one file comes to, but for its noise."""
    with mix.open() as reader:
        whole = np.concatenate(list(reader.blocks()))
    sources = [
        FileSource.at(write(tmp_path / f"{name}.wav", part, RATE, "PCM_24"))
        for name, part in (("a", whole[: CUTS[1]]), ("b", whole[CUTS[1] :]))
    ]
    changes = {"encoding": "f64", "rate_hz": 44_100, "level": LOUD}
    entries = [entry(one, 0, one.facts.frames, **changes) for one in sources]
    apart = put_together(pressed(tmp_path / "apart", entries))
    (one,) = pressed(tmp_path / "one", [entry(mix, 0, CUTS[-1], **changes)])
    assert np.array_equal(apart, read_all(one.path))


def test_exact_pieces_are_the_samples_of_the_mix(tmp_path: Path) -> None:
    """Without computation: 16 bits at the rate of the disc pass unchanged, and each file is proven so."""
    samples = (noise(100_000, seed=5) * 32_768).astype(np.int16)
    source = FileSource.at(write(tmp_path / "m.wav", samples, 44_100, "PCM_16"))
    parts = [entry(source, start, end, encoding="s16") for start, end in ((0, 40_000), (40_000, 100_000))]
    made = pressed(tmp_path / "made", parts)
    assert np.array_equal(put_together(made) * 32_768, samples)
    assert all(any(check.rule == "samples_as_they_came" for check in one.checks) for one in made)


def test_gapless_mixes_keep_their_own_chains(tmp_path: Path) -> None:
    """A gain of the first is not one of the second."""
    sources = [
        FileSource.at(write(tmp_path / f"{hz}.wav", sine(hz, 1.0, 44_100, 0.25), 44_100, "PCM_24")) for hz in (100, 200)
    ]
    chains = [st.Finish(6.0206), st.Finish(0.0, high_pass_hz=20.0)]
    entries = [entry(one, 0, 44_100, chain, encoding="f64") for one, chain in zip(sources, chains, strict=True)]
    first, second = pressed(tmp_path / "made", entries)
    assert read_all(first.path).max() == pytest.approx(0.5, abs=1e-4)
    assert read_all(second.path).max() == pytest.approx(0.25, abs=5e-3)


def test_fades_inside_a_run_are_heard(mix: FileSource, tmp_path: Path) -> None:
    first = entry(mix, 0, CUTS[1], encoding="f64")
    faded = replace(first, cut=replace(first.cut, fade_out=Fade(9_600, "linear")))
    made = pressed(tmp_path / "made", [faded, entry(mix, CUTS[1], CUTS[2], encoding="f64")], on_cd_frames=False)
    assert rms_db(read_all(made[0].path)[-300:]) < -45
    assert rms_db(read_all(made[1].path)[:300]) > -40


def test_different_rates_are_not_gapless(mix: FileSource, tmp_path: Path) -> None:
    other = FileSource.at(write(tmp_path / "m.wav", noise(9_000), 44_100))
    with pytest.raises(BadInput) as caught:
        resolve_run([entry(mix, 0, 9_600), entry(other, 0, 9_000)], True)
    assert caught.value.code == "join.rates"


@pytest.mark.parametrize("container", ["mp3", "aac", "vorbis", "opus"])
def test_a_lossy_join_has_no_gap_and_no_click(tmp_path: Path, container: Container) -> None:
    """No sample is lost or added, no step is larger than the sound's own, and the error is about that of elsewhere."""
    rate_hz = 48_000
    join, near = 2 * rate_hz, rate_hz // 25
    sound = np.cumsum(noise(2 * join, seed=8, level=0.02), axis=0)
    sound = sound - np.apply_along_axis(lambda one: np.convolve(one, np.ones(400) / 400, "same"), 0, sound)
    source = FileSource.at(write(tmp_path / "sound.wav", sound * 0.5, rate_hz, "PCM_24"))
    parts = [
        entry(source, start, end, container=container, rate_hz=rate_hz) for start, end in ((0, join), (join, 2 * join))
    ]
    both = put_together(pressed(tmp_path / "made", parts))
    assert len(both) == len(sound)
    error = both - read_all(tmp_path / "sound.wav")
    elsewhere = max(rms_db(error[at : at + near]) for at in range(rate_hz // 2, join - rate_hz // 2, near))
    assert rms_db(error[join - near : join]) < elsewhere + 6
    assert rms_db(error[join : join + near]) < elsewhere + 6
    steps = np.abs(np.diff(both, axis=0)).max(axis=1)
    assert steps[join - 3 : join + 3].max() < np.sort(steps)[-len(steps) // 1_000]


@pytest.mark.parametrize(("dither", "rate_hz"), [("triangular", 44_100), ("shaped-strong", 44_100), ("none", 96_000)])
def test_piece_is_compared_with_its_part_of_the_run(mix: FileSource, tmp_path: Path, dither: str, rate_hz: int) -> None:
    """Its noise continues from the pieces before it: the render of the path is repeated, to the bit."""
    changes = {"encoding": "s16", "rate_hz": rate_hz, "dither": dither}
    entries = [entry(mix, start, end, **changes) for start, end in pairwise(CUTS)]
    files = [file for (file,) in resolve_run(entries, on_cd_frames=True)]
    made = press_files(tmp_path, files)
    for file, one in zip(files, made, strict=True):
        held = hold_against(settled_at(file, one.gain_db, one.backed_off_db), Path(one.path))
        assert held.apart and held.apart.exact
        assert held.lies.lag_frames == 0
        assert held.apart.rms_dbfs == pytest.approx(-93 if dither != "none" else -98, abs=14)


def test_a_part_is_a_source_with_its_edges(mix: FileSource) -> None:
    cut = replace(range_of(mix.facts, 1_000, 9_000), silence_before=500, fade_in=Fade(800, "linear"))
    part = part_of(mix, cut, None)
    with part.open() as reader:
        found = np.concatenate(list(reader.blocks()))
    assert len(found) == part.facts.frames == 8_500
    assert not found[:501].any()
    with mix.open() as reader:
        assert np.array_equal(found[1_300:], np.concatenate(list(reader.blocks(1_800, 9_000))))
    assert not part.facts.holds_integers and joined([part, part], "Two").facts.frames == 17_000
