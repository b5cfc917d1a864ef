"""The history on the command line: searched, checked, compared, pressed again, without a server."""

from collections.abc import Callable, Iterator, Sequence
from contextlib import contextmanager
from dataclasses import asdict
from pathlib import Path
from typing import Any

from ripe_press.core.blocks import Progress
from ripe_press.core.errors import NotFound, RipePressError
from ripe_press.core.proof.compare import Difference, difference_of
from ripe_press.core.requests.document import document_from
from ripe_press.core.sheet.file_report import FileReport
from ripe_press.core.words import quoted
from ripe_press.store.blind_tests import BlindTestTable
from ripe_press.store.db import Database
from ripe_press.store.pressings import Pressings, StoredPressing
from ripe_press.store.record import Record
from ripe_press.store.upkeep import Upkeep
from ripe_press.studio.command_line.press import PressJob, PressResult, press_now
from ripe_press.studio.data_folder import DataFolder
from ripe_press.studio.error_text import sentence_of
from ripe_press.studio.jobs import JobProgress, JobState
from ripe_press.studio.listening import blind_test_view
from ripe_press.studio.planning import bring_up_to_date, measured
from ripe_press.studio.pressing import compared, cut_off_dead, look_for_file
from ripe_press.studio.proof import hold_pressing


def find_pressings(folder: DataFolder, words: str, verdict: str, most: int) -> dict[str, Any]:
    """The newest lines of the record that have all these words, and how many there are."""
    with _open(folder) as database:
        rows, count = Record(database).find(words, verdict, most=most, ended=False)
        tests = BlindTestTable(database)
        found = [asdict(row) | {"blind_tests": _heard(tests, row.id)} for row in rows]
    return {"count": count, "pressings": found}


def _heard(tests: BlindTestTable, pressing: int) -> list[dict[str, Any]]:
    return [asdict(blind_test_view(one)) for one in tests.of_pressing(pressing) if one.state != "open"]


def check_pressing(folder: DataFolder, number: int) -> dict[str, Any]:
    """What has become of the files of a pressing; it is noted in the record."""
    with _open(folder) as database:
        record = Pressings(database)
        files = []
        for file in _pressing(record, number).files:
            if file.state != "named" or not file.report:
                continue
            found = look_for_file(file.path, file.report.bytes, file.report.sha256, str(folder.pressed))
            record.set_found(number, file.number, found.found, found.path)
            files.append({"path": file.path, "found": found.found, "found_path": found.path})
    return {"pressing": number, "files": files}


def check_pressings(folder: DataFolder, progress: Progress) -> dict[str, Any]:
    """The same for the whole record; gives the changed and missing files."""
    with _open(folder) as database:
        numbers = Upkeep(database).longest_unseen()
    wrong, count = [], 0
    for at, number in enumerate(numbers):
        progress(at, len(numbers))
        files = check_pressing(folder, number)["files"]
        count += len(files)
        wrong += [{"pressing": number, **one} for one in files if one["found"] in ("changed", "gone")]
    progress(len(numbers), len(numbers))
    return {"checked": count, "files": wrong}


def compare_with_mix(folder: DataFolder, number: int) -> dict[str, Any]:
    """Compare the files of a pressing with their mix. Raises: as `hold_file`."""
    with _open(folder) as database:
        pressing = _pressing(Pressings(database), number)
    return {"pressing": number, "files": hold_pressing(pressing)}


def compare_pressings(folder: DataFolder, then: int, now: int) -> dict[str, Any]:
    """Compare two pressings; audio is measured where the bytes differ."""
    with _open(folder) as database:
        record = Pressings(database)
        first, second = _pressing(record, then), _pressing(record, now)

    def measure(one: FileReport, other: FileReport) -> JobState[Difference]:
        try:
            return JobState("done", result=difference_of(Path(one.path), Path(other.path)))
        except (RipePressError, OSError) as error:
            return JobState("failed", sentence=sentence_of(error))

    return asdict(compared(first, second, measure))


def press_again(
    folder: DataFolder,
    number: int,
    out: Path,
    progress: Callable[[JobProgress, Sequence[str]], None],
    should_stop: Callable[[], bool],
) -> tuple[PressResult, dict[str, Any] | None]:
    """Press a pressing of the record again, into a folder, and compare the two; None without a record.

    Raises: BadInput ``document.no-version`` when the record does not say of what sound it was; what pressing raises.
    """
    with _open(folder) as database:
        pressing = _pressing(Pressings(database), number)
    document = document_from(pressing.ticket)
    known = tuple(measured(wish.source.facts) for wish in document.mixes)
    result = press_now(PressJob(document, known), out, progress, should_stop, again_of=number)
    return result, None if result.pressing is None else compare_pressings(folder, number, result.pressing)


@contextmanager
def _open(folder: DataFolder) -> Iterator[Database]:
    if not folder.database.is_file():
        message = f"No history in {quoted(folder.root)}. Choose another folder with --data."
        raise NotFound("record.none", message, folder=str(folder.root))
    database = Database(folder.database)
    try:
        bring_up_to_date(database)
        cut_off_dead(Pressings(database), folder.journals)
        yield database
    finally:
        database.close()


def _pressing(record: Pressings, number: int) -> StoredPressing:
    found = record.get(number)
    if found is None:
        message = f"Pressing {number} not found."
        raise NotFound("pressing.unknown", message, pressing=number)
    return found
