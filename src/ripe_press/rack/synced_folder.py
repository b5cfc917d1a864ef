"""A sync service: it watches a folder, and copies new files to its own at its own speed.

Its status is in ``sync-state.json`` of the folder. Faults, one word a line in ``faults.txt`` of its own folder:
``offline``, ``full`` and ``online`` are how it is from then on; ``conflict`` finds another file of the next one's name;
``nonsense`` writes an invalid status; ``dies`` copies the next file, forgets it, and restarts.
"""

import argparse
import hashlib
import json
import signal
import threading
import time
from collections.abc import Iterable
from pathlib import Path
from typing import Any

from ripe_press.rack.faults import NAME, Faults
from ripe_press.rack.mail_desk import wait_for_end

STATE = "sync-state.json"
BYTES_A_SECOND = 20_000_000.0
_BLOCK = 1 << 18
_LOOK_S = 0.05


class SyncedFolder:
    """The service: the known files of a folder, and its own copies."""

    def __init__(
        self, folder: Path, own: Path, bytes_a_second: float = BYTES_A_SECOND, faults: Iterable[str] = ()
    ) -> None:
        folder.mkdir(parents=True, exist_ok=True)
        own.mkdir(parents=True, exist_ok=True)
        self.folder, self.own = folder, own
        self.faults = Faults(own, faults)
        self.service = "online"
        self.grew: set[str] = set()
        """Files that were seen before they were whole."""
        self._speed = bytes_a_second
        self._files: dict[str, dict[str, Any]] = {}
        self._sizes: dict[str, int] = {}
        self._ending = threading.Event()

    def end(self) -> None:
        """Ends it at the next block."""
        self._ending.set()

    def run(self) -> None:
        """Watches until it is ended."""
        self._say()
        while not self._ending.wait(_LOOK_S):
            self.look()

    def look(self) -> None:
        """One look at the folder: new files are copied, one after the other."""
        for path in sorted(self.folder.rglob("*")):
            name = path.relative_to(self.folder).as_posix()
            if not path.is_file() or path.name in (STATE, NAME) or path.name.startswith("."):
                continue
            size = path.stat().st_size
            if self._sizes.setdefault(name, size) != size:
                self.grew.add(name)
                self._sizes[name] = size
                self._files.pop(name, None)
            known = self._files.get(name)
            if known is None or known["state"] == "waiting":
                self._meet(path, name)

    def _meet(self, path: Path, name: str) -> None:
        fault = self.faults.next()
        if fault in ("offline", "full", "online"):
            self.service, fault = fault, ""
        if fault == "nonsense":
            (self.folder / STATE).write_text("[plums", encoding="utf-8")
            return
        if self.service != "online":
            self._files[name] = {"state": "waiting"}
            self._say()
            return
        self._files[name] = {"state": "going-up"}
        self._say()
        digest = self._take(path, name)
        if fault == "dies":
            self._files.clear()
        elif fault == "conflict":
            self._files[name] = {"state": "conflict", "sentence": "A file with this name exists."}
        else:
            self._files[name] = {"state": "up", "sha256": digest}
        self._say()

    def _take(self, path: Path, name: str) -> str:
        target = self.own / name
        target.parent.mkdir(parents=True, exist_ok=True)
        digest, part = hashlib.sha256(), target.with_name(f".{target.name}.part")
        with path.open("rb") as reader, part.open("wb") as writer:
            while (block := reader.read(_BLOCK)) and not self._ending.is_set():
                digest.update(block)
                writer.write(block)
                time.sleep(len(block) / self._speed)
        part.replace(target)
        return digest.hexdigest()

    def _say(self) -> None:
        state = {"service": self.service, "files": self._files}
        new = self.folder / f".{STATE}.new"
        new.write_text(json.dumps(state), encoding="utf-8")
        new.replace(self.folder / STATE)


def main() -> None:
    """Runs the service until its standard input is closed."""
    words = argparse.ArgumentParser(description=__doc__)
    words.add_argument("--folder", type=Path, required=True)
    words.add_argument("--own", type=Path, required=True)
    given = words.parse_args()
    service = SyncedFolder(given.folder, given.own)
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    thread = threading.Thread(target=service.run)
    thread.start()
    print(json.dumps({"folder": str(given.folder), "own": str(given.own)}), flush=True)  # noqa: T201
    wait_for_end()
    service.end()
    thread.join()


if __name__ == "__main__":
    main()
