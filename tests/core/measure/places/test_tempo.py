"""The tempo by the sound, on generated music of known tempo, and where bar 1 begins."""

from pathlib import Path

import mido
import numpy as np
import pytest

from ripe_press.core.measure.places.programme import Sounding
from ripe_press.core.measure.places.tempo import SURE, TempoFound, find_tempo
from ripe_press.core.tempo_hints import first_bar_frame, tempo_hint, tempo_in_name
from ripe_press.core.timeline import TempoChange
from support import sampled
from support.cuts import RATE_HZ, applause, drone, music
from support.docs import rates_in_docs
from support.levels import levels_of

BPMS = (63.0, 72.0, 84.0, 92.0, 100.5, 110.0, 123.45, 128.0, 140.0, 155.0, 170.0)


@pytest.mark.slow
def test_a_tempo_is_shown_only_where_it_is_sure_and_then_right() -> None:
    rows, bpms = [], sampled(BPMS, 4)
    for style in ("band", "drums", "strings", "choir", "vocals"):
        shown, exact, worst = 0, 0, 0.0
        for bpm in bpms:
            found = find_tempo(levels_of(music(np.random.default_rng((5, int(bpm))), 60, style, bpm))[1])
            if found is None:
                continue
            shown += 1
            assert found.confidence >= SURE
            # Up to the octave, which is offered.
            off = min(abs(one / bpm - 1) for one in (found.bpm, *found.others))
            worst = max(worst, off)
            exact += found.bpm == pytest.approx(bpm, rel=2e-4)
        assert worst < 2e-4, style
        if style in ("band", "drums"):
            assert shown >= len(bpms) - 1
        rows.append(f"| {style} | {len(bpms)} | {shown} | {exact} | {100 * worst:.4f} % |")
    rates_in_docs(
        "tempo", ["| music | pieces | shown | right octave | largest error |", "|---|---|---|---|---|", *rows]
    )


def test_audio_without_tempo_gets_none() -> None:
    random = np.random.default_rng(1)
    for sound in (applause(random, 40), drone(random, 40), random.standard_normal(40 * RATE_HZ) * 0.1):
        assert find_tempo(levels_of(sound)[1]) is None
    assert find_tempo(levels_of(music(random, 5, "drums", 100))[1]) is None, "too short to be sure"
    assert find_tempo(levels_of(np.zeros(20 * RATE_HZ))[1]) is None


def test_a_name_may_tell_the_tempo() -> None:
    told = {
        "Millrace 84bpm": 84.0, "loop_92.5_BPM": 92.5, "Weir-120-bpm-Dm": 120.0, "128 Bpm": 128.0, "96,5bpm": 96.5,
    }  # fmt: skip
    assert {name: tempo_in_name(name) for name in told} == told
    for name in ("Millrace", "take 84", "120bpmx", "84bpm to 96bpm", "5bpm"):
        assert tempo_in_name(name) is None


def test_tags_come_first_then_a_midi_file_beside_it_then_the_name(tmp_path: Path) -> None:
    mix = tmp_path / "Millrace 100bpm.wav"
    assert tempo_hint(mix, None).told_by == "file name"  # type: ignore[union-attr]
    file = mido.MidiFile(ticks_per_beat=480)
    track = mido.MidiTrack()
    file.tracks.append(track)
    track.append(mido.MetaMessage("time_signature", numerator=3, denominator=4))
    track.append(mido.MetaMessage("set_tempo", tempo=mido.bpm2tempo(90)))
    track.append(mido.MetaMessage("set_tempo", tempo=mido.bpm2tempo(96), time=480 * 3 * 4))
    file.save(mix.with_suffix(".mid"))
    found = tempo_hint(mix, None)
    assert found is not None and found.told_by == "MIDI file"
    assert found.changes == (TempoChange(1, 90.0, 3, 4), TempoChange(5, 96.0, 3, 4))
    assert tempo_hint(mix, 84.0).changes == (TempoChange(1, 84.0),)  # type: ignore[union-attr]
    mix.with_suffix(".mid").write_bytes(b"no MIDI")
    assert tempo_hint(mix, None).told_by == "file name"  # type: ignore[union-attr]
    assert tempo_hint(tmp_path / "Weir.wav", None) is None


def test_bar_one_is_the_first_sound_or_the_bar_line_behind_it() -> None:
    rate = 48_000
    assert first_bar_frame(Sounding(1_000, 10**6), None, 120.0, rate) == 0, "an attack is no pause"
    assert first_bar_frame(Sounding(148_800, 10**6), None, 84.0, rate) == 148_800
    # Bars of 2 s from 0.5 s on: a first sound at 3.1 s is an upbeat to the bar at 4.5 s.
    found = TempoFound(120.0, 0.8, 0.5, 4, True)
    assert first_bar_frame(Sounding(148_800, 10**6), found, 120.0, rate) == round(4.5 * rate)
    assert first_bar_frame(Sounding(120_960, 10**6), found, 120.0, rate) == 120_960, "at 2.52 s: that is the line"
    assert first_bar_frame(Sounding(148_800, 10**6), found, 95.0, rate) == 148_800, "another tempo tells no bars"
