"""From a delivery and a mix to a path of stations: pure, and the only place where anything is decided."""

import hashlib
from collections.abc import Sequence
from dataclasses import astuple, replace
from typing import Literal, get_args

from ripe_press.core.engine.delivery import Delivery
from ripe_press.core.engine.edges import Stretch, range_of
from ripe_press.core.engine.notes import (
    NO_NOTES,
    MixNotes,
    coding_history,
    file_tags,
    filled,
    label_fields,
)
from ripe_press.core.engine.stations import (
    Channels,
    Codec,
    Depth,
    Finish,
    Level,
    Name,
    Path,
    Range,
    Rate,
    Source,
    Tags,
)
from ripe_press.core.errors import BadInput, Unsupported
from ripe_press.core.formats.capabilities import (
    BITS,
    CAPABILITIES,
    Container,
    Encoding,
    check_capable,
    is_float,
    settle_coding,
)
from ripe_press.core.formats.reader import HeldSamples, SourceFacts
from ripe_press.core.formats.writers import sample_bytes
from ripe_press.core.naming import file_name, length_label
from ripe_press.core.signal.channels import Sides
from ripe_press.core.signal.quantise import Dither
from ripe_press.core.tags.sheet import Values, merged
from ripe_press.core.units import frames_after_conversion, print_clock, print_rate

NO_FINISH = Finish()


def resolve(
    delivery: Delivery, facts: SourceFacts, title: str, finish: Finish = NO_FINISH, notes: MixNotes = NO_NOTES
) -> tuple[Path, ...]:
    """The paths of a delivery, one a file; what is previewed is what runs.

    Raises: BadInput ``range.empty`` or ``range.outside``; Unsupported from the capability table.
    """
    part = delivery.stretch
    check_range(part, facts)
    cut = range_of(facts, part.start_frame, part.end_frame, part.edges, part.ring_frames)
    return paths_of(delivery, facts, title, cut, finish, notes)


def paths_of(
    delivery: Delivery,
    facts: SourceFacts,
    title: str,
    cut: Range,
    finish: Finish = NO_FINISH,
    notes: MixNotes = NO_NOTES,
) -> tuple[Path, ...]:
    """The paths of a delivery whose range is settled already. Raises: Unsupported from the capability table."""
    wish = delivery.channels
    if wish == "split" and facts.channels == 2:
        halves: tuple[Sides, Sides] = ("left", "right")
        return tuple(_path(delivery, facts, title, cut, finish, Channels(side, split=True), notes) for side in halves)
    channels: Channels | None = None
    if wish in ("left", "right", "mono", "swapped") and facts.channels == 2:
        sides: Sides = next(one for one in get_args(Sides) if one == wish)
        channels = Channels(sides, delivery.mono_law_db if wish == "mono" else -6)
    elif wish in ("stereo", "swapped") and facts.channels == 1:
        channels = Channels("both")
    return (_path(delivery, facts, title, cut, finish, channels, notes),)


def _path(
    delivery: Delivery,
    facts: SourceFacts,
    title: str,
    cut: Range,
    finish: Finish,
    channels: Channels | None,
    notes: MixNotes,
) -> Path:
    source = Source(
        facts.path, facts.rate_hz, facts.channels, facts.frames, facts.bit_depth, facts.codec, facts.downmix,
        facts.file_channels, facts.effective_bits, facts.layout,
    )  # fmt: skip
    rate = Rate(facts.rate_hz, delivery.rate_hz or kept_rate(facts.rate_hz, delivery.container), delivery.quality)
    level = _level(delivery)
    taken = delivery.finish and not finish.idle
    first: Path = (source, cut, *((finish,) if taken else ()))
    changed: Path = (channels,) if channels else ()
    leveled: Path = () if level.idle else (level,)
    # The two files of a split pair are the stereo file's channels: they part behind a level that both share.
    split = channels is not None and channels.split
    start: Path = (*first, rate, *leveled, *changed) if split else (*first, *changed, rate, *leveled)
    leaving = channels.after(facts.channels) if channels else facts.channels
    encoding = delivery.encoding or encoding_for(delivery.container, facts)
    check_capable(delivery.container, encoding, rate.to_hz, leaving)
    coding = settle_coding(
        delivery.container, rate.to_hz, leaving, delivery.mode, delivery.kbps, delivery.coding_quality
    )
    depth = _depth(delivery, encoding, source, start)
    if depth:
        depth = replace(depth, seeds=_seeds(depth, facts, cut, channels)) if depth.dither != "none" else depth
        start += (depth,)
    exact = depth.exact if depth else holds_exactly(source, start, encoding)
    frames = frames_after_conversion(cut.frames, rate.from_hz, rate.to_hz)
    if not frames:
        message = f"The range is shorter than one frame at {print_rate(rate.to_hz)}. Take more, or keep the mix's rate."
        raise BadInput("range.empty", message, frames=cut.frames, rate_hz=rate.to_hz)
    codec = Codec(delivery.container, encoding, rate.to_hz, leaving, frames, exact, coding)
    check_size(codec)
    side = {"left": "L", "right": "R"}.get(channels.sides, "") if channels and channels.split else ""
    dither = depth.dither if depth and depth.dither != "none" else ""
    return (*start, codec, *_around(delivery, facts, title, cut, codec, level, notes, side, dither))


def _level(delivery: Delivery) -> Level:
    wish = delivery.level
    # Only what a codec changes can overshoot: other files share their level with those that never back off.
    back_off = wish.back_off and CAPABILITIES[delivery.container].lossy
    level = Level(
        wish.kind, wish.target, wish.ceiling_dbtp, wish.limit, wish.only_down, delivery.group, back_off=back_off,
        max_reduction_db=wish.max_reduction_db,
    )  # fmt: skip
    return Level() if level.idle else level


def _depth(delivery: Delivery, encoding: Encoding, source: Source, start: Path) -> Depth | None:
    """The station that makes integers; none for floating point and lossy codecs."""
    if encoding == "lossy" and delivery.dither not in ("auto", "none"):
        title = CAPABILITIES[delivery.container].title
        message = f"{title} has no bit depth, so there is nothing to dither. Leave dither to the rule."
        raise Unsupported("container.dither", message, dither=delivery.dither)
    if encoding == "lossy" or is_float(encoding):
        return None
    return decide_depth(BITS[encoding], source, start, delivery.dither)


def _seeds(depth: Depth, facts: SourceFacts, cut: Range, channels: Channels | None) -> tuple[int, ...]:
    """A seed for the noise of each channel, by what its samples are: source, range, side.

    A side has the same noise alone and in the stereo file; no other range, sum or source has it.
    """
    sides: dict[Sides, tuple[str, ...]] = {
        "both": ("left", "right"), "left": ("left",), "right": ("right",), "swapped": ("right", "left"),
        "mono": ("sum",),
    }  # fmt: skip
    named = sides[channels.sides] if channels else ("left", "right") if facts.channels == 2 else ("mono",)
    about = (facts.content_sum, facts.downmix, astuple(replace(cut, window=None)), depth.bits, depth.rate_hz)
    digests = (hashlib.blake2b(repr((*about, side)).encode(), digest_size=8).digest() for side in named)
    return tuple(int.from_bytes(one, "big") for one in digests)


def untouched(path: Path) -> bool:
    """Whether every sample leaves as it came, as far as the stations up to the making of integers go."""
    for station in path:
        match station:
            case Finish() | Rate() | Level():
                if not station.idle:
                    return False
            case Channels() | Range():
                if station.changes_samples:
                    return False
    return True


def holds_exactly(source: Source, path: Path, encoding: Encoding) -> bool:
    """Whether floating point of this encoding holds the very samples that come."""
    return untouched(path) and is_float(encoding) and held_whole(source, encoding)


def decided_again(path: Path) -> Path:
    """A path whose level was settled: where nothing is left to do at it, the samples may be exact after all."""
    source = next(station for station in path if isinstance(station, Source))
    at = next(number for number, station in enumerate(path) if isinstance(station, Depth | Codec))
    found = path[at]
    if isinstance(found, Depth):
        depth = decide_depth(found.bits, source, path[:at], found.asked)
        seeded = replace(depth, seeds=found.seeds if depth.dither != "none" else ())
        codec = path[at + 1]
        assert isinstance(codec, Codec)  # noqa: S101 - narrows for the type checker
        return (*path[:at], seeded, replace(codec, exact=depth.exact), *path[at + 2 :])
    assert isinstance(found, Codec)  # noqa: S101 - narrows for the type checker
    return (*path[:at], replace(found, exact=holds_exactly(source, path[:at], found.encoding)), *path[at + 1 :])


def _around(
    delivery: Delivery,
    facts: SourceFacts,
    title: str,
    cut: Range,
    codec: Codec,
    level: Level,
    notes: MixNotes,
    side: str,
    dither: str,
) -> tuple[Tags, Name]:
    """What a file has around its sound: tags, whose texts may name fields of the label, and its name."""
    more = {
        "range": delivery.stretch.name, "brief": delivery.brief, "side": side, "tempo": delivery.tempo,
        "bars": delivery.bars, "number": str(delivery.number or ""), "metre": delivery.metre, "pressed": delivery.day,
        "start": length_label(cut.start_frame, facts.rate_hz), "dither": dither,
    }  # fmt: skip

    def fields_of(values: Values) -> dict[str, str]:
        return label_fields(
            title, values, path=facts.path, container=codec.container, encoding=codec.encoding, coding=codec.coding,
            rate_hz=codec.rate_hz, channels=codec.channels, frames=codec.frames, level=level, more=more,
        )  # fmt: skip

    values = filled(merged(notes.values, delivery.tags.departures), fields_of(notes.values))
    pattern = delivery.label_pattern
    if side and "{side}" not in pattern:
        pattern += " {side}"
    name = file_name(pattern, fields_of(values), delivery.style, CAPABILITIES[codec.container].suffix)
    history = coding_history(facts, codec, dither)
    return Tags(file_tags(notes, values, delivery.tags, codec, cut, facts.rate_hz, history)), Name(name)


def check_size(codec: Codec) -> None:
    """Refuses what a container's own sizes cannot express. Raises: Unsupported ``container.too-long``."""
    can = CAPABILITIES[codec.container]
    size = sample_bytes(codec.container, codec.encoding, codec.channels, codec.frames)
    if can.max_bytes is not None and not can.compressed and size > can.max_bytes - LARGEST_TAGS:
        message = (
            f"{can.title} ends at {can.max_bytes / 2**30:.0f} GiB; this file would have {size / 2**30:.1f}. "
            f"Take WAV (it becomes RF64), CAF or FLAC, or a shorter range."
        )
        raise Unsupported("container.too-long", message, bytes=size)


LARGEST_TAGS = 4 << 20
"""Room that is left for tags below a container's largest size."""


def kept_rate(rate_hz: int, container: Container) -> int:
    """The rate of the mix, or the one to convert it to where the codec does not exist at it."""
    can = CAPABILITIES[container]
    if can.takes_rate(rate_hz):
        return rate_hz
    return nearest_rate(rate_hz, can.rates_hz) if can.rates_hz else min(can.max_rate_hz, max(can.min_rate_hz, rate_hz))


def nearest_rate(rate_hz: int, allowed: Sequence[int]) -> int:
    """The allowed rate to convert to: one that the mix's is a multiple of before others, high before low."""
    lower = [one for one in allowed if one <= rate_hz]
    even = [one for one in lower if rate_hz % one == 0 and one >= min(rate_hz, _HEARD_HZ)]
    return max(even or lower) if lower else min(allowed)


_HEARD_HZ = 44_100
"""An even ratio is not worth losing what can be heard."""


def encoding_for(container: Container, facts: SourceFacts) -> Encoding:
    """The encoding in which a container keeps what the mix holds, or the most it can hold of it."""
    held = CAPABILITIES[container].encodings
    kept = kept_encoding(facts)
    if kept in held:
        return kept
    whole = [one for one in held if one != "lossy" and fits(facts, one)]
    return min(whole, key=BITS.__getitem__) if whole else max(held, key=BITS.__getitem__)


def fits(facts: HeldSamples, encoding: Encoding) -> bool:
    """Whether an encoding holds every sample that comes; single precision has 24 bits."""
    if is_float(encoding):
        single = facts.bit_depth == 32 if facts.is_float else facts.holds_integers and bits_in_use(facts) <= 24
        return encoding == "f64" or single
    return facts.holds_integers and bits_in_use(facts) <= BITS[encoding]


def held_whole(facts: HeldSamples, encoding: Encoding) -> bool:
    """Whether the samples of a mix are numbers as they stand in its file, and an encoding holds every one."""
    return (facts.holds_integers or facts.is_float) and fits(facts, encoding)


def kept_encoding(facts: SourceFacts) -> Encoding:
    """The encoding that holds what the mix holds; what was decoded from a lossy codec is kept in float."""
    if facts.is_float:
        return "f64" if facts.bit_depth == 64 else "f32"
    if not facts.holds_integers or facts.bit_depth is None:
        return "f32"
    kept: dict[int, Encoding] = {8: "u8", 16: "s16", 20: "s20", 24: "s24", 32: "s32"}
    return next(kept[bits] for bits in sorted(kept) if bits >= facts.bit_depth)


def bits_in_use(facts: HeldSamples) -> int:
    """The bits that the integers of a mix really need, where that is known; otherwise those that it declares."""
    declared = facts.bit_depth or 64
    return min(declared, facts.effective_bits or declared)


def decide_depth(bits: int, facts: Source, path: Path, asked: Dither | Literal["auto"] = "auto") -> Depth:
    """Dither by rule: nothing when integers pass unchanged, triangular when they are made from anything finer.

    ``path`` are the stations before this one. A dither that is ``asked`` for stands in the rule's place. Floating
    point that holds nothing but integers counts as integers.
    """
    rate = next(station for station in path if isinstance(station, Rate))
    declared = facts.bit_depth or 0
    whole = facts.holds_integers or (facts.is_float and (facts.effective_bits or declared) < declared)
    if untouched(path) and whole and bits_in_use(facts) <= bits and asked in ("auto", "none"):
        used = bits_in_use(facts)
        holds = f"The mix holds {used}-bit integers" if used == facts.bit_depth else f"Only {used} bits are in use"
        return Depth(bits, "none", f"{holds} at this rate: they leave as they came.", True, rate.to_hz, (), asked)
    cause = _cause(facts, path, rate)
    made = f"{cause}, so integers of {bits} bits are made"
    if asked == "auto":
        reason = f"{made} with triangular dither, once, at the end."
        return Depth(bits, "triangular", reason, False, rate.to_hz, (), asked)
    words = "without dither" if asked == "none" else f"with {asked.replace('-', ' ')} dither"
    rule = "" if asked == "triangular" else " The rule would be triangular; you chose otherwise."
    return Depth(bits, asked, f"{made} {words}.{rule}", False, rate.to_hz, (), asked)


def _cause(facts: Source, path: Path, rate: Rate) -> str:
    cut = next(station for station in path if isinstance(station, Range))
    if not rate.idle:
        return "The converter computes in floating point"
    if any(isinstance(station, Level) and not station.idle for station in path):
        return "The change of level computes in floating point"
    if any(isinstance(station, Finish) for station in path):
        return "Finishing computes in floating point"
    if any(isinstance(station, Channels) and station.changes_samples for station in path):
        return "The mono sum computes in floating point"
    if cut.changes_samples:
        return "Fading and folding compute in floating point"
    if facts.codec == "pcm" and not facts.holds_integers:
        return "Folding channels down computes in floating point"
    if facts.is_float:
        return f"The mix is {facts.bit_depth}-bit floating point"
    if facts.bit_depth is None:
        return f"Decoding {facts.codec} gives floating point"
    return f"The mix has {facts.bit_depth} bits"


def check_range(part: Stretch, facts: SourceFacts) -> None:
    """Raises: BadInput ``range.empty`` or ``range.outside``, with the times in words."""
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
