"""The WAV writer: bit exact, deterministic, and RF64 by itself past the 32-bit sizes.

No library at hand does all three: one floors instead of rounding, stamps the time into float files and clamps
its sizes in silence at 4 GiB.
"""

import os
import struct
from pathlib import Path
from types import TracebackType
from typing import Self

import numpy as np

from ripe_press.core.blocks import Samples
from ripe_press.core.errors import Interrupted
from ripe_press.core.formats import _riff
from ripe_press.core.formats.capabilities import BITS, STORED_BITS, Encoding, check_capable, is_float

_PCM, _FLOAT, _EXTENSIBLE = 1, 3, 0xFFFE
_SUBFORMAT_TAIL = bytes.fromhex("000000001000800000aa00389b71")
_FLOAT_TYPES = {"f32": "<f4", "f64": "<f8"}
_SPEAKERS = {1: 0x4, 2: 0x3}  # front centre; front left and right


class WavWriter:
    """Writes blocks to a new file: left-justified int32 for integer encodings, float64 for float.

    When ``expected_frames`` is given the header is final from the start, so that a reader may follow the file
    while it grows. ``close`` completes the header and syncs the file to the disk.

    Raises: Interrupted ``write.failed`` when the disk refuses (full, gone); Unsupported from the capability
    table.
    """

    def __init__(self, path: Path, encoding: Encoding, rate_hz: int, channels: int, expected_frames: int = 0) -> None:
        # A copy for ourselves may have more channels than a file that leaves.
        check_capable("wav", encoding, rate_hz, min(channels, 2))
        self.path = path
        self.frames = 0
        self._encoding = encoding
        self._rate_hz = rate_hz
        self._channels = channels
        self._expected = expected_frames
        try:
            self._file = path.open("xb")
        except OSError as error:
            raise self._failed(error) from error
        self._put(self._header(expected_frames))

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
        """Appends a block, shape ``(frames, channels)``."""
        self._put(self._packed(samples))
        self.frames += len(samples)

    def close(self) -> None:
        """Pads, completes the header, syncs and closes."""
        if self._data_bytes(self.frames) % 2:
            self._put(b"\0")
        try:
            if self.frames != self._expected:
                self._file.seek(0)
                self._file.write(self._header(self.frames))
            self._file.flush()
            os.fsync(self._file.fileno())
            self._file.close()
        except OSError as error:
            raise self._failed(error) from error

    def abandon(self) -> None:
        """Closes and removes the unfinished file."""
        self._file.close()
        self.path.unlink(missing_ok=True)

    def _put(self, data: bytes) -> None:
        try:
            self._file.write(data)
        except OSError as error:
            raise self._failed(error) from error

    def _failed(self, error: OSError) -> Interrupted:
        message = f"{str(self.path)!r} could not be written: {error.strerror}. Free space or choose another folder."
        return Interrupted("write.failed", message, path=str(self.path), reason=str(error.strerror))

    def _data_bytes(self, frames: int) -> int:
        return frames * self._channels * STORED_BITS[self._encoding] // 8

    def _packed(self, samples: Samples) -> bytes:
        if is_float(self._encoding):
            return np.ascontiguousarray(samples, dtype=_FLOAT_TYPES[self._encoding]).tobytes()
        codes = np.ascontiguousarray(samples, dtype="<i4")
        match self._encoding:
            case "u8":
                return ((codes >> 24) + 128).astype(np.uint8).tobytes()
            case "s16":
                return (codes >> 16).astype("<i2").tobytes()
            case "s20" | "s24":
                return codes.view(np.uint8).reshape(-1, 4)[:, 1:].tobytes()
            case _:
                return codes.tobytes()

    def _format_chunk(self) -> bytes:
        bits = STORED_BITS[self._encoding]
        tag = _FLOAT if is_float(self._encoding) else _PCM
        align = self._channels * bits // 8
        # The standard asks for the extensible form when integers are wider than 16 bits.
        extensible = tag == _PCM and bits > 16
        body = struct.pack(
            "<HHIIHH", _EXTENSIBLE if extensible else tag, self._channels, self._rate_hz,
            self._rate_hz * align, align, bits,
        )  # fmt: skip
        if extensible:
            body += struct.pack("<HHI", 22, BITS[self._encoding], _SPEAKERS.get(self._channels, 0))
            body += struct.pack("<H", tag) + _SUBFORMAT_TAIL
        elif tag == _FLOAT:
            body += struct.pack("<H", 0)
        return _riff.chunk_header(b"fmt ", len(body)) + body

    def _header(self, frames: int) -> bytes:
        data = self._data_bytes(frames)
        middle = self._format_chunk()
        if is_float(self._encoding):
            middle += _riff.chunk_header(b"fact", 4) + struct.pack("<I", min(frames, _riff.MAX_32))
        riff = 4 + 8 + _riff.DS64_BYTES + len(middle) + 8 + data + data % 2
        wide = riff > _riff.MAX_32
        # The room of ds64 is kept as JUNK in small files, so that a header never changes its length.
        first = (
            _riff.chunk_header(b"ds64", _riff.DS64_BYTES) + _riff.ds64_body(riff, data, frames)
            if wide
            else _riff.chunk_header(b"JUNK", _riff.DS64_BYTES) + bytes(_riff.DS64_BYTES)
        )
        head = _riff.chunk_header(b"RF64", _riff.MAX_32) if wide else _riff.chunk_header(b"RIFF", riff)
        return head + b"WAVE" + first + middle + _riff.chunk_header(b"data", _riff.MAX_32 if wide else data)


def wav_bytes(encoding: Encoding, channels: int, frames: int) -> int:
    """The exact size of the file the writer makes."""
    extra = 2 + 12 if is_float(encoding) else 24 if BITS[encoding] > 16 else 0
    data = frames * channels * STORED_BITS[encoding] // 8
    return 12 + 8 + _riff.DS64_BYTES + 8 + 16 + extra + 8 + data + data % 2
