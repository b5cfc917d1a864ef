"""Recipients inside the test's own process, and transfers to them."""

import hashlib
import threading
from collections.abc import Iterable, Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

from ripe_press.core.sending.parcel import Parcel
from ripe_press.rack.intake_desk import IntakeDesk, Serving
from ripe_press.rack.intake_look import Looker
from ripe_press.rack.mail_desk import MailDesk, Served
from ripe_press.rack.synced_folder import SyncedFolder


@contextmanager
def mail_desk(folder: Path, faults: Iterable[str] = (), **more: Any) -> Iterator[tuple[MailDesk, str]]:
    """A mail server, and its place: ``limit_bytes``, ``login``."""
    desk = MailDesk(folder, faults)
    served = Served(desk, **more)
    served.start()
    try:
        yield desk, f"in@127.0.0.1:{served.port}"
    finally:
        served.stop()


class TakesAll(Looker):
    """Finds nothing wrong with anything, so that any bytes are a file."""

    def reasons(self, path: Path, taken: Any) -> list[dict[str, Any]]:
        return []


@contextmanager
def intake_desk(
    folder: Path, faults: Iterable[str] = (), looker: Looker | None = None
) -> Iterator[tuple[IntakeDesk, str]]:
    """An intake server, and its URL; without a ``looker`` it accepts every complete file."""
    desk = IntakeDesk(folder, faults, looker or TakesAll())
    serving = Serving(desk)
    serving.start()
    try:
        yield desk, f"http://127.0.0.1:{serving.port}"
    finally:
        serving.stop()


@contextmanager
def synced_folder(root: Path, faults: Iterable[str] = (), speed: float = 1e9) -> Iterator[SyncedFolder]:
    """A folder that a service watches."""
    service = SyncedFolder(root / "watched", root / "service", speed, faults)
    thread = threading.Thread(target=service.run, daemon=True)
    thread.start()
    try:
        yield service
    finally:
        service.end()
        thread.join(5)


def parcel(path: Path, data: bytes = b"", **fields: str) -> Parcel:
    """A transfer of a file, which is written if there are bytes for it."""
    if data:
        path.write_bytes(data)
    found = path.read_bytes()
    known = {"title": "Headrace", "artist": "The Sluicekeepers", "album": "Tail Water", "track": "3"} | fields
    about = {
        "container": "wav", "codec": "pcm", "frames": 480_000, "sample_rate_hz": 48_000, "channels": 2, "brief": "",
    }  # fmt: skip
    sum_ = hashlib.sha256(found).hexdigest()
    return Parcel(str(path), path.name, sum_, len(found), "2026-11-27T20:15:00+00:00", known, about)
