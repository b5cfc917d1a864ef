"""Work and time left of a pressing: on a clock that moves only on command."""

from pathlib import Path

import numpy as np
import pytest

from ripe_press.core.briefs.library import BLANK
from ripe_press.core.press import Event, OrderedFile
from ripe_press.studio.jobs.folder import JobProgress
from ripe_press.studio.jobs.time_left import TimeLeft, effort_of, foretold_seconds, wall_seconds
from support.press import delivery_of, facts_of, files_for
from support.signals import write

SECONDS = 120


@pytest.fixture
def files(tmp_path: Path) -> list[OrderedFile]:
    facts = facts_of(write(tmp_path / "Weir.wav", np.zeros((48_000 * SECONDS, 2), np.float32), 48_000))
    made = [file for name in ("wav", "caf") for file in files_for(delivery_of(facts, container=name), facts)]
    return [OrderedFile(file, BLANK, f"{at}") for at, file in enumerate(made)]


def pressed_at(files: list[OrderedFile], pace: float, told: float) -> tuple[list[JobProgress], float | None]:
    """Reports of a pressing that takes ``pace`` times its work, with ``told`` as the learnt pace."""
    now = [100.0]
    reports: list[JobProgress] = []
    work = TimeLeft(files, reports.append, cores=2, pace=told, clock=lambda: now[0])
    efforts = [effort_of(one.path) for one in files]
    whole = pace * wall_seconds([one.all for one in efforts], 2)
    for state, part in (("making", "making"), ("reading-back", "proving")):
        share = getattr(efforts[0], part) / efforts[0].all
        for step in range(1, 101):
            now[0] += whole * share / 100
            work(Event((0, 1), state, step, 100))  # type: ignore[arg-type]
    for at in range(2):
        work(Event((at,), "named"))
    return reports, work.off_by()


def test_learnt_pace_makes_the_first_estimate_right(files: list[OrderedFile]) -> None:
    reports, off_by = pressed_at(files, pace=30.0, told=30.0)
    totals = [one.seconds + (one.seconds_left or 0.0) for one in reports]
    assert totals == pytest.approx([totals[-1]] * len(totals), rel=0.25)
    assert off_by is not None
    assert off_by < 0.15


def test_wrong_pace_is_corrected_and_reported(files: list[OrderedFile]) -> None:
    reports, off_by = pressed_at(files, pace=30.0, told=3.0)
    last = reports[-1].seconds
    later = [one for one in reports if one.done > one.total * 0.3]
    assert all(abs(one.seconds + (one.seconds_left or 0.0) - last) < 0.2 * last for one in later)
    assert off_by is not None
    assert off_by > 0.02
    assert [round(file.part, 6) for file in reports[-1].files] == [1.0, 1.0]
    assert reports[-1].seconds_left == pytest.approx(0.0, abs=1e-6)


def test_shortest_pressing_does_not_set_the_pace(tmp_path: Path) -> None:
    """One frame takes half a second for all that: against its work alone it would seem thousands of times too slow."""
    facts = facts_of(write(tmp_path / "One.wav", np.zeros((1, 2), np.float32), 48_000))
    (file,) = files_for(delivery_of(facts, container="wav"), facts)
    effort = effort_of(file.path).all
    assert wall_seconds([effort], 2) < 0.001
    assert 0.2 < foretold_seconds([effort], 2) < 1.0
