"""The sidecar against signals that the test made, and bars counted by hand."""

import hashlib
from pathlib import Path

import numpy as np
import pytest

from ripe_press.core.sidecar import bars_of, sidecar_of
from ripe_press.core.timeline import TempoChange, TempoMap
from support.signals import sine, write

RATE = 48_000


def test_waveform_and_loudness_are_those_of_the_file(tmp_path: Path) -> None:
    loud, silent = sine(997, 2.0, RATE, 0.5), np.zeros((RATE, 2))
    loud[:, 1] *= 0.5
    path = write(tmp_path / "tone.wav", np.concatenate((silent, loud)), RATE, "PCM_24")
    found = sidecar_of(path)
    waveform = found.waveform
    assert (waveform.version, waveform.bits, waveform.channels, waveform.samples_per_pixel) == (2, 8, 2, 256)
    assert len(waveform.data) == 4 * waveform.length and waveform.length == -(-found.frames // 256)
    ends = np.array(waveform.data).reshape(-1, 2, 2)
    assert not ends[: RATE // 256].any()
    # Half of full scale is 64 of 127, rounded; the other side half of that.
    assert (ends[200:400].max(axis=0) == [[-60, 64], [-29, 32]])[:, 1].all() and ends.min() == -64
    assert found.sha256 == hashlib.sha256(path.read_bytes()).hexdigest()
    levels = found.loudness.momentary_lufs
    assert len(levels) == 30 and levels[2] is None
    # ITU-R BS.1770-4: a sine of 997 Hz at 0 dBFS in one channel is -3.01 LKFS; here -6 in one, -12 in the other.
    expected = 10 * np.log10(0.25 + 0.0625) - 3.01
    assert levels[20] == pytest.approx(expected, abs=0.1)
    assert found.loudness.sample_peak_dbfs == pytest.approx(-6.02, abs=0.01)
    assert found.bars == () and found.tempo == ()


def test_bars_and_beats_are_counted_by_hand() -> None:
    """120 beats a minute in 3/4 from half a second on; from bar 3 on 60 in 2/4."""
    tempo = TempoMap((TempoChange(1, 120.0, 3, 4), TempoChange(3, 60.0, 2, 4)), RATE // 2)
    bars = bars_of(tempo, 6 * RATE, RATE)
    assert [one.start_frame / RATE for one in bars] == [0.5, 2.0, 3.5, 5.5]
    assert [place / RATE for place in bars[1].beat_frames] == [2.0, 2.5, 3.0]
    assert [place / RATE for place in bars[2].beat_frames] == [3.5, 4.5]
    assert [one.number for one in bars] == [1, 2, 3, 4] and bars[3].beat_frames == (round(5.5 * RATE),)


def test_the_tempo_of_the_file_begins_at_its_first_sound(tmp_path: Path) -> None:
    import mutagen.flac

    samples = np.concatenate((np.zeros((RATE, 2)), sine(440, 4.0, RATE, 0.3)))
    path = write(tmp_path / "beat.flac", samples, RATE, "PCM_16", "FLAC")
    tags = mutagen.flac.FLAC(path)
    tags["bpm"], tags["initialkey"] = "90", "Dm"
    tags.save()
    found = sidecar_of(path)
    assert found.tempo[0].tempo_bpm == 90 and found.key == "Dm"
    assert abs(found.bars[0].start_frame - RATE) <= 2 and found.tags["key"] == "Dm"
