"""Everything that the file carries besides sound."""

from dataclasses import dataclass
from pathlib import Path
from typing import ClassVar

from ripe_press.core.measure.signal import SignalResult
from ripe_press.core.stations.base import Description, PathFacts, Station
from ripe_press.core.stations.codec import Codec
from ripe_press.core.tags.forms import carried, not_held
from ripe_press.core.tags.sheet import FileTags
from ripe_press.core.tags.write import write_tags
from ripe_press.core.units import print_count


@dataclass(frozen=True, slots=True)
class Tags(Station):
    """Everything that the file carries besides sound; idle when that is nothing."""

    content: FileTags
    kind: ClassVar[str] = "tags"

    @property
    def idle(self) -> bool:
        """Whether there is nothing to write."""
        return not self.content.has_any

    def write(self, path: Path, codec: Codec, heard: SignalResult | None, album: SignalResult | None = None) -> None:
        """Writes them into a closed file; ``heard`` was measured on the way into it, ``album`` is that of all."""
        write_tags(path, codec.container, codec.encoding, codec.rate_hz, codec.channels, self.content, heard, album)

    def words(self, known: PathFacts) -> Description:
        """How many fields, cover, markers; and what this container has no place for."""
        wanted = self.content
        tags = carried(known.container, wanted) if known.container else wanted
        lost = tuple(sentence for _, sentence in not_held(known.container, wanted)) if known.container else ()
        parts = [print_count(len(tags.values), "field")] if tags.values else []
        parts += ["cover"] if tags.cover else []
        parts += [print_count(len(tags.markers), "marker")] if tags.markers else []
        parts += ["loop points"] if tags.loop else []
        parts += ["loudness"] if tags.gain_tags else []
        label = "Tags" if tags.values or tags.cover else "No tags"
        if not parts:
            sentence = " ".join(("No tags.", *lost))
            return Description(self.kind, label, "none", True, sentence)
        sentence = " ".join((f"Written to the file: {', '.join(parts)}.", *lost))
        return Description(self.kind, label, str(len(tags.values) or ""), False, sentence)
