"""Words explain themselves with the figures of the file that is set out."""

from dataclasses import replace
from pathlib import Path
from typing import Any, get_args

import pytest

from ripe_press.core.formats.facts import SourceFacts
from ripe_press.core.measure.signal import SignalResult
from ripe_press.core.rules.explained import About, Word, explained
from ripe_press.core.wishes.delivery import LevelWish
from support.press import delivery_of, files_for

FACTS = SourceFacts(str(Path("Millrace.wav")), "wav", "pcm", 96_000, 2, 960_000, 24, effective_bits=20)
RANGE = SignalResult(-1.9, -1.4, -16.0)


def about(expected: SignalResult = RANGE, quietest_dbfs: float = -61.2, **wish: Any) -> About:
    (file, *_) = files_for(delivery_of(FACTS, **wish), FACTS)
    return About(file.path, RANGE, expected, quietest_dbfs, 21_000.0)


CD = {"encoding": "s16", "rate_hz": 44_100}


@pytest.mark.parametrize(
    ("word", "wish", "told"),
    [
        # 16 bits, triangular: 6.02 · 16 + 1.76 − 4.77 dB under full scale (published: `tests/published`).
        ("dither", CD, "Here the hiss lies at −93.3 dBFS, 32 dB below the quietest half second of this range."),
        ("dither", {"encoding": "f32"}, "This file keeps finer steps than its mix all the way, so it needs none."),
        ("dither", {"container": "mp3"}, "A lossy file is made of finer steps than it can keep, so it needs none."),
        ("dither", {"encoding": "s24"}, "Nothing is rounded in this file, so it has none."),
        ("dither", {**CD, "dither": "none"}, "what is rounded away follows the music, at −98.1 dBFS altogether."),
        ("noise-shaping", CD, "It is off here: the hiss is as loud at every pitch."),
        ("noise-shaping", {**CD, "dither": "shaped-light"}, "where an even hiss would lie at −93.3 dBFS."),
        ("noise-shaping", {"encoding": "s24"}, "This file has no such hiss."),
        ("true-peak", CD, "This range reaches −1.4 dBTP, 0.5 dB above the highest of its samples."),
        ("lufs", CD, "This range has −16.0 LUFS; players that bring all to −14.0 LUFS turn it up by 2.0 dB."),
        ("dbfs", CD, "The highest sample of this range lies at −1.9 dBFS."),
        ("sample-rate", CD, "The mix has 96 kHz and the file 44.1 kHz, up to 22 kHz; something sounds"),
        ("sample-rate", {}, "Mix and file have 96 kHz; something sounds in this mix up to 21 kHz."),
        ("bit-depth", CD, "The mix has 24 bits, of which 20 are in use; the file has 16 bits, with room for 98 dB"),
        ("bit-depth", {"container": "mp3"}, "a lossy file has no bits of its own."),
        ("bit-depth", {"encoding": "f32"}, "the file keeps floating point"),
        ("lossy", CD, "This file is not: it gives back every sample that was written."),
        ("lossy", {"container": "mp3", "kbps": 320}, "This file is: it is made at 320 kbit/s"),
        ("bit-rate", {"container": "mp3", "kbps": 320}, "this file 320: it is 14 times smaller."),
        ("bit-rate", CD, "The mix has 4,608 kbit/s and this file 1,411 at most."),
        ("limiter", CD, "There is none in the way of this file."),
        ("limiter", {**CD, "level": LevelWish("loudness", -9.0)}, "Here the ceiling is −1.0 dBTP"),
    ],
)  # fmt: skip
def test_a_word_says_what_it_is_in_this_file(word: Word, wish: dict[str, Any], told: str) -> None:
    assert told in explained(about(**wish))[word]


def test_every_word_has_two_sentences_whatever_the_range_is() -> None:
    silent = SignalResult(float("-inf"), float("-inf"), float("-inf"))
    for one in (about(**CD), replace(about(silent, float("-inf"), **CD), before=silent, bandwidth_hz=0.0)):
        words = explained(one)
        assert words.keys() == set(get_args(Word))
        for text in words.values():
            assert text.replace("0.5", "").count(". ") == 1 and text.endswith("."), text
            assert "inf" not in text and "nan" not in text and " 0 Hz" not in text


def test_what_the_file_will_have_is_told_where_it_is_another() -> None:
    louder = SignalResult(-0.9, -0.4, -14.0)
    words = explained(about(louder, **CD))
    assert "; the file will have −0.4 dBTP." in words["true-peak"]
    assert "and the file will have −14.0 LUFS; players that bring all to −14.0 LUFS leave it as it is." in words["lufs"]
