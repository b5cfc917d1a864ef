"""The passages of the listening desk."""

import numpy as np

from ripe_press.core.listening.passages import passages
from ripe_press.core.measure.loudness import LoudnessMeter
from support.signals import sine

RATE = 48_000


def _measured(*parts: tuple[float, float]) -> tuple[int, object]:
    """A tone at the levels and for the seconds given."""
    sound = np.concatenate([sine(997.0, seconds, RATE, level) for level, seconds in parts])
    meter = LoudnessMeter(2, RATE)
    meter.process(sound)
    return len(sound), meter.result()


def test_the_loudest_and_the_quietest_that_sounds_are_found() -> None:
    frames, loudness = _measured((0.0, 10.0), (0.1, 10.0), (0.001, 10.0), (0.5, 10.0), (0.1, 10.0))
    found = {one.name: one for one in passages(loudness, RATE, 0, frames)}  # type: ignore[arg-type]
    assert [*found] == ["start", "loudest", "quietest", "end"]
    assert 30 * RATE <= found["loudest"].start_frame <= 32 * RATE
    # Ten seconds of digital silence are no music; what lies above the gate is, however little of it.
    assert found["quietest"].start_frame in range(2 * RATE, 22 * RATE + 1)
    assert (found["start"].start_frame, found["end"].end_frame) == (0, frames)
    assert {one.end_frame - one.start_frame for one in found.values()} == {8 * RATE}


def test_passages_are_inside_the_common_stretch() -> None:
    frames, loudness = _measured((0.5, 12.0), (0.1, 12.0), (0.3, 12.0))
    found = passages(loudness, RATE, 13 * RATE, 30 * RATE)  # type: ignore[arg-type]
    assert all(13 * RATE <= one.start_frame < one.end_frame <= 30 * RATE for one in found)
    assert next(one for one in found if one.name == "loudest").start_frame > 20 * RATE
    assert frames == 36 * RATE


def test_short_silent_or_unknown_audio_has_start_and_end() -> None:
    frames, loudness = _measured((0.5, 3.0))
    short = passages(loudness, RATE, 0, frames)  # type: ignore[arg-type]
    assert [(one.name, one.start_frame, one.end_frame) for one in short] == [("start", 0, frames), ("end", 0, frames)]
    frames, loudness = _measured((0.0, 30.0))
    assert [one.name for one in passages(loudness, RATE, 0, frames)] == ["start", "end"]  # type: ignore[arg-type]
    assert [one.name for one in passages(None, RATE, 0, frames)] == ["start", "end"]
