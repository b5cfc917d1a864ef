"""Runs the command line as a process of its own, forked from one that has imported it: no test waits for imports."""

import contextlib
import multiprocessing
import os
import signal
import subprocess
import sys
import tempfile
from collections.abc import Mapping
from pathlib import Path

from ripe_press.studio.jobs import workers

_FORKED = multiprocessing.get_context("forkserver")
_FORKED.set_forkserver_preload([workers.READIED, "ripe_press.cli"])


def run(
    *arguments: object, cwd: Path | None = None, environment: Mapping[str, str] | None = None
) -> subprocess.CompletedProcess[str]:
    """What the command writes to its two outputs, and its status."""
    words = ["ripe-press", *(str(one) for one in arguments)]
    with tempfile.TemporaryDirectory() as folder:
        outputs = [Path(folder, name) for name in ("out", "err")]
        where = str(cwd or Path.cwd())
        process = _FORKED.Process(target=_run, args=(words, where, dict(environment or os.environ), outputs))
        process.start()
        process.join(120)
        if process.is_alive():
            process.kill()
            raise TimeoutError(words)
        out, err = (one.read_text() for one in outputs)
        return subprocess.CompletedProcess(words, process.exitcode or 0, out, err)


def _run(words: list[str], cwd: str, environment: dict[str, str], outputs: list[Path]) -> None:
    """In the new process: what a shell does before it begins a command, and what Python does after it."""
    for number, path in enumerate(outputs, 1):
        os.dup2(os.open(path, os.O_WRONLY | os.O_CREAT), number)
    os.chdir(cwd)
    os.environ.clear()
    os.environ.update(environment)
    signal.signal(signal.SIGINT, signal.default_int_handler)
    sys.argv = words
    from ripe_press.cli import main

    try:
        main()
    finally:
        for stream in (sys.stdout, sys.stderr):
            with contextlib.suppress(OSError):
                stream.flush()
