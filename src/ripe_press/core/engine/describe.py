"""What a station says of itself: a short label, and one plain sentence with its figures."""

from dataclasses import dataclass

import numpy as np

from ripe_press.core.engine import stations as st
from ripe_press.core.engine.levels import first_gain
from ripe_press.core.engine.size import Forecast, forecast_size
from ripe_press.core.formats.capabilities import BITS, CAPABILITIES, Coding, Container, is_float
from ripe_press.core.formats.downmix import FOLD_DOWN, describe_downmix
from ripe_press.core.formats.encoders import BY_RATE, Masked
from ripe_press.core.measure.signal import SignalResult
from ripe_press.core.signal.quantise import added_noise_dbfs
from ripe_press.core.tags.forms import carried, not_held
from ripe_press.core.tags.sheet import FileTags
from ripe_press.core.timeline import TempoMap
from ripe_press.core.units import print_clock, print_count, print_db, print_rate


@dataclass(frozen=True, slots=True)
class MixKnowledge:
    """What was measured of the mix and matters to sentences; None where it is not known."""

    quietest_half_second_dbfs: float | None = None
    range_name: str = ""
    signal: SignalResult | None = None
    """Peaks and loudness of the range, as far as they are known before it is pressed."""
    tempo: TempoMap | None = None
    container: Container | None = None
    """Of the file that the path ends in."""
    forecast: Forecast | None = None


@dataclass(frozen=True, slots=True)
class Description:
    """A cell of the tree and the panel behind it. ``figures`` are (name, value with unit)."""

    kind: str
    label: str
    detail: str
    idle: bool
    sentence: str
    figures: tuple[tuple[str, str], ...]


def describe(station: st.Station, source: st.Source, known: MixKnowledge) -> Description:
    """The words for a station of a path that starts at ``source``."""
    match station:
        case st.Source():
            return _source(station)
        case st.Range():
            return _range(station, source.rate_hz, known)
        case st.Rate():
            return _rate(station, known)
        case st.Finish():
            return _finish(station)
        case st.Channels():
            return _channels(station)
        case st.Level():
            return _level(station, known)
        case st.Measure():
            return Description("measure", "Measured", "", True, "The signal is measured here.", ())
        case st.Depth():
            return _depth(station, known)
        case st.Codec():
            return _codec(station, known)
        case st.Tags():
            return _tags(station.content, known)
        case st.Name():
            return Description(
                "name",
                station.file_name,
                "",
                False,
                "The file appears under this name only when it is proved.",
                (),
            )


def depth_label(bit_depth: int | None, codec: str) -> str:
    """``16 bits``, ``32-bit float``, or the codec's name where there is no depth."""
    if bit_depth is None:
        return codec
    return f"{bit_depth}-bit float" if codec == "pcm-float" else f"{bit_depth} bits"


def _source(source: st.Source) -> Description:
    depth = depth_label(source.bit_depth, source.codec)
    channels = "stereo" if source.channels == 2 else "mono"
    sentence = "The mix as it lies on disk. It is read, block by block, and never altered."
    label, detail = "Mix", f"{print_rate(source.rate_hz)} · {depth}"
    if source.downmix:
        channels = describe_downmix(source.downmix, source.file_channels, source.layout)
        sentence += f" It is {channels}."
        folded = source.downmix == FOLD_DOWN
        label = "Folded mix" if folded else f"Channels {source.downmix}"
        detail = f"folded from {source.file_channels}" if folded else f"{source.downmix} of {source.file_channels}"
    return Description(
        "source", label, detail, source.idle, sentence,
        (
            ("Rate", print_rate(source.rate_hz)), ("Depth", depth), ("Channels", channels),
            ("Length", print_clock(source.frames, source.rate_hz)),
        ),
    )  # fmt: skip


def _range(cut: st.Range, rate_hz: int, known: MixKnowledge) -> Description:
    start, end = print_clock(cut.start_frame, rate_hz), print_clock(cut.end_frame, rate_hz)
    length = print_clock(cut.frames, rate_hz)
    whole = cut.start_frame == 0 and cut.end_frame == cut.source_frames
    bars = bars_of(cut, rate_hz, known.tempo)
    sentence = f"All of the mix leaves: {length}." if whole else f"From {start} to {end} of the mix: {length} leave."
    figures = [("Start", start), ("End", end), ("Length", length), ("Frames", f"{cut.frames:,}")]
    notes = []
    if bars:
        figures.insert(2, ("Bars", f"{bars[0]} up to {bars[1]}"))
    if cut.tail_frames:
        tail = f"{cut.tail_frames / rate_hz:.2f} s"
        figures.append(("Tail", tail))
        if cut.fold:
            notes.append("folded loop")
            sentence += f" The {tail} that ring past the end are added to the start, so that it repeats without a seam."
        else:
            notes.append(f"rings {cut.tail_frames / rate_hz:.1f} s")
            sentence += f" It goes on for {tail} after the end, so that the tail dies away."
    if cut.fold and not cut.tail_frames:
        notes.append("loop")
        sentence += " It is a loop: nothing rings past its end, and what follows hears it go round."
    for name, fade in (("in", cut.fade_in), ("out", cut.fade_out)):
        if fade.frames:
            figures.append((f"Fade {name}", f"{fade.frames / rate_hz:.3f} s, {fade.curve.replace('-', ' ')}"))
            notes.append(f"fade {name}")
    for name, frames in (("before", cut.silence_before), ("after", cut.silence_after)):
        if frames:
            figures.append((f"Silence {name}", f"{frames / rate_hz:.2f} s"))
            notes.append(f"silence {name}")
    more = f" +{len(notes) - 1}" if len(notes) > 1 else ""
    called = f"bars {bars[0]}–{bars[1]}" if bars and known.range_name else print_clock(cut.frames, rate_hz, 1)
    detail = f"{called}, {notes[0]}{more}" if notes else called if bars and known.range_name else length
    label = known.range_name or ("Whole mix" if whole else f"Bars {bars[0]}–{bars[1]}" if bars else "Range")
    return Description("range", label, detail, cut.idle, sentence, tuple(figures))


def bars_of(cut: st.Range, rate_hz: int, tempo: TempoMap | None) -> tuple[int, int] | None:
    """The bar that a range begins with and the one it ends before, when it is whole bars to the sample."""
    if tempo is None:
        return None
    first, last = tempo.bar_at(cut.start_frame, rate_hz), tempo.bar_at(cut.end_frame, rate_hz)
    return (first, last) if first is not None and last is not None else None


_SIDES = {
    "both": ("Stereo", "from mono", "The mix has one channel; both sides carry it, at the level it came with."),
    "left": ("Left", "alone", "Only the left side leaves, sample for sample."),
    "right": ("Right", "alone", "Only the right side leaves, sample for sample."),
    "swapped": ("Swapped", "left and right", "Left and right change places, sample for sample."),
}


def _finish(finish: st.Finish) -> Description:
    steps = []
    if any(finish.offsets):
        steps.append("offset taken away")
    if finish.high_pass_hz:
        steps.append(f"high-pass at {finish.high_pass_hz:g} Hz")
    if finish.gain_db:
        steps.append(f"{print_db(finish.gain_db, 'dB')} of gain")
    if finish.ceiling_dbtp is not None:
        steps.append(f"limiter at {print_db(finish.ceiling_dbtp, 'dBTP')}")
    sentence = f"The finishing chain of the mix: {', then '.join(steps)}."
    return Description("finish", "Finish", f"{len(steps)} step{'s' if len(steps) > 1 else ''}", False, sentence, ())


def _channels(channels: st.Channels) -> Description:
    if channels.sides == "mono":
        law = f"−{-channels.law_db} dB"
        keeps = "what is in the middle keeps its level" if channels.law_db == -6 else "unrelated sides keep their power"
        sentence = f"Both sides are added, each {law} lower: {keeps}."
        return Description("channels", "Mono sum", law, False, sentence, (("Each side", law),))
    label, detail, sentence = _SIDES[channels.sides]
    if channels.split:
        detail, sentence = "of a pair", f"{sentence} The other side is a file of its own."
    return Description("channels", label, detail, False, sentence, ())


def level_words(level: st.Level) -> str:
    """``−14.0 LUFS``, ``peak −0.3 dBFS``, ``−1.0 dBTP``."""
    unit = {"peak": "dBFS", "true-peak": "dBTP", "loudness": "LUFS"}.get(level.kind, "dB")
    return ("peak " if level.kind == "peak" else "") + print_db(level.target, unit)


def _level(level: st.Level, known: MixKnowledge) -> Description:
    aim = {"peak": "sample peak", "true-peak": "true peak", "loudness": "integrated loudness"}.get(level.kind, "")
    sentence = f"The {aim} of the file is brought to {level_words(level).removeprefix('peak ')}"
    if level.kind == "loudness":
        held = f"a limiter holds it and takes off {level.max_reduction_db:g} dB at most"
        how = held if level.limit else "it stays lower where it would be exceeded"
        sentence += f" under a ceiling of {print_db(level.ceiling_dbtp, 'dBTP')}; {how}"
    sentence += ", but never raised." if level.only_down else "."
    if level.back_off:
        ceiling = print_db(level.peak_max_dbtp, "dBTP")
        sentence += f" If decoding overshoots {ceiling}, the file is made again, lower, until it does not."
    gain, about = level.gain_db, ""
    if gain is None and known.signal is not None:
        gain, about = first_gain(level, known.signal), "≈ "
    figures: list[tuple[str, str]] = []
    detail = "measured when pressed"
    if gain is not None:
        detail = f"{about}{print_db(gain, 'dB')}"
        figures.append(("Gain", detail))
        sentence += f" For this range that is {detail} of gain."
    if known.signal is not None:
        figures.append(("Loudness before", print_db(known.signal.integrated_lufs, "LUFS")))
        figures.append(("Peak before", print_db(known.signal.sample_peak_dbfs)))
        if gain is not None and level.limits:
            over = known.signal.true_peak_dbtp + gain - level.ceiling_dbtp
            figures.append(("Limited by", print_db(-over, "dB") if over > 0 else "nothing"))
    if level.untouched:
        detail = "nothing to do"
        sentence += " It is there already, so nothing is done: the samples leave as they came."
    if level.group:
        sentence += f" All of the group {level.group!r} get the same gain."
    return Description("level", level_words(level), detail, level.idle, sentence, tuple(figures))


def _rate(rate: st.Rate, known: MixKnowledge) -> Description:
    if rate.idle:
        sentence = "The mix is already at this rate, so nothing is converted."
        return Description("rate", print_rate(rate.to_hz), "kept", True, sentence, ())
    lower = print_rate(min(rate.from_hz, rate.to_hz) // 2)
    sentence = (
        f"Converted from {print_rate(rate.from_hz)} to {print_rate(rate.to_hz)} at {rate.quality.replace('-', ' ')} "
        f"quality. What lies above {lower} cannot be kept; the curve shows where the filter begins to close."
    )
    can = CAPABILITIES[known.container] if known.container else None
    if can and not can.takes_rate(rate.from_hz):
        sentence += f" {can.title} exists at {can.print_rates()} only, so the mix's rate cannot be kept."
    return Description(
        "rate", print_rate(rate.to_hz), f"from {rate.from_hz / 1000:g} k", False, sentence,
        (("Quality", rate.quality.replace("-", " ")),),
    )  # fmt: skip


def _depth(depth: st.Depth, known: MixKnowledge) -> Description:
    if depth.exact:
        return Description("depth", f"{depth.bits} bits", "exact, no dither", True, depth.reason, ())
    noise = added_noise_dbfs(depth.bits, depth.dither, depth.rate_hz)
    words = depth.dither.replace("-", " ")
    how = "without dither" if depth.dither == "none" else f"with {words} dither"
    sentence = f"At {depth.bits} bits {how} the noise sits at {print_db(noise)}"
    figures = [("Noise" if depth.dither == "none" else "Dither noise", print_db(noise))]
    quiet = known.quietest_half_second_dbfs
    if quiet is None:
        sentence += "."
    elif quiet == float("-inf"):
        sentence += "; the quietest half second of this range is digital silence, and will hold that noise alone."
        figures.append(("Quietest half second", "digital silence"))
    else:
        sentence += f"; the quietest half second of this range is at {print_db(quiet)}."
        figures.append(("Quietest half second", print_db(quiet)))
    detail = "no dither" if depth.dither == "none" else words
    return Description("depth", f"{depth.bits} bits", detail, False, f"{sentence} {depth.reason}", tuple(figures))


def _codec(codec: st.Codec, known: MixKnowledge) -> Description:
    can = CAPABILITIES[codec.container]
    size = known.forecast or forecast_size((codec,))
    figures = [
        ("Frames", f"{codec.frames:,}"), ("Size", str(size)), ("Length", print_clock(codec.frames, codec.rate_hz)),
    ]  # fmt: skip
    if codec.coding:
        return _lossy(codec, codec.coding, figures)
    exact = " The samples that leave are the samples that came, to the bit." if codec.exact else ""
    kind = "floating-point samples" if is_float(codec.encoding) else f"{BITS[codec.encoding]}-bit integers"
    sentence = f"{can.title} keeps {kind} exactly as they are, without compression. The size is known to the byte."
    if can.compressed:
        sentence = f"{can.title} packs {kind} without losing one; how small they get depends on the sound."
    detail = "bit-exact" if codec.exact else "float" if is_float(codec.encoding) else "PCM"
    return Description("codec", can.title, detail, False, sentence + exact, tuple(figures))


def _lossy(codec: st.Codec, coding: Coding, figures: list[tuple[str, str]]) -> Description:
    can = CAPABILITIES[codec.container]
    how = {
        "constant": "spends the same on every moment", "average": "spends more where the sound needs it, and keeps "
        "the average", "variable": "spends what the sound needs",
    }[coding.mode]  # fmt: skip
    rate, share = f"quality {coding.quality} of 10", ""
    if coding.kbps:
        times = codec.rate_hz * codec.channels * 16 / (coding.kbps * 1000)
        rate, share = f"{coding.kbps} kbit/s", f", about {times:.1f} times smaller than 16-bit PCM"
    sentence = (
        f"{can.title} at {rate} {how}{share}. It leaves out what is hard to hear; a player gets "
        f"back exactly {codec.frames:,} frames."
    )
    sentence += _masked(codec, coding)
    if codec.container == "video":
        sentence = f"The cover stands as a still picture for as long as it sounds. {sentence}"
    figures.insert(0, ("Encoder", str(coding)))
    detail = f"{coding.kbps}k" if coding.kbps else f"quality {coding.quality}"
    return Description("codec", can.title.split(",")[0], detail, False, sentence, tuple(figures))


def _masked(codec: st.Codec, coding: Coding) -> str:
    """How far the error lies below what the ear masks, and that of other codecs at the same rate, by a model."""

    def below(table: Masked) -> float | None:
        # One channel alone has twice the bits of each of two.
        value = coding.kbps * 2 / codec.channels if coding.kbps else coding.quality
        if not table or not table[0][0] <= value <= table[-1][0]:
            return None
        return -float(np.interp(value, [rate for rate, _ in table], [db for _, db in table]))

    can = CAPABILITIES[codec.container]
    own = below(can.masked) if bool(coding.kbps) == (can.knobs[0][1] == "kbps") else None
    if own is None:
        return ""
    others = (
        []
        if not coding.kbps
        else [f"{named} {db:.0f}" for named, table in BY_RATE.items() if table != can.masked and (db := below(table))]
    )
    beside = f"; at the same rate {', '.join(others)}" if others else ""
    return f" A model of hearing puts its error {own:.0f} dB below what the ear masks{beside}."


def _tags(wanted: FileTags, known: MixKnowledge) -> Description:
    tags = carried(known.container, wanted) if known.container else wanted
    lost = tuple(sentence for _, sentence in not_held(known.container, wanted)) if known.container else ()
    parts = [print_count(len(tags.values), "field")] if tags.values else []
    parts += ["cover"] if tags.cover else []
    parts += [print_count(len(tags.markers), "marker")] if tags.markers else []
    parts += ["loop points"] if tags.loop else []
    parts += ["loudness"] if tags.gain_tags else []
    label = "Tags" if tags.values or tags.cover else "No tags"
    if not parts:
        sentence = " ".join(("Nothing is written beside the sound.", *lost))
        return Description("tags", label, "nothing", True, sentence, ())
    sentence = " ".join((f"Beside the sound this file carries {', '.join(parts)}.", *lost))
    return Description("tags", label, str(len(tags.values) or ""), False, sentence, ())
