"""Delivery sheets of a pressing or of a folder of any files."""

import hashlib
import json
import os
from collections.abc import Mapping, Sequence
from itertools import product
from pathlib import Path
from typing import Any

from ripe_press.core.blocks import Progress, no_progress
from ripe_press.core.errors import BadInput, NotFound, RipePressError
from ripe_press.core.formats.capabilities import READ_SUFFIXES
from ripe_press.core.proof.read_back import prove
from ripe_press.core.requests.document import document_from
from ripe_press.core.sheet.contents import NAMES, DeliverySheet, Remark, SheetFile, checksums, sheet_row
from ripe_press.core.sheet.file_report import FileReport, report_of_proof
from ripe_press.core.sheet.page import write_page
from ripe_press.core.sheet.printed import Paper, write_pdf
from ripe_press.core.sheet.signature import NAME as SIGNATURE
from ripe_press.core.tags.embedded import read_embedded
from ripe_press.core.whole_files import write_whole
from ripe_press.core.words import quoted
from ripe_press.store.pressings import StoredPressing
from ripe_press.studio.handoff.keys import Keys

CONTACT = (("contact_name", "Name"), ("contact_phone", "Phone"), ("contact_email", "Mail"), ("web", "Web"))
"""Fields of a tag sheet that say whom to ask."""


def sheet_of(
    title: str,
    files: Sequence[tuple[FileReport, Mapping[str, tuple[str, str]]]],
    tags: dict[str, str],
    *,
    day: str = "",
    pressing: int | None = None,
) -> DeliverySheet:
    """The sheet of files with their sign-offs; what each says in its tags is read from the file itself.

    Raises: NotFound ``sheet.nothing`` where none of them is there any more.
    """
    there = sorted((one for one in files if Path(one[0].path).is_file()), key=lambda one: one[0].path)
    if not there:
        message = "Files moved or deleted. Press again."
        raise NotFound("sheet.nothing", message)
    folder = common_folder([Path(report.path) for report, _ in there])
    rows = tuple(sheet_file(report, folder, accepted) for report, accepted in there)
    artist = tags.get("album_artist") or tags.get("artist") or ""
    contact = {name: tags[field] for field, name in CONTACT if tags.get(field)}
    return DeliverySheet(title, rows, artist, day, pressing, contact)


Accepted = Mapping[int, tuple[str, str]]
"""Sign-offs with reasons, by the file's number in its pressing."""


def sheet_of_pressing(pressing: StoredPressing, accepted: Accepted | None = None) -> DeliverySheet:
    """The sheet of what a pressing made. Raises: NotFound ``sheet.nothing``."""
    by, signed = accepted or {}, signed_off(pressing)
    named = [
        (file.report, _signs(file.report, by.get(file.number, ("", "")), signed))
        for file in pressing.files
        if file.report and file.state == "named"
    ]
    return sheet_of(
        pressing.mix_title, named, _tags_of(pressing.ticket), day=pressing.made_at[:10], pressing=pressing.id
    )


SignOffs = Mapping[tuple[str, str, str], tuple[str, str]]
"""Names and reasons by rule, delivery and brief."""


def signed_off(pressing: StoredPressing) -> SignOffs:
    """The sign-offs of a ticket."""
    rows = [one["bench"].get("signed") or () for one in pressing.ticket.get("mixes") or () if "bench" in one]
    return {
        (one["rule"], line, brief): (one["by"], one["because"])
        for signed in rows
        for one in signed
        for line, brief in product(one["lines"], one["briefs"])
    }


def _signs(report: FileReport, accepted: tuple[str, str], signed: SignOffs) -> dict[str, tuple[str, str]]:
    """Who accepted each finding of a file, by rule: for the file as a whole, or on the ticket."""
    return {
        one.rule: accepted if accepted[0] else signed.get((one.rule, report.line, report.brief), ("", ""))
        for one in report.findings
        if one.verdict == "look"
    }


def _tags_of(ticket: dict[str, Any]) -> dict[str, str]:
    """The tag sheet of a pressing: of its running order, or of its first mix. The oldest rows have none."""
    try:
        document = document_from(ticket)
    except RipePressError:
        return {}
    first = dict(document.mixes[0].bench.tags) if document.mixes else {}
    return {**first, **dict(document.order.tags)} if document.order else first


def common_folder(paths: Sequence[Path]) -> Path:
    """The folder that all of some files lie in."""
    return Path(os.path.commonpath([str(one.parent) for one in paths]))


def sheet_of_folder(folder: Path, progress: Progress = no_progress) -> DeliverySheet:
    """The delivery sheet of all audio in a folder: read, measured, with its tags.

    Raises: NotFound ``sheet.no-folder`` or ``sheet.nothing``; BadInput ``sheet.unreadable`` for files without audio.
    """
    if not folder.is_dir():
        message = f"Folder not found: {quoted(folder)}."
        raise NotFound("sheet.no-folder", message, folder=str(folder))
    paths = sorted(one for one in folder.rglob("*") if one.suffix.lower() in READ_SUFFIXES and one.is_file())
    if not paths:
        message = f"No audio files in {quoted(folder)}."
        raise NotFound("sheet.nothing", message, folder=str(folder))
    files = []
    for at, path in enumerate(paths):
        progress(at, len(paths))
        files.append(sheet_file(report_of_file(path), folder))
    progress(len(paths), len(paths))
    first = files[0].tags
    title = first.get("album") or folder.resolve().name
    contact = {name: first[field] for field, name in CONTACT if first.get(field)}
    return DeliverySheet(title, tuple(files), first.get("album_artist") or first.get("artist") or "", contact=contact)


def report_of_file(path: Path) -> FileReport:
    """What a report says of a file from anywhere: it is read and measured. Raises: BadInput ``sheet.unreadable``."""
    proof = prove(path, loudness=True)
    if proof.unreadable:
        message = f"{quoted(path.name)} cannot be read: {proof.unreadable}"
        raise BadInput("sheet.unreadable", message, path=str(path))
    return report_of_proof(str(path), proof)


def sheet_file(report: FileReport, folder: Path, signs: Mapping[str, tuple[str, str]] | None = None) -> SheetFile:
    """A file of a sheet, from its report, the sign-offs by rule, and what it says in its tags itself."""
    path, by = Path(report.path), signs or {}
    remarks = tuple(Remark(one.rule, one.verdict, one.sentence, *by.get(one.rule, ())) for one in report.findings)
    tags = dict(read_embedded(path, report.sample_rate_hz, report.frames).tags)
    same = (
        "brief", "container", "codec", "sample_rate_hz", "bit_depth", "channels", "frames", "bytes", "sha256", "verdict"
    )  # fmt: skip
    levels = ("sample_peak_dbfs", "true_peak_dbtp", "integrated_lufs")
    return SheetFile(
        path.relative_to(folder).as_posix(), **{name: getattr(report, name) for name in same}, findings=remarks,
        tags=tags, **{name: getattr(report.measured, name) for name in levels},
    )  # fmt: skip


def files_of_sheet(sheet: DeliverySheet, paper: Paper = "A4", keys: Keys | None = None) -> dict[str, bytes]:
    """The four files of a sheet by their names, and where there is a key to sign with, the signature."""
    page, pdf, machines, sums = NAMES
    made = {
        page: write_page(sheet).encode(),
        pdf: write_pdf(sheet, paper),
        machines: (json.dumps(sheet_row(sheet), indent=2, ensure_ascii=False) + "\n").encode(),
        sums: checksums([(one.name, one.sha256) for one in sheet.files]).encode(),
    }
    papers = {name: hashlib.sha256(made[name]).hexdigest() for name in (machines, sums)}
    signature = keys.sign({**{one.name: one.sha256 for one in sheet.files}, **papers}) if keys else None
    if signature:
        made[SIGNATURE] = (json.dumps(signature.row, indent=2, ensure_ascii=False) + "\n").encode()
    return made


def write_sheet(sheet: DeliverySheet, out: Path, paper: Paper = "A4", keys: Keys | None = None) -> list[str]:
    """Writes the four files into a folder, each named only when it is whole.

    Raises: Interrupted ``write.failed``; BadInput ``sheet.out`` where the folder cannot be made.
    """
    try:
        out.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        message = f"Cannot write the sheet to {quoted(out)}: {error.strerror}. Choose another folder."
        raise BadInput("sheet.out", message, folder=str(out)) from error
    made = files_of_sheet(sheet, paper, keys)
    # A signature of an earlier sheet must not lie beside this one.
    (out / SIGNATURE).unlink(missing_ok=True)
    for name, data in made.items():
        write_whole(out / name, data)
    return [str(out / name) for name in made]
