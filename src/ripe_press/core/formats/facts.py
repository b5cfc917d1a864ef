"""What a source declares of itself."""

from dataclasses import dataclass
from typing import Annotated

from annotated_types import Ge, Le

from ripe_press.core.formats.reading.channel_layout import Layout
from ripe_press.core.formats.reading.downmix import FOLD_DOWN


@dataclass(frozen=True, slots=True)
class SourceFacts:
    """Declared properties of a source; ``bit_depth`` is None for lossy codecs and computed audio.

    ``channels`` are those of the mix. If the file has more (``file_channels``), ``downmix`` names their origin as in
    `downmix.settle`.
    """

    path: str
    container: str
    codec: str
    rate_hz: Annotated[int, Ge(1), Le(10_000_000)]
    channels: Annotated[int, Ge(1), Le(1024)]
    frames: Annotated[int, Ge(0)]
    bit_depth: int | None
    downmix: str = ""
    file_channels: int = 0
    effective_bits: int | None = None
    """Bits in use, where the samples were looked at: a 24-bit file may hold 16."""
    layout: Layout | None = None
    """What each channel of a file with more than two is for, where that is known."""
    content_sum: str = ""
    """What `content.content_sum` gives for the file, where it was asked."""

    @property
    def duration_s(self) -> float:
        """Length in seconds."""
        return self.frames / self.rate_hz

    @property
    def declares_integers(self) -> bool:
        """Whether the file holds integers of ``bit_depth``."""
        return self.codec == "pcm"

    @property
    def holds_integers(self) -> bool:
        """Whether the samples that are read are integers of ``bit_depth``: folding channels down ends that."""
        return self.declares_integers and self.downmix != FOLD_DOWN

    @property
    def is_float(self) -> bool:
        """Whether the samples are floating point."""
        return self.codec == "pcm-float"
