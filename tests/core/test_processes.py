"""Processes that end with the one that started them."""

import os
import signal
import subprocess
import sys
import time
from concurrent.futures import ProcessPoolExecutor
from multiprocessing import get_context

import pytest

from ripe_press.core.processes import end_with_parent
from support import TESTS
from support.server import is_gone, wait_for


def work() -> None:
    """What the program of the test does: says which process works for it, and lets it work on."""
    with ProcessPoolExecutor(1, mp_context=get_context("spawn"), initializer=end_with_parent) as pool:
        sys.stdout.write(f"{pool.submit(os.getpid).result()}\n")
        sys.stdout.flush()
        pool.submit(time.sleep, 60).result()


@pytest.mark.parametrize("told", [signal.SIGTERM, signal.SIGKILL])
def test_a_process_ends_with_its_parent(told: signal.Signals) -> None:
    words = [sys.executable, "-m", "core.test_processes"]
    with subprocess.Popen(words, stdout=subprocess.PIPE, text=True, cwd=TESTS) as parent:
        assert parent.stdout
        worker = int(parent.stdout.readline())
        assert not is_gone(worker)
        parent.send_signal(told)
    wait_for(lambda: is_gone(worker), seconds=20)


if __name__ == "__main__":
    work()
