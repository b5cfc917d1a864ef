"""Stems as sources, at the rate, start and length of their mix, and their sums."""

from collections.abc import Sequence
from dataclasses import replace

from ripe_press.core.formats.facts import SourceFacts
from ripe_press.core.requests.part import Part, StemNote
from ripe_press.core.sources.converted import converted
from ripe_press.core.sources.file import FileSource
from ripe_press.core.sources.placed import placed
from ripe_press.core.sources.source import AudioSource
from ripe_press.core.sources.sums import summed


def stem_source(stem: StemNote, mix: SourceFacts) -> AudioSource:
    """A stem aligned with its mix."""
    facts = replace(stem.facts, downmix="1", channels=1) if _one_side(stem) else stem.facts
    return placed(converted(FileSource(facts), mix.rate_hz), stem.late_frames, mix.frames)


def part_source(mix: AudioSource, stems: Sequence[StemNote], part: Part) -> AudioSource:
    """What a part of a mix is: its own source, a stem, or some added up.

    Raises: NotFound ``stem.unknown``; BadInput ``stem.none``.
    """
    if part.is_mix:
        return mix
    chosen = part.of(stems)
    sources = [stem_source(one, mix.facts) for one in stems if one.name in chosen]
    return sources[0] if len(sources) == 1 else summed(sources)


def _one_side(stem: StemNote) -> bool:
    return stem.mono and stem.facts.channels == 2 and not stem.facts.downmix
