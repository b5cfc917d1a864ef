"""How large a file will be: to the byte for plain samples, between two bounds for everything else."""

import math
from dataclasses import dataclass
from typing import Literal

from ripe_press.core.engine import stations as st
from ripe_press.core.formats.capabilities import is_pcm
from ripe_press.core.formats.writers import sample_bytes
from ripe_press.core.tags.cover import prepared_cover
from ripe_press.core.tags.forms import carried
from ripe_press.core.tags.sheet import FileTags
from ripe_press.core.tags.write import chunk_bytes
from ripe_press.core.units import print_count

Basis = Literal["exact", "bit rate", "trial", "bound"]

_CONTAINER_BYTES = 9_000
"""Most that headers, packet tables, padding for tags and the writer's own name take, beside what grows with length."""

_VIDEO_BYTES_A_SECOND = (60, 4_000)
_VIDEO_BYTES = 400_000


@dataclass(frozen=True, slots=True)
class Forecast:
    """A size between two bounds, both in bytes and included; ``basis`` says how they came about."""

    low: int
    high: int
    basis: Basis

    @property
    def exact(self) -> bool:
        """Whether the size is known to the byte."""
        return self.basis == "exact"

    @property
    def middle(self) -> int:
        """What to count with where one number is needed."""
        return self.high if self.basis == "bound" else (self.low + self.high) // 2

    def error_percent(self, found_bytes: int) -> float:
        """How far a size lies outside the bounds, in percent of it; 0 inside."""
        off = max(self.low - found_bytes, found_bytes - self.high, 0)
        return 100.0 * off / found_bytes if found_bytes else 0.0

    def __str__(self) -> str:
        """``26,592,044 bytes``, ``11.2 to 12.9 MB``, ``at most 26.6 MB``."""
        if self.exact:
            return print_count(self.low, "byte")
        if self.basis == "bound":
            return f"at most {print_size(self.high)}"
        low, high = print_size(self.low), print_size(self.high)
        return high if low == high else f"{low} to {high}"


def known_size(size: int) -> Forecast:
    """What a file that is there has, in the same shape."""
    return Forecast(size, size, "exact")


def print_size(size: int) -> str:
    """Bytes in kB, MB or GB of powers of ten, with one decimal from MB on."""
    for limit, unit, decimals in ((1e9, "GB", 2), (1e6, "MB", 1)):
        if size >= limit:
            return f"{size / limit:.{decimals}f} {unit}"
    return f"{max(1, round(size / 1e3))} kB"


def stations_of(path: st.Path) -> tuple[st.Codec, FileTags]:
    """The codec of a path, and the tags that its file carries."""
    codec = next(one for one in path if isinstance(one, st.Codec))
    return codec, next((one.content for one in path if isinstance(one, st.Tags)), FileTags())


def forecast_size(path: st.Path) -> Forecast:
    """What can be said without listening to the sound."""
    codec, tags = stations_of(path)
    plain = sample_bytes(codec.container, codec.encoding, codec.channels, codec.frames)
    if is_pcm(codec.container):
        size = plain + chunk_bytes(codec.container, codec.encoding, codec.rate_hz, codec.channels, tags)
        return known_size(size)
    if codec.coding is None:
        return Forecast(0, plain + around(codec, tags)[1], "bound")
    if codec.coding.kbps:
        seconds = codec.frames / codec.rate_hz
        coded = codec.coding.kbps * 125 * seconds
        # Constant means it; an average is kept over a whole piece, and less is spent on silence.
        below, above = {"constant": (0.99, 1.01), "average": (0.88, 1.08)}.get(codec.coding.mode, (0.6, 1.35))
        least, most = around(codec, tags)
        packets = codec.coding.kbps * 125 * 2304 / codec.rate_hz
        return Forecast(math.floor(below * coded) + least, math.ceil(above * coded + packets) + most, "bit rate")
    # Set by quality: no encoder spends more than its highest rate.
    return Forecast(0, math.ceil(_MOST_KBPS * 125 * codec.frames / codec.rate_hz) + around(codec, tags)[1], "bound")


_MOST_KBPS = 520


def around(codec: st.Codec, tags: FileTags) -> tuple[int, int]:
    """The least and the most bytes that a file has beside its coded sound."""
    tags = carried(codec.container, tags)
    cover = len(prepared_cover(tags.cover).data) if tags.cover else 0
    if codec.container in ("vorbis", "opus"):
        cover = math.ceil(cover * 4 / 3)  # a picture is text there
    texts = sum(len(text.encode()) for _, text in tags.values) + 60 * len(tags.markers)
    # Tables and page headers grow with the length: a few bytes for every packet of a codec.
    packets = codec.frames // 900
    least, most = cover + texts, cover + 2 * texts + _CONTAINER_BYTES + 16 * packets
    if codec.container == "video":
        seconds = codec.frames / codec.rate_hz
        least += math.floor(_VIDEO_BYTES_A_SECOND[0] * seconds)
        most += math.ceil(_VIDEO_BYTES_A_SECOND[1] * seconds) + _VIDEO_BYTES
    return least, most
