"""The codec comparison: the right passages, rising settings, and a smallest one that holds over the whole."""

from itertools import pairwise
from pathlib import Path

import numpy as np
import pytest

from ripe_press.core.blocks import Block
from ripe_press.core.briefs.library import BLANK
from ripe_press.core.engine.extra_meter import witness
from ripe_press.core.engine.resolve import mix_of_file
from ripe_press.core.errors import Cancelled
from ripe_press.core.formats.capabilities import CAPABILITIES
from ripe_press.core.ladder import Ladder, climb
from ripe_press.core.ladder.passages import PassageMeter
from ripe_press.core.measure.peak import PeakMeter
from ripe_press.core.requests.delivery import Changes
from ripe_press.core.requests.edges import Stretch
from ripe_press.studio.listening.ladder import ladder_report
from support.press import delivery_of, facts_of, files_for
from support.signals import in_blocks, noise, write

RATE = 48_000


def piece(seconds: int = 24) -> Block:
    """Quiet noise; loud noise from 4 to 8 s, clicks from 10 to 14 s, a chord from 16 to 20 s."""
    at = np.arange(seconds * RATE) / RATE
    out = noise(len(at), 2, 1, 0.01)
    out[4 * RATE : 8 * RATE] = noise(4 * RATE, 2, 2, 0.2)
    clicks = (np.arange(4 * RATE) % 9_600 < 60)[:, None] * noise(4 * RATE, 2, 3, 0.3)
    out[10 * RATE : 14 * RATE] += clicks
    chord = sum(np.sin(2 * np.pi * hz * at[: 4 * RATE]) for hz in (220, 277, 330, 440))
    out[16 * RATE : 20 * RATE] = 0.05 * np.asarray(chord)[:, None] + noise(4 * RATE, 2, 4, 1e-4)
    return out


@pytest.mark.parametrize("block", [RATE, 10_007])
def test_passages_are_chosen_by_their_content(block: int) -> None:
    meter = PassageMeter(RATE, 3.0)
    for part in in_blocks(piece(), block):
        meter.process(part)
    found = {one.why: (one.start_frame / RATE, one.end_frame / RATE) for one in meter.result()}
    assert set(found) == {"loudest", "most transient", "most tonal", "quietest", "between"}
    for why, (first, last) in {"loudest": (4, 8), "most transient": (9.5, 14), "most tonal": (15.9, 20)}.items():
        assert first - 0.05 <= found[why][0] < found[why][1] <= last + 0.05, why
    quiet = [found["quietest"], found["between"]]
    places = sorted([*found.values()])
    assert all(one[1] <= other[0] for one, other in pairwise(places)) and quiet


def test_short_mix_is_one_passage() -> None:
    meter = PassageMeter(RATE, 3.0)
    meter.process(noise(5 * RATE))
    assert [(one.start_frame, one.end_frame) for one in meter.result()] == [(0, 5 * RATE)]


def climbed(path: Path, told: list[tuple[int, int]] | None = None) -> Ladder:
    facts = facts_of(path)
    mix = mix_of_file(facts, "Millrace")
    steps = told if told is not None else []
    return climb(BLANK.delivery(Stretch(0, facts.frames), facts), mix, progress=lambda *one: steps.append(one))


@pytest.fixture(scope="module")
def ladder(tmp_path_factory: pytest.TempPathFactory) -> tuple[Ladder, list[tuple[int, int]]]:
    steps: list[tuple[int, int]] = []
    path = write(tmp_path_factory.mktemp("ladder") / "Millrace.wav", piece(), RATE, "PCM_24")
    return climbed(path, steps), steps


def test_every_setting_is_tried_and_improves_with_bit_rate(ladder: tuple[Ladder, list[tuple[int, int]]]) -> None:
    found, steps = ladder
    assert len(found.rungs) == sum(len(can.ladder) for can in CAPABILITIES.values()) >= 20
    for codec in {one.codec for one in found.rungs}:
        ratios = [one.heard.total_db for one in found.rungs if one.codec == codec]
        # Neighbours may change places by a hair; over the ladder it falls.
        assert all(after < before + 0.5 for before, after in pairwise(ratios)), (codec, ratios)
        assert ratios[-1] < ratios[0] - 5
    assert steps[-1][0] == steps[-1][1] and [one for one, _ in steps] == sorted(one for one, _ in steps)


def test_the_smallest_holds_whole_and_so_do_all_above_it(ladder: tuple[Ladder, list[tuple[int, int]]]) -> None:
    found, _ = ladder
    smallest = found.smallest
    assert smallest and smallest.whole and smallest.passes
    # The verdict of the whole file is kept in the list, also for those that failed.
    whole = [one for one in found.rungs if one.whole]
    assert [one for one in whole if one.passes] == [smallest]
    assert all(one.bytes < smallest.bytes for one in whole if not one.passes)
    above = [one for one in found.rungs if one.codec == smallest.codec]
    assert all(one.passes for one in above[above.index(smallest) :])
    assert all(0 < one.bandwidth_hz <= RATE / 2 and one.kbps > 20 for one in found.rungs)


def test_the_answer_begins_with_the_format_that_was_asked_for(tmp_path: Path) -> None:
    path = write(tmp_path / "Millrace.wav", piece()[: 6 * RATE], RATE, "PCM_24")
    facts = facts_of(path)
    wish = Changes(container="aac").applied_to(BLANK.delivery(Stretch(0, facts.frames), facts))
    found = climb(wish, mix_of_file(facts, "Millrace"))
    assert found.asked_codec == "AAC in MP4"
    sentence = ladder_report(found)["sentence"]
    if found.asked:
        assert found.asked.whole and found.asked.passes and found.asked.container == "aac"
        assert sentence.startswith("AAC in MP4, ")
    else:
        assert sentence.startswith("No AAC in MP4 setting")


def test_sizes_are_near_the_real_ones(ladder: tuple[Ladder, list[tuple[int, int]]], tmp_path: Path) -> None:
    found, _ = ladder
    assert found.smallest
    seconds = 24
    for one in found.rungs:
        assert one.bytes == pytest.approx(one.kbps * 125 * seconds, rel=0.02)
        if one.changes.kbps and one.changes.mode != "variable":
            assert one.kbps == one.changes.kbps


def test_it_can_be_stopped(tmp_path: Path) -> None:
    path = write(tmp_path / "Millrace.wav", piece(), RATE, "PCM_24")
    facts = facts_of(path)
    with pytest.raises(Cancelled):
        climb(BLANK.delivery(Stretch(0, facts.frames), facts), mix_of_file(facts, "M"), should_stop=lambda: True)


def test_clicks_have_no_setting_of_a_codec_with_pre_echo(tmp_path: Path) -> None:
    """Out of silence: pre-echo before them is not masked. No MP3 setting avoids it, at any bit rate."""
    at = np.arange(12 * RATE)
    dry = (at % 19_200 < 30)[:, None] * noise(len(at), 2, 3, 0.5)
    found = climbed(write(tmp_path / "Clicks.wav", dry, RATE, "PCM_24"))
    smeared = [one for one in found.rungs if one.container == "mp3"]
    assert smeared and not any(one.passes for one in smeared)
    assert all(any("pre-echo" in reason for reason in one.opinion.reasons) for one in smeared)
    assert found.smallest and found.smallest.container != "mp3"


def test_witness_gets_the_blocks_of_a_walk(tmp_path: Path) -> None:
    path = write(tmp_path / "Millrace.wav", noise(RATE), RATE, "PCM_24")
    facts = facts_of(path)
    (file,) = files_for(delivery_of(facts), facts)
    meter = witness(file.path.sounding, lambda here: PeakMeter(here.channels))
    assert meter.result().sample_peak_dbfs == pytest.approx(20 * np.log10(np.abs(noise(RATE)).max()), abs=0.01)


def test_mono_has_its_own_bit_rates_and_silence_gets_the_lowest(tmp_path: Path) -> None:
    """A codec that rejects a bit rate for one channel has one setting less; where all are equal, fewer suffice."""
    one = climbed(write(tmp_path / "One.wav", noise(2 * RATE, 1, 1, 0.05), RATE, "PCM_24"))
    asked = {value for can in CAPABILITIES.values() if can.container == "aac" for value in can.ladder}
    taken = {rung.changes.kbps for rung in one.rungs if rung.container == "aac"}
    assert taken and taken < asked
    silent = climbed(write(tmp_path / "Silence.wav", np.zeros((2 * RATE, 2)), RATE, "PCM_16"))
    assert silent.smallest and silent.smallest.opinion.prediction == "same"
    alike = [rung for rung in silent.rungs if rung.codec == silent.smallest.codec]
    assert silent.smallest.changes == alike[0].changes
