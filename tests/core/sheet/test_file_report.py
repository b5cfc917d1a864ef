import json

from ripe_press.core.requests.delivery import Changes
from ripe_press.core.requests.making import LevelRequest
from ripe_press.core.rules.findings import Check, Finding, Remedy
from ripe_press.core.sheet.file_report import FileReport, report_from_row, report_row
from ripe_press.core.timeline import TempoChange, TempoMap

REMEDY = Remedy(
    "Set", 1, 2, tempo=TempoMap((TempoChange(1, 96.0),), 7),
    changes=Changes(level=LevelRequest("peak", -1.0), tags=(("title", "Weir"),), sends_to=("Headrace",)),
)  # fmt: skip


def test_a_report_is_the_same_after_the_history() -> None:
    report = FileReport(
        path="Weir.wav", findings=(Finding("dead_air", "look", "Silent.", 5, REMEDY),), checks=(Check("a", "b", "c"),)
    )
    assert report_from_row(json.loads(json.dumps(report_row(report)))) == report


def test_reports_of_older_versions_have_their_checks() -> None:
    old = {"path": "Weir.wav", "checks": [{"id": None, "check": "Length", "found": "1 s"}], "colour": "red"}
    assert report_from_row(old).checks == (Check("", "Length", "1 s"),)
    named = {"path": "Weir.wav", "checks": [{"id": "rate_as_asked", "check": "Rate", "found": "48 kHz"}]}
    assert report_from_row(named).checks == (Check("rate_as_asked", "Rate", "48 kHz"),)
