"""Explanations of terms with the figures of the planned file."""

from dataclasses import replace
from pathlib import Path
from typing import Any, get_args

import pytest

from ripe_press.core.formats.facts import SourceFacts
from ripe_press.core.measure.signal import SignalResult
from ripe_press.core.requests.making import LevelRequest
from ripe_press.core.rules.explained import About, Word, explained
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
        ("dither", CD, "Noise here: −93.3 dBFS, 32 dB below the quietest half second of this range."),
        ("dither", {"encoding": "f32"}, "Not needed here: the file is floating point."),
        ("dither", {"container": "mp3"}, "Not needed here: lossy encoders take floating point."),
        ("dither", {"encoding": "s24"}, "Not needed here: no bits are lost."),
        ("dither", {**CD, "dither": "none"}, "rounding distortion at −98.1 dBFS in total."),
        ("noise-shaping", CD, "Off here: equal noise at all frequencies."),
        ("noise-shaping", {**CD, "dither": "shaped-light"}, "without shaping −93.3 dBFS."),
        ("noise-shaping", {"encoding": "s24"}, "No dither in this file."),
        ("true-peak", CD, "This range: −1.4 dBTP, 0.5 dB above its sample peak."),
        ("lufs", CD, "This range: −16.0 LUFS; players that normalise to −14.0 LUFS turn it up by 2.0 dB."),
        ("dbfs", CD, "Sample peak of this range: −1.9 dBFS."),
        ("sample-rate", CD, "Mix: 96 kHz; file: 44.1 kHz, up to 22 kHz; audio bandwidth"),
        ("sample-rate", {}, "Mix and file: 96 kHz; audio bandwidth 21 kHz."),
        ("bit-depth", CD, "Mix: 24 bits (20 used); file: 16 bits, dynamic range 98 dB"),
        ("bit-depth", {"container": "mp3"}, "lossy files have no bit depth."),
        ("bit-depth", {"encoding": "f32"}, "file: floating point"),
        ("lossy", CD, "This file is lossless: every sample is kept."),
        ("lossy", {"container": "mp3", "kbps": 320}, "This file is lossy: 320 kbit/s"),
        ("bit-rate", {"container": "mp3", "kbps": 320}, "file: 320 kbit/s, 14 times smaller."),
        ("bit-rate", CD, "Mix: 4,608 kbit/s; file: max 1,411 kbit/s."),
        ("limiter", CD, "No limiter in this delivery."),
        ("limiter", {**CD, "level": LevelRequest("loudness", -9.0)}, "Ceiling here: −1.0 dBTP"),
    ],
)  # fmt: skip
def test_term_is_explained_with_the_figures_of_this_file(word: Word, wish: dict[str, Any], told: str) -> None:
    assert told in explained(about(**wish))[word]


def test_every_word_has_two_sentences_whatever_the_range_is() -> None:
    silent = SignalResult(float("-inf"), float("-inf"), float("-inf"))
    for one in (about(**CD), replace(about(silent, float("-inf"), **CD), before=silent, bandwidth_hz=0.0)):
        words = explained(one)
        assert words.keys() == set(get_args(Word))
        for text in words.values():
            assert text.replace("0.5", "").count(". ") == 1 and text.endswith("."), text
            assert "inf" not in text and "nan" not in text and " 0 Hz" not in text


def test_planned_value_is_shown_where_it_differs() -> None:
    louder = SignalResult(-0.9, -0.4, -14.0)
    words = explained(about(louder, **CD))
    assert "; the file: −0.4 dBTP." in words["true-peak"]
    assert "the file: −14.0 LUFS; players that normalise to −14.0 LUFS do not change it." in words["lufs"]
