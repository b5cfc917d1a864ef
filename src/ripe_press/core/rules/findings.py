"""Findings, checks and verdicts."""

from collections.abc import Iterable
from dataclasses import dataclass
from typing import Literal

from ripe_press.core.requests.delivery import Changes
from ripe_press.core.requests.edges import EndKind
from ripe_press.core.timeline import TempoMap

Verdict = Literal["ready", "look", "stop"]

RuleId = Literal[
    # The file as read back, compared with its settings.
    "file_reads_back", "rate_as_asked", "channels_as_asked", "depth_as_asked", "codec_as_asked", "frames_as_asked",
    "samples_as_they_came", "level_as_asked", "ceiling_held", "tags_read_back", "bit_rate_as_set", "size_as_forecast",
    "size_beside_forecast", "backed_off",
    # The file against the mix.
    "same_source", "starts_as_asked", "sides_as_asked", "polarity_kept", "level_kept", "nothing_dropped",
    "tops_kept", "noise_as_meant", "samples_as_made", "difference_heard",
    # The mix, and the range of it.
    "samples_over_full_scale", "clipped_in_the_mix", "range_is_silent", "end_cuts_sound", "start_cuts_sound",
    "dead_air", "channels_unheard", "tail_unsure", "tail_is_music",
    # A loop.
    "loop_tempo", "loop_length", "loop_seam", "start_on_bar", "part_to_choose",
    # The ticket.
    "clipped_by_conversion", "clipped_by_edges", "clipped_by_channels",
    "finish_left_out", "mono_cancels", "rounded_without_dither", "clips_as_set_out",
    "limited_hard", "turned_down", "loudness_out_of_reach", "name_twice", "name_skipped", "name_replaced",
    # The kind of file.
    "becomes_rf64", "past_two_gib", "played_by_few", "float_over_full_scale", "clips_when_decoded",
    "will_clip_when_decoded",
    # The brief.
    "brief_container", "brief_depth", "brief_bit_rate", "brief_rate", "brief_channels", "brief_sample_peak",
    "brief_true_peak", "brief_loudness", "brief_rms", "brief_noise", "brief_head", "brief_tail", "brief_steady",
    "brief_length", "brief_size", "brief_needs_tag", "brief_tag_without_place",
    # The tag sheet.
    "tag_written_wrongly", "cover_missing", "cover_unreadable", "cover_not_square",
    # Where it goes.
    "drop_off_unknown", "mail_too_large", "refused_by_recipient",
]  # fmt: skip
"""What a finding or a check is about: the same id whether it came out well or not, for good."""

MeasureName = Literal["sample_peak", "true_peak", "loudness"]

_ORDER: tuple[Verdict, ...] = ("ready", "look", "stop")


@dataclass(frozen=True, slots=True)
class Remedy:
    """What one click would change: the label says it; None leaves a thing as it is."""

    label: str
    start_frame: int | None = None
    end_frame: int | None = None
    end: EndKind | None = None
    declick_ms: float | None = None
    fade_out_s: float | None = None
    silence_before_s: float | None = None
    silence_after_s: float | None = None
    """Made of the recording's own room tone."""
    tempo: TempoMap | None = None
    """Another tempo map for the mix."""
    target_lufs: float | None = None
    """Another loudness for the level station of the delivery."""
    changes: Changes | None = None
    """Other departures of the delivery from its brief."""


@dataclass(frozen=True, slots=True)
class Finding:
    """One thing a rule noticed: in a sentence, and where there is one, the frame of the mix to look at."""

    rule: RuleId
    verdict: Verdict
    sentence: str
    frame: int | None = None
    remedy: Remedy | None = None
    field: str | None = None
    """The field of the tag sheet to go to, where it is about one."""
    measure: MeasureName | None = None
    """The measured figure that it is about, where it is about one."""


@dataclass(frozen=True, slots=True)
class Check:
    """A passed check: its subject and its result."""

    rule: RuleId
    title: str
    found: str
    measure: MeasureName | None = None
    """The measured figure compared with a target, if there is one."""


def worst(findings: Iterable[Finding]) -> Verdict:
    """The verdict of a file: ready when nothing was found."""
    return max((finding.verdict for finding in findings), key=_ORDER.index, default="ready")
