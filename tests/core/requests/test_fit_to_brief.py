"""Stretches as recipients take them: on bar lines to the sample, no longer than asked for, with a seam that loops."""

from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
import soundfile

from ripe_press.core.briefs.library import brief_of
from ripe_press.core.formats.facts import SourceFacts
from ripe_press.core.requests.bench import Bench, NamedRange, TicketLine
from ripe_press.core.requests.delivery import Changes
from ripe_press.core.requests.document import MixRequest, SourceNote, document_of
from ripe_press.core.requests.edges import Edges, Stretch
from ripe_press.core.requests.fit_to_brief import from_bar_line, no_longer, with_fades
from ripe_press.core.requests.making import LEAVE
from ripe_press.core.timeline import TempoChange, TempoMap
from ripe_press.studio.planning.measured import measured
from ripe_press.studio.planning.planner import resolved_files
from support.press import press_files
from support.signals import sine, write

RATE = 48_000
TEMPO = TempoMap((TempoChange(1, 120),), 24_000)
"""Bars of two seconds, the first half a second in."""


@pytest.mark.parametrize(
    ("start", "begins", "silence"),
    [(24_000, 24_000, 0), (24_001, 24_000, 0), (119_999, 24_000, 0), (120_000, 120_000, 0), (0, 0, 72_000)],
)
def test_it_begins_on_the_bar_line_that_its_start_lies_behind(start: int, begins: int, silence: int) -> None:
    found = from_bar_line(Stretch(start, 400_000), TEMPO, RATE)
    assert (found.start_frame, round(found.edges.silence_before_s * RATE)) == (begins, silence)
    # Bar lines lie whole bars apart, with the silence that stands for what the mix has not.
    assert (24_000 - found.start_frame + silence) % 96_000 == 0


def test_it_is_cut_to_whole_bars_and_only_where_it_is_too_long() -> None:
    long = Stretch(24_000, 24_000 + 40 * RATE, Edges(end="ring"), 48_000)
    found = no_longer(long, 30, TEMPO, RATE, 60 * RATE)
    assert (found.end_frame, found.edges.end, found.ring_frames) == (24_000 + 30 * RATE, "stop", 0)
    odd = no_longer(replace(long, start_frame=0), 29, TEMPO, RATE, 60 * RATE)
    assert odd.end_frame == 24_000 + 28 * RATE
    assert no_longer(long, 30, None, RATE, 60 * RATE).end_frame == 24_000 + 30 * RATE
    short = Stretch(0, 10 * RATE, Edges(silence_after_s=1.0))
    assert no_longer(short, 11, TEMPO, RATE, 60 * RATE) is short
    # Silence and what rings count.
    assert no_longer(short, 10.5, None, RATE, 60 * RATE).end_frame == round(9.5 * RATE)
    ringing = Stretch(0, 29 * RATE, Edges(end="ring"), 2 * RATE)
    assert no_longer(ringing, 30, None, RATE, 60 * RATE) != ringing
    assert no_longer(ringing, 30, None, RATE, 29 * RATE + 10) == ringing


def test_fades_go_to_ends_that_have_none() -> None:
    found = with_fades(Stretch(0, 100, Edges(fade_in_s=2.0)), 0.01, 0.03).edges
    assert (found.fade_in_s, found.fade_out_s) == (2.0, 0.03)
    assert with_fades(Stretch(0, 100, Edges(end="fold")), 0.01, 0.03).edges.fade_out_s == 0.0


def test_a_ringtone_is_whole_bars_and_its_seam_does_not_click(tmp_path: Path) -> None:
    path = write(tmp_path / "mix.wav", sine(110.37, 50, RATE, 0.5), RATE, "FLOAT")
    facts = SourceFacts(str(path), "wav", "pcm-float", RATE, 2, 50 * RATE, 32)
    plain = Changes(container="wav", encoding="f32", rate_hz="keep", level=LEAVE)
    # As WAV at the rate of the mix, so that every sample can be looked at.
    lines = (TicketLine("d1", "ringtone", "r1", changes=plain),)
    bench = Bench((NamedRange("r1", 30_000, 50 * RATE),), tempo=TEMPO, ticket=lines)
    document = document_of((MixRequest(SourceNote(facts, "mix"), bench),), {"ringtone": brief_of("ringtone")}, "")
    ((one,), refused) = resolved_files(document, lambda wish: measured(wish.source.facts), judged=True)
    assert refused == []
    stretch = one.planned.wish.stretch
    assert (stretch.start_frame, stretch.end_frame) == (24_000, 24_000 + 30 * RATE)
    assert stretch.shortened and stretch.crossfade_frames > 0 and stretch.loudest is not None
    assert (stretch.moved_frames, one.planned.wish.bars, one.planned.wish.bars_s) == (6_000, "1-15", 30.0)
    (file,) = press_files(tmp_path, (one.planned,), brief_of("ringtone"))
    samples, _ = soundfile.read(file.path, dtype="float64")
    assert len(samples) == 30 * RATE and file.proof.seam is not None and file.proof.seam.step < 1.5
    seam = np.concatenate((samples[-200:], samples[:200]))
    assert np.abs(np.diff(seam, axis=0)).max() < 1.1 * np.abs(np.diff(samples[RATE : 2 * RATE], axis=0)).max()


def test_a_loop_that_repeats_as_it_is_keeps_its_samples(tmp_path: Path) -> None:
    path = write(tmp_path / "mix.wav", sine(110, 10, RATE, 0.5), RATE, "FLOAT")
    facts = SourceFacts(str(path), "wav", "pcm-float", RATE, 2, 10 * RATE, 32)
    bench = Bench((NamedRange("r1", 0, 4 * RATE),), ticket=(TicketLine("d1", "loop", "r1"),))
    document = document_of((MixRequest(SourceNote(facts, "mix"), bench),), {"loop": brief_of("loop")}, "")
    ((one,), _) = resolved_files(document, lambda wish: measured(wish.source.facts))
    assert (one.planned.wish.stretch.edges.end, one.planned.path.cut.crossfade_frames) == ("stop", 0)
