"""The palette: anything by its name, from anywhere, by keyboard alone."""

import re
from pathlib import Path

import pytest
from playwright.sync_api import Page, Route, expect

from support.signals import noise, write

RATE = 48_000


@pytest.fixture(scope="module")
def eddy(tmp_path_factory: pytest.TempPathFactory) -> Path:
    return write(tmp_path_factory.mktemp("eddy") / "Eddy Pool.wav", noise(RATE * 2), RATE, "FLOAT")


def find(page: Page, words: str, expected: str) -> None:
    """Opens the palette, types, and takes the first that it finds."""
    page.keyboard.press("Control+k")
    field = page.get_by_role("combobox", name="Search")
    expect(field).to_be_focused()
    page.keyboard.type(words)
    first = page.get_by_role("listbox", name="Results").get_by_role("option").first
    expect(first).to_contain_text(expected)
    page.keyboard.press("Enter")
    expect(field).to_have_count(0)


def test_a_whole_job_is_found_by_typing(page: Page, eddy: Path) -> None:
    page.goto("/shelf")
    path = page.get_by_label("or enter a file or folder path")
    path.fill(str(eddy))
    # From within a field, too; and its text stays.
    find(page, "brief", "Briefs")
    expect(page).to_have_url(re.compile("/briefs$"))
    find(page, "broadc", "Broadcast")
    expect(page.get_by_role("article", name="Broadcast")).to_be_visible()
    find(page, "shelf", "Shelf")
    page.get_by_label("or enter a file or folder path").fill(str(eddy))
    page.keyboard.press("Enter")
    expect(page.get_by_role("link", name="Open Eddy Pool on the Bench")).to_be_visible()
    find(page, "eddy mix", "Eddy Pool")
    station = page.get_by_role("region", name="Delivery")
    expect(station).to_contain_text("Audio CD")
    # Deliveries, stations, ranges and actions of where one is.
    find(page, "eddy 44k1 station rate", "44.1 kHz")
    expect(station.locator(".path-open")).to_contain_text("44.1 kHz")
    find(page, "add deliv", "Add deliveries")
    expect(page.get_by_role("dialog")).to_contain_text("Add deliveries")
    page.keyboard.press("Escape")
    find(page, "keyb short", "Keyboard shortcuts")
    sheet = page.get_by_role("dialog")
    expect(sheet).to_contain_text("Play start")
    page.keyboard.press("Escape")
    find(page, "dark", "Switch between dark and light")
    expect(page.locator("html")).to_have_attribute("data-mode", "dark")
    find(page, "light", "Switch between dark and light")
    # No result is stated; Escape leaves everything as it was.
    page.keyboard.press("Control+k")
    page.keyboard.type("plums and pears")
    expect(page.get_by_role("dialog")).to_contain_text("No results")
    page.keyboard.press("Escape")
    expect(page.get_by_role("dialog")).to_have_count(0)
    expect(station.locator(".path-open")).to_contain_text("44.1 kHz")


def test_letters_typed_while_it_loads_are_kept(page: Page) -> None:
    page.goto("/briefs")
    expect(page.get_by_role("heading", name="Briefs")).to_be_visible()
    asked: list[Route] = []
    page.route("**/PaletteDialog*.js", lambda route: asked.append(route))  # noqa: PLW0108 - it is looked into
    page.keyboard.press("Control+k")
    page.keyboard.type("she")
    page.wait_for_timeout(200)
    (script,) = asked
    script.continue_()
    field = page.get_by_role("combobox", name="Search")
    expect(field).to_have_value("she")
    expect(field).to_be_focused()
    page.keyboard.type("lf")
    page.keyboard.press("Enter")
    expect(page).to_have_url(re.compile("/shelf$"))


def test_every_view_of_the_rail_is_found_by_its_name(page: Page) -> None:
    page.goto("/shelf")
    names = page.get_by_role("navigation").get_by_role("link").all_inner_texts()
    assert {"Orders", "Pressings", "Outbox"} <= set(names)
    for name in names:
        address = page.get_by_role("navigation").get_by_role("link", name=name, exact=True).get_attribute("href")
        find(page, name, name)
        expect(page).to_have_url(re.compile(f"{address}(/\\d+)?$"))
