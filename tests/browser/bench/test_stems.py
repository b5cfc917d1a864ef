"""Stems on the real page: added, aligned, played, delivered as parts, pressed, added from a pressing."""

import re
from pathlib import Path

import numpy as np
import pytest
from playwright.sync_api import Page, expect

from ripe_press.studio.live.rack import begin_unit
from support.pages import on_the_bench, station as station_of
from support.press import read_all
from support.signals import noise, write

RATE = 48_000
FRAMES = RATE * 5


@pytest.fixture(scope="module")
def tumbling_bay(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """A mix of three stems, one of which lies 480 frames late."""
    folder = tmp_path_factory.mktemp("bay")
    stems = folder / "Tumbling Bay stems"
    stems.mkdir()
    parts = {name: noise(FRAMES, 2, seed, 0.1) for seed, name in enumerate(("bass", "drums", "voice"))}
    write(folder / "Tumbling Bay.wav", sum(parts.values()), RATE, "FLOAT")  # type: ignore[arg-type]
    parts["voice"] = np.concatenate((np.zeros((480, 2)), parts["voice"]))
    for name, samples in parts.items():
        write(stems / f"Tumbling Bay {name}.wav", samples, RATE, "FLOAT")
    return folder / "Tumbling Bay.wav"


def test_from_a_folder_of_stems_to_parts_that_leave(page: Page, tumbling_bay: Path) -> None:
    on_the_bench(page, tumbling_bay)
    station = page.get_by_role("region", name="Delivery")
    expect(station).to_contain_text("Audio CD")
    page.keyboard.press("b")
    expect(station).to_contain_text("Drop a stem folder here")
    # A missing folder is reported; then the right one is added, with a pattern.
    path = page.get_by_label("Folder of stems on this machine")
    path.fill(str(tumbling_bay.parent / "nowhere"))
    page.get_by_role("button", name="Add stems").click()
    expect(station.get_by_role("alert")).to_contain_text("File or folder not found")
    path.fill(str(tumbling_bay.parent / "Tumbling Bay stems" / "*.wav"))
    page.get_by_role("button", name="Add stems").click()
    expect(station).to_contain_text("voice is 480 samples (10.0 ms) late")
    page.get_by_role("button", name="Align 1 stem").click()
    expect(station).to_contain_text("All 3 stems align and sum to the mix")
    expect(station).to_contain_text("shifted by 480 samples")
    # Heard alone, in place of the mix, from where it was.
    page.get_by_role("button", name="Play range").click()
    with page.expect_request(lambda request: "stems=" in request.url) as heard:
        page.get_by_role("button", name="Solo voice").click()
    assert "stems=" in heard.value.url and "," not in heard.value.url.split("stems=")[1]
    expect(page.get_by_label("Play voice", exact=True)).to_be_checked()
    expect(page.get_by_label("Play bass", exact=True)).not_to_be_checked()
    page.get_by_role("button", name="Stop").click()
    # One action adds a delivery for each stem; one for everything but the vocals is added by hand.
    page.get_by_role("button", name="Add as deliveries").click()
    page.locator(".brief-card", has_text="Archive").click()
    page.get_by_role("button", name="Add 3 deliveries").click()
    ticket = page.get_by_role("group", name="The ticket")
    expect(ticket.get_by_role("button", name=re.compile("^Voice")).first).to_be_visible()
    ticket.get_by_role("button", name=re.compile("^Voice")).first.click()
    station_of(page, "Source")
    page.get_by_label("Audio to press").click()
    page.get_by_title("All stems except").click()
    expect(ticket.get_by_role("img", name="Sum of bass, drums")).to_be_visible()
    page.get_by_role("button", name="Press 5 files").click()
    page.get_by_role("link", name="Open proof").click()
    article = page.get_by_role("article", name="Tumbling Bay archive 48k 32f all but voice.wav")
    expect(article).to_be_visible()
    number = page.url.rsplit("/", 1)[1]
    files = page.request.get(f"/api/pressings/{number}").json()["files"]
    named = [Path(one["path"]) for one in files if "32f" in one["path"]]
    paths = {one.stem.rsplit("32f", 1)[1].strip(): one for one in named}
    bass, drums, minus = (read_all(paths[name]) for name in ("bass", "drums", "all but voice"))
    assert np.abs(minus - (bass + drums)).max() < 6e-8
    article.get_by_role("button", name="Add to stems").click()
    article.get_by_role("link", name="its mix").click()
    page.get_by_role("button", name=re.compile(r"^Stems( \(\d+\))?$")).click()
    expect(station).to_contain_text("Pressed from Tumbling Bay, pressing")
    # A tick in the form waits for Save, as the number typed before it does.
    page.get_by_role("button", name="Edit voice").click()
    form = page.locator(".stem-form")
    form.get_by_label("Shift earlier (samples)").fill("12")
    form.get_by_label("Part of the stem sum").uncheck()
    expect(station).to_contain_text("shifted by 480 samples")
    form.get_by_role("button", name="Save").click()
    expect(station).to_contain_text("2 stems")
    expect(station).to_contain_text("shifted by 12 samples")


RACK = (18_241, 18_242)


@pytest.fixture
def weir(page: Page, tmp_path: Path) -> Page:
    """A mix of eight seconds on the bench, with its stems panel open."""
    path = write(tmp_path / "Tailrace.wav", noise(RATE * 8, 2, 11, 0.1), RATE, "FLOAT")
    on_the_bench(page, path)
    page.get_by_role("button", name="Stems").click()
    return page


@pytest.mark.quiet
def test_a_live_pass_is_run_heard_and_pressed(weir: Page) -> None:
    page, station = weir, weir.get_by_role("region", name="Delivery")
    # Without a rack the dialog says how to start one.
    page.get_by_role("button", name="Live pass").click()
    dialog = page.get_by_role("dialog", name="New live pass")
    expect(dialog.get_by_role("alert")).to_contain_text("Start it with `ripe-press rack`")
    dialog.get_by_role("button", name="Close").last.click()
    process, _ = begin_unit("outboard", port=RACK[0], hurry=2.0)
    try:
        page.get_by_role("button", name="Live pass").click()
        dialog.get_by_label("Name").fill("warmed")
        dialog.get_by_role("button", name="Add only").click()
        expect(station).to_contain_text("Needs a live pass through Weir Compressor (0:10, real time).")
        # The ticket says so, too, and pressing runs it.
        page.get_by_role("button", name=re.compile(r"^Stems \(")).click()
        station_of(page, "Source")
        page.get_by_label("Audio to press").click()
        page.get_by_title("Stems", exact=True).click()
        expect(station).to_contain_text("“warmed” needs a live pass through Weir Compressor first (0:10")
        page.get_by_role("button", name="Press 2 files").click()
        page.keyboard.press("b")
        running = page.get_by_role("group", name="Live pass of warmed")
        expect(running).to_contain_text("recorded")
        running.get_by_role("button", name="Listen").click()
        expect(running.get_by_role("button", name="Stop listening")).to_be_visible()
        expect(station).to_contain_text("1,187 samples", timeout=60_000)
        expect(station).to_contain_text("ppm, corrected")
        page.get_by_role("link", name="Open proof").click()
        expect(page.get_by_role("article", name="warmed")).to_be_visible()
    finally:
        assert process.stdin and process.stdout
        process.stdin.close()
        process.wait(10)
        process.stdout.close()
