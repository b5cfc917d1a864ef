"""Delivery into a synced folder: complete files, followed until the service reports the upload.

What a service says is read from ``sync-state.json`` in its folder: ``{"service": "online" | "offline" | "full",
"files": {name: {"state": "waiting" | "going-up" | "up" | "conflict", "sha256", "sentence"}}}``. Without a status the
folder gives no evidence, and a stored file counts as delivered.
"""

import json
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

from ripe_press.core.sending.parcel import Parcel
from ripe_press.core.whole_files import temporary_prefix
from ripe_press.core.words import quoted
from ripe_press.studio.sending.carriers.carrier import LOOK_AGAIN_S, DropOffState, RunningTransfer, TransferResult
from ripe_press.studio.sending.carriers.folder import FolderCarrier, is_same, lost, put_into

STATE_FILE = "sync-state.json"
_MOST_BYTES = 4_000_000
_WAITS = {
    "offline": "The service is offline: uploads when it is back.",
    "full": "The service has no space left. Free some space there.",
}


class SyncedCarrier(FolderCarrier):
    """Carries files into a synced folder."""

    def carry(self, parcel: Parcel, _kept: dict[str, Any], hand: RunningTransfer) -> TransferResult:
        """Makes the file beside the folder, on the same disk, so that the service never sees half of it."""
        self.look()
        folder = self.drop_off.folder
        with _beside(folder) as staging:
            path = put_into(parcel, folder, self._name(parcel), hand, staging)
        name = path.relative_to(folder).as_posix()
        receipt = {"path": str(path), "sha256": parcel.sha256, "bytes": parcel.bytes}
        sentence = f"Saved to {quoted(folder)}, waiting for the service."
        kept = {"name": name, "path": str(path), "receipt": receipt}
        return TransferResult("taken", sentence, receipt, kept=kept, look_again_s=self._look_again_s())

    def ask(self, parcel: Parcel, kept: dict[str, Any]) -> TransferResult:
        """What the service says of the file by now; nonsense is asked again."""
        name, receipt = str(kept.get("name", parcel.name)), dict(kept.get("receipt", {}))
        FolderCarrier.look(self)
        service, files = _state(self.drop_off.folder)
        said = files.get(name)
        said = said if isinstance(said, dict) else {}
        if said.get("state") == "up" and said.get("sha256") == parcel.sha256:
            return TransferResult("accepted", "Uploaded.", {**receipt, "service": said}, kept=kept)
        path = Path(kept.get("path") or self.drop_off.folder / name)
        if kept.get("once_more") and not is_same(path, parcel):
            # Only on a resend: a service may remove delivered files.
            raise lost(path)
        if said.get("state") == "conflict":
            sentence = "The service kept two files with this name. Check them there."
            return TransferResult("taken", sentence, {**receipt, "service": said}, kept=kept)
        waits = _WAITS.get(service, "Waiting for the service.")
        sentence = "Uploading." if said.get("state") == "going-up" and service == "online" else waits
        return TransferResult("taken", sentence, receipt, kept=kept, look_again_s=self._look_again_s())

    def _look_again_s(self) -> float | None:
        return LOOK_AGAIN_S if (self.drop_off.folder / STATE_FILE).is_file() else None

    def look(self) -> DropOffState:
        """The folder, and what the service says of itself."""
        found = super().look()
        service, _ = _state(self.drop_off.folder)
        states = {"online": "The service is online.", "": "No sync status found in this folder."}
        return DropOffState(f"{found.sentence} {states.get(service, _WAITS.get(service, ''))}")


@contextmanager
def _beside(folder: Path) -> Iterator[Path | None]:
    """A folder beside another, on the same disk; None where there cannot be one."""
    try:
        made = tempfile.TemporaryDirectory(prefix=temporary_prefix("sync", folder.parent), dir=folder.parent)
    except OSError:
        yield None
        return
    with made as name:
        yield Path(name) if Path(name).stat().st_dev == folder.stat().st_dev else None


def _state(folder: Path) -> tuple[str, dict[str, Any]]:
    path = folder / STATE_FILE
    try:
        if path.stat().st_size > _MOST_BYTES:
            return "", {}
        row = json.loads(path.read_text(encoding="utf-8"))
    except (OSError, ValueError, RecursionError):
        return "", {}
    files = row.get("files") if isinstance(row, dict) else None
    service = str(row.get("service", "")) if isinstance(row, dict) else ""
    return service, files if isinstance(files, dict) else {}
