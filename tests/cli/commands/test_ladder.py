"""`ripe-press ladder`, as a command."""

import json
from pathlib import Path

from click.testing import CliRunner

from ripe_press.cli.app import app
from ripe_press.core.formats.capabilities import CAPABILITIES
from support.signals import noise, write


def test_the_report_and_the_table(tmp_path: Path) -> None:
    mix = write(tmp_path / "Millrace.wav", noise(4 * 44_100, 2, 1, 0.05), 44_100, "PCM_16")
    result = CliRunner().invoke(app, ["ladder", str(mix), "--to", "1.5", "--json"])
    report = json.loads(result.stdout)
    assert len(report["rungs"]) == sum(len(can.ladder) for can in CAPABILITIES.values())
    wanted = {"codec", "kbps", "bytes", "nmr_db", "decoded_peak_dbtp", "bandwidth_hz"}
    assert all(wanted <= set(rung) for rung in report["rungs"])
    smallest = report["smallest_transparent"]
    assert result.exit_code == (0 if smallest else 1)
    if smallest:
        assert smallest in report["rungs"] and smallest["whole"]
        assert smallest["codec"] in report["sentence"] and "Confirm by ear" in report["sentence"]
    assert [one["why"] for one in report["passages"]] == ["between"]
    said = CliRunner().invoke(app, ["ladder", str(mix), "--to", "1.5"])
    assert said.exit_code == result.exit_code and len(said.output.splitlines()) == len(report["rungs"]) + 2


def test_a_file_that_is_none(tmp_path: Path) -> None:
    result = CliRunner().invoke(app, ["ladder", str(tmp_path / "gone.wav")])
    assert result.exit_code != 0 and "gone.wav" in str(result.exception)
