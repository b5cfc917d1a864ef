"""The rack: addresses of its units, and the simulated units it can start."""

import json
import os
import subprocess
import sys
import threading
from contextlib import suppress
from dataclasses import dataclass

from ripe_press.core.errors import Interrupted, RipePressError
from ripe_press.rack.wire import INSTRUMENT_PORT, OUTBOARD_PORT
from ripe_press.studio.live.live_pass import UnitAt, unit_at

VARIABLE = "RIPE_PRESS_RACK"
USUAL = (f"127.0.0.1:{OUTBOARD_PORT}", f"127.0.0.1:{INSTRUMENT_PORT}")
UNIT_KINDS = ("outboard", "instrument")
_LOOK_S = 0.4


@dataclass(frozen=True, slots=True)
class Slot:
    """A unit of the rack, or the reason why it does not answer."""

    address: str
    unit: UnitAt | None
    sentence: str = ""


class Rack:
    """Addresses in order: those of the environment, the usual ones, or of simulated units started here."""

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
        """Start the simulated units, each as a process that ends with this one. Raises: Interrupted ``rack.gone``."""
        with self._lock:
            begun = [begin_unit(kind, hurry=hurry) for kind in UNIT_KINDS]
            self._begun += [process for process, _ in begun]
            self._addresses = tuple(address for _, address in begun)

    def slots(self) -> tuple[Slot, ...]:
        """Who answers where, asked now."""
        return tuple(_slot(one) for one in self._addresses)

    def close(self) -> None:
        """End the units started here."""
        with self._lock:
            for process in self._begun:
                end_process(process)
            self._begun.clear()


def begin_unit(kind: str, *, port: int = 0, hurry: float = 1.0) -> tuple["subprocess.Popen[bytes]", str]:
    """Start a simulated unit, and return its address. Raises: Interrupted ``rack.gone``."""
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
    """End a simulated unit: it ends when its standard input is closed."""
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
