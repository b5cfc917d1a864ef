"""Where noisy recordings begin and end, on generated ones with known truth."""

import numpy as np
import pytest

from ripe_press.core.measure.level_history import LevelHistory
from ripe_press.core.measure.places.programme import SILENT_ABOVE_NOISE_DB, Sounding, find_programme, sounding_of
from ripe_press.core.measure.places.silence import SilenceMeter
from support import WHOLE
from support.cuts import RATE_HZ, Mono, music, recordings, room
from support.docs import rates_in_docs
from support.levels import levels_of


def sounding(sound: Mono, silence_dbfs: float | None = None) -> Sounding:
    silence = SilenceMeter()
    silence.process(sound[:, None])
    loudness, bands = levels_of(sound)
    found = sounding_of(silence.result(), loudness, bands, RATE_HZ, silence_dbfs)
    assert LevelHistory(silence.result(), loudness, bands, RATE_HZ).sounding(silence_dbfs) == found
    return found


@pytest.mark.slow
def test_noisy_recordings_begin_and_end_where_their_music_does() -> None:
    starts, ends, floors = [], [], []
    for one in recordings(seed=1, count=60):
        found = sounding(one.sound)
        # A tenth of a second is left before, half a second after.
        starts.append(found.start_frame / RATE_HZ + 0.1 - one.start / RATE_HZ)
        ends.append(found.end_frame / RATE_HZ - 0.5 - one.end / RATE_HZ)
        assert found.noise_dbfs is not None, one.kind
        assert found.silence_dbfs == max(-70.0, found.noise_dbfs + SILENT_ABOVE_NOISE_DB)
        floors.append(found.noise_dbfs - float(one.kind.rpartition(" ")[0].rpartition(" ")[2].replace("−", "-")))
    near, far = np.abs(starts) <= 0.1, np.abs(ends) <= 0.3
    assert min(near.sum(), far.sum()) >= 0.95 * len(starts) - (0 if WHOLE else 1)
    assert np.abs(np.median(floors)) < 2.0
    rates_in_docs(
        "noise",
        ["| | recordings | within | median | 5 % to 95 % |", "|---|---|---|---|---|"]
        + [
            f"| {name} | {len(off)} | {100 * good.mean():.0f} % within {limit} s | {np.median(off):+.2f} s | "
            f"{np.percentile(off, 5):+.2f} to {np.percentile(off, 95):+.2f} s |"
            for name, off, good, limit in (("start", starts, near, 0.1), ("end", ends, far, 0.3))
        ],
    )


@pytest.mark.parametrize("style", ["band", "strings", "drums", "choir", "vocals"])
def test_music_without_noise_is_never_taken_for_noise(style: str) -> None:
    random = np.random.default_rng(7)
    whole = room(music(random, 40, style, 100), 1.5, 0.3, random)
    _, bands = levels_of(whole)
    assert find_programme(bands).start_s is None and find_programme(bands).end_s is None
    whole[: 10 * RATE_HZ] *= 0.03
    _, bands = levels_of(whole)
    assert find_programme(bands).start_s is None, "a quiet beginning is no noise"


def test_a_level_that_is_set_decides() -> None:
    tone = 0.5 * np.sin(2 * np.pi * 330 * np.arange(4 * RATE_HZ) / RATE_HZ)
    hiss = np.random.default_rng(3).standard_normal(10 * RATE_HZ) * 10 ** (-62 / 20) / np.sqrt(2)
    hiss[3 * RATE_HZ : 7 * RATE_HZ] += tone
    knock = hiss.copy()
    knock[RATE_HZ : RATE_HZ + 300] += 0.3
    for sound in (hiss, knock):
        found = sounding(sound, -52.0)
        assert found.silence_dbfs == -52.0
        assert np.array(found.frames) / RATE_HZ == pytest.approx([3.0, 7.0], abs=0.03)
    assert sounding(hiss, -65.0).frames == pytest.approx((0, len(hiss)), abs=400)
    assert sounding(hiss, -3.0).frames == (0, 0)


def test_digital_silence_is_found_to_the_sample() -> None:
    sound = np.concatenate((np.zeros(1_234), 0.5 * np.ones(30_000), np.zeros(777)))
    found = sounding(sound)
    assert (found.frames, found.noise_dbfs, found.silence_dbfs) == ((1_234, 31_234), None, -70.0)
    assert sounding(np.zeros(30_000)).frames == (0, 0)
