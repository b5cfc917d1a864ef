"""The screen *Pressings*: the running pressing, the queue, many mixes at once, and the history."""

import re
from pathlib import Path

import numpy as np
import pytest
from playwright.sync_api import Page, expect

from support.axe import problems
from support.pages import on_the_bench, shelved
from support.signals import noise, write

NAMES = ("Osier Bed", "Tail Water")


@pytest.fixture(scope="session")
def two_mixes(tmp_path_factory: pytest.TempPathFactory) -> list[Path]:
    folder = tmp_path_factory.mktemp("two")
    sounds = (noise(48_000 * 8, seed=seed).astype(np.float32) for seed in (5, 6))
    return [write(folder / f"{name}.wav", sound, 48_000) for name, sound in zip(NAMES, sounds, strict=True)]


@pytest.fixture
def shelf(page: Page, two_mixes: list[Path]) -> Page:
    for path in two_mixes:
        shelved(page, path)
    page.goto("/shelf")
    return page


def choose(page: Page) -> None:
    for name in NAMES:
        page.get_by_label(f"Select {name}").check()


def test_mixes_are_selected_pressed_reordered_cancelled_and_found(shelf: Page) -> None:
    page = shelf
    page.goto("/press")
    page.get_by_role("button", name="Pause").click()
    expect(page.get_by_text("Queue paused")).to_be_visible()
    for turn in range(2):
        page.goto("/shelf")
        choose(page)
        page.get_by_role("button", name="Press…").click()
        dialog = page.get_by_role("dialog")
        expect(dialog.get_by_label("Files to press").get_by_role("listitem")).to_have_count(2)
        expect(dialog.get_by_text("Osier Bed 44k1 16b", exact=False)).to_be_visible()
        dialog.get_by_role("button", name=re.compile("Press 4 files")).click()
        waiting = page.get_by_role("list", name="Queue").get_by_role("listitem")
        expect(waiting).to_have_count(2 * turn + 2)
    for place, name in enumerate(reversed(NAMES * 2)):
        expect(waiting.nth(place)).to_contain_text(name)
    page.get_by_role("button", name="Move Tail Water up").last.click()
    for place, name in enumerate(sorted(NAMES * 2, reverse=True)):
        expect(waiting.nth(place)).to_contain_text(name)
    waiting.nth(2).get_by_role("button", name="Remove from queue").click()
    expect(waiting).to_have_count(3)
    page.get_by_role("button", name="Resume").click()
    record = page.get_by_role("region", name="History")
    expect(record.get_by_role("row", name=re.compile("Osier Bed.*Audio CD, Archive"))).to_have_count(2)
    record.get_by_label("Search history").fill("tail water")
    expect(record.get_by_role("row", name=re.compile("Tail Water"))).to_have_count(2)
    expect(record.get_by_role("row", name=re.compile("Osier Bed"))).to_have_count(0)
    record.get_by_role("button", name="Blocked").click()
    expect(record.get_by_text("No results.")).to_be_visible()
    record.get_by_role("button", name="Blocked").click()
    record.get_by_role("button", name=re.compile("Tail Water")).first.click()
    side = page.get_by_role("complementary")
    side.get_by_role("button", name="Check files").click()
    expect(side.get_by_text(re.compile("Unchanged"))).to_be_visible()
    side.get_by_role("button", name="Press again").click()
    expect(side.get_by_text(re.compile(r"2 files byte-identical"))).to_be_visible()
    side.get_by_role("button", name="Compare with…").click()
    page.locator(".ant-select-item-option").filter(has_text="Osier Bed").first.click()
    expect(side.get_by_text(re.compile("No file is byte-identical"))).to_be_visible()
    expect(side.get_by_text(re.compile("Audio differs after 0:00.000")).first).to_be_visible()


def test_the_page_asks_for_nothing_while_nothing_happens(shelf: Page) -> None:
    asked: list[str] = []
    shelf.on("request", lambda request: asked.append(request.url))
    for place in ("/shelf", "/press", "/proof", "/tags"):
        shelf.goto(place)
        shelf.wait_for_load_state("load")
        # The listening desk of a proof fetches its first two seconds; and a busy machine takes its time for anything.
        shelf.wait_for_timeout(3_000 if place == "/proof" else 1_000)
        for _ in range(10):
            asked.clear()
            shelf.wait_for_timeout(2_000)
            if not asked:
                break
        assert asked == [], place


HIDDEN = """
Object.defineProperty(document, "visibilityState", { configurable: true, get: () => "%s" });
document.dispatchEvent(new Event("visibilitychange"));
"""


def test_ten_tabs_do_not_starve_each_other(shelf: Page) -> None:
    """Browsers keep six lines to one server: tabs in the background let go of theirs."""
    tabs = [shelf]
    for _ in range(9):
        tabs[-1].evaluate(HIDDEN % "hidden")
        tabs.append(shelf.context.new_page())
        tabs[-1].goto("/press")
        expect(tabs[-1].get_by_role("region", name="History")).to_be_visible()
    shelf.evaluate(HIDDEN % "visible")
    shelf.get_by_role("link", name="Press").click()
    expect(shelf.get_by_role("region", name="History")).to_be_visible()


def test_pressed_file_is_compared_with_its_mix(shelf: Page) -> None:
    page = shelf
    page.get_by_label(f"Select {NAMES[0]}").check()
    page.get_by_role("button", name="Press…").click()
    page.get_by_role("dialog").get_by_role("button", name=re.compile("Press 2 files")).click()
    expect(page.get_by_text("No pressings in the queue")).to_be_visible()
    page.goto("/proof")
    card = page.get_by_role("article", name=re.compile("44k1 16b"))
    card.get_by_role("button", name="Compare with the mix").click()
    expect(card.get_by_text("−93.3 dBFS: dither noise only")).to_be_visible()
    expect(card.get_by_role("img", name=re.compile("Difference over time"))).to_be_visible()
    expect(card.get_by_role("img", name=re.compile("Spectrum of mix"))).to_be_visible()
    expect(card.get_by_text("aligned to the sample")).to_be_visible()
    other = page.get_by_role("article", name=re.compile("archive"))
    other.get_by_role("button", name="Compare with the mix").click()
    expect(other.get_by_text("Bit-exact copy of the mix.")).to_be_visible()


def test_the_smallest_that_will_do_is_found_and_taken(page: Page, tmp_path: Path) -> None:
    path = write(tmp_path / "Eel Race.wav", noise(44_100 * 3, 2, 8, 0.05), 44_100, "PCM_16")
    on_the_bench(page, path)
    page.get_by_role("button", name="Add delivery").click()
    page.get_by_role("dialog").get_by_role("button", name=re.compile("^Phone and car")).click()
    page.get_by_role("button", name="Add 1 delivery").click()
    page.get_by_role("button", name=re.compile("^MP3")).click()
    page.get_by_role("button", name="Find smallest transparent setting").click()
    ladder = page.get_by_role("region", name="Bit-rate ladder")
    rung = ladder.get_by_role("button", name="Use Ogg Opus, 96 kbit/s variable")
    expect(rung).to_be_visible(timeout=60_000)
    assert problems(page) == []
    rung.click()
    expect(page.get_by_role("button", name=re.compile("^Ogg Opus"))).to_contain_text("96k")
    expect(ladder.get_by_role("row", name=re.compile("Opus 96k"))).to_contain_text("set")
