"""Writing FLAC (RFC 9639), MP3 and Vorbis through libsndfile.

Integers go into FLAC as they are, left-justified in 32 bits; MP3 and Vorbis take floating point, beyond full scale too.
The library writes the MP3 header with delay and padding, so players restore the exact length.
"""

from pathlib import Path
from typing import Any

import numpy as np
import soundfile

from ripe_press.core.blocks import Samples, as_integers
from ripe_press.core.disk import write_failed
from ripe_press.core.formats.capabilities import BEST_QUALITY, Container, Encoding
from ripe_press.core.formats.coding import Coding
from ripe_press.core.formats.writing._file import NewFile
from ripe_press.core.formats.writing.encoders import mp3_factor
from ripe_press.core.whole_files import sync

_SUBTYPES: dict[Encoding, str] = {"s16": "PCM_16", "s20": "PCM_24", "s24": "PCM_24"}
_MOST_FRAMES_A_WRITE = 4096
"""The Vorbis encoder keeps what it is given on the stack: longer blocks take the process down (measured)."""


class SndfileWriter(NewFile):
    """A new FLAC, MP3 or Vorbis file. Raises: Interrupted ``write.failed``."""

    def __init__(
        self,
        path: Path,
        container: Container,
        encoding: Encoding,
        rate_hz: int,
        channels: int,
        coding: Coding | None = None,
    ) -> None:
        self.path = path
        self.frames = 0
        self._integers = container == "flac"
        self._raise = 1 / mp3_factor(coding.kbps) if coding and container == "mp3" else 1.0
        """The encoder's own loss of level is added before."""
        try:
            self._file = soundfile.SoundFile(
                str(path), "x", rate_hz, channels, **_options(container, encoding, rate_hz, coding)
            )
        except (soundfile.LibsndfileError, OSError) as error:
            raise write_failed(path, error) from error

    def write(self, samples: Samples) -> None:
        """Appends a block, shape ``(frames, channels)``."""
        try:
            for start in range(0, len(samples), _MOST_FRAMES_A_WRITE):
                part = samples[start : start + _MOST_FRAMES_A_WRITE]
                self._file.write(as_integers(part) if self._integers else self._raised(part))
        except (soundfile.LibsndfileError, RuntimeError) as error:
            raise write_failed(self.path, error) from error
        self.frames += len(samples)

    def _raised(self, part: Samples) -> Samples:
        plain = np.ascontiguousarray(part, dtype=np.float64)
        return plain if self._raise == 1.0 else plain * self._raise

    def close(self) -> None:
        """Completes the file and syncs it."""
        try:
            self._file.close()
            sync(self.path)
        except (soundfile.LibsndfileError, OSError) as error:
            raise write_failed(self.path, error) from error

    def abandon(self) -> None:
        """Closes and removes the unfinished file."""
        self._file.close()
        self.path.unlink(missing_ok=True)


def _options(container: Container, encoding: Encoding, rate_hz: int, coding: Coding | None) -> dict[str, Any]:
    if container == "flac":
        return {"format": "FLAC", "subtype": _SUBTYPES[encoding], "compression_level": 0.625}
    if coding is None:
        message = f"{container} needs to know how it is coded"
        raise TypeError(message)
    worse = (BEST_QUALITY - coding.quality) / BEST_QUALITY
    if container == "vorbis":
        return {"format": "OGG", "subtype": "VORBIS", "compression_level": worse}
    most, span = (320, 288) if rate_hz >= 32_000 else (160, 152)
    # The library's scale: nought to nine tenths of it are the encoder's qualities 0 to 9.
    level = 0.9 * worse if coding.mode == "variable" else (most - coding.kbps) / span
    return {
        "format": "MP3", "subtype": "MPEG_LAYER_III", "bitrate_mode": coding.mode.upper(), "compression_level": level,
    }  # fmt: skip
