"""Tickets of mixes on the shelf, as the document that is pressed and stored."""

import hashlib
from collections.abc import Mapping
from dataclasses import replace
from datetime import date
from pathlib import Path

from ripe_press.core.requests.bench import Bench
from ripe_press.core.requests.brief import Brief
from ripe_press.core.requests.document import (
    CoverNote,
    Document,
    MixRequest,
    SourceNote,
    document_of,
)
from ripe_press.core.whole_files import write_whole
from ripe_press.store.mixes import StoredMix
from ripe_press.studio.data_folder import DataFolder
from ripe_press.studio.planning import facts_of
from ripe_press.studio.shelf.mix_views import MixViews


def document_for(mix_views: MixViews, mix: StoredMix, bench: Bench, briefs: Mapping[str, Brief]) -> Document:
    """The document of a mix's ticket."""
    cover = mix_views.cover_path(mix, bench.cover) if bench.cover else None
    note = CoverNote(cover.name, "", str(cover)) if cover else None
    source = SourceNote(facts_of(mix), mix.title, tuple(mix.measures["dc_offset"]), mix.embedded.get("time_reference"))
    # A document says of stems only where it asks for any.
    asked = any(not line.part.is_mix for line in bench.ticket)
    stems = mix_views.stems_of(mix.id) if asked else ()
    return document_of((MixRequest(source, bench, note, stems),), briefs, date.today().isoformat())


def keep_cover(folder: DataFolder, wish: MixRequest) -> MixRequest:
    """The wish with its picture fingerprinted and kept by its content, for a record that outlives the mix."""
    if wish.cover is None or not Path(wish.cover.path).is_file():
        return wish
    data = Path(wish.cover.path).read_bytes()
    sha256 = hashlib.sha256(data).hexdigest()
    path = folder.covers / f"{sha256[:20]}{Path(wish.cover.name).suffix}"
    if not path.is_file():
        write_whole(path, data)
    return replace(wish, cover=CoverNote(wish.cover.name, sha256, str(path)))


def words_of(document: Document) -> str:
    """What a pressing of a document is found by: tags, briefs, and the names of ranges."""
    benches = [wish.bench for wish in document.mixes]
    tags = (text for bench in benches for _, text in bench.tags)
    ranges = (part.name for bench in benches for part in bench.ranges)
    briefs = (word for one, brief in document.briefs_by_id.items() for word in (one, brief.title))
    return " ".join(word for word in (*tags, *ranges, *briefs) if word)
