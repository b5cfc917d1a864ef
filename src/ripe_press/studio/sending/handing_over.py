"""Transfers of pressed files and of other files: their facts, and whether they may be sent."""

from collections.abc import Iterable
from dataclasses import asdict
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

from ripe_press.core.formats.capabilities import CAPABILITIES, kinds_of
from ripe_press.core.naming import LABEL_FIELDS, length_label, rate_label
from ripe_press.core.sending.drop_off import DropOff
from ripe_press.core.sending.library import fitness, recording
from ripe_press.core.sending.parcel import Parcel, ParcelState, Reason, plain_line
from ripe_press.core.sheet.file_report import FileReport
from ripe_press.store.parcels import NewParcel
from ripe_press.store.pressings import StoredFile, StoredPressing
from ripe_press.studio.handoff import sheet_file, signed_off


def parcel_of(report: FileReport, title: str = "") -> Parcel:
    """The transfer of a file, from its report; its tags are read from the file.

    Raises: as `sheets.sheet_file`.
    """
    path = Path(report.path)
    about = sheet_file(report, path.parent)
    kinds = kinds_of(about.container, about.codec, False)
    tags = about.tags
    fields = {
        **dict.fromkeys(LABEL_FIELDS, ""), **{name: text for name, text in tags.items() if name in LABEL_FIELDS},
        "title": tags.get("title") or title or path.stem, "brief": about.brief, "year": tags.get("date", "")[:4],
        "track": tags.get("track", "").partition("/")[0], "disc": tags.get("disc", "").partition("/")[0],
        "rate": rate_label(about.sample_rate_hz), "depth": f"{about.bit_depth}b" if about.bit_depth else "",
        "channels": {1: "mono", 2: "stereo"}.get(about.channels, f"{about.channels} channels"),
        "format": CAPABILITIES[kinds[0]].title if kinds else about.container, "mix": path.stem,
        "length": length_label(about.frames, about.sample_rate_hz), "pressed": f"{datetime.now(UTC):%Y-%m-%d}",
    }  # fmt: skip
    fields["artist"] = fields["artist"] or fields["album_artist"]
    now = datetime.now(UTC).isoformat(timespec="seconds")
    return Parcel(str(path), plain_line(path.name), about.sha256, about.bytes, now, fields, asdict(about))


def handed_over(
    report: FileReport,
    drop_offs: Iterable[DropOff],
    *,
    pressing: StoredPressing | None = None,
    number: int | None = None,
    accepted_by: str = "",
    because: str = "",
) -> list[NewParcel]:
    """A transfer of a file to each drop-off; a blocked file is rejected here, with the reason."""
    parcel = asdict(parcel_of(report, pressing.mix_title if pressing else ""))
    if not accepted_by and pressing:
        accepted_by, because = _signed(report, pressing)
    state = may_leave(report, accepted_by)
    stops = report.sentences("stop")
    sentence = {"refused": f"Not sent: {' '.join(stops)}", "asks": " ".join(report.broken)}.get(state, "")
    reasons = [asdict(Reason("other", one)) for one in stops] if state == "refused" else []
    return [
        NewParcel(
            asdict(one), one.word, parcel, report.verdict, state, mix_id=pressing.mix_id if pressing else None,
            pressing_id=pressing.id if pressing else None, file_number=number, line=report.line,
            sentence=sentence, reasons=reasons, accepted_by=accepted_by.strip(), because=because.strip(),
        )
        for one in drop_offs
    ]  # fmt: skip


def _signed(report: FileReport, pressing: StoredPressing) -> tuple[str, str]:
    """Who signed off all broken requirements of a file on its ticket, and why; empty where one is left."""
    signed = signed_off(pressing)
    found = [signed.get((one.rule, report.line, report.brief)) for one in report.findings if one.breaks_requirement]
    return next(iter(found), None) or ("", "") if all(found) else ("", "")


def not_handed_over(
    report: FileReport, drop_offs: Iterable[DropOff], why: str, *, pressing: StoredPressing, number: int
) -> list[NewParcel]:
    """Failed transfers for an unreadable file: it was to be sent, and is recorded as not sent."""
    path = Path(report.path)
    now = datetime.now(UTC).isoformat(timespec="seconds")
    parcel = asdict(Parcel(str(path), plain_line(path.name), report.sha256, report.bytes, now))
    return [
        NewParcel(
            asdict(one), one.word, parcel, report.verdict, "failed", mix_id=pressing.mix_id,
            pressing_id=pressing.id, file_number=number, line=report.line, sentence=why,
        )
        for one in drop_offs
    ]  # fmt: skip


def fitting_copies(parcels: Iterable[NewParcel]) -> list[NewParcel]:
    """The transfers without those that would bring a music library a second copy of a recording."""
    kept: dict[tuple[object, ...], NewParcel] = {}
    for at, one in enumerate(parcels):
        about, fields = one.parcel.get("about") or {}, one.parcel.get("fields") or {}
        single = one.drop_off["kind"] != "library" or not about or one.state == "refused"
        key = (at,) if single else (one.place, *recording(fields, about))
        other = kept.get(key)
        if other is None or _fitness(one) > _fitness(other):
            kept[key] = one
    return list(kept.values())


def _fitness(one: NewParcel) -> tuple[Any, ...]:
    return fitness(one.parcel["about"], one.verdict == "ready")


def may_leave(report: FileReport, accepted_by: str) -> ParcelState:
    """The first state of a transfer: a blocked file does not leave, a broken requirement asks who accepts it."""
    if report.verdict == "stop":
        return "refused"
    return "waiting" if not report.broken or accepted_by.strip() else "asks"


def named_files(pressing: StoredPressing, numbers: Iterable[int] = ()) -> list[tuple[StoredFile, FileReport]]:
    """The files of a pressing that are there to be sent, with their reports: all of them, or those of some numbers."""
    wanted = set(numbers)
    return [
        (one, one.report)
        for one in pressing.files
        if one.state == "named" and one.report and (not wanted or one.number in wanted) and Path(one.path).is_file()
    ]
