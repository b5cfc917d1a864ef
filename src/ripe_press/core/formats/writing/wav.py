"""The WAV writer: bit exact, deterministic, and automatically RF64 above the 32-bit sizes.

No library at hand does all three: one floors instead of rounding, stamps the time into float files and clamps
its sizes in silence at 4 GiB. Sources: see `_riff`; for the room of a broadcast chunk EBU Tech 3285.
"""

import struct
from pathlib import Path

from ripe_press.core.formats import riff as _riff
from ripe_press.core.formats.capabilities import BITS, CAPABILITIES, PLAIN, STORED_BITS, Container, Encoding, is_float
from ripe_press.core.formats.coding import check_capable
from ripe_press.core.formats.writing._file import SampleFile

_PCM, _FLOAT, _EXTENSIBLE = 1, 3, 0xFFFE
_SUBFORMAT_TAIL = bytes.fromhex("000000001000800000aa00389b71")
_SPEAKERS = {1: 0x4, 2: 0x3}  # front centre; front left and right

BEXT_BYTES = 602 + 510
"""The room kept for a broadcast chunk: its fixed fields, and a coding history. Even, because one reader of RF64 does
not find the sound behind a chunk of odd size."""


class WavWriter(SampleFile):
    """WAV, with room for a broadcast chunk (``bwf``), or RF64 whatever its size (``rf64``).

    ``speakers`` is the mask that says what more than two channels are for; 0 says nothing.

    Raises: Interrupted ``write.failed``; Unsupported from the capability table.
    """

    signed_bytes = False

    def __init__(
        self,
        path: Path,
        encoding: Encoding,
        rate_hz: int,
        channels: int,
        expected_frames: int = 0,
        container: Container = PLAIN,
        speakers: int | None = None,
    ) -> None:
        # A copy for ourselves may have more channels than a file that leaves.
        check_capable(PLAIN, encoding, rate_hz, min(channels, 2))
        self._container = container
        self._speakers = _SPEAKERS.get(channels, 0) if speakers is None else speakers
        super().__init__(path, encoding, rate_hz, channels, expected_frames)

    def _format_chunk(self) -> bytes:
        bits = STORED_BITS[self._encoding]
        tag = _FLOAT if is_float(self._encoding) else _PCM
        align = self._channels * bits // 8
        # The standard asks for the extensible form when integers are wider than 16 bits, or channels more than two.
        extensible = (tag == _PCM and bits > 16) or self._channels > 2
        body = struct.pack(
            "<HHIIHH", _EXTENSIBLE if extensible else tag, self._channels, self._rate_hz,
            self._rate_hz * align, align, bits,
        )  # fmt: skip
        if extensible:
            body += struct.pack("<HHI", 22, BITS[self._encoding], self._speakers)
            body += struct.pack("<H", tag) + _SUBFORMAT_TAIL
        elif tag == _FLOAT:
            body += struct.pack("<H", 0)
        return _riff.chunk_header(b"fmt ", len(body)) + body

    def header(self, frames: int) -> bytes:
        """Everything before the samples: ds64 or its room, the broadcast chunk's room, format, fact."""
        data = self.data_bytes(frames)
        middle = self._format_chunk()
        if CAPABILITIES[self._container].states_loudness:
            middle = _riff.chunk_header(b"bext", BEXT_BYTES) + bytes(BEXT_BYTES) + middle
        if is_float(self._encoding):
            middle += _riff.chunk_header(b"fact", 4) + struct.pack("<I", min(frames, _riff.MAX_32))
        riff = 4 + 8 + _riff.DS64_BYTES + len(middle) + 8 + data + data % 2
        wide = riff > _riff.MAX_32 or CAPABILITIES[self._container].wide == "always"
        # The room of ds64 is kept as JUNK in small files, so that a header never changes its length.
        first = (
            _riff.chunk_header(b"ds64", _riff.DS64_BYTES) + _riff.ds64_body(riff, data, frames)
            if wide
            else _riff.chunk_header(b"JUNK", _riff.DS64_BYTES) + bytes(_riff.DS64_BYTES)
        )
        head = _riff.chunk_header(b"RF64", _riff.MAX_32) if wide else _riff.chunk_header(b"RIFF", riff)
        return head + b"WAVE" + first + middle + _riff.chunk_header(b"data", _riff.MAX_32 if wide else data)


def wav_bytes(encoding: Encoding, channels: int, frames: int, container: Container = PLAIN) -> int:
    """The exact size of the file the writer makes, before anything is added to it."""
    extra = 2 + 12 if is_float(encoding) else 24 if BITS[encoding] > 16 else 0
    room = 8 + BEXT_BYTES if CAPABILITIES[container].states_loudness else 0
    data = frames * channels * STORED_BITS[encoding] // 8
    return 12 + 8 + _riff.DS64_BYTES + room + 8 + 16 + extra + 8 + data + data % 2
