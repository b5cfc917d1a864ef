"""System limits of this process: raised as far as allowed, and checked before the server starts."""

import resource
from dataclasses import dataclass

from ripe_press.core.errors import Conflict

MOST_FILES = 4096
FEWEST_FILES = 112
"""Open files: about 50 are open when nothing is asked for, and a question needs a few."""
_OWN_FILES = 64
LEAST_ADDRESS_BYTES = 3 << 30
"""Address space of the server; a worker needs less."""


@dataclass(frozen=True, slots=True)
class Limits:
    """How many connections are open at a time, and how many of them are pages that listen to what happens."""

    connections: int
    streams: int


def limits_here() -> Limits:
    """Takes as many open files as the system gives. Raises: Conflict ``serve.few-files``, ``serve.little-memory``."""
    files, most = resource.getrlimit(resource.RLIMIT_NOFILE)
    if files < MOST_FILES:
        files = MOST_FILES if most == resource.RLIM_INFINITY else max(files, min(most, MOST_FILES))
        resource.setrlimit(resource.RLIMIT_NOFILE, (files, most))
    if files < FEWEST_FILES:
        message = f"Open-file limit {files} is too low; Ripe Press needs {FEWEST_FILES}. Run `ulimit -n 1024` first."
        raise Conflict("serve.few-files", message, files=files)
    space = resource.getrlimit(resource.RLIMIT_AS)[0]
    if space not in (resource.RLIM_INFINITY, -1) and space < LEAST_ADDRESS_BYTES:
        message = (
            f"Address space limit {space / (1 << 30):.1f} GiB is too low; Ripe Press needs "
            f"{LEAST_ADDRESS_BYTES >> 30} GiB. Run `ulimit -v unlimited` first."
        )
        raise Conflict("serve.little-memory", message, bytes=space)
    connections = min(1000, files - _OWN_FILES)
    return Limits(connections, connections // 2)
