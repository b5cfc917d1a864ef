"""A source that is one file."""

from dataclasses import dataclass
from pathlib import Path

from ripe_press.core.errors import Conflict
from ripe_press.core.formats.facts import SourceFacts
from ripe_press.core.formats.fingerprint import content_sum
from ripe_press.core.formats.reading.reader import SourceReader
from ripe_press.core.sources.source import AudioSource, Reader, Sharing, facts_of_file
from ripe_press.core.words import quoted


@dataclass(frozen=True, slots=True)
class FileSource(AudioSource):
    """A file, as it was when its facts were read."""

    facts: SourceFacts

    @classmethod
    def at(cls, path: Path, downmix: str = "") -> "FileSource":
        """The file at a path as it is now. Raises: as `SourceReader`."""
        return cls(facts_of_file(path, downmix))

    def stamp(self) -> object:
        """Size and time of the file. Raises: Conflict ``source.changed`` where it is gone."""
        path = Path(self.facts.path)
        try:
            found = path.stat()
        except OSError as error:
            message = f"{quoted(path.name)} moved or deleted ({error.strerror}). Add it again."
            raise Conflict("source.changed", message, path=str(path)) from error
        return found.st_size, found.st_mtime_ns, found.st_ino

    def check(self) -> None:
        """Read the file and compare it with its recorded facts. Raises: Conflict ``source.changed``."""
        known = self.facts
        with self._opened() as reader:
            # A codec that cannot be entered anywhere was decoded when it came in: that copy is ours, and another file.
            copied = reader.facts.container != known.container
        if known.content_sum and not copied and content_sum(Path(known.path)) != known.content_sum:
            raise _changed(Path(known.path))

    def open(self, sharing: Sharing | None = None) -> Reader:
        """Opens the file, once it is known to be what it was."""
        return sharing.reader(self) if sharing else self._opened()

    def _opened(self) -> SourceReader:
        known = self.facts
        path = Path(known.path)
        reader = SourceReader(path, known.downmix)
        found = reader.facts
        if (found.rate_hz, found.channels, found.frames) != (known.rate_hz, known.channels, known.frames):
            reader.close()
            raise _changed(path)
        return reader


def _changed(path: Path) -> Conflict:
    message = f"{quoted(path.name)} changed on disk. Add it again."
    return Conflict("source.changed", message, path=str(path))
