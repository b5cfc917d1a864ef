"""Short ways from a file to deliveries, their paths, and their results."""

import secrets
from collections.abc import Iterable
from pathlib import Path

import numpy as np
import soundfile

from ripe_press.core.blocks import Block
from ripe_press.core.briefs.library import BLANK
from ripe_press.core.engine.resolve import Mix, PlannedFile, resolve
from ripe_press.core.engine.walker import walk
from ripe_press.core.formats.facts import SourceFacts
from ripe_press.core.press import FailedFile, OrderedFile, PressedFile, PressOrder, press
from ripe_press.core.requests.brief import Brief
from ripe_press.core.requests.delivery import Changes, Delivery
from ripe_press.core.requests.edges import Stretch
from ripe_press.core.requests.notes import NO_NOTES, MixNotes
from ripe_press.core.sources.file import FileSource
from ripe_press.core.sources.source import facts_of_file, open_file
from ripe_press.core.stations import NO_FINISH, Finish, Path as StationPath, PathReport

facts_of = facts_of_file


def delivery_of(
    facts: SourceFacts, stretch: Stretch | None = None, brief: Brief = BLANK, **changes: object
) -> Delivery:
    """A delivery of all of a mix, or of a stretch, with departures from a brief."""
    part = stretch or Stretch(0, facts.frames)
    return Changes(**changes).applied_to(brief.delivery(part, facts))  # type: ignore[arg-type]


def files_for(
    delivery: Delivery,
    facts: SourceFacts,
    title: str = "Millrace",
    finish: Finish = NO_FINISH,
    notes: MixNotes = NO_NOTES,
) -> tuple[PlannedFile, ...]:
    return resolve(delivery, Mix(FileSource(facts), title, finish, notes))


def paths_for(
    delivery: Delivery,
    facts: SourceFacts,
    title: str = "Millrace",
    finish: Finish = NO_FINISH,
    notes: MixNotes = NO_NOTES,
) -> tuple[StationPath, ...]:
    return tuple(file.path for file in files_for(delivery, facts, title, finish, notes))


def press_files(
    folder: Path, files: Iterable[PlannedFile], brief: Brief = BLANK, finish: Finish = NO_FINISH
) -> tuple[PressedFile, ...]:
    """Presses files under numbers, with the ending that each of them has; all of them can be made."""
    return whole(press_order(folder, files, brief, finish))


def whole(files: Iterable[PressedFile | FailedFile]) -> tuple[PressedFile, ...]:
    """The files themselves, none of which failed."""
    made = tuple(file for file in files if isinstance(file, PressedFile))
    assert [file for file in files if isinstance(file, FailedFile)] == []
    return made


def press_order(
    folder: Path, files: Iterable[PlannedFile], brief: Brief = BLANK, finish: Finish = NO_FINISH
) -> tuple[PressedFile | FailedFile, ...]:
    """What becomes of files that are pressed under numbers, with the ending that each of them has."""
    ordered = [
        OrderedFile(file, brief, str(folder / f"{number}{Path(file.path.name.file_name).suffix}"), chain=finish)
        for number, file in enumerate(files)
    ]
    return press(PressOrder(tuple(ordered)), lambda _event: None, lambda: False)


def pressed(mix: Path, folder: Path, *deliveries: Delivery, finish: Finish = NO_FINISH) -> tuple[PressedFile, ...]:
    """The results of deliveries of one mix, in one pressing."""
    facts = facts_of(mix)
    files = [file for one in deliveries for file in files_for(one, facts, finish=finish)]
    return press_files(folder, files, finish=finish)


def walked(folder: Path, *paths: StationPath) -> tuple[list[Block], tuple[PathReport, ...]]:
    """The results of paths walked together, without proofs."""
    place = folder / secrets.token_hex(4)
    place.mkdir()
    targets = {number: place / f"{number}.wav" for number in range(len(paths))}
    reports = walk(paths, targets)
    return [soundfile.read(target, always_2d=True)[0] for target in targets.values()], reports


def read_all(path: str | Path, downmix: str = "") -> Block:
    """All samples of a file, through the application's reader."""
    with open_file(Path(path), downmix) as reader:
        return np.concatenate(list(reader.blocks()))
