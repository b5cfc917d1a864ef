"""The delivery sheet: page, PDF, JSON and checksums of files that the test made up."""

import hashlib
import io
import json
import subprocess
from dataclasses import replace
from pathlib import Path

import pypdfium2
import pytest

from ripe_press.core.paper import page, table
from ripe_press.core.sheet.contents import NAMES, DeliverySheet, Remark, SheetFile, checksums, sheet_row
from ripe_press.core.sheet.page import summary, tag_names, write_page
from ripe_press.core.sheet.printed import MISSING, write_pdf

TAGS = {"title": "Millrace № Ω Ж", "artist": "The Sluicekeepers", "isrc": "QZ-WLT-26-00001", "album": "Weirs"}
FILE = SheetFile(
    "CD/Millrace <b>&.wav", "audio-cd", "wav", "pcm", 44_100, 16, 2, 6_676_740, 26_707_004, "ab" * 32, "look",
    (Remark("clipped", "look", "The mix clips.", "Ada Weir", "as the band wants it"),), -0.1, -0.0, -14.3, TAGS,
)  # fmt: skip
LOSSY = replace(
    FILE, name="Millrace.mp3", codec="mp3", container="mp3", bit_depth=None, findings=(), verdict="ready",
    integrated_lufs=None, true_peak_dbtp=None, tags={**TAGS, "album": "Other"},
)  # fmt: skip
SHEET = DeliverySheet(
    "Nine Weirs",
    (FILE, LOSSY),
    "The Sluicekeepers",
    "2026-11-27",
    7,
    {"Name": "Ada Weir", "Mail": "a@weir.example"},
)


def test_the_page_says_everything_and_takes_nothing_for_markup() -> None:
    shown = write_page(SHEET)
    for words in (
        "CD/Millrace &lt;b&gt;&amp;.wav", "2:31.400", "44.1 kHz, 16-bit, stereo", "44.1 kHz, MP3, stereo",
        "−14.3 LUFS, 0.0 dBTP, −0.1 dBFS", "QZ-WLT-26-00001", "signed off by Ada Weir: as the band wants it", "ab" * 32,
        "2 files · 5:03 · pressed 2026-11-27 · pressing no. 7", "Mail: a@weir.example",
    ):  # fmt: skip
        assert words in shown, words
    assert "<b>&" not in shown and "http" not in shown
    assert tag_names(SHEET) == ["title", "artist", "album"]
    assert summary(replace(SHEET, day="", pressing=None)) == "2 files · 5:03"


def test_the_pdf_says_the_same_and_is_the_same_twice() -> None:
    made = write_pdf(SHEET)
    assert made == write_pdf(SHEET) != write_pdf(SHEET, "Letter")
    document = pypdfium2.PdfDocument(io.BytesIO(made))
    words = " ".join(document[at].get_textpage().get_text_range() for at in range(len(document))).replace("\r\n", " ")
    for one in ("Nine Weirs", "Millrace <b>&.wav", "№ Ω Ж", "signed off by Ada Weir", "QZ-WLT-26-00001", "ab" * 16):
        assert one in words, one
    assert [round(one) for one in document[0].get_size()] == [842, 595]
    letter = pypdfium2.PdfDocument(io.BytesIO(write_pdf(SHEET, "Letter")))
    assert [round(one) for one in letter[0].get_size()] == [792, 612]


def test_a_letter_that_no_font_has_is_shown_to_be_missing() -> None:
    made = pypdfium2.PdfDocument(io.BytesIO(write_pdf(replace(SHEET, title="Weir 日本 𝄞"))))
    assert f"Weir {MISSING * 2} {MISSING}" in made[0].get_textpage().get_text_range()


def test_many_files_go_over_pages_with_the_head_on_each() -> None:
    many = replace(SHEET, files=tuple(replace(FILE, name=f"{at:03} long name of a file.wav") for at in range(120)))
    document = pypdfium2.PdfDocument(io.BytesIO(write_pdf(many)))
    assert len(document) > 8
    assert "Levels" in document[2].get_textpage().get_text_range()


def test_machines_read_it() -> None:
    row = json.loads(json.dumps(sheet_row(SHEET)))
    first = row["files"][0]
    assert row["version"] == 1 and first["sha256"] == "ab" * 32 and first["tags"]["isrc"] == "QZ-WLT-26-00001"
    assert first["findings"] == [
        {
            "rule": "clipped", "verdict": "look", "sentence": "The mix clips.", "accepted_by": "Ada Weir",
            "reason": "as the band wants it",
        }
    ]  # fmt: skip
    assert NAMES[2] == "delivery-sheet.json"


def checked_by_coreutils(folder: Path) -> int:
    words = ["sha256sum", "-c", "--strict", NAMES[3]]
    return subprocess.run(words, cwd=folder, capture_output=True, check=False).returncode


@pytest.mark.parametrize("name", ["plain.wav", "two words  é.wav", "back\\slash.wav", "new\nline.wav", "-dash.wav"])
def test_coreutils_accept_the_checksums(tmp_path: Path, name: str) -> None:
    (tmp_path / name).write_bytes(b"sound")
    digest = hashlib.sha256(b"sound").hexdigest()
    (tmp_path / NAMES[3]).write_text(checksums([(name, digest)]))
    assert checked_by_coreutils(tmp_path) == 0
    (tmp_path / name).write_bytes(b"other")
    assert checked_by_coreutils(tmp_path) == 1


def test_paper_says_its_size() -> None:
    assert "@page { size: A4 landscape;" in page("A", "") and "@page { size: landscape;" in page("A", "", "landscape")
    head = '<thead><tr><th class="n">A&lt;</th></tr></thead>'
    assert (
        table([("A<", "n")], [[("b&", "")]]) == f'<table>{head}<tbody><tr><td class="">b&amp;</td></tr></tbody></table>'
    )
