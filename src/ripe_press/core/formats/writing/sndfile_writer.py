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
from ripe_press.core.formats.capabilities import BEST_QUALITY, Container, Encoding, encoder_of
from ripe_press.core.formats.coding import Coding
from ripe_press.core.formats.writing._file import NewFile
from ripe_press.core.formats.writing.encoders import Encoder
from ripe_press.core.whole_files import sync

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
        encoder = encoder_of(container)
        if coding is None and encoding == "lossy":
            message = f"{container} needs to know how it is coded"
            raise TypeError(message)
        self._integers = coding is None
        self._raise = 1 / encoder.factor(coding.kbps) if coding else 1.0
        """The encoder's own loss of level is added before."""
        try:
            self._file = soundfile.SoundFile(
                str(path), "x", rate_hz, channels, **_options(encoder, encoding, rate_hz, coding)
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


def _options(encoder: Encoder, encoding: Encoding, rate_hz: int, coding: Coding | None) -> dict[str, Any]:
    mode, kbps, quality = (coding.mode, coding.kbps, coding.quality) if coding else ("", 0, BEST_QUALITY)
    level = encoder.level_for(rate_hz, mode, kbps, (BEST_QUALITY - quality) / BEST_QUALITY)
    options: dict[str, Any] = {
        "format": encoder.form, "subtype": dict(encoder.samples)[encoding], "compression_level": level,
    }  # fmt: skip
    # What has no scale of bit rates has no modes either.
    return options | {"bitrate_mode": mode.upper()} if encoder.kbps_scales else options
