"""The size of a file, known without encoding: exact for plain samples, a range for the rest."""

import math

from ripe_press.core.formats.capabilities import CAPABILITIES, is_pcm
from ripe_press.core.formats.writing.writers import sample_bytes
from ripe_press.core.stations.codec import Codec
from ripe_press.core.stations.size.forecast import Forecast, known_size
from ripe_press.core.tags.cover import prepared_cover
from ripe_press.core.tags.forms import carried
from ripe_press.core.tags.sheet import FileTags
from ripe_press.core.tags.write import chunk_bytes

_CONTAINER_BYTES = 9_000
"""Most that headers, packet tables, padding for tags and the writer's own name take, beside what grows with length."""

_VIDEO_BYTES_A_SECOND = (60, 4_000)
_VIDEO_BYTES = 400_000


def forecast_size(codec: Codec, tags: FileTags) -> Forecast:
    """What can be said without listening to the sound."""
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


def around(codec: Codec, tags: FileTags) -> tuple[int, int]:
    """The least and the most bytes that a file has beside its coded sound."""
    tags = carried(codec.container, tags)
    cover = len(prepared_cover(tags.cover).data) if tags.cover else 0
    can = CAPABILITIES[codec.container]
    if can.pictures_are_text:
        cover = math.ceil(cover * 4 / 3)  # a picture is text there
    texts = sum(len(text.encode()) for _, text in tags.values) + 60 * len(tags.markers)
    # Tables and page headers grow with the length: a few bytes for every packet of a codec.
    packets = codec.frames // 900
    least, most = cover + texts, cover + 2 * texts + _CONTAINER_BYTES + 16 * packets
    if can.shows_picture:
        seconds = codec.frames / codec.rate_hz
        least += math.floor(_VIDEO_BYTES_A_SECOND[0] * seconds)
        most += math.ceil(_VIDEO_BYTES_A_SECOND[1] * seconds) + _VIDEO_BYTES
    return least, most
