"""The name of the file."""

from dataclasses import dataclass
from typing import ClassVar

from ripe_press.core.stations.base import Description, PathFacts, Station


@dataclass(frozen=True, slots=True)
class Name(Station):
    """The name of the file, with its ending, and its sub-folders before it, parted by slashes."""

    file_name: str
    kind: ClassVar[str] = "name"

    def words(self, known: PathFacts) -> Description:
        """The name itself."""
        sentence = "The file gets this name after passing its checks."
        return Description(self.kind, self.file_name, "", False, sentence)
