import os
import signal
import subprocess
import sys
import time
from concurrent.futures import Future
from pathlib import Path

import pytest

from ripe_press.core.errors import Interrupted, Unreadable
from ripe_press.studio.jobs.folder import JobFolder
from ripe_press.studio.jobs.workers import WorkerPool
from support import TESTS
from support.programs.jobs import at_hand, die, refuse
from support.server import is_gone, wait_for


def test_a_crash_ends_one_job_and_the_next_one_runs() -> None:
    with WorkerPool(1, "test") as pool:
        crashed, after = pool.submit(die), pool.submit(os.getpid)
        with pytest.raises(Interrupted) as caught:
            crashed.result()
        assert caught.value.code == "worker.crashed"
        assert after.result() != os.getpid()


def test_errors_come_back_with_code_and_facts() -> None:
    with WorkerPool(1, "test") as pool:
        with pytest.raises(Unreadable) as caught:
            pool.submit(refuse).result()
        assert (caught.value.code, caught.value.facts) == ("source.empty", {"path": "a.wav"})


def test_worker_starts_with_its_modules_loaded() -> None:
    with WorkerPool(2, "test") as pool:
        for found in [
            pool.submit(at_hand, ("ripe_press.studio.pressing.tasks", "numba", "soundfile")) for _ in range(2)
        ]:
            assert found.result() == []


def test_a_worker_ends_with_its_server_however_that_ends() -> None:
    """An orphan would keep writing files without a record."""
    words = [sys.executable, "-m", "support.programs.jobs"]
    with subprocess.Popen(words, stdout=subprocess.PIPE, text=True, cwd=TESTS) as server:
        assert server.stdout
        worker = int(server.stdout.readline())
        assert not is_gone(worker)
        os.kill(server.pid, signal.SIGKILL)
    wait_for(lambda: is_gone(worker), seconds=30)


def test_the_process_that_workers_are_forked_from_is_replaced_when_it_is_killed() -> None:
    with WorkerPool(1, "test") as pool:
        origin, worker = pool.submit(os.getppid).result(), pool.submit(os.getpid).result()
        os.kill(origin, signal.SIGKILL)
        wait_for(lambda: is_gone(worker), seconds=30)
        wait_for(lambda: pool._processes[0]._broken, seconds=30)
        # It was idle: no message.
        assert pool.submit(os.getppid).result() not in (origin, os.getpid())


def test_jobs_that_come_while_that_process_dies_are_done_all_the_same() -> None:
    """Whenever it is killed: jobs being started are started again, without a connection error."""
    with WorkerPool(3, "test") as pool:
        for _ in range(4):
            origin = wait_for(lambda: _done(pool.submit(os.getppid)))
            jobs = [pool.submit(os.getpid) for _ in range(6)]
            os.kill(origin, signal.SIGKILL)
            jobs += [pool.submit(os.getpid) for _ in range(12)]
            for job in jobs:
                _done(job)
            assert wait_for(lambda: _done(pool.submit(os.getpid)), seconds=10) > 0


def _done(job: Future[int]) -> int | None:
    """Return the result of a job, or None where its process died while it had it."""
    try:
        return job.result()
    except Interrupted as error:
        assert error.code == "worker.crashed", error
        return None


def test_closing_does_not_wait_for_a_long_job() -> None:
    pool = WorkerPool(1, "test")
    pool.submit(os.getpid).result()
    runs, waits = pool.submit(time.sleep, 60), pool.submit(os.getpid)
    began = time.monotonic()
    pool.shutdown(wait=False)
    assert time.monotonic() - began < 30
    for given_up in (runs.result, waits.result, lambda: pool.submit(os.getpid)):
        with pytest.raises(Interrupted) as caught:
            given_up()
        assert caught.value.code == "worker.closing"


def test_a_job_folder_carries_progress_one_way_and_a_wish_to_stop_the_other(tmp_path: Path) -> None:
    server = JobFolder.make(tmp_path)
    worker = JobFolder(server.path)
    assert server.progress() is None
    worker.report(1, 10)
    worker.report(10, 10)
    progress = server.progress()
    assert progress is not None
    assert (progress.done, progress.total) == (10, 10)
    assert not worker.cancelled()
    server.cancel()
    assert worker.cancelled()
    server.clear()
    assert server.progress() is None
    server.cancel()
    assert not server.path.exists()
