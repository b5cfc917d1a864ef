"""From a delivery and a mix to the paths of its files: pure, and the only place where anything is decided."""

import hashlib
from collections.abc import Mapping
from dataclasses import astuple, dataclass, replace
from typing import Literal, get_args

from ripe_press.core import stations as st
from ripe_press.core.engine.notes import coding_history, file_tags, filled, label_fields
from ripe_press.core.errors import BadInput, Unsupported
from ripe_press.core.formats.capabilities import BITS, CAPABILITIES, is_float
from ripe_press.core.formats.coding import check_capable, settle_coding
from ripe_press.core.formats.facts import SourceFacts
from ripe_press.core.formats.fitting import bits_in_use, encoding_for, held_whole, kept_rate
from ripe_press.core.formats.writing.writers import sample_bytes
from ripe_press.core.naming import file_name, length_label
from ripe_press.core.requests.delivery import Delivery
from ripe_press.core.requests.edges import Stretch
from ripe_press.core.requests.notes import NO_NOTES, MixNotes
from ripe_press.core.signal.channels import Sides
from ripe_press.core.signal.quantise import Dither
from ripe_press.core.sources.file import FileSource
from ripe_press.core.sources.source import AudioSource
from ripe_press.core.tags.sheet import FileTags, Values, merged
from ripe_press.core.timeline import CD_FRAMES_PER_SECOND
from ripe_press.core.units import frames_after_conversion, print_clock, print_rate
from ripe_press.core.words import quoted

Half = Literal["", "left", "right"]


@dataclass(frozen=True, slots=True)
class Mix:
    """What deliveries are made of: a source, what it is called, its finishing chain, and what it has beside sound."""

    source: AudioSource
    title: str
    finish: st.Finish = st.NO_FINISH
    notes: MixNotes = NO_NOTES

    @property
    def facts(self) -> SourceFacts:
        """What the source declares."""
        return self.source.facts


@dataclass(frozen=True, slots=True)
class PlannedFile:
    """A file that is to be made: its path, and the wish that it comes from, with everything that is not work."""

    path: st.Path
    wish: Delivery
    half: Half = ""
    """Which of the two files of a pair it is."""

    @property
    def id(self) -> str:
        """What it is known by, within its order."""
        return f"{self.wish.id}.{self.half}" if self.half else self.wish.id


@dataclass(frozen=True, slots=True)
class GaplessPlace:
    """An entry's place in a gapless passage: ``source``, ``cut`` and ``finish`` of all of it, and its own first frame
    and the one behind its last, counted from the beginning of the whole; ``first_frame`` is the first in the source.
    """

    source: st.Source
    cut: st.Range
    finish: st.Finish | None
    start_frame: int
    end_frame: int
    first_frame: int
    on_cd_frames: bool

    def run(self, to_hz: int) -> st.Run:
        """The run and the piece of it that is the entry's at a rate."""
        first, last = self._place(self.start_frame, to_hz), self._place(self.end_frame, to_hz)
        before, behind = self.start_frame > 0, self.end_frame < self.cut.frames
        piece = st.Piece(first, last)
        return st.Run(self.source, self.cut, self.finish, piece, self.first_frame, before, behind)

    def _place(self, frame: int, to_hz: int) -> int:
        rate_hz = self.source.facts.rate_hz
        if self.on_cd_frames and frame not in (0, self.cut.frames):
            on_disc = frames_after_conversion(frame, rate_hz, CD_FRAMES_PER_SECOND)
            return frames_after_conversion(on_disc, CD_FRAMES_PER_SECOND, to_hz)
        return frames_after_conversion(frame, rate_hz, to_hz)

    def moved_frames(self, run: st.Run, to_hz: int) -> int:
        """How far the cut was moved, in frames of the mix, for its markers."""
        return frames_after_conversion(run.piece.start_frame, to_hz, self.source.facts.rate_hz) - self.start_frame


def mix_of_file(facts: SourceFacts, title: str) -> Mix:
    """A file as it is, with nothing set for it."""
    return Mix(FileSource(facts), title)


def resolve(delivery: Delivery, mix: Mix) -> tuple[PlannedFile, ...]:
    """Return the files of a delivery; preview and pressing use the same result.

    Raises: BadInput ``range.empty`` or ``range.outside``; Unsupported from the capability table.
    """
    part = delivery.stretch
    check_range(part, mix.facts)
    return files_of(delivery, mix, part.cut(mix.facts))


def files_of(
    delivery: Delivery, mix: Mix, cut: st.Range, within: GaplessPlace | None = None
) -> tuple[PlannedFile, ...]:
    """Return the files of a delivery with a settled range, also of a gapless entry.

    Raises: Unsupported from the capability table.
    """
    wish, facts = delivery.channels, within.source.facts if within else mix.facts
    if wish == "split" and facts.channels == 2:
        halves: tuple[Half, Half] = ("left", "right")
        return tuple(_planned(delivery, mix, cut, st.Channels(side), within, side) for side in halves if side)
    channels: st.Channels | None = None
    if wish in ("left", "right", "mono", "swapped") and facts.channels == 2:
        sides: Sides = next(one for one in get_args(Sides) if one == wish)
        channels = st.Channels(sides, delivery.mono_law_db if wish == "mono" else -6)
    elif wish in ("stereo", "swapped") and facts.channels == 1:
        channels = st.Channels("both")
    return (_planned(delivery, mix, cut, channels, within),)


def _planned(
    delivery: Delivery,
    mix: Mix,
    cut: st.Range,
    channels: st.Channels | None,
    within: GaplessPlace | None,
    half: Half = "",
) -> PlannedFile:
    facts = within.source.facts if within else mix.facts
    to_hz = kept_rate(facts.rate_hz, delivery.container) if delivery.rate_hz == "keep" else delivery.rate_hz
    rate = st.Rate(facts.rate_hz, to_hz, delivery.quality)
    target = delivery.level.target_station
    leaving = channels.leaving(facts.channels) if channels else facts.channels
    encoding = encoding_for(delivery.container, facts) if delivery.encoding == "keep" else delivery.encoding
    can = check_capable(delivery.container, encoding, rate.to_hz, leaving)
    coding = settle_coding(
        delivery.container, rate.to_hz, leaving, delivery.mode, delivery.kbps, delivery.coding_quality
    )
    run = within.run(rate.to_hz) if within else None
    frames = run.piece.frames if run else frames_after_conversion(cut.frames, rate.from_hz, rate.to_hz)
    if frames <= 0 and within:
        message = (
            f"{quoted(mix.title)} is shorter than its part of the running order. Lengthen it or join it to another."
        )
        raise BadInput("range.empty", message, frames=cut.frames)
    if frames <= 0:
        message = f"The range is shorter than one sample at {print_rate(rate.to_hz)}. Lengthen it."
        raise BadInput("range.empty", message, frames=cut.frames, rate_hz=rate.to_hz)
    states_loudness = can.states_loudness or bool(delivery.gain_tags and can.gain_tags)
    codec = st.Codec(delivery.container, encoding, rate.to_hz, leaving, frames, coding=coding, loudness=states_loudness)
    check_size(codec)
    # The two files of a pair are the stereo file's channels: they part behind a level that both share.
    parted = bool(half and target)
    path = st.Path(
        st.Source(mix.source), cut, mix.finish if delivery.finish and not mix.finish.idle else None,
        None if parted else channels, rate, target, channels if parted else None, None, codec, st.Tags(FileTags()),
        st.Name(""), run,
    )  # fmt: skip
    path = _decided(path, delivery.dither)
    heard = cut
    if within and run:
        heard = replace(cut, start_frame=max(0, cut.start_frame + within.moved_frames(run, rate.to_hz)))
    return PlannedFile(_surrounded(path, delivery, mix, half, heard), delivery, half)


def decided_again(file: PlannedFile) -> st.Path:
    """A path whose level was settled: where nothing is left to do at it, the samples may be exact after all."""
    return _decided(file.path, file.wish.dither)


def _decided(path: st.Path, asked: Dither | Literal["auto"]) -> st.Path:
    """The path with its integer conversion and the promises about its samples."""
    depth = decide_depth(path, asked)
    if depth:
        run = replace(path.run, piece=replace(path.run.piece, exact=depth.exact)) if path.run else None
        return replace(path, depth=depth, codec=replace(path.codec, exact=depth.exact), run=run)
    facts, encoding = path.front[0].facts, path.codec.encoding
    exact = not path.computed and is_float(encoding) and held_whole(facts, encoding)
    return replace(path, codec=replace(path.codec, exact=exact))


def decide_depth(path: st.Path, asked: Dither | Literal["auto"] = "auto") -> st.Depth | None:
    """Dither by rule: nothing when integers pass unchanged, triangular when they are made from anything finer.

    A dither in ``asked`` replaces the rule's. Floating point that holds nothing but integers counts as integers. None
    for floating point and lossy codecs. Raises: Unsupported ``container.dither``.
    """
    encoding, facts = path.codec.encoding, path.front[0].facts
    if encoding == "lossy" and asked not in ("auto", "none"):
        title = CAPABILITIES[path.codec.container].title
        message = f"{title} has no bit depth to dither. Set dither to Automatic."
        raise Unsupported("container.dither", message, dither=asked)
    if encoding == "lossy" or is_float(encoding):
        return None
    bits, rate_hz = BITS[encoding], path.rate.to_hz
    declared = facts.bit_depth or 0
    whole = facts.holds_integers or (facts.is_float and (facts.effective_bits or declared) < declared)
    if not path.computed and whole and bits_in_use(facts) <= bits and asked in ("auto", "none"):
        return st.Depth(bits, "none", True, rate_hz)
    dither: Dither = "triangular" if asked == "auto" else asked
    return st.Depth(bits, dither, False, rate_hz, _seeds(path, bits) if dither != "none" else ())


def _seeds(path: st.Path, bits: int) -> tuple[int, ...]:
    """A seed for the noise of each channel, by what its samples are: source, range, side.

    A side has the same noise alone and in the stereo file; no other range, sum or source has it.
    """
    source, cut, _ = path.front
    facts, channels = source.facts, path.channels or path.sides
    named = channels.names() if channels else ("left", "right") if facts.channels == 2 else ("mono",)
    edges = astuple(replace(cut, window=None))
    # Files from before there were crossfades and room tone keep their noise.
    later = edges[_FIRST_EDGES:]
    edges = edges if any(later) else edges[:_FIRST_EDGES]
    about = (facts.content_sum, facts.downmix, edges, bits, path.rate.to_hz)
    digests = (hashlib.blake2b(repr((*about, side)).encode(), digest_size=8).digest() for side in named)
    return tuple(int.from_bytes(one, "big") for one in digests)


_FIRST_EDGES = 10
"""So many fields a range had when dither was first drawn."""


def _surrounded(path: st.Path, delivery: Delivery, mix: Mix, half: Half, heard: st.Range) -> st.Path:
    """The path with what its file has around the sound: tags, whose texts may name fields of the label, and a name.

    Markers lie where they are ``heard``.
    """
    facts, codec, can = mix.facts, path.codec, CAPABILITIES[path.codec.container]
    side = {"left": "L", "right": "R", "": ""}[half]
    dither = path.depth.dither if path.depth and path.depth.dither != "none" else ""
    more = {
        "range": delivery.stretch.name, "stem": delivery.part, "brief": delivery.brief, "side": side,
        "tempo": delivery.tempo,
        "bars": delivery.bars, "number": str(delivery.number or ""), "metre": delivery.metre, "pressed": delivery.day,
        "start": length_label(path.cut.start_frame, facts.rate_hz), "dither": dither,
    }  # fmt: skip

    def fields_of(values: Values) -> Mapping[str, str]:
        return label_fields(mix.title, values, facts.path, codec, delivery.level, more)

    values = filled(merged(mix.notes.values, delivery.tags), fields_of(mix.notes.values))
    pattern = delivery.label_pattern
    if delivery.part and "{stem}" not in pattern:
        # The parts of a mix are saved as a folder.
        pattern = "{title} parts/" + pattern + " {stem}"
    if side and "{side}" not in pattern:
        pattern += " {side}"
    name = file_name(pattern, fields_of(values), delivery.style, can.suffix)
    history = coding_history(facts, codec, dither)
    tags = file_tags(mix.notes, values, delivery, codec, heard, facts.rate_hz, history)
    # These are part of the sound's own structure; everything else is added when the file is closed.
    chapters = tags.markers if can.markers == "chapters" else ()
    picture = tags.cover if can.shows_picture else ""
    return replace(
        path, codec=replace(codec, chapters=chapters, picture=picture), tags=st.Tags(tags), name=st.Name(name)
    )


def check_size(codec: st.Codec) -> None:
    """Refuses what a container's own sizes cannot express. Raises: Unsupported ``container.too-long``."""
    can = CAPABILITIES[codec.container]
    size = sample_bytes(codec.container, codec.encoding, codec.channels, codec.frames)
    if can.max_bytes is not None and not can.compressed and size > can.max_bytes - LARGEST_TAGS:
        message = (
            f"{can.title} ends at {can.max_bytes / 2**30:.0f} GiB; this file needs {size / 2**30:.1f}. "
            f"Use WAV (as RF64), CAF or FLAC."
        )
        raise Unsupported("container.too-long", message, bytes=size)


LARGEST_TAGS = 4 << 20
"""Room that is left for tags below a container's largest size."""


def check_range(part: Stretch, facts: SourceFacts) -> None:
    """Raises: BadInput ``range.empty`` or ``range.outside``, with the times in words."""
    start, end = part.start_frame, part.end_frame
    length = print_clock(facts.frames, facts.rate_hz)
    if start < 0 or end > facts.frames:
        where = print_clock(max(start, end), facts.rate_hz)
        message = f"The range ends at {where}, the mix at {length}. Choose an end inside the mix."
        raise BadInput("range.outside", message, start_frame=start, end_frame=end, frames=facts.frames)
    if end <= start:
        message = (
            f"The range is empty: starts at {print_clock(start, facts.rate_hz)}, ends at "
            f"{print_clock(end, facts.rate_hz)}. Set the end after the start."
        )
        raise BadInput("range.empty", message, start_frame=start, end_frame=end)
