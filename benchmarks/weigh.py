"""What a process costs: seconds on the wall, seconds of processor, and the most memory that it had.

The system counts to a process what whoever began it had in memory until then. So it is begun by a small one.
"""

import json
import os
import subprocess
import sys
from collections.abc import Mapping
from dataclasses import dataclass

_SMALL = """
import json, os, subprocess, sys
began = os.times().elapsed
process = subprocess.Popen(sys.argv[1:], stdout=subprocess.DEVNULL)
_, status, usage = os.wait4(process.pid, 0)
process.returncode = os.waitstatus_to_exitcode(status)
took = os.times().elapsed - began
print(json.dumps([process.returncode, took, usage.ru_utime + usage.ru_stime, usage.ru_maxrss / 1024]))
"""


@dataclass(frozen=True)
class Cost:
    """Seconds and megabytes of one process."""

    wall_s: float
    cpu_s: float
    memory_mb: float


def run(*words: str, env: Mapping[str, str] | None = None) -> Cost:
    """Runs a process and weighs it. Raises: RuntimeError where it does not end well."""
    begun = subprocess.run(
        [sys.executable, "-I", "-S", "-c", _SMALL, *words], stdout=subprocess.PIPE, env={**os.environ, **(env or {})},
        check=True,
    )  # fmt: skip
    status, wall_s, cpu_s, memory_mb = json.loads(begun.stdout)
    if status:
        message = f"{words[1]!r} ended with {status}"
        raise RuntimeError(message)
    return Cost(wall_s, cpu_s, memory_mb)
