import threading
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

import pytest

from ripe_press.core.errors import Cancelled, Conflict, Interrupted
from ripe_press.studio.jobs.events import Events
from ripe_press.studio.jobs.folder import JobFolder
from ripe_press.studio.jobs.job import Jobs, JobState, Work
from support.server import wait_for


def ended(jobs: Jobs[str], key: str) -> JobState[str]:
    found: JobState[str] = wait_for(lambda: (state := jobs.of(key)) and state.state != "running" and state)
    return found


def until_stopped(work: Work[str]) -> str:
    work.tell(3, 10, "weighing")
    while not work.should_stop():
        threading.Event().wait(0.01)
    raise Cancelled("test.cancelled", "Cancelled; 3 kept.")


def failing(error: Exception) -> Callable[[Work[str]], str]:
    def run(_work: Work[str]) -> str:
        raise error

    return run


def test_a_job_ends_with_its_result_or_one_sentence() -> None:
    jobs, events = Jobs[str]("burns", made := Events()), []
    with made.subscribed(events.append):
        jobs.begin("a", lambda _work: "found")
        assert ended(jobs, "a") == JobState("done", 0, 0, result="found")
    assert events == ["burns", "burns"] and not jobs.busy
    jobs.begin("b", failing(Interrupted("x.y", "The disk is full.")))
    assert (ended(jobs, "b").state, ended(jobs, "b").sentence) == ("failed", "The disk is full.")
    jobs.begin("c", failing(ZeroDivisionError("by zero")))
    assert ended(jobs, "c").sentence.startswith("Internal error (ZeroDivisionError: by zero)")
    jobs.forget("c")
    assert jobs.of("c") is None and jobs.of("d") is None


def test_a_job_is_cancelled_and_runs_once_at_a_time() -> None:
    jobs = Jobs[str]("burns", Events(), alone=True, busy="The writer is busy.")
    jobs.begin("a", until_stopped)
    wait_for(lambda: jobs.of("a") == JobState("running", 3, 10, "weighing"))
    assert jobs.start("a", until_stopped) == jobs.of("a")
    for key in ("a", "b"):
        with pytest.raises(Conflict, match="writer is busy"):
            jobs.begin(key, until_stopped)
    jobs.forget("a")
    assert jobs.busy and jobs.cancel("a") and not jobs.cancel("b")
    assert (ended(jobs, "a").state, ended(jobs, "a").sentence) == ("cancelled", "Cancelled; 3 kept.")
    jobs.begin("b", until_stopped)
    jobs.close()
    assert ended(jobs, "b").state == "cancelled" and not jobs.busy


def test_a_job_without_a_result_is_returned_once_and_started_again() -> None:
    jobs = Jobs[str]("burns", Events())
    assert jobs.once("a", failing(Interrupted("x.y", "The disk is full."))).state == "running"
    ended(jobs, "a")
    assert jobs.once("a", lambda _work: "found").sentence == "The disk is full."
    assert jobs.once("a", lambda _work: "found").state == "running"
    assert ended(jobs, "a").result == jobs.once("a", lambda _work: "other").result == "found"


def counting(start: int, job: str) -> str:
    folder = JobFolder(Path(job))
    folder.report(start, 10)
    while not folder.cancelled():
        threading.Event().wait(0.01)
    raise Cancelled("test.cancelled", "Stopped.")


@pytest.mark.parametrize("follow", [True, False])
def test_work_in_a_worker_is_followed_and_cancelled(tmp_path: Path, follow: bool) -> None:
    jobs = Jobs[str]("burns", Events())
    with ThreadPoolExecutor(1) as pool:
        jobs.begin("a", lambda work: work.in_worker(pool, tmp_path, counting, 10, follow=follow))
        wait_for(lambda: any(tmp_path.glob("*/progress.json")))
        if follow:
            wait_for(lambda: jobs.of("a") == JobState("running", 10, 10))
        jobs.cancel("a")
        assert ended(jobs, "a").sentence == "Stopped."
    assert list(tmp_path.iterdir()) == []
    assert jobs.of("a") == JobState("cancelled", sentence="Stopped.")


def test_work_that_waits_for_a_worker_is_cancelled_at_once(tmp_path: Path) -> None:
    jobs, held = Jobs[str]("burns", Events()), threading.Event()
    with ThreadPoolExecutor(1) as pool:
        pool.submit(held.wait, 30)
        jobs.begin("a", lambda work: work.in_worker(pool, tmp_path, counting, 1))
        wait_for(lambda: list(tmp_path.iterdir()))
        jobs.cancel("a")
        assert ended(jobs, "a") == JobState("cancelled", sentence="Cancelled before it started.")
        held.set()
