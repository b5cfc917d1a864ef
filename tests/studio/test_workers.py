import os
import time
from pathlib import Path

import pytest

from ripe_press.core.errors import Interrupted, Unreadable
from ripe_press.studio.jobs import JobFolder
from ripe_press.studio.workers import WorkerPool
from support.jobs import die, refuse


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


def test_closing_does_not_wait_for_a_long_job() -> None:
    pool = WorkerPool(1, "test")
    pool.submit(os.getpid).result()
    pool.submit(time.sleep, 60)
    began = time.monotonic()
    pool.shutdown(wait=False)
    assert time.monotonic() - began < 10


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
