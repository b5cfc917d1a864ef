"""From the shelf to a downloaded file, by pointer and by keyboard alone, with nonsense, and without the server."""

import hashlib
import io
import re
from pathlib import Path

import numpy as np
import pytest
import soundfile
from playwright.sync_api import Page, expect

from browser.conftest import Server
from support.pages import press_and_see, range_act


@pytest.fixture
def bench(page: Page, millrace: Path) -> Page:
    """Millrace on the bench, added by its path if it is not on the shelf yet, with all of it selected."""
    page.goto("/shelf")
    expect(page.get_by_role("heading", name="Shelf")).to_be_visible()
    page.get_by_label("or enter a file or folder path").fill(str(millrace))
    page.get_by_role("button", name="Add", exact=True).click()
    page.get_by_role("link", name="Open Millrace on the Bench").click()
    expect(page.get_by_role("heading", name="Millrace", exact=True)).to_be_visible()
    start = page.get_by_label("From", exact=True)
    expect(start).to_be_visible()
    if start.input_value() != "0:00.000" or page.get_by_label("To", exact=True).input_value() != "0:04.000":
        range_act(page, "Whole mix")
    expect(page.get_by_label("To", exact=True)).to_have_value("0:04.000")
    # One delivery, whatever the ticket came with, once it is there.
    expect(page.get_by_role("button", name=re.compile("^Press [1-9]"))).to_be_visible()
    for name in ("Archive",):
        cell = page.get_by_role("button", name=re.compile(f"{name} ·"))
        if cell.count():
            cell.first.click()
            page.get_by_role("button", name="Remove", exact=True).click()
    expect(page.get_by_role("button", name="Press 1 file")).to_be_visible()
    return page


def edges(page: Page) -> list[str]:
    return [page.get_by_label(name, exact=True).input_value() for name in ("From", "To")]


def test_from_the_shelf_to_a_downloaded_file(page: Page, millrace: Path) -> None:
    page.goto("/")
    page.get_by_test_id("file-chooser").set_input_files(
        # The samples are the same; the bytes are not, or the shelf would know the mix.
        {"name": "Sent Mix.wav", "mimeType": "audio/wav", "buffer": millrace.read_bytes() + b"LIST\0\0\0\0"}
    )
    card = page.get_by_role("listitem").filter(has_text="Sent Mix")
    expect(card.get_by_text("+1.6 dBFS")).to_be_visible()
    expect(card.get_by_text("0:04", exact=True)).to_be_visible()
    page.get_by_role("link", name="Open Sent Mix on the Bench").click()
    start = page.get_by_label("From", exact=True)
    start.fill("0:01")
    start.press("Enter")
    end = page.get_by_label("To", exact=True)
    end.fill("288000smp")
    end.press("Enter")
    expect(end).to_have_value("0:03.000")
    # Both were read while the other was: neither is lost.
    expect(start).to_have_value("0:01.000")
    page.get_by_role("button", name=re.compile("finding")).click()
    expect(page.get_by_role("list", name="Findings", exact=True)).to_contain_text(
        "3 samples over full scale, first at 0:02.08"
    )
    page.keyboard.press("Escape")
    press_and_see(page, "Press 2 files")
    expect(page.get_by_role("article", name="Sent Mix archive 96k 32f.wav")).to_contain_text("bit-exact")
    file = page.get_by_role("article", name="Sent Mix 44k1 16b.wav")
    expect(file.get_by_text("88,200 samples")).to_be_visible()
    with page.expect_download() as caught:
        file.get_by_role("link", name="Download").click()
    body = Path(caught.value.path()).read_bytes()
    samples, rate = soundfile.read(io.BytesIO(body), dtype="int16")
    assert (rate, samples.shape, caught.value.suggested_filename) == (44_100, (88_200, 2), "Sent Mix 44k1 16b.wav")
    assert hashlib.sha256(body).hexdigest() in file.inner_text()
    tone = 0.5 * 32768 * np.sin(2 * np.pi * 441 * np.arange(88_200) / 44_100)
    assert np.abs(samples[5_000:40_000, 0] - tone[5_000:40_000]).max() < 3


def test_bad_files_get_a_sentence_that_can_be_dismissed(page: Page) -> None:
    page.goto("/shelf")
    for name, body, words in (
        ("letter.wav", b"Dear engineer", "is not a readable audio file"),
        ("none.wav", b"", "is empty"),
    ):
        page.get_by_test_id("file-chooser").set_input_files({"name": name, "mimeType": "audio/wav", "buffer": body})
        card = page.get_by_role("listitem").filter(has_text=name)
        expect(card.get_by_role("alert")).to_contain_text(words)
        card.get_by_role("button", name="Close").click()
        expect(card).to_have_count(0)
    page.get_by_label("or enter a file or folder path").fill("mixes/none.wav")
    page.get_by_role("button", name="Add", exact=True).click()
    expect(page.get_by_role("alert")).to_contain_text("is not a full path")


def test_a_range_by_drag_by_edge_and_back(bench: Page) -> None:
    wave = bench.get_by_test_id("wave")
    box = wave.bounding_box()
    assert box
    middle = box["y"] + box["height"] / 2
    bench.mouse.move(box["x"] + box["width"] * 0.25, middle)
    bench.mouse.down()
    bench.mouse.move(box["x"] + box["width"] * 0.6, middle, steps=5)
    bench.mouse.move(box["x"] + box["width"] * 0.75, middle, steps=5)
    bench.mouse.up()
    first = edges(bench)
    assert [float(text[2:]) for text in first] == pytest.approx([1.0, 3.0], abs=0.02)
    handle = bench.get_by_role("slider", name="End of the range")
    grip = handle.bounding_box()
    assert grip
    bench.mouse.move(grip["x"] + 6, middle)
    bench.mouse.down()
    bench.mouse.move(box["x"] + box["width"] * 0.5, middle, steps=6)
    bench.mouse.up()
    assert float(edges(bench)[1][2:]) == pytest.approx(2.0, abs=0.02)
    bench.get_by_role("button", name="Undo").click()
    assert edges(bench) == first
    bench.get_by_role("button", name="Redo").click()
    assert edges(bench) != first
    range_act(bench, "Trim silence")
    assert [float(text[2:]) for text in edges(bench)] == pytest.approx([1.0, 3.0], abs=0.002)
    bench.reload()
    expect(bench.get_by_label("To", exact=True)).to_have_value(re.compile(r"0:0[23]\.\d+"))


def test_nonsense_in_a_time_is_explained_and_changes_nothing(bench: Page) -> None:
    field = bench.get_by_label("From", exact=True)
    for text, words in (("soon", "is not a time"), ("0:75", "Use 0 to 59"), ("9:00", "0:04.000 long")):
        field.fill(text)
        field.press("Enter")
        expect(bench.get_by_role("alert")).to_contain_text(words)
    field.press("Escape")
    expect(field).to_have_value("0:00.000")


def test_everything_by_keyboard(bench: Page) -> None:
    bench.locator("body").click(position={"x": 700, "y": 30})
    handle = bench.get_by_role("slider", name="Start of the range")
    handle.focus()
    for _ in range(3):
        bench.keyboard.press("Shift+ArrowRight")
    bench.keyboard.press("ArrowLeft")
    expect(bench.get_by_label("From", exact=True)).to_have_value("0:00.290")
    bench.keyboard.press("Alt+ArrowRight")
    assert handle.get_attribute("aria-valuenow") == str(27_840 + 1)
    handle.blur()
    bench.keyboard.press("Control+z")
    bench.keyboard.press("Control+z")
    expect(bench.get_by_label("From", exact=True)).to_have_value("0:00.300")
    bench.keyboard.press("+")
    bench.keyboard.press("+")
    wave = bench.get_by_test_id("wave")
    close = float(wave.get_attribute("data-frames-per-pixel") or 0)
    bench.keyboard.press("0")
    expect(wave).not_to_have_attribute("data-frames-per-pixel", str(close))
    bench.keyboard.press("End")
    bench.keyboard.press("ArrowLeft")
    bench.keyboard.press("]")
    expect(bench.get_by_label("To", exact=True)).to_have_value("0:03.990")
    cell = bench.get_by_role("button", name="16 bits triangular")
    cell.focus()
    bench.keyboard.press("ArrowLeft")
    expect(bench.locator(".path-open")).to_contain_text("44.1 kHz")
    expect(bench.get_by_label("Frequency response of the rate conversion")).to_be_visible()
    bench.keyboard.press("?")
    expect(bench.get_by_role("dialog")).to_contain_text("Play end")
    bench.keyboard.press("Escape")
    expect(bench.get_by_role("dialog")).to_have_count(0)
    bench.keyboard.press("Control+Enter")
    expect(bench.get_by_role("status")).to_contain_text("pressed in")


def test_playing_a_range_moves_the_playhead_and_never_fetches_the_mix(bench: Page) -> None:
    received: list[int] = []
    bench.on("response", lambda response: received.append(int(response.headers.get("content-length", "0"))))
    bench.get_by_role("button", name="Play end").click()
    playhead = bench.locator(".playhead")
    expect(playhead).to_be_visible()
    before = playhead.get_attribute("style")
    bench.wait_for_function(
        "before => document.querySelector('.playhead')?.getAttribute('style') !== before", arg=before
    )
    bench.get_by_role("button", name="Stop").click()
    expect(playhead).to_have_count(0)
    # Four seconds of 24 bits at 48 kHz, and nothing of the 32-bit float mix at 96 kHz.
    assert max(received) < 4.1 * 48_000 * 6


def test_zoom_goes_down_to_single_samples(bench: Page) -> None:
    wave = bench.get_by_test_id("wave")
    wave.hover()
    for _ in range(30):
        bench.mouse.wheel(0, -600)
    expect(wave).to_have_attribute("data-frames-per-pixel", re.compile(r"^0\.0416"))


def test_a_page_closed_while_pressing_finds_the_pressing_again(bench: Page) -> None:
    bench.keyboard.press("Control+Enter")
    bench.goto("/shelf")
    bench.go_back()
    expect(bench.get_by_role("status")).to_contain_text("pressed in")


@pytest.mark.parametrize("width", [1024, 1920])
def test_nothing_is_cut_off_at_other_widths(bench: Page, width: int) -> None:
    bench.set_viewport_size({"width": width, "height": 800})
    expect(bench.get_by_role("button", name="Press 1 file")).to_be_in_viewport()
    assert bench.evaluate("document.documentElement.scrollWidth") <= width


def test_tail_is_kept_with_one_click_and_a_fade_is_pressed(bench: Page) -> None:
    end = bench.get_by_label("To", exact=True)
    end.fill("2.0")
    end.press("Enter")
    findings = bench.get_by_role("list", name="Findings of this delivery")
    expect(findings).to_contain_text("Tail cut off")
    findings.get_by_role("button", name="Ring out").click()
    expect(findings.get_by_text("Tail cut off")).to_have_count(0)
    bench.get_by_role("button", name=re.compile(r"^Range 0:03\.000, tail 1\.0 s")).click()
    panel = bench.get_by_role("region", name="Delivery")
    expect(panel.get_by_text("for the tail")).to_be_visible()
    fade = panel.get_by_label("Fade in", exact=True)
    fade.fill("1.5")
    fade.press("Enter")
    expect(panel.get_by_text("1.500 s, equal power")).to_be_visible()
    expect(panel.get_by_text("Integrated loudness")).to_be_visible()
    press_and_see(bench, "Press 1 file")
    file = bench.get_by_role("article")
    expect(file.get_by_text(re.compile(r"132,[34]\d\d samples"))).to_be_visible()
    with bench.expect_download() as caught:
        file.get_by_role("link", name="Download").click()
    samples = soundfile.read(caught.value.path())[0]
    # Sound begins at 1 s, two thirds into the fade: sin(60°) of the tone's half.
    assert np.abs(samples[44_100:44_600]).max() == pytest.approx(0.5 * np.sin(np.radians(60)), abs=0.01)


def test_the_page_says_when_the_server_is_away_and_when_it_is_back(bench: Page, server: Server) -> None:
    server.stop()
    expect(bench.locator(".offline")).to_be_visible(timeout=20_000)
    server.start()
    expect(bench.get_by_text("No answer from the server")).to_have_count(0, timeout=20_000)
