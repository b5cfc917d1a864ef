"""From a delivery and a mix to a path of stations: pure, and the only place where anything is decided."""

from dataclasses import dataclass

from ripe_press.core.engine.edges import Stretch, range_of
from ripe_press.core.engine.stations import Channels, Codec, Depth, Name, Path, Range, Rate, Source
from ripe_press.core.errors import BadInput
from ripe_press.core.formats.capabilities import BITS, Container, Encoding, check_capable, is_float
from ripe_press.core.formats.reader import SourceFacts
from ripe_press.core.naming import expand, rate_label, safe_stem
from ripe_press.core.signal.quantise import Dither
from ripe_press.core.signal.resample import Quality
from ripe_press.core.units import frames_after_conversion, print_clock


@dataclass(frozen=True, slots=True)
class Delivery:
    """One range of one mix, made to one brief. ``rate_hz`` and ``channels`` None keep what the mix has."""

    brief: str
    stretch: Stretch
    container: Container
    encoding: Encoding
    rate_hz: int | None
    quality: Quality
    label_pattern: str
    channels: int | None = None


def resolve(delivery: Delivery, facts: SourceFacts, title: str) -> Path:
    """The path of a delivery; what is previewed is what runs.

    Raises: BadInput ``range.empty`` or ``range.outside``; Unsupported from the capability table.
    """
    part = delivery.stretch
    _check_range(part, facts)
    cut = range_of(facts, part.start_frame, part.end_frame, part.edges, part.ring_frames)
    return path_of(delivery, facts, title, cut)


def path_of(delivery: Delivery, facts: SourceFacts, title: str, cut: Range) -> Path:
    """The path of a delivery whose range is settled already. Raises: Unsupported from the capability table."""
    source = Source(
        facts.path, facts.rate_hz, facts.channels, facts.frames, facts.bit_depth, facts.codec, facts.downmix,
        facts.file_channels,
    )  # fmt: skip
    rate = Rate(facts.rate_hz, delivery.rate_hz or facts.rate_hz, delivery.quality)
    channels = Channels(facts.channels, max(facts.channels, delivery.channels or 0))
    can = check_capable(delivery.container, delivery.encoding, rate.to_hz, channels.to_channels)
    frames = frames_after_conversion(cut.frames, rate.from_hz, rate.to_hz)
    codec = Codec(delivery.container, delivery.encoding, rate.to_hz, channels.to_channels, frames)
    fields = {
        "title": title,
        "range": delivery.stretch.name,
        "rate": rate_label(rate.to_hz),
        "depth": f"{BITS[delivery.encoding]}{'f' if is_float(delivery.encoding) else 'b'}",
        "brief": delivery.brief,
    }
    name = Name(safe_stem(expand(delivery.label_pattern, fields)) + can.suffix)
    start: Path = (source, cut, rate) if channels.idle else (source, cut, rate, channels)
    if is_float(delivery.encoding):
        return (*start, codec, name)
    return (*start, decide_depth(BITS[delivery.encoding], facts, rate, cut), codec, name)


def decide_depth(bits: int, facts: SourceFacts, rate: Rate, cut: Range) -> Depth:
    """Dither by rule: nothing when integers pass unchanged, triangular when they are made from anything finer."""
    untouched = rate.idle and not cut.changes_samples and facts.holds_integers
    if untouched and facts.bit_depth is not None and facts.bit_depth <= bits:
        reason = f"The mix already holds {facts.bit_depth}-bit integers at this rate: they leave as they came."
        return Depth(bits, "none", reason, exact=True)
    dither: Dither = "triangular"
    if not rate.idle:
        cause = "The converter computes in floating point"
    elif cut.changes_samples:
        cause = "Fading and folding compute in floating point"
    elif facts.downmix and not facts.holds_integers and facts.codec == "pcm":
        cause = "Folding channels down computes in floating point"
    elif facts.is_float:
        cause = f"The mix is {facts.bit_depth}-bit floating point"
    elif facts.bit_depth is None:
        cause = f"Decoding {facts.codec} gives floating point"
    else:
        cause = f"The mix has {facts.bit_depth} bits"
    reason = f"{cause}, so integers of {bits} bits are made with triangular dither, once, at the end."
    return Depth(bits, dither, reason, exact=False)


def _check_range(part: Stretch, facts: SourceFacts) -> None:
    start, end = part.start_frame, part.end_frame
    length = print_clock(facts.frames, facts.rate_hz)
    if start < 0 or end > facts.frames:
        where = print_clock(max(start, end), facts.rate_hz)
        message = f"The range reaches to {where}, but the mix is {length} long. Choose points inside the mix."
        raise BadInput("range.outside", message, start_frame=start, end_frame=end, frames=facts.frames)
    if end <= start:
        message = (
            f"The range is empty: it starts at {print_clock(start, facts.rate_hz)} and ends at "
            f"{print_clock(end, facts.rate_hz)}. Set the end after the start."
        )
        raise BadInput("range.empty", message, start_frame=start, end_frame=end)
