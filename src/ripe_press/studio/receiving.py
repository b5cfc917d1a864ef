"""Files from anywhere, held against a brief: single ones, or a folder with its checksums and its delivery sheet."""

import hashlib
import json
from collections.abc import Callable, Iterator, Sequence
from pathlib import Path
from typing import Any

from ripe_press.core.errors import BadInput, NotFound
from ripe_press.core.proof.read_back import Proof, prove
from ripe_press.core.rules.received import hold_file, measures_needed
from ripe_press.core.wishes.brief import Brief
from ripe_press.core.wishes.document import brief_from_row
from ripe_press.studio.delivery_sheet import Said, departures, read_sheet
from ripe_press.studio.press_now import briefs_here

LISTS = ("checksums.sha256", "SHA256SUMS")
"""Names of lists of checksums, as `sha256sum` writes and reads them."""
BESIDE = (".json", ".html", ".pdf", ".txt", ".sha256", ".png", ".jpg", ".jpeg", ".cue")
"""What lies beside sound in a delivery, and is no sound."""
_MOST_BYTES = 1 << 20
_SUM, _SHEET = "checksum", "delivery_sheet"


def check_files(
    paths: Sequence[Path], brief: str, told: Callable[[int, int], None] = lambda _done, _total: None
) -> dict[str, Any]:
    """Holds files, and all sound in folders, against a brief by its id or from a file.

    Where a folder has a list of checksums or a delivery sheet, every file of it is held against those too, and what is
    missing is told. Raises: NotFound for a brief or a file that is not there; BadInput for a brief or a sheet that
    cannot be read.
    """
    wanted = _brief(brief)
    files = list(_expanded(paths))
    reports = []
    for at, (path, listed, said) in enumerate(files):
        told(at, len(files))
        reports.append(_checked(path, listed, said, wanted))
    told(len(files), len(files))
    return {"brief": wanted.id, "files": reports}


def _brief(wish: str) -> Brief:
    known = briefs_here()
    if wish in known:
        return known[wish]
    path = Path(wish)
    if not path.is_file():
        message = f"There is no brief {wish!r}, and no file of that name. `ripe-press briefs` lists them."
        raise NotFound("brief.unknown", message, brief=wish)
    try:
        row = json.loads(path.read_bytes()[:_MOST_BYTES])
    except ValueError as error:
        message = f"{path.name!r} is no brief: it is not JSON ({error})."
        raise BadInput("brief.unreadable", message, path=wish) from error
    return brief_from_row(row)


def _expanded(paths: Sequence[Path]) -> Iterator[tuple[Path, str | None, Said | None]]:
    """Every file that is to be looked at, the checksum that a list has for it, and what a delivery sheet says."""
    for path in paths:
        if not path.exists():
            message = f"{str(path)!r} is not there."
            raise NotFound("check.missing", message, path=str(path))
        if not path.is_dir():
            yield path, None, None
            continue
        listed, sheet = _listed(path), read_sheet(path)
        there = {
            one for one in path.rglob("*") if one.is_file() and one.name not in LISTS and not one.name.startswith(".")
        }
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


def _checked(path: Path, listed: str | None, said: Said | None, brief: Brief) -> dict[str, Any]:
    checks: list[dict[str, Any]] = []
    if not path.is_file():
        where = "the list of checksums" if listed else "the delivery sheet"
        sentence = f"{path.name!r} stands in {where}, and is not there."
        checks.append(_row(_SUM if listed else _SHEET, listed or "", "missing", False, sentence))
        return {"path": str(path), "verdict": "stop", "checks": checks}
    if path.suffix.lower() in BESIDE:
        digest = hashlib.sha256(path.read_bytes()).hexdigest()
        checks.append(_sum(path, listed or "", digest))
        return {"path": str(path), "verdict": _verdict(checks), "checks": checks}
    proof = prove(path, loudness=measures_needed(brief), speech=brief.require.of_speech)
    if listed is not None:
        checks.append(_sum(path, listed, proof.sha256))
    if said is not None:
        checks.append(_as_said(path, said, proof))
    held = list(hold_file(brief, proof))
    checks += [_row(one.rule, one.asked, one.found, one.holds, one.sentence(brief.title)) for one in held]
    stops = any(one.stops for one in held)
    return {"path": str(path), "verdict": "stop" if stops else _verdict(checks), "checks": checks}


def _as_said(path: Path, said: Said, proof: Proof) -> dict[str, Any]:
    if not said:
        sentence = f"{path.name!r} is there, and does not stand on the delivery sheet."
        return _row(_SHEET, "a line on the sheet", "none", False, sentence)
    wrong = departures(said, proof)
    if not wrong:
        return _row(_SHEET, "as its sheet says", "as its sheet says", True, "It is what the delivery sheet says of it.")
    told = ", ".join(f"{fact} {asked} and not {found}" for fact, asked, found in wrong)
    asked, found = ("; ".join(f"{one[0]} {one[part]}" for one in wrong) for part in (1, 2))
    return _row(_SHEET, asked, found, False, f"The delivery sheet says of {path.name!r}: {told}. Ask for it again.")


def _sum(path: Path, listed: str, digest: str) -> dict[str, Any]:
    if not listed:
        sentence = f"{path.name!r} is there, and stands in no list of checksums."
    elif listed == digest:
        sentence = "The bytes are those of the list of checksums."
    else:
        sentence = f"The bytes of {path.name!r} are others than those of the list of checksums: ask for it again."
    return _row(_SUM, listed or "a line in the list", digest, listed == digest, sentence)


def _row(check: str, asked: str, found: str, holds: bool, sentence: str) -> dict[str, Any]:
    return {"id": check, "asked": asked, "found": found, "holds": holds, "sentence": sentence}


def _verdict(checks: Sequence[dict[str, Any]]) -> str:
    wrong = [one["id"] for one in checks if not one["holds"]]
    return "stop" if {_SUM, _SHEET} & set(wrong) else "look" if wrong else "ready"
