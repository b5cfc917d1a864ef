"""Tails, music and neither, on generated cuts with known truth; the rates are in ``docs/detectors.md``.

The bounds are those that were asked for: at most 0.5 % of the tails called music, 1 % of the music called a tail.
"""

from collections import Counter

import numpy as np
import pytest

from ripe_press.core.measure.places.tail import Tail, floor_dbfs, what_follows
from support import WHOLE
from support.cuts import PLAN, RATE_HZ, Mono, cuts, music
from support.docs import rates_in_docs
from support.levels import levels_of
from support.signals import noise


def follows(sound: Mono, cut_s: float, below_dbfs: float = -70.0, limit_s: float = 30.0) -> Tail:
    loudness, bands = levels_of(sound)
    return what_follows(loudness, bands, cut_s, floor_dbfs(loudness), below_dbfs, limit_s)


@pytest.mark.slow
def test_tails_and_music_are_distinguished() -> None:
    found: dict[tuple[str, str], Counter[str]] = {}
    for cut in cuts(seed=1):
        kind = cut.kind.partition(",")[0]
        found.setdefault((cut.truth, kind), Counter())[follows(cut.sound, cut.frame / RATE_HZ).kind] += 1
    total = Counter[tuple[str, str]]()
    for (truth, _), counts in found.items():
        total.update({(truth, said): count for said, count in counts.items()})
    tails = sum(count for (truth, _), count in total.items() if truth == "tail")
    musics = sum(count for (truth, _), count in total.items() if truth == "music")
    assert tails + musics >= (365 if WHOLE else 50) and sum(count for _, count in PLAN) >= 400
    assert total["tail", "music"] <= 0.005 * tails
    assert total["music", "tail"] + total["music", "nothing"] <= 0.01 * musics
    # A question is not an answer: it stays rare where the truth is clear.
    assert total["tail", "unsure"] <= max(3, 0.1 * tails) and total["music", "unsure"] <= max(2, 0.05 * musics)
    # A drone, or what ends too early, is never taken for music or for a tail that was heard to its end.
    assert set(found["ask", "a drone continues"]) == {"unsure"}
    said = ("nothing", "tail", "music", "unsure")
    rates_in_docs(
        "tails",
        ["| cut | truth | cuts | nothing | tail | music | unsure |", "|---|---|---|---|---|---|---|"]
        + [
            f"| {kind} | {truth} | {sum(counts.values())} | {' | '.join(str(counts[one]) for one in said)} |"
            for (truth, kind), counts in found.items()
        ],
    )


def fall(seconds: float, db_per_s: float, start_db: float = -20.0) -> Mono:
    t = np.arange(round(seconds * RATE_HZ)) / RATE_HZ
    return noise(len(t), 1)[:, 0] * 10 ** ((start_db - db_per_s * t) / 20) / 0.1


def test_a_tail_ends_where_it_has_decayed() -> None:
    # From −20 dBFS RMS, −17 as a sine reads, at 20 dB a second: below −70 after 2.65 s.
    found = follows(np.concatenate((fall(2.0, 0.0), fall(5.0, 20.0))), 2.0)
    assert (found.kind, found.music_s) == ("tail", None)
    assert found.decay_s == pytest.approx(2.65, abs=0.15)
    assert follows(np.concatenate((fall(2.0, 0.0), fall(5.0, 20.0))), 2.0, -50.0).decay_s == pytest.approx(
        1.65, abs=0.15
    )
    assert follows(np.concatenate((fall(2.0, 0.0), fall(5.0, 20.0))), 2.0, limit_s=1.0).decay_s == pytest.approx(1.0)


def test_sound_after_a_pause_is_not_part_of_a_tail() -> None:
    sound = np.concatenate((fall(2.0, 0.0), fall(1.0, 60.0), np.zeros(2 * RATE_HZ), fall(3.0, 0.0)))
    found = follows(sound, 2.0)
    assert found.kind == "tail" and found.decay_s == pytest.approx(0.9, abs=0.15)
    again = np.concatenate((fall(2.0, 0.0), fall(0.8, 40.0), music(np.random.default_rng(2), 4, "band", 120)))
    found = follows(again, 2.0)
    assert found.kind == "music" and found.music_s == pytest.approx(1.0, abs=0.3)


def test_silence_has_no_tail_and_too_little_audio_no_answer() -> None:
    assert follows(np.concatenate((fall(2.0, 0.0), np.zeros(3 * RATE_HZ))), 2.0).kind == "nothing"
    assert follows(music(np.random.default_rng(4), 6.0, "band", 120), 5.0).kind == "unsure"
    assert follows(np.zeros(5 * RATE_HZ), 2.0).kind == "nothing"


def test_sides_that_cancel_each_other_are_heard_all_the_same() -> None:
    tone = np.sin(2 * np.pi * 440 * np.arange(RATE_HZ) / RATE_HZ) * 0.5
    _, bands = levels_of(np.stack((tone, -tone), axis=1))
    assert bands.db(0.2, 0.8).max() > -30.0
    _, mono = levels_of(tone)
    assert mono.db(0.2, 0.8).max() == pytest.approx(-6.0, abs=1.0)
    assert mono.seconds == pytest.approx(1.0, abs=0.02)
