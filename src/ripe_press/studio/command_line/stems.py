"""Stems on the command line: a folder of them, and the selected parts of the mix."""

from dataclasses import dataclass
from pathlib import Path

from ripe_press.core.errors import BadInput
from ripe_press.core.formats.facts import SourceFacts
from ripe_press.core.requests.part import THE_MIX, Part, StemNote, check_stems, parse_part
from ripe_press.core.sources.source import facts_of_file
from ripe_press.studio.command_line.stem_check import aligned
from ripe_press.studio.stems import examined_stem, stems_in


@dataclass(frozen=True, slots=True)
class StemsRequest:
    """A folder of stems, the selected parts of the mix, and whether stems that are late or early are aligned."""

    folder: Path | None = None
    parts: tuple[str, ...] = ()
    align: bool = False


NO_STEMS = StemsRequest()


def beside(
    mix: Path, facts: SourceFacts, wish: StemsRequest, kept: tuple[StemNote, ...] = ()
) -> tuple[tuple[StemNote, ...], tuple[Part, ...]]:
    """The stems, none where only the mix is wanted, and the parts; ``kept`` are those that the shelf has of the mix.

    Raises: NotFound ``stems.no-folder`` or ``stem.unknown``; BadInput ``stem.…``; as reading.
    """
    if wish.folder is None:
        if wish.align:
            message = "No stems to align. Add --stems FOLDER."
            raise BadInput("stem.none", message)
        stems = kept
    else:
        stems = tuple(StemNote(name, facts_of_file(path)) for name, path in stems_in(wish.folder, mix))
    check_stems(stems)
    names = [one.name for one in stems]
    wanted = wish.parts or (("all",) if wish.folder else ("mix",))
    parts = tuple(dict.fromkeys(part for text in wanted for part in parse_part(text, names)))
    if parts == (THE_MIX,):
        return (), parts
    if wish.align:
        stems = aligned(facts, stems)
    return (tuple(examined_stem(one) for one in stems) if wish.folder else stems), parts
