"""The shelf with much on it: found, sorted, chosen and gone through by keys; versions; a thousand mixes."""

import json
import re
from pathlib import Path
from typing import Any

import pytest
from playwright.sync_api import Page, Route, expect

from support.signals import piece, write

RATE = 48_000


@pytest.fixture
def shelf(page: Page, tmp_path_factory: pytest.TempPathFactory) -> Page:
    """Three mixes, added as a folder; reused if they are already there."""
    page.goto("/shelf")
    if not page.request.get("/api/shelf").json()["mixes"] or not _named(page, "Rushbrook"):
        folder = tmp_path_factory.mktemp("week")
        for at, name in enumerate(("Rushbrook", "Rush Mill", "Tern Pool")):
            write(folder / f"{name}.wav", piece(3 + at, seed=40 + at) * 0.5**at, RATE, "PCM_24")
        page.get_by_label("or enter a file or folder path").fill(str(folder))
        page.get_by_role("button", name="Add", exact=True).click()
        for name in ("Rushbrook", "Rush Mill", "Tern Pool"):
            expect(page.get_by_role("link", name=f"Open {name} on the Bench")).to_be_attached()
    return page


def _named(page: Page, title: str) -> list[int]:
    return [one["id"] for one in page.request.get("/api/shelf").json()["mixes"] if one["title"] == title]


def _drop(page: Page, *paths: Path) -> None:
    """Drops files and folders on the middle of the page, as the system's file manager does."""
    tools = page.context.new_cdp_session(page)
    data = {"items": [], "files": [str(path) for path in paths], "dragOperationsMask": 1}
    for kind in ("dragEnter", "dragOver", "drop"):
        tools.send("Input.dispatchDragEvent", {"type": kind, "x": 640, "y": 500, "data": data})
    tools.detach()


def test_a_folder_is_dropped_whole(page: Page, tmp_path: Path) -> None:
    inner = tmp_path / "Weir tapes" / "second day"
    inner.mkdir(parents=True)
    for at, path in enumerate((inner / "Weir tape 10.wav", inner.parent / "Weir tape 9.wav")):
        write(path, piece(1, seed=60 + at), RATE, "PCM_16")
    (inner / "notes.txt").write_text("loud at the end")
    (inner / "._Weir tape 10.wav").write_bytes(b"what a system keeps beside it")
    with page.expect_response("**/api/defaults"):
        page.goto("/shelf")
    expect(page.get_by_role("heading", name="Shelf")).to_be_visible()
    _drop(page, inner.parent)
    for name in ("Weir tape 9", "Weir tape 10"):
        expect(page.get_by_role("link", name=f"Open {name} on the Bench")).to_be_attached()
    expect(page.get_by_text("1 file skipped (not audio).")).to_be_visible()
    expect(page.get_by_role("list", name="Importing")).to_have_count(0)
    _drop(page, inner.parent / "gone.wav")
    expect(page.get_by_text("This file changed or moved")).to_be_visible()


def shown(page: Page) -> list[str]:
    return page.locator("tr[data-mix] .col-name a").all_inner_texts()


def test_found_sorted_and_chosen_in_the_list(shelf: Page) -> None:
    shelf.keyboard.press("v")
    expect(shelf.get_by_role("table", name="Mixes")).to_be_visible()
    shelf.keyboard.press("f")
    shelf.keyboard.type("rush")
    expect(shelf.locator("tr[data-mix]")).to_have_count(2)
    shelf.get_by_role("button", name="Loudness").click()
    assert shown(shelf) == ["Rushbrook", "Rush Mill"]
    head = shelf.get_by_role("columnheader", name="Loudness")
    expect(head).to_have_attribute("aria-sort", "descending")
    shelf.get_by_role("button", name="Loudness").click()
    expect(head).to_have_attribute("aria-sort", "ascending")
    assert shown(shelf) == ["Rush Mill", "Rushbrook"]
    shelf.get_by_label("Select Rush Mill").check()
    shelf.get_by_label("Select Rushbrook").click(modifiers=["Shift"])
    expect(shelf.get_by_text("2 mixes selected")).to_be_visible()
    shelf.get_by_role("button", name="Tag…").click()
    expect(shelf).to_have_url(re.compile(r"/tags\?chosen=\d+,\d+$"))
    expect(shelf.get_by_role("checkbox", checked=True)).to_have_count(2)
    shelf.go_back()
    # The view is kept; the search is not.
    expect(shelf.get_by_role("table", name="Mixes")).to_be_visible()
    shelf.keyboard.press("f")
    shelf.keyboard.type("no mix at all")
    expect(shelf.get_by_text("No matching mixes")).to_be_visible()


def test_by_keys_alone_from_mix_to_mix(shelf: Page) -> None:
    shelf.get_by_text("List", exact=True).click()
    shelf.keyboard.press("f")
    shelf.keyboard.type("rush")
    expect(shelf.locator("tr[data-mix]")).to_have_count(2)
    shelf.get_by_role("link", name="Open Rush Mill").focus()
    shelf.keyboard.press("Home")
    shelf.keyboard.press("Space")
    shelf.keyboard.press("ArrowDown")
    shelf.keyboard.press("Shift+Space")
    expect(shelf.get_by_text("2 mixes selected")).to_be_visible()
    # Only one of them is a stop of the Tab key.
    assert shelf.locator("tr[data-mix] .col-name a[tabindex='0']").count() == 1
    shelf.keyboard.press("Escape")
    expect(shelf.get_by_text("mixes selected")).to_have_count(0)
    shelf.keyboard.press("Control+a")
    expect(shelf.get_by_text("2 mixes selected")).to_be_visible()
    shelf.keyboard.press("p")
    expect(shelf.get_by_role("dialog", name="Press 2 mixes")).to_be_visible()
    shelf.keyboard.press("Escape")
    shelf.get_by_role("link", name="Open Rush Mill").focus()
    shelf.keyboard.press("Enter")
    expect(shelf.get_by_role("heading", name="Rush Mill", exact=True)).to_be_visible()


def test_focus_is_never_lost(shelf: Page, tmp_path: Path) -> None:
    path = write(tmp_path / "Rushing Away.wav", piece(1, seed=77), RATE, "PCM_24")
    shelf.get_by_label("or enter a file or folder path").fill(str(path))
    shelf.keyboard.press("Enter")
    expect(shelf.get_by_role("link", name="Open Rushing Away")).to_be_visible()
    shelf.get_by_text("Cards", exact=True).click()
    shelf.get_by_role("button", name="Remove Rushing Away").focus()
    shelf.keyboard.press("Enter")
    expect(shelf.get_by_role("dialog", name="Remove Rushing Away from the Shelf?")).to_be_visible()
    shelf.keyboard.press("Escape")
    # Focus returns to the same item; after its removal, to the one in its place.
    expect(shelf.get_by_role("button", name="Remove Rushing Away")).to_be_focused()
    shelf.keyboard.press("Enter")
    shelf.get_by_role("dialog").get_by_role("button", name="Remove").focus()
    shelf.keyboard.press("Enter")
    expect(shelf.get_by_role("link", name="Open Rushing Away")).to_have_count(0)
    expect(shelf.locator("[data-mix] a[href^='/bench']:focus")).to_have_count(1)
    # A palette that is closed gives the focus back.
    find = shelf.get_by_role("textbox", name="Search mixes")
    find.focus()
    shelf.keyboard.press("Control+k")
    expect(shelf.get_by_role("combobox", name="Search")).to_be_focused()
    shelf.keyboard.press("Escape")
    expect(find).to_be_focused()


def test_a_mix_saved_again_is_taken_as_a_version_and_heard_beside_the_old_one(page: Page, tmp_path: Path) -> None:
    sound = piece(4, seed=50)
    first = write(tmp_path / "Heron Ford.wav", sound, RATE, "PCM_24")
    page.goto("/shelf")
    page.get_by_label("or enter a file or folder path").fill(str(first))
    page.get_by_role("button", name="Add", exact=True).click()
    expect(page.get_by_role("link", name="Open Heron Ford on the Bench")).to_be_visible()
    write(first, sound * 0.5, RATE, "PCM_24")
    note = page.get_by_role("region", name="Heron Ford changed on disk")
    expect(note).to_contain_text("6 dB quieter throughout")
    note.get_by_role("button", name="Use as new version").click()
    expect(note).to_have_count(0)
    # Another file with the same name is offered as a version of the same mix.
    third = write(tmp_path / "Heron Ford v3.wav", sound * 0.7, RATE, "PCM_24")
    page.get_by_label("or enter a file or folder path").fill(str(third))
    page.get_by_role("button", name="Add", exact=True).click()
    asked = page.get_by_role("region", name="Heron Ford v3 may be a version of Heron Ford")
    expect(asked).to_contain_text("2.9 dB louder throughout")
    asked.get_by_role("button", name="Add as version").click()
    page.get_by_role("button", name="Version 3 · 3 versions of Heron Ford v3").click()
    pile = page.get_by_role("dialog", name="Versions of Heron Ford")
    expect(pile.get_by_role("listitem")).to_have_count(3)
    expect(pile.get_by_role("listitem").nth(2)).to_contain_text("Only its pressed files can be played")
    pile.get_by_role("link", name="Compare with current").click()
    expect(page.get_by_role("heading", name="Listening desk")).to_be_visible()
    expect(page.get_by_text("Heron Ford, version 2")).to_be_visible()
    page.go_back()
    page.get_by_role("button", name="Version 3 · 3 versions of Heron Ford v3").click()
    pile.get_by_role("button", name="Make current").click()
    expect(pile.get_by_role("listitem").nth(1)).to_contain_text("current")


def test_a_thousand_mixes_are_drawn_as_few_as_are_in_sight(shelf: Page) -> None:
    like = shelf.request.get("/api/shelf").json()
    (mix,) = (one for one in like["mixes"] if one["title"] == "Rushbrook")
    many = [{**mix, "id": 10_000 + at, "title": f"Weir {at:04d}"} for at in range(1_000)]

    def answer(route: Route) -> None:
        route.fulfill(content_type="application/json", body=json.dumps({**like, "mixes": many, "changes": []}))

    shelf.route("**/api/shelf", answer)
    shelf.reload()
    for view in ("List", "Cards"):
        shelf.get_by_text(view, exact=True).click()
        expect(shelf.get_by_text("1,000 mixes")).to_be_visible()
        assert 3 < shelf.locator("[data-mix]").count() < 60
        shelf.locator("[data-mix] a[href^='/bench']").first.focus()
        shelf.keyboard.press("End")
        last: Any = shelf.locator("[data-mix='10000']")
        expect(last.locator("a[href^='/bench']")).to_be_focused()
        expect(last).to_be_in_viewport()
        assert shelf.locator("[data-mix]").count() < 60
