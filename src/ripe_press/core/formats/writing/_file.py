"""What all writers of plain samples share: a new file, a header that is completed at the end, errors in words."""

import os
from abc import ABC, abstractmethod
from pathlib import Path
from types import TracebackType
from typing import Self

import numpy as np

from ripe_press.core.blocks import Samples, as_integers
from ripe_press.core.disk import write_failed
from ripe_press.core.errors import Interrupted
from ripe_press.core.formats.capabilities import STORED_BITS, Encoding, is_float
from ripe_press.core.words import quoted

_FLOAT_TYPES = {"f32": "f4", "f64": "f8"}


def encoder_refused(path: Path, reason: str) -> Interrupted:
    """The error for an encoder that does not take what it is set to, or what it is given."""
    message = f"Encoding {quoted(path.name)} failed: {reason}. Choose another format or setting."
    return Interrupted("encode.failed", message, path=str(path), reason=reason)


class NewFile(ABC):
    """A file that is being written: closed when all went well, otherwise removed."""

    path: Path
    frames: int

    def __enter__(self) -> Self:
        return self

    def __exit__(
        self, kind: type[BaseException] | None, error: BaseException | None, trace: TracebackType | None
    ) -> None:
        if kind is None:
            self.close()
        else:
            self.abandon()

    @abstractmethod
    def write(self, samples: Samples) -> None:
        """Appends a block, shape ``(frames, channels)``."""

    @abstractmethod
    def close(self) -> None:
        """Completes the file and syncs it to the disk."""

    @abstractmethod
    def abandon(self) -> None:
        """Closes and removes the unfinished file."""


class SampleFile(NewFile):
    """Writes blocks to a new file: left-justified int32 for integer encodings, float64 for float.

    When ``expected_frames`` is given the header is final from the start, so that a reader may follow the file
    while it grows. ``close`` completes the header and syncs the file to the disk.

    Raises: Interrupted ``write.failed`` when the disk refuses (full, gone).
    """

    order = "<"
    signed_bytes = True
    """Whether 8-bit samples are signed: only WAV has them the other way."""
    pads = True
    """Whether an odd number of bytes is made even."""

    def __init__(self, path: Path, encoding: Encoding, rate_hz: int, channels: int, expected_frames: int = 0) -> None:
        self.path = path
        self.frames = 0
        self._encoding = encoding
        self._rate_hz = rate_hz
        self._channels = channels
        self._expected = expected_frames
        try:
            self._file = path.open("xb")
        except OSError as error:
            raise write_failed(path, error) from error
        self._put(self.header(expected_frames))

    @abstractmethod
    def header(self, frames: int) -> bytes:
        """Everything before the samples; its length does not depend on their number."""

    def write(self, samples: Samples) -> None:
        """Appends a block, shape ``(frames, channels)``."""
        self._put(self._packed(samples))
        self.frames += len(samples)

    def close(self) -> None:
        """Pads, completes the header, syncs and closes."""
        if self.pads and self.data_bytes(self.frames) % 2:
            self._put(b"\0")
        try:
            if self.frames != self._expected:
                self._file.seek(0)
                self._file.write(self.header(self.frames))
            self._file.flush()
            os.fsync(self._file.fileno())
            self._file.close()
        except OSError as error:
            raise write_failed(self.path, error) from error

    def abandon(self) -> None:
        """Closes and removes the unfinished file."""
        self._file.close()
        self.path.unlink(missing_ok=True)

    def data_bytes(self, frames: int) -> int:
        """Bytes of so many frames."""
        return frames * self._channels * STORED_BITS[self._encoding] // 8

    def _put(self, data: bytes | memoryview) -> None:
        try:
            self._file.write(data)
        except OSError as error:
            raise write_failed(self.path, error) from error

    def _packed(self, samples: Samples) -> bytes | memoryview:
        if is_float(self._encoding):
            return np.ascontiguousarray(samples, dtype=self.order + _FLOAT_TYPES[self._encoding]).tobytes()
        codes = as_integers(samples, self.order + "i4")
        big = self.order == ">"
        match self._encoding:
            case "u8":
                eight = (codes >> 24).astype(np.int8)
                return eight.tobytes() if self.signed_bytes else (eight.astype(np.int16) + 128).astype("u1").tobytes()
            case "s16":
                return (codes >> 16).astype(self.order + "i2").tobytes()
            case "s20" | "s24":
                octets = codes.view(np.uint8).reshape(-1, 4)
                kept = np.empty((len(octets), 3), np.uint8)
                # A column at a time: rows of three bytes are copied one by one, which takes twice as long.
                for column in range(3):
                    kept[:, column] = octets[:, column + (0 if big else 1)]
                return kept.data
            case _:
                return codes.tobytes()
