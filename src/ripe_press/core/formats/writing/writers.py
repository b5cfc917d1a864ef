"""The right writer for a container, and the size that plain samples take in it."""

from collections.abc import Sequence
from pathlib import Path
from typing import TYPE_CHECKING

from ripe_press.core.formats.capabilities import CAPABILITIES, STORED_BITS, Container, Encoding
from ripe_press.core.formats.coding import Coding
from ripe_press.core.formats.writing._file import NewFile
from ripe_press.core.formats.writing.aiff import AiffWriter, aiff_bytes
from ripe_press.core.formats.writing.caf import CafWriter, caf_bytes
from ripe_press.core.formats.writing.wav import WavWriter, wav_bytes

if TYPE_CHECKING:
    from ripe_press.core.formats.writing.av_writer import Picture
    from ripe_press.core.timeline import Marker


def open_writer(
    path: Path,
    container: Container,
    encoding: Encoding,
    rate_hz: int,
    channels: int,
    frames: int,
    coding: Coding | None = None,
    chapters: Sequence["Marker"] = (),
    picture: "Picture | None" = None,
) -> NewFile:
    """A writer of a new file that will hold ``frames``. Raises: Interrupted ``write.failed``."""
    match CAPABILITIES[container].written_by:
        case "wave":
            return WavWriter(path, encoding, rate_hz, channels, frames, container)
        case "form":
            return AiffWriter(path, encoding, rate_hz, channels, frames)
        case "core-audio":
            return CafWriter(path, encoding, rate_hz, channels, frames)
        case "libsndfile":
            # The libraries of codecs are loaded only when one of them is written.
            from ripe_press.core.formats.writing.sndfile_writer import SndfileWriter

            return SndfileWriter(path, container, encoding, rate_hz, channels, coding)
        case "libav":
            from ripe_press.core.formats.writing.av_writer import AvWriter

            return AvWriter(path, container, encoding, rate_hz, channels, coding, frames, chapters, picture)


def sample_bytes(container: Container, encoding: Encoding, channels: int, frames: int) -> int:
    """The size of a file of plain samples, to the byte, before tags; of others what they hold when unpacked."""
    match CAPABILITIES[container].written_by:
        case "wave":
            return wav_bytes(encoding, channels, frames, container)
        case "form":
            return aiff_bytes(encoding, channels, frames)
        case "core-audio":
            return caf_bytes(encoding, channels, frames)
        case _:
            return frames * channels * STORED_BITS[encoding] // 8
