"""A disc that is read back: the drive's offset is found, and every wrong sample is placed."""

from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given, settings, strategies as hy

from ripe_press.core.disc.frames import FRAME_SAMPLES
from ripe_press.core.disc.read_back import ReadBack, read_back
from ripe_press.core.disc.subchannel import OnDisc, q_frames, read_q

TRACKS = (OnDisc(1, ((1, 0),), "GBAYE0000351"), OnDisc(2, ((0, 375), (1, 525)), "", 2))
LEAD_OUT = 1_000


@pytest.fixture(scope="module")
def image(tmp_path_factory: pytest.TempPathFactory) -> Path:
    samples = np.random.default_rng(1).integers(-9_000, 9_000, (LEAD_OUT * FRAME_SAMPLES, 2)).astype("<i2")
    samples[375 * FRAME_SAMPLES : 525 * FRAME_SAMPLES] = 0
    path = tmp_path_factory.mktemp("image") / "disc.bin"
    samples.tofile(path)
    return path


def read_with(image: Path, offset: int = 0, wrong: dict[int, int] | None = None, q_of: int = 0) -> ReadBack:
    samples = np.fromfile(image, "<i2").reshape(-1, 2)
    heard = np.zeros_like(samples)
    if offset >= 0:
        heard[offset:] = samples[: len(samples) - offset]
    else:
        heard[:offset] = samples[-offset:]
    for frame, count in (wrong or {}).items():
        heard[frame * FRAME_SAMPLES : frame * FRAME_SAMPLES + count] ^= 0x155
    q = list(q_frames(TRACKS, LEAD_OUT, "4006381333931"))[150:]

    def read(frame: int, frames: int) -> tuple[list[int], bytes]:
        part = heard[frame * FRAME_SAMPLES : (frame + frames) * FRAME_SAMPLES]
        told = q[frame + q_of : frame + q_of + frames] if q_of else q[frame : frame + frames]
        return [one for one in (wrong or {}) if one % 2 == 0], part.tobytes() + b"".join(told)

    return read_back(image, TRACKS, LEAD_OUT, read)


def test_a_good_disc_is_the_image(image: Path) -> None:
    found = read_with(image)
    assert found.holds and (found.offset_samples, found.wrong_frames, found.places_wrong) == (0, 0, 0)
    assert found.catalog == "4006381333931" and found.isrcs == {1: "GBAYE0000351"}


@settings(max_examples=12, deadline=None)
@given(offset=hy.integers(-667, 667))
def test_any_offset_of_a_drive_is_found(image: Path, offset: int) -> None:
    found = read_with(image, offset)
    assert (found.offset_samples, found.lost_samples) == (offset, abs(offset))
    # What the drive cannot reach at one end is zeros there, and counts as lost, not as an error of the disc.
    assert found.wrong_frames <= 2


def test_errors_are_placed_on_track_and_second(image: Path) -> None:
    found = read_with(image, 30, {100: 5, 601: 588})
    assert not found.holds and found.wrong_frames == 2
    first, second = found.wrong
    assert (first.frame, first.track, first.samples, first.known) == (100, 1, 5, True)
    assert (second.track, second.at_s, second.known) == (2, pytest.approx(76 / 75), False)


def test_places_that_lie_are_seen(image: Path) -> None:
    assert read_with(image, q_of=1).places_wrong > 900


def test_a_silent_disc_has_no_offset(tmp_path: Path) -> None:
    path = tmp_path / "silent.bin"
    path.write_bytes(bytes(LEAD_OUT * 2_352))
    assert replace(read_with(path)).offset_samples is None


@settings(max_examples=30)
@given(data=hy.binary(min_size=0, max_size=14))
def test_invalid_q_is_none(data: bytes) -> None:
    assert read_q(data) is None or len(data) == 12
