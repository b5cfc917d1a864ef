"""Formats, tag sheets and label patterns on the real page."""

import io
import json
import re
from pathlib import Path

import numpy as np
import pytest
import soundfile
import tinytag
from PIL import Image
from playwright.sync_api import Locator, Page, expect

from support.pages import choose, on_the_bench, press_and_see, station
from support.signals import noise, write

RATE = 48_000


@pytest.fixture(scope="module")
def towpath(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """Eight seconds of noise at 48 kHz, 24 bits."""
    swell = (0.3 + 0.7 * np.sin(np.linspace(0, 9, RATE * 8)) ** 2)[:, None]
    return write(
        tmp_path_factory.mktemp("mixes") / "Towpath.wav", noise(RATE * 8, level=0.08, seed=8) * swell, RATE, "PCM_24"
    )


@pytest.fixture
def bench(page: Page, towpath: Path) -> Page:
    ticket = [{"id": "d1", "brief": "phone-and-car", "range_id": "r1"}]
    whole = {"ranges": [{"id": "r1", "start_frame": 0, "end_frame": RATE * 8}], "ticket": ticket, "tags": []}
    on_the_bench(page, towpath, **whole)
    expect(page.get_by_role("button", name="Press 1 file")).to_be_visible()
    return page


def panel(page: Page) -> Locator:
    return page.get_by_role("region", name="Delivery")


def picture() -> bytes:
    out = io.BytesIO()
    Image.new("RGB", (2000, 2000), (116, 48, 90)).save(out, "PNG")
    return out.getvalue()


def test_codec_shows_its_effect_on_this_mix(bench: Page) -> None:
    bench.get_by_role("button", name=re.compile("^MP3 320k")).click()
    expect(panel(bench)).to_contain_text("4.4 times smaller")
    expect(panel(bench).get_by_label("Spectrum of the mix and the coding error")).to_be_visible(timeout=30_000)
    expect(panel(bench)).to_contain_text("20.0 kHz (−3 dB)", timeout=30_000)
    expect(panel(bench)).to_contain_text("Coding error below the mix")
    choose(bench, "Format", "Bit rate", "128 kbit/s")
    expect(panel(bench)).to_contain_text("16.5 kHz (−3 dB)", timeout=30_000)
    expect(panel(bench)).to_contain_text("Phone and car requires min 192 kbit/s; this file: 128")
    bench.get_by_role("button", name="Undo").click()
    choose(bench, "Format", "Mode", "Variable")
    expect(panel(bench).get_by_text("10 of 10", exact=True)).to_be_visible()
    choose(bench, "Format", "Format", "Ogg Opus")
    expect(bench.get_by_role("button", name=re.compile("^Ogg Opus 160k"))).to_be_visible()
    expect(bench.get_by_role("button", name=re.compile("^48 kHz kept"))).to_be_visible()
    choose(bench, "Format", "Format", "FLAC")
    expect(panel(bench).get_by_text("Size (from test passages)")).to_be_visible(timeout=30_000)


def test_a_missing_tag_leads_to_its_field_and_the_file_carries_it(bench: Page) -> None:
    bar = panel(bench).get_by_role("list", name="Findings of this delivery")
    expect(bar).to_contain_text("Phone and car requires title")
    bar.get_by_role("button", name="Edit field").first.click()
    title = panel(bench).get_by_label("Title", exact=True)
    expect(title).to_be_focused()
    title.fill("Towpath é")
    title.press("Enter")
    expect(bar).to_contain_text("requires artist")
    artist = panel(bench).get_by_label("Artist", exact=True)
    artist.fill("The Sluicekeepers")
    artist.press("Enter")
    expect(bar).to_have_count(0)
    isrc = panel(bench).get_by_label("ISRC", exact=True)
    isrc.fill("QZ-WLT-26")
    isrc.press("Enter")
    expect(panel(bench)).to_contain_text("Use 12")
    isrc.fill("QZ-WLT-26-00001")
    isrc.press("Enter")
    expect(panel(bench)).to_contain_text("written as QZWLT2600001")
    panel(bench).get_by_test_id("cover-chooser").set_input_files(
        {"name": "cover.png", "mimeType": "image/png", "buffer": picture()}
    )
    expect(panel(bench)).to_contain_text("to 1600 × 1600")
    panel(bench).get_by_text("This file only").click()
    title = panel(bench).get_by_label("Title", exact=True)
    title.fill("Towpath, for the car")
    title.press("Enter")
    # An unchanged typed text does not override another value.
    title.fill("Towpath, for the car ")
    title.press("Enter")
    panel(bench).get_by_role("button", name="Reset to tag sheet: Title").click()
    expect(title).to_have_value("Towpath é")
    title.fill("Towpath, for the car")
    title.press("Enter")
    expect(panel(bench).get_by_role("button", name="Reset to tag sheet: Title")).to_be_visible()
    expect(bench.get_by_role("button", name=re.compile(r"Towpath, for the car\.mp3"))).to_be_visible()
    press_and_see(bench, "Press 1 file")
    file = bench.get_by_role("article", name=re.compile("Towpath, for the car.*mp3"))
    expect(file).to_contain_text("3 fields, cover verified")
    with bench.expect_download() as caught:
        file.get_by_role("link", name="Download").click()
    target = Path(caught.value.path()).with_suffix(".mp3")
    Path(caught.value.path()).rename(target)
    found = tinytag.TinyTag.get(target, image=True)
    assert (found.title, found.artist) == ("Towpath, for the car", "The Sluicekeepers")
    assert found.images.front_cover is not None
    assert soundfile.info(target).frames == 8 * 44_100


def test_names_are_seen_as_they_are_typed_and_patterns_are_kept(bench: Page) -> None:
    station(bench, "Name")
    pattern = panel(bench).get_by_label("Label pattern", exact=True)
    names = panel(bench).get_by_role("list", name="Names with this pattern")
    pattern.fill("{colour}")
    expect(panel(bench).get_by_role("alert")).to_contain_text("Unknown label pattern field")
    pattern.fill("{format}/{number} {title} {depth}")
    expect(names).to_contain_text("MP3/01 Towpath 320k.mp3")
    pattern.press("Enter")
    choose(bench, "Name", "Case of the name", "Lower case")
    expect(names).to_contain_text("mp3/01 towpath 320k.mp3")
    panel(bench).get_by_role("button", name="Reset to brief: Digits, case, spaces").click()
    expect(names).to_contain_text("MP3/01 Towpath 320k.mp3")
    kept = panel(bench).get_by_label("Saved patterns", exact=True)
    kept.fill("By format")
    kept.press("Enter")
    panel(bench).get_by_role("button", name="Reset to brief: Label pattern").click()
    choose(bench, "Name", "Choose a saved pattern", "By format: {format}/{number} {title} {depth}")
    expect(names).to_contain_text("MP3/01 Towpath 320k.mp3")
    bench.get_by_role("button", name="Press 1 file").click()
    # Once the file is there, the next one of its name is shown with a number.
    expect(names).to_contain_text("MP3/01 Towpath 320k (2).mp3", timeout=60_000)
    expect(names).to_contain_text("gets a number")
    # A field that is chosen is in the pattern at once, wherever the focus is.
    panel(bench).get_by_role("button", name="Fields", exact=True).click()
    bench.get_by_role("menuitem", name="{channels}").click()
    bench.get_by_role("button", name="Press 1 file").click()
    expect(names).to_contain_text("MP3/01 Towpath 320k stereo (2).mp3", timeout=60_000)
    choose(bench, "Name", "If the file exists", "Replace existing file")
    expect(names).to_contain_text("exists, replaced")
    expect(panel(bench)).to_contain_text("will be replaced")
    choose(bench, "Name", "If the file exists", "Skip this file")
    expect(names).to_contain_text("skipped")


def test_many_sheets_are_filled_at_once(bench: Page) -> None:
    bench.get_by_role("link", name="Tags").click()
    cell = bench.get_by_label("Genre of Towpath")
    cell.fill("Reel")
    cell.press("Enter")
    bench.get_by_label("Text to fill in").fill("The Sluicekeepers")
    bench.get_by_role("button", name="Fill", exact=True).click()
    expect(bench.get_by_label("Artist of Towpath")).to_have_value("The Sluicekeepers")
    date = bench.get_by_label("Date of Towpath")
    date.fill("18.9.")
    date.press("Enter")
    bench.get_by_role("button", name=re.compile("is not a date. Use 2026")).click()
    expect(date).to_be_focused()
    # Unsaved edits are still there on return, and do not undo later changes on the bench.
    bench.get_by_role("rowheader", name="Towpath").get_by_role("link").click()
    station(bench, "Tags")
    composer = panel(bench).get_by_label("Composer", exact=True)
    composer.fill("A. Lock")
    with bench.expect_response(lambda answer: answer.request.method == "PUT" and "/bench" in answer.url):
        composer.press("Enter")
    bench.get_by_role("link", name="Tags").click()
    expect(date).to_have_value("18.9.")
    date.fill("")
    date.press("Enter")
    expect(date).to_have_value("")
    bench.evaluate(
        """() => {
          const cell = document.querySelector('[aria-label="Album of Towpath"]');
          const data = new DataTransfer();
          data.setData("text/plain", "Nine Weirs\\t7/9");
          cell.dispatchEvent(new ClipboardEvent("paste", { clipboardData: data, bubbles: true, cancelable: true }));
        }"""
    )
    expect(bench.get_by_label("Album of Towpath")).to_have_value("Nine Weirs")
    expect(bench.get_by_label("Track of Towpath")).to_have_value("7/9")
    bench.get_by_role("button", name=re.compile("^Save [0-9]+ sheet")).click()
    expect(bench.get_by_text(re.compile("sheets? saved"))).to_be_visible()
    expect(bench.get_by_role("button", name="Save 0 sheets")).to_be_disabled()
    bench.get_by_label("All 23 fields").click()
    expect(bench.get_by_label("Composer of Towpath")).to_have_value("A. Lock")
    sheet = {"sheets": [{"mix": "towpath", "title": "Towpath", "track": "4/9"}, {"mix": "Nowhere", "title": "x"}]}
    bench.get_by_test_id("sheets-chooser").set_input_files(
        {"name": "s.json", "mimeType": "application/json", "buffer": json.dumps(sheet).encode()}
    )
    expect(bench.get_by_text("No mix named Nowhere")).to_be_visible()
    expect(bench.get_by_label("Track of Towpath")).to_have_value("4/9")
    with bench.expect_download():
        bench.get_by_role("link", name="Export CSV").click()
    expect(bench.get_by_text("1 unsaved sheet exported as last saved")).to_be_visible()
    bench.get_by_role("button", name="Save 1 sheet").click()
    expect(bench.get_by_text("1 sheet saved")).to_be_visible()
    bench.get_by_role("rowheader", name="Towpath").get_by_role("link").click()
    station(bench, "Tags")
    expect(panel(bench).get_by_label("Track", exact=True)).to_have_value("4/9")
    # An imported sheet takes the place of the whole one; the sheet kept before it had both.
    expect(panel(bench).get_by_label("Composer", exact=True)).to_have_value("")
