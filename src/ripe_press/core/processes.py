"""Processes that end with the one that started them, however that ends."""

import ctypes
import multiprocessing
import os
import signal
import sys
import threading

_PR_SET_PDEATHSIG = 1


def end_with_parent() -> None:
    """In the new process: it ends when its parent is gone; an orphan must give no file its name.

    On Linux the system itself ends it with the process it was forked from. Source: prctl(2), PR_SET_PDEATHSIG; the
    thread that waits for the parent's end is there on every system, and waits while compiled code runs.
    """
    if sys.platform == "linux":
        ctypes.CDLL(None).prctl(_PR_SET_PDEATHSIG, signal.SIGKILL)

    def watch() -> None:
        if parent := multiprocessing.parent_process():
            parent.join()
        os._exit(1)

    threading.Thread(target=watch, daemon=True).start()
