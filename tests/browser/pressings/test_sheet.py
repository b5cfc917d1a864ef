"""The delivery sheet of a pressing in the browser: read, and printed by it on A4 and Letter."""

import io
from pathlib import Path

import numpy as np
import pypdfium2
from playwright.sync_api import Page, expect

from support.pages import on_the_bench
from support.signals import noise, write

RATE = 44_100


def test_it_is_read_and_prints_on_either_paper(page: Page, tmp_path: Path) -> None:
    path = write(tmp_path / "Spillway.wav", noise(RATE * 2), RATE, "PCM_24")
    on_the_bench(page, path)
    page.get_by_role("button", name="Press 2 files").click()
    page.get_by_role("link", name="Open proof").click()
    with page.context.expect_page() as opened:
        page.get_by_role("link", name="HTML").click()
    sheet = opened.value
    expect(sheet.get_by_role("heading", name="Spillway")).to_be_visible()
    expect(sheet.get_by_role("cell", name="Spillway 44k1 16b.wav").first).to_be_visible()
    for paper, size in (("A4", (842, 595)), ("Letter", (792, 612))):
        printed = pypdfium2.PdfDocument(io.BytesIO(sheet.pdf(format=paper, landscape=True, prefer_css_page_size=False)))
        assert np.allclose(printed[0].get_size(), size, atol=2)
        words = printed[0].get_textpage().get_text_range()
        assert "Spillway archive" in words and "Levels" in words and len(printed) <= 2
        # Nothing is cut off at the edge: the last column is there in full.
        assert ("Verdict" in words and "Ready" in words) or "Review" in words
    address = page.get_by_role("link", name="PDF").get_attribute("href") or ""
    pdf = page.request.get(address)
    assert pdf.headers["content-type"] == "application/pdf" and pdf.body().startswith(b"%PDF")
    sums = page.request.get(address.replace("delivery-sheet.pdf", "checksums.sha256")).text()
    assert [line.split("  ")[1] for line in sums.splitlines()] == [
        "Spillway 44k1 16b.wav",
        "archive/Spillway archive 44k1 32f.wav",
    ]
