"""The AIFF writer; floating point makes it AIFF-C.

Our own for the reasons in `wav`, and because the library stamps the time into float files, drops markers and writes
files over 4 GiB that no reader opens. Sources, from memory of the texts: Apple, Audio Interchange File Format 1.3
(1989) and AIFF-C draft (1991); the rate is an 80-bit extended number of IEEE 754.
"""

import struct

from ripe_press.core.formats.capabilities import BITS, STORED_BITS, Encoding, is_float
from ripe_press.core.formats.writing._file import SampleFile

_AIFC_VERSION = 0xA2805140
_KINDS: dict[Encoding, tuple[bytes, bytes]] = {
    "f32": (b"fl32", b"32-bit floating point"),
    "f64": (b"fl64", b"64-bit floating point"),
}


def extended(value: int) -> bytes:
    """A positive whole number as an 80-bit extended float, big-endian: sign and exponent, then 64 bits of mantissa."""
    exponent = value.bit_length() - 1
    return struct.pack(">HQ", 16_383 + exponent, value << (63 - exponent))


class AiffWriter(SampleFile):
    """AIFF or, in floating point, AIFF-C. Raises: Interrupted ``write.failed``."""

    order = ">"

    def header(self, frames: int) -> bytes:
        """FORM, the version of AIFF-C, COMM, and the head of SSND."""
        return _header(self._encoding, self._rate_hz, self._channels, frames)


def _header(encoding: Encoding, rate_hz: int, channels: int, frames: int) -> bytes:
    data = frames * channels * STORED_BITS[encoding] // 8
    common = struct.pack(">hIh", channels, frames, BITS[encoding]) + extended(rate_hz)
    version, kind = b"", b"AIFF"
    if is_float(encoding):
        version, kind = b"FVER" + struct.pack(">II", 4, _AIFC_VERSION), b"AIFC"
        code, name = _KINDS[encoding]
        # A pascal string takes an even number of bytes, its length among them.
        common += code + struct.pack("B", len(name)) + name + b"\0" * ((len(name) + 1) % 2)
    body = kind + version + b"COMM" + struct.pack(">I", len(common)) + common
    sound = b"SSND" + struct.pack(">III", 8 + data, 0, 0)
    return b"FORM" + struct.pack(">I", len(body) + len(sound) + data + data % 2) + body + sound


def aiff_bytes(encoding: Encoding, channels: int, frames: int) -> int:
    """The exact size of the file the writer makes, before anything is added to it."""
    data = frames * channels * STORED_BITS[encoding] // 8
    return len(_header(encoding, 44_100, channels, 0)) + data + data % 2
