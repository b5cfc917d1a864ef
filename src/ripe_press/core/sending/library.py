"""Music libraries: of several files of one recording they get one, the copy that fits best."""

from collections.abc import Mapping
from typing import Any

from ripe_press.core.formats.capabilities import CAPABILITIES, kinds_of

_NAMED = ("title", "version", "artist", "album", "track", "disc")
_STEP_S = 0.5
"""Files of one recording differ in length by less: by the resampling and padding of their formats."""


def recording(fields: Mapping[str, str], about: Mapping[str, Any]) -> tuple[object, ...]:
    """Equal for files of the same recording: by what their tags say, and their length."""
    seconds = about["frames"] / about["sample_rate_hz"] if about.get("sample_rate_hz") else 0.0
    return (*(fields.get(name, "") for name in _NAMED), round(seconds / _STEP_S))


def fitness(about: Mapping[str, Any], ready: bool) -> tuple[object, ...]:
    """The higher, the better for a library: without findings, lossless, with room for a cover, small for that.

    Of lossless files in the same kind of container, and of lossy ones, the larger has kept more. Common practice, no
    source.
    """
    kinds = kinds_of(about.get("container", ""), about.get("codec", ""), False)
    can = CAPABILITIES[kinds[0]] if kinds else None
    lossless = can is not None and not can.lossy
    covered = can is not None and can.pictures
    packed = can is not None and can.compressed
    return ready, lossless, covered and packed, about.get("channels", 0), about.get("bytes", 0)
