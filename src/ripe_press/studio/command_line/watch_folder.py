"""A watched folder: each new file is pressed once, with one ticket."""

import hashlib
import json
from collections.abc import Callable, Sequence
from dataclasses import replace
from pathlib import Path

from ripe_press.core.errors import BadInput, NotFound
from ripe_press.core.formats.capabilities import READ_SUFFIXES
from ripe_press.core.requests.document import Document, document_row
from ripe_press.core.sources.source import facts_of_file
from ripe_press.core.tags.embedded import read_embedded
from ripe_press.core.tags.sheet import OF_ONE_RECORDING, in_order
from ripe_press.core.timeline import TempoChange, TempoMap
from ripe_press.core.whole_files import write_whole
from ripe_press.core.words import quoted
from ripe_press.studio.command_line.press import PressResult, press_now
from ripe_press.studio.command_line.requests import set_out_again
from ripe_press.studio.data_folder import DataFolder
from ripe_press.studio.jobs import JobProgress
from ripe_press.studio.shelf import stamp_of


class WatchedFolder:
    """A folder, the ticket for what arrives in it, and which of its files have been dealt with.

    That is kept in the data folder, so that nothing is pressed twice after a new start; a file that was saved again is
    new. Raises: BadInput ``watch.ticket`` for a ticket of several mixes, ``watch.own-files``; NotFound
    ``watch.no-folder``.
    """

    def __init__(self, folder: Path, document: Document, out: Path, data: DataFolder) -> None:
        if not folder.is_dir():
            message = f"Folder not found: {quoted(folder)}. Check the path."
            raise NotFound("watch.no-folder", message, path=str(folder))
        if out.resolve() == folder.resolve():
            message = "The output folder is the watched folder. Choose another --out."
            raise BadInput("watch.own-files", message, path=str(out))
        if len(document.mixes) != 1:
            message = f"The ticket is for {len(document.mixes)} mixes. Use a ticket for one mix."
            raise BadInput("watch.ticket", message, mixes=len(document.mixes))
        self.folder, self._document, self._out = folder.resolve(), document, out
        key = hashlib.sha256(f"{self.folder}\n{json.dumps(document_row(document))}".encode()).hexdigest()[:16]
        self._notes = data.root / "watched" / f"{key}.json"
        self._done: dict[str, str] = self._read()
        self._seen: dict[str, str] = {}

    @property
    def known(self) -> bool:
        """Whether it was watched with this ticket before."""
        return self._notes.is_file()

    def pass_over(self) -> int:
        """Takes everything that is there as dealt with; gives how many files that are."""
        there = {path.name: stamp_of(path) for path in self._files()}
        self._done |= there
        self._write()
        return len(there)

    def look(self) -> list[Path]:
        """The files that have arrived and rest: those that are as they were when one looked last."""
        now = {path: stamp_of(path) for path in self._files()}
        found = [
            path
            for path, stamp in now.items()
            if stamp and self._seen.get(path.name) == stamp and self._done.get(path.name) != stamp
        ]
        self._seen = {path.name: stamp for path, stamp in now.items()}
        return found

    def press(
        self, path: Path, progress: Callable[[JobProgress, Sequence[str]], None], should_stop: Callable[[], bool]
    ) -> PressResult:
        """Presses one of them; whatever comes of it, it has been dealt with then. Raises: whatever pressing raises."""
        stamp = stamp_of(path)
        try:
            return press_now(set_out_again((path,), self._for(path)), self._out, progress, should_stop)
        finally:
            if not should_stop():
                self._done[path.name] = stamp
                self._write()

    def _for(self, path: Path) -> Document:
        """The ticket for a file: its own tags, and from the ticket's mix only settings valid for other mixes too."""
        (wish,) = self._document.mixes
        facts = facts_of_file(path, wish.source.facts.downmix)
        embedded = read_embedded(path, facts.rate_hz, facts.frames)
        common = {field: text for field, text in wish.bench.tags if field not in OF_ONE_RECORDING}
        tags = in_order({"title": path.stem, **common, **dict(embedded.tags)})
        tempo = TempoMap((TempoChange(1, embedded.tempo_bpm),)) if embedded.tempo_bpm else None
        bench = replace(wish.bench, tags=tags, markers=embedded.markers, tempo=tempo)
        return replace(self._document, mixes=(replace(wish, bench=bench),))

    def _files(self) -> list[Path]:
        return [
            one
            for one in sorted(self.folder.iterdir())
            if one.suffix.lower() in READ_SUFFIXES and not one.name.startswith(".") and one.is_file()
        ]

    def _read(self) -> dict[str, str]:
        try:
            return dict(json.loads(self._notes.read_text(encoding="utf-8")))
        except (OSError, ValueError):
            return {}

    def _write(self) -> None:
        self._notes.parent.mkdir(parents=True, exist_ok=True)
        write_whole(self._notes, json.dumps(self._done))
