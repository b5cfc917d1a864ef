"""Simulated devices and services: units for live passes, and servers that receive files."""

import json
import subprocess
import sys
from collections.abc import Iterable
from pathlib import Path
from typing import Any

from ripe_press.core.errors import BadInput, Interrupted
from ripe_press.core.words import quoted
from ripe_press.studio.live import UNIT_KINDS, begin_unit, end_process

PLACES = ("mail", "intake", "sync")
STAND_INS = (*UNIT_KINDS, *PLACES)
"""Every simulated device by name, in starting order."""
PORTS = {"mail": 8143, "intake": 8144}


class StandIns:
    """Processes that were begun here, and end with this."""

    def __init__(self) -> None:
        self._begun: list[subprocess.Popen[bytes]] = []

    def begin(self, name: str, folder: Path, *, hurry: float = 1.0, port: int | None = None) -> dict[str, Any]:
        """Begins one, and gives where it can be reached: its address, URL or folder, and the word to send to it with.

        Received files are stored below ``folder``. Without a ``port`` it takes its usual one. Raises: BadInput
        ``rack.unknown``; Interrupted ``rack.gone``.
        """
        if name in UNIT_KINDS:
            from ripe_press.rack import unit

            process, address = begin_unit(name, port=unit.PORTS[name] if port is None else port, hurry=hurry)
            self._begun.append(process)
            return {"name": name, "title": unit.NAMES[name], "address": address}
        checked_names([name])
        begin = {"mail": self._mail, "intake": self._intake, "sync": self._sync}[name]
        return begin(folder, port)

    def close(self) -> None:
        """End the devices started here."""
        for process in self._begun:
            end_process(process)
        self._begun.clear()

    def _mail(self, folder: Path, port: int | None) -> dict[str, Any]:
        own = folder / "mail server"
        said = self._process("mail_desk", own, PORTS["mail"] if port is None else port)
        address = f"127.0.0.1:{said['port']}"
        row = {"name": "mail", "title": "Sluice mail server", "address": address, "folder": str(own)}
        return {**row, "drop_off": f"mail:inbox@{address}"}

    def _intake(self, folder: Path, port: int | None) -> dict[str, Any]:
        own = folder / "distributor intake"
        said = self._process("intake_desk", own, PORTS["intake"] if port is None else port)
        url = f"http://127.0.0.1:{said['port']}"
        row = {"name": "intake", "title": "Headrace intake", "url": url, "folder": str(own)}
        return {**row, "drop_off": f"desk:{url}"}

    def _sync(self, folder: Path, _port: int | None) -> dict[str, Any]:
        watched, own = folder / "synced folder", folder / "synced folder, at the service"
        self._process("synced_folder", watched, None, "--own", str(own))
        row = {"name": "sync", "title": "Millpond synced folder", "folder": str(watched), "own": str(own)}
        return {**row, "drop_off": f"sync:{watched}"}

    def _process(self, module: str, folder: Path, port: int | None, *more: str) -> dict[str, Any]:
        words = [sys.executable, "-m", f"ripe_press.rack.{module}", "--folder", str(folder), *more]
        words += [] if port is None else ["--port", str(port)]
        process = subprocess.Popen(words, stdin=subprocess.PIPE, stdout=subprocess.PIPE)  # noqa: S603 - this very program
        assert process.stdout  # noqa: S101 - it was asked for
        line = process.stdout.readline()
        if not line:
            end_process(process)
            message = f"Cannot start the simulated {module.replace('_', ' ')}: port {port} may be in use."
            raise Interrupted("rack.gone", message)
        self._begun.append(process)
        return json.loads(line)  # type: ignore[no-any-return]


def checked_names(names: Iterable[str]) -> tuple[str, ...]:
    """Names of simulated devices in their order; all if none is given. Raises: BadInput ``rack.unknown``."""
    wanted = tuple(names)
    unknown = [one for one in wanted if one not in STAND_INS]
    if unknown:
        message = f"Unknown device {quoted(unknown[0])}. Available: {', '.join(STAND_INS)}."
        raise BadInput("rack.unknown", message, name=unknown[0])
    return tuple(one for one in STAND_INS if not wanted or one in wanted)
