"""Contents of a file other than audio: tags, markers, and the fields of its name."""

from collections.abc import Mapping
from pathlib import Path as FilePath

from ripe_press.core.formats.capabilities import BITS, CAPABILITIES, STORED_BITS, is_float
from ripe_press.core.formats.facts import SourceFacts
from ripe_press.core.naming import LABEL_FIELDS, fill_known, length_label, rate_label
from ripe_press.core.requests.making import LevelRequest, Making
from ripe_press.core.requests.notes import MixNotes
from ripe_press.core.stations.codec import Codec
from ripe_press.core.stations.range import Range
from ripe_press.core.tags.sheet import FIELDS, FileTags, Values, in_order, of_total
from ripe_press.core.timeline import Marker
from ripe_press.core.units import frames_after_conversion
from ripe_press.core.words import LEVEL_UNITS


def place_in_file(frame: int, cut: Range, from_hz: int, to_hz: int) -> int:
    """The position of a sample of the mix in a file that was cut and converted."""
    return frames_after_conversion(frame - cut.start_frame + cut.led_frames, from_hz, to_hz)


def filled(values: Values, fields: Mapping[str, str]) -> Values:
    """The texts of a sheet with label fields in braces filled in: a title may be ``{title}, {range}``.

    A text does not see itself, nor what other texts come to.
    """
    return in_order((name, fill_known(text, fields)) for name, text in values)


def file_tags(
    notes: MixNotes,
    values: Values,
    wish: Making,
    codec: Codec,
    cut: Range,
    mix_rate_hz: int,
    history: str,
) -> FileTags:
    """The tags that one file is to carry, whether its container has a place for them or not.

    Loudness for players, the time reference and the coding history are there only where they have one.
    """
    can, total = CAPABILITIES[codec.container], codec.frames
    markers: tuple[Marker, ...] = ()
    if wish.markers:
        inside = [one for one in notes.markers if cut.start_frame <= one.frame < cut.read_end]
        placed = [
            Marker(min(total - 1, place_in_file(one.frame, cut, mix_rate_hz, codec.rate_hz)), one.name)
            for one in inside
        ]
        # MP4 has no chapter without length.
        seen = {one.frame: one for one in reversed(placed)}
        markers = tuple(sorted(seen.values(), key=lambda one: one.frame))
    loops = wish.loop_points or cut.loops
    time_reference = None
    if can.tag_form == "broadcast" and notes.time_reference is not None:
        first = max(0, notes.time_reference + cut.start_frame - cut.led_frames)
        time_reference = frames_after_conversion(first, mix_rate_hz, codec.rate_hz)
    return FileTags(
        values, notes.cover if wish.cover else "", wish.id3_version, markers,
        (0, total) if loops else None, wish.gain_tags and bool(can.gain_tags), time_reference,
        history if can.tag_form == "broadcast" else "", total,
    )  # fmt: skip


def coding_history(facts: SourceFacts, codec: Codec, dither: str) -> str:
    """One line for the mix and one for the processing (EBU R 98: algorithm, frequency, word length, mode, text)."""

    def line(rate: int, bits: int | None, sides: int, text: str) -> str:
        width = f"W={bits}," if bits else ""
        return f"A=PCM,F={rate},{width}M={'stereo' if sides == 2 else 'mono'},T={text}\r\n"

    how = f"Ripe Press; {dither.replace('-', ' ')} dither" if dither else "Ripe Press"
    first = line(facts.rate_hz, facts.bit_depth, facts.channels, "mix")
    return first + line(codec.rate_hz, STORED_BITS[codec.encoding], codec.channels, how)


def label_fields(
    title: str, texts: Values, path: str, codec: Codec, level: LevelRequest, more: dict[str, str]
) -> dict[str, str]:
    """Every field of a label pattern; ``more`` are those that only the delivery knows."""
    coding, rate_hz = codec.coding, codec.rate_hz
    values = dict(texts)
    track, disc = (of_total(values.get(name, ""))[0] for name in ("track", "disc"))
    coded = f"{coding.kbps}k" if coding and coding.kbps else f"q{coding.quality}" if coding else ""
    unit = LEVEL_UNITS[level.kind] if level.kind != "leave" else ""
    known = {
        **{field: values.get(field, "") for field in FIELDS if field in LABEL_FIELDS},
        "title": values.get("title") or title,
        "track": str(track) if track else "",
        "disc": str(disc) if disc else "",
        "year": values.get("date", "")[:4],
        "rate": rate_label(rate_hz),
        "depth": coded or f"{BITS[codec.encoding]}{'f' if is_float(codec.encoding) else 'b'}",
        "channels": "stereo" if codec.channels == 2 else "mono",
        "format": CAPABILITIES[codec.container].title,
        "kbps": str(coding.kbps) if coding and coding.kbps else "",
        "mode": coding.mode if coding else "",
        "level": f"{level.target:g}{unit}" if unit else "",
        "length": length_label(codec.frames, rate_hz),
        "mix": FilePath(path).stem,
    }
    return {**dict.fromkeys(LABEL_FIELDS, ""), **known, **more}
