"""Encoder settings, and whether a container supports a requested encoding."""

from dataclasses import dataclass

from ripe_press.core.errors import Unsupported
from ripe_press.core.formats.capabilities import (
    BEST_QUALITY,
    CAPABILITIES,
    DEPTH_WORDS,
    Capability,
    Container,
    Encoding,
    Mode,
    print_depths,
)
from ripe_press.core.units import print_rate


@dataclass(frozen=True, slots=True)
class Coding:
    """How a lossy encoder is set: by ``kbps``, or by ``quality`` from 0 (smallest) to 10 (best)."""

    mode: Mode
    kbps: int = 0
    quality: int = 0

    def __str__(self) -> str:
        """``320 kbit/s constant``, ``variable, quality 7``."""
        return f"{self.kbps} kbit/s {self.mode}" if self.kbps else f"{self.mode}, quality {self.quality}"


def switches_for(container: Container, kbps: int, channels: int) -> dict[str, str]:
    """How an encoder is set inside at a bit rate; one channel alone has twice the bits of each of two."""
    rows = CAPABILITIES[container].switches
    a_pair = kbps * 2 // channels
    row = next((one for one in rows if a_pair <= one.kbps), rows[-1] if rows else None)
    return dict(row.options) if row else {}


def bit_rates(container: Container, rate_hz: int, channels: int) -> tuple[int, ...]:
    """The bit rates in kbit/s that are offered at a rate."""
    can = CAPABILITIES[container]
    below_hz, others = can.kbps_below
    if rate_hz < below_hz:
        return others
    most = can.most_bits_a_sample * rate_hz * channels // 1000 or can.most_kbps_a_channel * channels
    if not most:
        return can.kbps
    return tuple(one for one in can.kbps if one <= most) or (most,)


def check_capable(container: Container, encoding: Encoding, rate_hz: int, channels: int) -> Capability:
    """The capability, once the wish is known to fit it.

    Raises: Unsupported ``container.rate``, ``container.channels`` or ``container.encoding``.
    """
    can = CAPABILITIES[container]
    if encoding not in can.encodings:
        held = print_depths(can.encodings)
        message = f"{can.title} does not support {DEPTH_WORDS[encoding]}. Use {held}."
        if encoding == "lossy":
            message = f"{can.title} needs a bit depth. Use {held}."
        if can.lossy:
            message = f"{can.title} is lossy: remove the bit depth or choose another format."
        raise Unsupported("container.encoding", message, encoding=encoding)
    if not can.takes_rate(rate_hz):
        message = f"{can.title} does not support {print_rate(rate_hz)}. Use {can.print_rates()}."
        raise Unsupported("container.rate", message, rate_hz=rate_hz)
    if not 1 <= channels <= can.max_channels:
        message = f"{can.title} does not support {channels} channels. Use 1 or 2."
        raise Unsupported("container.channels", message, channels=channels)
    return can


def settle_coding(
    container: Container, rate_hz: int, channels: int, mode: Mode | None, kbps: int | None, quality: int | None
) -> Coding | None:
    """Return the encoder settings with defaults filled in; None for a lossless format.

    Raises: Unsupported ``container.mode``, ``container.kbps`` or ``container.quality``, with what there is.
    """
    can = CAPABILITIES[container]
    knobs = dict(can.knobs)
    if not knobs:
        if mode or kbps or quality is not None:
            message = f"{can.title} is lossless: remove the bit rate."
            raise Unsupported("container.mode", message, container=container)
        return None
    if mode is None and quality is not None:
        mode = next((one for one, knob in can.knobs if knob == "quality"), None)
    settled = mode or can.knobs[0][0]
    if settled not in knobs:
        message = f"{can.title} has no {settled} bit rate. Use {' or '.join(knobs)}."
        raise Unsupported("container.mode", message, mode=settled)
    if knobs[settled] == "quality":
        if kbps:
            message = f"{can.title} with {settled} bit rate needs a quality from 0 to 10, not a bit rate."
            raise Unsupported("container.kbps", message, kbps=kbps)
        wanted = can.quality_first if quality is None else quality
        if not 0 <= wanted <= BEST_QUALITY:
            message = f"{can.title} has no quality {wanted}. Use 0 (smallest) to {BEST_QUALITY} (best)."
            raise Unsupported("container.quality", message, quality=wanted)
        return Coding(settled, quality=wanted)
    if quality is not None:
        message = f"{can.title} with {settled} bit rate needs a bit rate in kbit/s, not a quality."
        raise Unsupported("container.quality", message, quality=quality)
    return Coding(settled, kbps=_checked_kbps(can, settled, rate_hz, channels, kbps))


def _checked_kbps(can: Capability, mode: Mode, rate_hz: int, channels: int, kbps: int | None) -> int:
    offered = bit_rates(can.container, rate_hz, channels)
    most = offered[-1]
    wanted = min(can.kbps_first, most) if kbps is None else kbps
    listed = can.kbps_listed and mode == "constant"
    if not offered[0] <= wanted <= most or (listed and wanted not in offered):
        allowed = ", ".join(str(one) for one in offered) if listed else f"{offered[0]} to {most}"
        message = f"{can.title} at {print_rate(rate_hz)} takes {allowed} kbit/s, not {wanted}."
        raise Unsupported("container.kbps", message, kbps=wanted)
    return wanted
