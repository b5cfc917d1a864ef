"""Rules that hold a file against its brief: every requirement that it does not meet, in one sentence each."""

from ripe_press.core.formats.capabilities import CAPABILITIES, DEPTH_WORDS, print_depths
from ripe_press.core.rules.case import Case
from ripe_press.core.rules.findings import Finding, MeasureName, RuleId
from ripe_press.core.rules.set_out import TOLERANCE_DB
from ripe_press.core.rules.speaks import Said, speaks
from ripe_press.core.stations.forecast import print_size
from ripe_press.core.tags.forms import mapping
from ripe_press.core.tags.sheet import COVER, FIELDS
from ripe_press.core.units import print_count, print_db, print_rate


def _asks(case: Case, rule: RuleId, sentence: str, measure: MeasureName | None = None) -> Finding:
    return Finding(rule, "look", f"{case.brief.title} {sentence}.", measure=measure)


@speaks("before", "after")
def takes_the_format(case: Case) -> Said:
    """Container, depth, bit rate, sample rate and channels are among those that are taken."""
    require, codec = case.brief.require, case.path.codec
    if require.containers and codec.container not in require.containers:
        takes = " or ".join(dict.fromkeys(CAPABILITIES[one].title for one in require.containers))
        yield _asks(case, "brief_container", f"takes {takes}, not {CAPABILITIES[codec.container].title}")
    if require.encodings and codec.encoding not in ("lossy", *require.encodings):
        depths = print_depths(require.encodings)
        yield _asks(case, "brief_depth", f"takes {depths}, not {DEPTH_WORDS[codec.encoding]}")
    coding = codec.coding
    if require.kbps_min and coding and coding.kbps and coding.kbps < require.kbps_min:
        yield _asks(case, "brief_bit_rate", f"takes {require.kbps_min} kbit/s or more, not {coding.kbps}")
    if require.rates_hz and codec.rate_hz not in require.rates_hz:
        takes = ", ".join(print_rate(one) for one in require.rates_hz)
        yield _asks(case, "brief_rate", f"takes {takes}, not {print_rate(codec.rate_hz)}")
    if require.channels and codec.channels not in require.channels:
        takes = " or ".join(print_count(one, "channel") for one in require.channels)
        yield _asks(case, "brief_channels", f"takes {takes}, not {codec.channels}")


@speaks("before", "after")
def takes_the_level(case: Case) -> Said:
    """Peaks and loudness lie where the brief wants them, as far as they are known."""
    require, expected = case.brief.require, case.expected
    peaks: tuple[tuple[RuleId, MeasureName, float | None, float | None, str], ...] = (
        ("brief_sample_peak", "sample_peak", require.sample_peak_max_dbfs, expected.sample_peak_dbfs, "dBFS"),
        ("brief_true_peak", "true_peak", require.true_peak_max_dbtp, expected.true_peak_dbtp, "dBTP"),
    )
    for rule, measure, most, peak, unit in peaks:
        if most is not None and peak is not None and peak > most + TOLERANCE_DB:
            told = f"takes peaks up to {print_db(most, unit)}; this file reaches {print_db(peak, unit)}"
            yield _asks(case, rule, told, measure)
    if require.loudness_lufs and expected.integrated_lufs is not None:
        low, high = require.loudness_lufs
        if not low - TOLERANCE_DB <= expected.integrated_lufs <= high + TOLERANCE_DB:
            takes = f"{print_db(low, 'LUFS')} to {print_db(high, 'LUFS')}"
            has = print_db(expected.integrated_lufs, "LUFS")
            yield _asks(case, "brief_loudness", f"takes {takes}; this file has {has}", "loudness")


@speaks("before", "after")
def takes_the_size(case: Case) -> Said:
    """The file is no larger than is taken. A bound alone says nothing: how small the sound packs is not known yet."""
    most, size = case.brief.require.bytes_max, case.expected.size
    if not most or size is None or size.high <= most or size.basis == "bound":
        return
    if size.exact:
        told = f"this file has {print_size(size.high)}"
    else:
        told = f"this file {'will' if size.low > most else 'may'} pass that, with {size}"
    yield _asks(case, "brief_size", f"takes at most {print_size(most)}; {told}")


@speaks("before", "after")
def has_the_tags(case: Case) -> Said:
    """What the brief needs on the sheet is there, and the container has a place for it."""
    brief, container, tags = case.brief, case.path.codec.container, case.path.tags.content
    given, names = dict(tags.values), mapping(container)
    for field in brief.tags:
        title = "a cover picture" if field == COVER else FIELDS[field].named
        there = bool(tags.cover) if field == COVER else field in given
        if not there:
            sentence = f"{brief.title} needs {title}; the tag sheet has none."
            yield Finding("brief_needs_tag", "look", sentence, field=field)
        elif not names[field]:
            sentence = (
                f"{brief.title} needs {title}, and {CAPABILITIES[container].title} has no place for it. "
                f"Choose another format."
            )
            yield Finding("brief_tag_without_place", "look", sentence, field=field)
