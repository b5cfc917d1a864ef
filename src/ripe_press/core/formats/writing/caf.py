"""The CAF writer: 64-bit sizes in every file.

Our own so that the size is known to the byte and the information chunk can carry any text. Source, from memory of
the text: Apple, Core Audio Format Specification 1.0 (2011).
"""

import struct

from ripe_press.core.formats.capabilities import STORED_BITS, Encoding, is_float
from ripe_press.core.formats.writing._file import SampleFile

_FLOAT, _LITTLE_ENDIAN = 1, 2
_LAYOUTS = {1: (100 << 16) | 1, 2: (101 << 16) | 2}  # mono; stereo


def caf_chunk(name: bytes, body: bytes) -> bytes:
    """A whole chunk; CAF does not pad."""
    return name + struct.pack(">q", len(body)) + body


class CafWriter(SampleFile):
    """CAF with little-endian samples. Raises: Interrupted ``write.failed``."""

    pads = False

    def header(self, frames: int) -> bytes:
        """File header, description, channel layout, and the head of the data."""
        align = self._channels * STORED_BITS[self._encoding] // 8
        description = struct.pack(
            ">d4sIIIII", float(self._rate_hz), b"lpcm", _LITTLE_ENDIAN | (_FLOAT if is_float(self._encoding) else 0),
            align, 1, self._channels, STORED_BITS[self._encoding],
        )  # fmt: skip
        layout = struct.pack(">III", _LAYOUTS.get(self._channels, 0), 0, 0)
        head = b"caff" + struct.pack(">HH", 1, 0)
        sound = b"data" + struct.pack(">qI", 4 + self.data_bytes(frames), 0)
        return head + caf_chunk(b"desc", description) + caf_chunk(b"chan", layout) + sound


def caf_bytes(encoding: Encoding, channels: int, frames: int) -> int:
    """The exact size of the file the writer makes, before anything is added to it."""
    return 8 + 44 + 24 + 16 + frames * channels * STORED_BITS[encoding] // 8
