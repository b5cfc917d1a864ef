"""Tempo maps next to pressed files, for deliveries that go on a bar grid."""

from collections.abc import Iterable, Mapping
from pathlib import Path

from ripe_press.core.handoff.tempo_midi import tempo_midi
from ripe_press.core.requests.document import Document
from ripe_press.core.whole_files import write_whole
from ripe_press.studio.planning import RequestedFile


def write_tempo_maps(document: Document, files: Iterable[RequestedFile], made: Mapping[Path, Path]) -> list[str]:
    """Writes them, of the files that were ``made`` (by their planned places); gives the paths. Raises: OSError."""
    written: list[str] = []
    if document.order:
        return written
    benches = {line.id: wish.bench for wish in document.mixes for line in wish.bench.ticket}
    for one in files:
        bench = benches.get(one.line.id)
        if not one.brief.prefer.tempo_map or bench is None or bench.tempo is None or one.placed.path not in made:
            continue
        cut, tags = one.planned.path.cut, dict(one.planned.path.tags.content.values)
        rate_hz = one.known.facts.rate_hz
        data = tempo_midi(
            bench.tempo, rate_hz, cut.start_frame - cut.led_frames, cut.read_end,
            tags.get("title") or one.mix.title, tags.get("key", ""), bench.markers,
        )  # fmt: skip
        path = made[one.placed.path].with_suffix(".mid")
        write_whole(path, data)
        written.append(str(path))
    return written
