"""Rules that hold a file against its brief: every requirement that it does not meet, in one sentence each."""

from collections.abc import Iterable, Iterator

from ripe_press.core.formats.capabilities import CAPABILITIES
from ripe_press.core.rules.case import Case
from ripe_press.core.rules.findings import Finding, Remedy
from ripe_press.core.rules.requirements import (
    Requirement,
    of_bit_rate_mode,
    of_format,
    of_length,
    of_level,
    of_speech,
    of_tags,
)
from ripe_press.core.rules.rule import Said, speaks
from ripe_press.core.rules.turned_down import turned_down
from ripe_press.core.units import print_db, print_size


def _unmet(case: Case, requirements: Iterable[Requirement]) -> Iterator[Finding]:
    for one in requirements:
        if not one.holds:
            sentence = f"{case.brief.title} {one.words}."
            remedy = None if one.most_dbtp is None else turned_down(case, one.most_dbtp)
            yield Finding(one.rule, "look", sentence, remedy=remedy, field=one.field, measure=one.measure)


@speaks(
    "before",
    "after",
    ids=("brief_container", "brief_depth", "brief_bit_rate", "brief_rate", "brief_channels", "brief_steady"),
)
def takes_the_format(case: Case) -> Said:
    """Container, depth, bit rate, sample rate and channels are among those that are taken."""
    codec = case.path.codec
    title, kbps = CAPABILITIES[codec.container].title, codec.coding.kbps if codec.coding else None
    asked = of_format(
        case.brief.require, (codec.container,), title, codec.encoding, kbps, codec.rate_hz, codec.channels
    )
    yield from _unmet(case, asked)


@speaks("before", "after", ids=("brief_sample_peak", "brief_true_peak", "brief_loudness"))
def takes_the_level(case: Case) -> Said:
    """Peaks and loudness lie where the brief wants them, as far as they are known."""
    found = case.expected
    asked = of_level(case.brief.require, found.sample_peak_dbfs, found.true_peak_dbtp, found.integrated_lufs)
    yield from _unmet(case, asked)


@speaks("before", "after", ids=("brief_rms", "brief_noise", "brief_head", "brief_tail"))
def takes_the_speech(case: Case) -> Said:
    """RMS level, noise floor and room tone, as platforms for spoken word check them."""
    require, speech = case.brief.require, case.speech
    for one in of_speech(require, speech):
        if not one.holds:
            remedy = _speech_remedy(case, one.rule)
            yield Finding(one.rule, "look", f"{case.brief.title} {one.words}.", remedy=remedy)
    coding = case.path.codec.coding
    yield from _unmet(case, of_bit_rate_mode(require, coding.mode == "constant" if coding else None))


def _speech_remedy(case: Case, rule: str) -> Remedy | None:
    """Another level, or other ends of the range where the recording has the room tone for them."""
    require, speech, stretch = case.brief.require, case.speech, case.wish.stretch
    if case.proof is not None or speech is None:
        return None
    if rule == "brief_rms" and require.rms_dbfs and case.wish.level.kind == "loudness":
        target = round(case.wish.level.target + sum(require.rms_dbfs) / 2 - speech.rms_dbfs, 1)
        return Remedy(f"Set {print_db(target, 'LUFS')}", target_lufs=target)
    rate_hz, frames = case.path.source.facts.rate_hz, case.path.source.facts.frames
    begins = stretch.start_frame + round(speech.head_s * rate_hz)
    ends = stretch.end_frame - round(speech.tail_s * rate_hz)
    if rule == "brief_head" and require.head_s:
        start = begins - round(sum(require.head_s) / 2 * rate_hz)
        if start >= 0:
            return Remedy("Set room tone before", start, stretch.end_frame)
        missing = round(sum(require.head_s) / 2 - begins / rate_hz, 2)
        return Remedy("Add room tone before", 0, stretch.end_frame, silence_before_s=missing)
    if rule == "brief_tail" and require.tail_s:
        end = ends + round((require.tail_s[0] + 0.5) * rate_hz)
        if end <= frames:
            return Remedy("Set room tone after", stretch.start_frame, end)
        missing = round((end - frames) / rate_hz, 2)
        return Remedy("Add room tone after", stretch.start_frame, frames, silence_after_s=missing)
    return None


@speaks("before", "after", ids=("brief_length",))
def takes_the_length(case: Case) -> Said:
    """The file is no longer than is taken."""
    codec = case.path.codec
    yield from _unmet(case, of_length(case.brief.require, codec.frames, codec.rate_hz))


@speaks("before", "after", ids=("brief_size",))
def takes_the_size(case: Case) -> Said:
    """The file does not exceed the largest allowed size. A bound alone says nothing: how small the sound packs is not
    known yet.
    """
    most, size = case.brief.require.bytes_max, case.expected.size
    if not most or size is None or size.high <= most or size.basis == "bound":
        return
    about = print_size(size.high) if size.exact else f"{'about' if size.low > most else 'possibly'} {size}"
    limit = f"Over the {print_size(most)} limit of {case.brief.title}: {about}."
    yield Finding("brief_size", "look", f"{limit} Shorten it or lower the bit rate.")


@speaks("before", "after", ids=("brief_needs_tag", "brief_tag_without_place"))
def has_the_tags(case: Case) -> Said:
    """What the brief needs on the sheet is there, and the container has a place for it."""
    tags = case.path.tags.content
    given = [field for field, _ in tags.values]
    yield from _unmet(case, of_tags(case.brief, case.path.codec.container, given, bool(tags.cover)))
