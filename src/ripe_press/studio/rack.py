"""The rack as the studio knows it: the addresses of its units, and the stand-ins that it can begin by itself."""

import json
import os
import subprocess
import sys
import threading
from contextlib import suppress
from dataclasses import dataclass

from ripe_press.core.errors import Interrupted, RipePressError
from ripe_press.rack.wire import INSTRUMENT_PORT, OUTBOARD_PORT
from ripe_press.studio.live_pass import UnitAt, unit_at

VARIABLE = "RIPE_PRESS_RACK"
USUAL = (f"127.0.0.1:{OUTBOARD_PORT}", f"127.0.0.1:{INSTRUMENT_PORT}")
KINDS = ("outboard", "instrument")
_LOOK_S = 0.4


@dataclass(frozen=True, slots=True)
class Slot:
    """A place of the rack: who answers there, or why nobody does."""

    address: str
    unit: UnitAt | None
    sentence: str = ""


class Rack:
    """Addresses in an order; those of the environment, the usual ones, or of stand-ins that were begun here."""

    def __init__(self) -> None:
        named = os.environ.get(VARIABLE, "")
        self._addresses = tuple(one.strip() for one in named.split(",") if one.strip()) or USUAL
        self._begun: list[subprocess.Popen[bytes]] = []
        self._lock = threading.Lock()

    @property
    def addresses(self) -> tuple[str, ...]:
        """Where units are looked for."""
        return self._addresses

    def begin(self, *, hurry: float = 1.0) -> None:
        """Begins the stand-ins, each a process of its own, that ends with this. Raises: Interrupted ``rack.gone``."""
        with self._lock:
            begun = [begin_unit(kind, hurry=hurry) for kind in KINDS]
            self._begun += [process for process, _ in begun]
            self._addresses = tuple(address for _, address in begun)

    def slots(self) -> tuple[Slot, ...]:
        """Who answers where, asked now."""
        return tuple(_slot(one) for one in self._addresses)

    def close(self) -> None:
        """Ends what was begun here."""
        with self._lock:
            for process in self._begun:
                end_process(process)
            self._begun.clear()


def begin_unit(kind: str, *, port: int = 0, hurry: float = 1.0) -> tuple["subprocess.Popen[bytes]", str]:
    """Begins a stand-in, and gives its address. Raises: Interrupted ``rack.gone``."""
    words = [sys.executable, "-m", "ripe_press.rack.unit", kind, "--port", str(port), "--hurry", str(hurry)]
    process = subprocess.Popen(words, stdin=subprocess.PIPE, stdout=subprocess.PIPE)  # noqa: S603 - this very program
    assert process.stdout  # noqa: S101 - it was asked for
    line = process.stdout.readline()
    if not line:
        end_process(process)
        message = f"Cannot start the {kind}: port {port} may be in use."
        raise Interrupted("rack.gone", message)
    return process, f"127.0.0.1:{json.loads(line)['port']}"


def end_process(process: "subprocess.Popen[bytes]") -> None:
    """Ends a stand-in: it ends by itself once nobody holds its standard input."""
    with suppress(OSError):
        if process.stdin:
            process.stdin.close()
        try:
            process.wait(5)
        except subprocess.TimeoutExpired:
            process.kill()
            process.wait()
    if process.stdout:
        process.stdout.close()


def _slot(address: str) -> Slot:
    try:
        return Slot(address, unit_at(address, _LOOK_S))
    except RipePressError as error:
        return Slot(address, None, error.message)
