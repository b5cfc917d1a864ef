"""The ticket of a mix: what will be pressed, told before it is pressed."""

from dataclasses import dataclass

from ripe_press.core.briefs.library import Brief, brief_of
from ripe_press.core.engine import stations as st
from ripe_press.core.engine.describe import Description, MixKnowledge, describe
from ripe_press.core.engine.resolve import resolve
from ripe_press.core.formats.reader import SourceFacts
from ripe_press.core.formats.wav import wav_bytes
from ripe_press.core.rules.before import findings_before, range_measures
from ripe_press.core.rules.findings import Finding, Verdict, worst
from ripe_press.store.mixes import StoredMix
from ripe_press.studio.shelf import Shelf

BRIEFS = ("audio-cd",)
"""The deliveries of every ticket, by their briefs."""


@dataclass(frozen=True, slots=True)
class Row:
    """One delivery as the tree draws it: its stations in order, and what is expected of the file."""

    brief: Brief
    path: st.Path
    stations: tuple[Description, ...]
    forecast_bytes: int
    findings: tuple[Finding, ...]
    verdict: Verdict


def facts_of(mix: StoredMix) -> SourceFacts:
    """The facts of a mix on the shelf."""
    return SourceFacts(mix.path, mix.container, mix.codec, mix.rate_hz, mix.channels, mix.frames, mix.bit_depth)


def plan(shelf: Shelf, mix: StoredMix, start_frame: int, end_frame: int) -> tuple[Row, ...]:
    """The rows of the ticket for a range. Raises: BadInput ``range.empty``, ``range.outside``."""
    return tuple(_row(shelf, mix, brief_of(brief), start_frame, end_frame) for brief in BRIEFS)


def _row(shelf: Shelf, mix: StoredMix, brief: Brief, start_frame: int, end_frame: int) -> Row:
    path = resolve(brief.delivery(start_frame, end_frame), facts_of(mix), mix.title)
    quiet = shelf.quietest_half_second_dbfs(mix, start_frame, end_frame)
    known = MixKnowledge(quietest_half_second_dbfs=quiet)
    source = next(station for station in path if isinstance(station, st.Source))
    codec = next(station for station in path if isinstance(station, st.Codec))
    measures = range_measures(
        shelf.clipping(mix, start_frame, end_frame), sounding=_sounds(mix, start_frame, end_frame)
    )
    findings = findings_before(path, measures)
    return Row(
        brief, path, tuple(describe(station, source, known) for station in path),
        wav_bytes(codec.encoding, codec.channels, codec.frames), findings, worst(findings),
    )  # fmt: skip


def _sounds(mix: StoredMix, start_frame: int, end_frame: int) -> bool:
    first = mix.measures["head_silence_frames"]
    last = mix.frames - mix.measures["tail_silence_frames"]
    return bool(max(first, start_frame) < min(last, end_frame))
