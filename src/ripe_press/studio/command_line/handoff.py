"""The handoff of a file on the command line."""

from pathlib import Path

from ripe_press.core.requests.document import bench_of
from ripe_press.core.requests.part import StemNote
from ripe_press.core.sources.source import facts_of_file
from ripe_press.core.tags.embedded import read_embedded
from ripe_press.studio.handoff import HandedMix
from ripe_press.studio.shelf import on_shelf, stems_beside
from ripe_press.studio.stems import stems_in


def handed_file(mix: Path, stems: Path | None = None) -> HandedMix:
    """A file as it is handed off: with stems from a folder, or as the shelf has it.

    Raises: as reading a mix; NotFound ``stems.no-folder``.
    """
    facts = facts_of_file(mix)
    stored = on_shelf(mix)
    embedded = read_embedded(mix, facts.rate_hz, facts.frames)
    markers = bench_of(stored.bench).markers if stored else embedded.markers
    # An uncaptured stem has no media to copy.
    notes = tuple(one for one in stems_beside(stored) if not one.live_s)
    if stems is not None:
        notes = tuple(StemNote(name, facts_of_file(path)) for name, path in stems_in(stems, mix))
    title = stored.title if stored else mix.stem
    return HandedMix(facts, title, markers, embedded.time_reference, notes)
