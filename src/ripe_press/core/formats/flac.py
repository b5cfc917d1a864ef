"""Writing FLAC (RFC 9639) through libsndfile: integers go in as they are, left-justified in 32 bits."""

import os
from pathlib import Path
from types import TracebackType
from typing import Self

import numpy as np
import soundfile

from ripe_press.core.blocks import Samples
from ripe_press.core.errors import Interrupted
from ripe_press.core.formats.capabilities import Encoding

_SUBTYPES: dict[Encoding, str] = {"s16": "PCM_16", "s20": "PCM_24", "s24": "PCM_24"}


class FlacWriter:
    """A new FLAC file; the same samples give the same bytes. Raises: Interrupted ``write.failed``."""

    def __init__(self, path: Path, encoding: Encoding, rate_hz: int, channels: int) -> None:
        self.path = path
        self.frames = 0
        try:
            self._file = soundfile.SoundFile(
                str(path), "x", rate_hz, channels, _SUBTYPES[encoding], format="FLAC", compression_level=0.625
            )
        except (soundfile.LibsndfileError, OSError) as error:
            raise self._failed(str(error)) from error

    def __enter__(self) -> Self:
        return self

    def __exit__(
        self, kind: type[BaseException] | None, error: BaseException | None, trace: TracebackType | None
    ) -> None:
        if kind is None:
            self.close()
        else:
            self.abandon()

    def write(self, samples: Samples) -> None:
        """Appends a block of integers, shape ``(frames, channels)``."""
        try:
            self._file.write(np.ascontiguousarray(samples, dtype=np.int32))
        except (soundfile.LibsndfileError, RuntimeError) as error:
            raise self._failed(str(error)) from error
        self.frames += len(samples)

    def close(self) -> None:
        """Completes the file and syncs it."""
        try:
            self._file.close()
            with self.path.open("rb") as file:
                os.fsync(file.fileno())
        except (soundfile.LibsndfileError, OSError) as error:
            raise self._failed(str(error)) from error

    def abandon(self) -> None:
        """Closes and removes the unfinished file."""
        self._file.close()
        self.path.unlink(missing_ok=True)

    def _failed(self, reason: str) -> Interrupted:
        message = f"{str(self.path)!r} could not be written. Free space or choose another folder."
        return Interrupted("write.failed", message, path=str(self.path), reason=reason)
