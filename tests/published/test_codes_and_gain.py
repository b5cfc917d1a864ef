"""Codes and gain tags against published rules.

Sources, from memory of the texts: ISO 3901 (ISRC); GS1 General Specifications, with the worked example 6291041500213;
ReplayGain 2.0 (reference −18 LUFS); RFC 7845, section 5.2.1 (reference −23 LUFS, Q7.8).
"""

import math
from dataclasses import replace

import pytest

from ripe_press.core.tags.codes import barcode_problem, check_digit, compact_isrc, isrc_problem
from ripe_press.core.tags.gain import r128_text, replaygain_texts
from support.formats import LOUDNESS


def test_the_check_digit_of_the_worked_example() -> None:
    assert check_digit("629104150021") == 3
    assert barcode_problem("6291041500213") is None
    assert barcode_problem("6291041500214") == "ends in 4. Its check digit is 3"


@pytest.mark.parametrize(
    ("text", "problem"),
    [("96385074", None), ("036000291452", None), ("10614141000415", None), ("629104150021", "ends in 1"),
     ("12345", "5 digits"), ("62910415002١3", "digits only"), ("629104150021X", "digits only")],
)  # fmt: skip
def test_barcodes_of_every_length(text: str, problem: str | None) -> None:
    found = barcode_problem(text)
    assert found is None if problem is None else problem in (found or "")


@pytest.mark.parametrize("text", ["QZWLT2600001", "QZ-WLT-26-00001", "qz-wlt-26-00001", "QZ W1T 26 00001"])
def test_isrcs_that_fit_the_pattern(text: str) -> None:
    assert isrc_problem(text) is None
    assert len(compact_isrc(text)) == 12


@pytest.mark.parametrize("text", ["12WLT2600001", "QZWLT260000", "QZWLT260000A", "QZWLT26000011", "QZ_LT2600001"])
def test_isrcs_that_do_not(text: str) -> None:
    assert isrc_problem(text)


@pytest.mark.parametrize(
    ("lufs", "gain", "r128"),
    [(-9.3, "-8.70 dB", "-3507"), (-14.0, "-4.00 dB", "-2304"), (-23.0, "5.00 dB", "0"), (-30.52, "12.52 dB", "1925")],
)
def test_gain_tags_count_from_their_references(lufs: float, gain: str, r128: str) -> None:
    found = replace(LOUDNESS, integrated_lufs=lufs)
    assert replaygain_texts(found) == {"REPLAYGAIN_TRACK_GAIN": gain, "REPLAYGAIN_TRACK_PEAK": "0.988553"}
    assert r128_text(found) == {"R128_TRACK_GAIN": r128}
    assert float(gain.split(maxsplit=1)[0]) == pytest.approx(int(r128) / 256 + 5, abs=0.005)


def test_silence_has_no_gain() -> None:
    silent = replace(LOUDNESS, integrated_lufs=-math.inf)
    assert replaygain_texts(silent) == r128_text(silent) == {}
