"""Checks of received files against a brief: single files, or a folder with its checksums and its delivery sheet."""

import hashlib
import json
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from pathlib import Path

from ripe_press.core.blocks import Progress, ShouldStop, never, no_progress
from ripe_press.core.errors import BadInput, Cancelled, NotFound
from ripe_press.core.proof.read_back import Proof, prove
from ripe_press.core.requests.brief import Brief
from ripe_press.core.requests.document import brief_from_row
from ripe_press.core.rules.checks.received import hold_file, measures_needed
from ripe_press.core.rules.findings import Verdict
from ripe_press.core.sheet.signature import NAME as SIGNATURE, fingerprint, holds, keys_before, read_signature
from ripe_press.core.words import quoted
from ripe_press.studio.briefs import briefs_here
from ripe_press.studio.data_folder import data_folder
from ripe_press.studio.handoff import Keys
from ripe_press.studio.proof.received_sheet import NAME as SHEET, Said, departures, read_sheet

LISTS = ("checksums.sha256", "SHA256SUMS")
"""Names of lists of checksums, as `sha256sum` writes and reads them."""
BESIDE = (".json", ".html", ".pdf", ".txt", ".sha256", ".png", ".jpg", ".jpeg", ".cue")
"""Files of a delivery that are not audio."""
_MOST_BYTES = 1 << 20
_SUM, _SHEET, _SIGNED = "checksum", "delivery_sheet", "signature"


@dataclass(frozen=True, slots=True)
class FileCheck:
    """A comparison: the required value, the value in the file, and the result as a sentence."""

    id: str
    asked: str
    found: str
    holds: bool
    sentence: str


@dataclass(frozen=True, slots=True)
class CheckedFile:
    """A received file with everything that was compared."""

    path: str
    verdict: Verdict
    checks: tuple[FileCheck, ...]


@dataclass(frozen=True, slots=True)
class CheckResult:
    """All files that were checked against a brief."""

    brief: str
    files: tuple[CheckedFile, ...]

    @property
    def all_ready(self) -> bool:
        """Whether there are files and every one of them is ready."""
        return bool(self.files) and all(one.verdict == "ready" for one in self.files)


def check_files(
    paths: Sequence[Path], brief: str, progress: Progress = no_progress, should_stop: ShouldStop = never
) -> CheckResult:
    """Holds files, and all sound in folders, against a brief by its id or from a file.

    Where a folder has a checksum list or a delivery sheet, every file of it is compared with those too, and missing
    files are reported. Raises: NotFound for a brief or a file that is not there; BadInput for a brief or a sheet that
    cannot be read; Cancelled ``check.cancelled``.
    """
    wanted = _brief(brief)
    files = list(_expanded(paths))
    reports = []
    known = Keys(data_folder().root).known()
    signatures = {path: _signature(path, known) for path in paths if (path / SIGNATURE).is_file()}
    reports += [one.report for one in signatures.values()]
    for at, (path, listed, said) in enumerate(files):
        if should_stop():
            message = "Check cancelled."
            raise Cancelled("check.cancelled", message)
        progress(at, len(files))
        signed = next((one for folder, one in signatures.items() if path.is_relative_to(folder)), None)
        reports.append(_checked(path, listed, said, wanted, signed))
    progress(len(files), len(files))
    return CheckResult(wanted.id, tuple(reports))


def _brief(wish: str) -> Brief:
    known = briefs_here()
    if wish in known:
        return known[wish]
    path = Path(wish)
    if not path.is_file():
        message = f"Unknown brief {quoted(wish)}. `ripe-press briefs` lists them."
        raise NotFound("brief.unknown", message, brief=wish)
    try:
        row = json.loads(path.read_bytes()[:_MOST_BYTES])
    except ValueError as error:
        message = f"{quoted(path.name)} is not a brief (invalid JSON: {error})."
        raise BadInput("brief.unreadable", message, path=wish) from error
    return brief_from_row(row)


def _expanded(paths: Sequence[Path]) -> Iterator[tuple[Path, str | None, Said | None]]:
    """Every file that is to be looked at, the checksum that a list has for it, and what a delivery sheet says."""
    for path in paths:
        if not path.exists():
            message = f"{quoted(path)} not found."
            raise NotFound("check.missing", message, path=str(path))
        if not path.is_dir():
            yield path, None, None
            continue
        listed, sheet = _listed(path), read_sheet(path)
        there = {
            one for one in path.rglob("*") if one.is_file() and one.name not in LISTS and not one.name.startswith(".")
        } - {path / SIGNATURE}
        for one in sorted(there | set(listed) | set(sheet or ())):
            if one in listed or one in (sheet or ()) or one.suffix.lower() not in BESIDE:
                sound = one.suffix.lower() not in BESIDE
                said = None if sheet is None or not sound else sheet.get(one, {})
                yield one, listed.get(one, "" if listed else None), said


def _listed(folder: Path) -> dict[Path, str]:
    found: dict[Path, str] = {}
    for name in LISTS:
        listing = folder / name
        if not listing.is_file():
            continue
        for line in listing.read_text(encoding="utf-8", errors="replace").splitlines():
            digest, _, file = line.partition(" ")
            if len(digest) == 64 and file:
                found[folder / file.lstrip(" *")] = digest.lower()
    return found


@dataclass(frozen=True, slots=True)
class _Signed:
    """The signature of a folder: its report, and the files it covers; none where it is invalid."""

    folder: Path
    report: CheckedFile
    files: Mapping[str, str]
    by: str

    def check(self, path: Path, digest: str) -> FileCheck | None:
        """Whether a file is the one that was signed; None where nothing of it was."""
        asked = self.files.get(path.relative_to(self.folder).as_posix())
        if asked is None:
            return None
        sentence = f"Identical with the file that {quoted(self.by)} signed."
        if asked != digest:
            sentence = f"{quoted(path.name)} differs from the file that {quoted(self.by)} signed. Ask for it again."
        return FileCheck(_SIGNED, asked, digest, asked == digest, sentence)


def _signature(folder: Path, known: Mapping[str, str]) -> _Signed:
    path = folder / SIGNATURE
    try:
        with path.open("rb") as file:
            found = read_signature(json.loads(file.read(_MOST_BYTES)))
    except (OSError, ValueError, RecursionError, BadInput):
        sentence = "Cannot read the signature. Ask the sender for a new one."
        return _Signed(folder, _of_signature(path, "a signature", "none", False, sentence, "stop"), {}, "")
    if not holds(found):
        sentence = "The signature does not match: the list was changed or forged. Ask for it again."
        return _Signed(
            folder, _of_signature(path, "matching text", "another", False, sentence, "stop"), {}, found.signed_by
        )
    for name in (SHEET, *LISTS):
        digest = found.files.get(name)
        other = folder / name
        if digest and (not other.is_file() or hashlib.sha256(other.read_bytes()).hexdigest() != digest):
            sentence = f"{quoted(name)} is missing or differs from the signed one. Ask for it again."
            report = _of_signature(path, digest, "another", False, sentence, "stop")
            return _Signed(folder, report, found.files, found.signed_by)
    mark = fingerprint(found.key)
    by = next((known[one] for one in (found.key, *keys_before(found)) if one in known), "")
    if by:
        sentence = f"Signed by {quoted(by)} on {found.signed_at[:10]}, key known ({mark})."
        return _Signed(folder, _of_signature(path, "a known key", mark, True, sentence, "ready"), found.files, by)
    sentence = (
        f"Signed on {found.signed_at[:10]} as {quoted(found.signed_by)}, unknown key {mark}. "
        f"Confirm the fingerprint by phone, then run `ripe-press key trust {found.key} --name NAME`."
    )
    return _Signed(
        folder, _of_signature(path, "a known key", mark, False, sentence, "look"), found.files, found.signed_by
    )


def _of_signature(path: Path, asked: str, found: str, holds: bool, sentence: str, verdict: Verdict) -> CheckedFile:
    return CheckedFile(str(path), verdict, (FileCheck(_SIGNED, asked, found, holds, sentence),))


def _checked(path: Path, listed: str | None, said: Said | None, brief: Brief, signed: _Signed | None) -> CheckedFile:
    checks: list[FileCheck] = []
    if not path.is_file():
        where = "the checksum list" if listed else "the delivery sheet"
        sentence = f"{quoted(path.name)} is listed in {where} but missing. Ask for it again."
        checks.append(FileCheck(_SUM if listed else _SHEET, listed or "", "missing", False, sentence))
        return CheckedFile(str(path), "stop", tuple(checks))
    if path.suffix.lower() in BESIDE:
        digest = hashlib.sha256(path.read_bytes()).hexdigest()
        checks.append(_sum(path, listed or "", digest))
        checks += _by_signature(signed, path, digest)
        return CheckedFile(str(path), _verdict(checks), tuple(checks))
    proof = prove(path, loudness=measures_needed(brief), speech=brief.require.of_speech)
    if listed is not None:
        checks.append(_sum(path, listed, proof.sha256))
    checks += _by_signature(signed, path, proof.sha256)
    if said is not None:
        checks.append(_as_said(path, said, proof))
    held = list(hold_file(brief, proof))
    checks += [FileCheck(one.rule, one.asked, one.found, one.holds, one.sentence(brief.title)) for one in held]
    stops = any(one.stops for one in held)
    return CheckedFile(str(path), "stop" if stops else _verdict(checks), tuple(checks))


def _by_signature(signed: _Signed | None, path: Path, digest: str) -> list[FileCheck]:
    found = signed.check(path, digest) if signed else None
    return [found] if found else []


def _as_said(path: Path, said: Said, proof: Proof) -> FileCheck:
    if not said:
        sentence = f"{quoted(path.name)} is not on the delivery sheet."
        return FileCheck(_SHEET, "listed on the sheet", "none", False, sentence)
    wrong = departures(said, proof)
    if not wrong:
        return FileCheck(_SHEET, "as on the sheet", "as on the sheet", True, "Matches the delivery sheet.")
    differences = ", ".join(f"{fact} {found}, expected {asked}" for fact, asked, found in wrong)
    asked, found = ("; ".join(f"{one[0]} {one[part]}" for one in wrong) for part in (1, 2))
    return FileCheck(
        _SHEET,
        asked,
        found,
        False,
        f"{quoted(path.name)} differs from the delivery sheet: {differences}. Ask for it again.",
    )


def _sum(path: Path, listed: str, digest: str) -> FileCheck:
    if not listed:
        sentence = f"{quoted(path.name)} is in no checksum list."
    elif listed == digest:
        sentence = "Matches the checksum list."
    else:
        sentence = f"{quoted(path.name)} differs from the checksum list. Ask for it again."
    return FileCheck(_SUM, listed or "listed in the checksums", digest, listed == digest, sentence)


def _verdict(checks: Sequence[FileCheck]) -> Verdict:
    wrong = [one.id for one in checks if not one.holds]
    return "stop" if {_SUM, _SHEET, _SIGNED} & set(wrong) else "look" if wrong else "ready"
