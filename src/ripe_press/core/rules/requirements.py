"""Requirements of a brief, one at a time: requirement, result, and whether it is met.

Used by the rules, for planned and pressed files, and by the check of received files.
"""

from collections.abc import Collection, Iterator
from dataclasses import dataclass

from ripe_press.core.formats.capabilities import CAPABILITIES, DEPTH_WORDS, Container, Encoding, print_depths
from ripe_press.core.measure.places.speech import Speech
from ripe_press.core.requests.brief import Brief, Requirements
from ripe_press.core.rules.checks.before_press import TOLERANCE_DB
from ripe_press.core.rules.findings import MeasureName
from ripe_press.core.tags.forms import mapping
from ripe_press.core.tags.sheet import COVER, FIELDS
from ripe_press.core.units import print_count, print_db, print_rate, print_size


@dataclass(frozen=True, slots=True)
class Requirement:
    """One thing that is asked for. ``words`` follow the brief's title where it does not hold."""

    rule: str
    title: str
    asked: str
    found: str
    holds: bool
    words: str
    measure: MeasureName | None = None
    field: str | None = None
    most_dbtp: float | None = None
    """What a peak may reach, where it is about one."""
    stops: bool = False
    """Whether nothing else can be asked of such a file; its words stand alone."""

    def sentence(self, brief_title: str) -> str:
        """What there is to say, held or not."""
        if self.holds:
            return f"{self.title}: {self.found}; required: {self.asked}."
        return self.words if self.stops else f"{brief_title} {self.words}."


def _takes(rule: str, title: str, asked: str, found: str, holds: bool) -> Requirement:
    return Requirement(rule, title, asked, found, holds, f"requires {asked}; this file: {found}")


def of_format(
    require: Requirements,
    containers: Collection[Container],
    container_title: str,
    encoding: Encoding | None,
    kbps: float | None,
    rate_hz: int,
    channels: int,
) -> Iterator[Requirement]:
    """Container, depth, bit rate, sample rate and channels.

    ``containers`` are all that the file counts as; an ``encoding`` of None is a depth that nothing here has.
    """
    if require.containers:
        takes = " or ".join(dict.fromkeys(CAPABILITIES[one].title for one in require.containers))
        holds = not set(require.containers).isdisjoint(containers)
        yield _takes("brief_container", "Format", takes, container_title, holds)
    if require.encodings and encoding != "lossy":
        found = DEPTH_WORDS[encoding] if encoding else "unknown depth"
        yield _takes("brief_depth", "Bit depth", print_depths(require.encodings), found, encoding in require.encodings)
    if require.kbps_min and kbps:
        asked = f"min {require.kbps_min} kbit/s"
        yield _takes("brief_bit_rate", "Bit rate", asked, f"{kbps:.0f} kbit/s", kbps >= require.kbps_min)
    if require.rates_hz:
        takes = ", ".join(print_rate(one) for one in require.rates_hz)
        yield _takes("brief_rate", "Sample rate", takes, print_rate(rate_hz), rate_hz in require.rates_hz)
    if require.channels:
        takes = " or ".join(print_count(one, "channel") for one in require.channels)
        yield _takes("brief_channels", "Channels", takes, str(channels), channels in require.channels)


def of_level(
    require: Requirements, sample_peak_dbfs: float | None, true_peak_dbtp: float | None, loudness_lufs: float | None
) -> Iterator[Requirement]:
    """Peaks and loudness, as far as they are known."""
    peaks: tuple[tuple[str, str, MeasureName, float | None, float | None, str], ...] = (
        ("brief_sample_peak", "Sample peak", "sample_peak", require.sample_peak_max_dbfs, sample_peak_dbfs, "dBFS"),
        ("brief_true_peak", "True peak", "true_peak", require.true_peak_max_dbtp, true_peak_dbtp, "dBTP"),
    )
    for rule, title, measure, most, peak, unit in peaks:
        if most is not None and peak is not None:
            asked, found = f"peaks up to {print_db(most, unit)}", print_db(peak, unit)
            words = f"requires {asked}; this file: {found}"
            yield Requirement(rule, title, asked, found, peak <= most + TOLERANCE_DB, words, measure, None, most)
    if require.loudness_lufs and loudness_lufs is not None:
        low, high = require.loudness_lufs
        takes, has = f"{print_db(low, 'LUFS')} to {print_db(high, 'LUFS')}", print_db(loudness_lufs, "LUFS")
        holds = low - TOLERANCE_DB <= loudness_lufs <= high + TOLERANCE_DB
        yield Requirement(
            "brief_loudness", "Loudness", takes, has, holds, f"requires {takes}; this file: {has}", "loudness"
        )


def of_speech(require: Requirements, speech: Speech | None) -> Iterator[Requirement]:
    """RMS level, noise floor and room tone, as far as they are known."""
    if speech is None:
        return
    if require.rms_dbfs:
        low, high = require.rms_dbfs
        asked, has = f"RMS {print_db(low)} to {print_db(high)}", print_db(speech.rms_dbfs)
        holds = low - TOLERANCE_DB <= speech.rms_dbfs <= high + TOLERANCE_DB
        yield Requirement("brief_rms", "RMS level", asked, has, holds, f"requires {asked}; this file: {has}")
    if require.noise_max_dbfs is not None:
        most, has = print_db(require.noise_max_dbfs), print_db(speech.noise_dbfs)
        words = f"requires a noise floor up to {most}; this file: {has}. Record it again with less noise"
        holds = speech.noise_dbfs <= require.noise_max_dbfs + TOLERANCE_DB
        yield Requirement("brief_noise", "Noise floor", f"up to {most}", has, holds, words)
    ends: tuple[tuple[str, str, tuple[float, float] | None, float], ...] = (
        ("brief_head", "before", require.head_s, speech.head_s), ("brief_tail", "after", require.tail_s, speech.tail_s)
    )  # fmt: skip
    for rule, where, limits, seconds in ends:
        if limits:
            asked, has = f"{limits[0]:g} to {limits[1]:g} s", f"{seconds:.2f} s"
            words = f"requires {asked} of room tone {where} the speech; this file: {has}"
            # Measured in steps of 50 ms.
            holds = limits[0] - ROOM_TOLERANCE_S <= seconds <= limits[1] + ROOM_TOLERANCE_S
            yield Requirement(rule, f"Room tone {where}", asked, has, holds, words)


ROOM_TOLERANCE_S = 0.06


def of_bit_rate_mode(require: Requirements, constant: bool | None) -> Iterator[Requirement]:
    """That a lossy file spends the same on every second, where that is known."""
    if require.constant_bit_rate and constant is not None:
        found = "constant" if constant else "variable"
        words = "requires a constant bit rate; this file: variable. Choose Constant"
        yield Requirement("brief_steady", "Bit-rate mode", "constant", found, constant, words)


def of_length(require: Requirements, frames: int, rate_hz: int) -> Iterator[Requirement]:
    """Seconds."""
    if require.seconds_max:
        asked, found = f"max {require.seconds_max:g} s", f"{frames / rate_hz:.2f} s"
        words = f"requires {asked}; this file: {found}"
        yield Requirement("brief_length", "Length", asked, found, frames <= require.seconds_max * rate_hz, words)


def of_size(require: Requirements, size: int) -> Iterator[Requirement]:
    """Bytes."""
    if require.bytes_max:
        asked, found = f"max {print_size(require.bytes_max)}", print_size(size)
        words = f"requires {asked}; this file: {found}"
        yield Requirement("brief_size", "Size", asked, found, size <= require.bytes_max, words)


def of_tags(brief: Brief, container: Container | None, given: Collection[str], cover: bool) -> Iterator[Requirement]:
    """Every field that is needed; and that the container has a place for it, where it is one that is known."""
    for field in brief.tags:
        title = "a cover picture" if field == COVER else FIELDS[field].named
        there = cover if field == COVER else field in given
        if there and container and not mapping(container)[field]:
            words = f"requires {title}, which {CAPABILITIES[container].title} cannot store. Choose another format"
            yield Requirement("brief_tag_without_place", "Tag", title, "not supported", False, words, field=field)
        else:
            words = (
                f"requires {title}. Add it to the tag sheet" if container else f"requires {title}; this file has none"
            )
            yield Requirement(
                "brief_needs_tag", "Tag", title, "there" if there else "missing", there, words, field=field
            )
