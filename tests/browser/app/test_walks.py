"""Whole jobs, with every action counted: clicks, drags, fields that are filled, keys."""

from pathlib import Path
from typing import Any

import pytest
from playwright.sync_api import Locator, Page, expect

from support.pages import on_the_bench, shelved, view
from support.signals import noise, write

RATE = 48_000
TAGS = {
    "Title": "Millrace", "Artist": "The Sluicekeepers", "Album": "Nine Weirs", "Track": "5/9", "Date": "2026-09-18",
    "Genre": "Folk", "Composer": "A. Lock",
}  # fmt: skip


class Counted:
    """A person at the page: every action counts."""

    def __init__(self, page: Page) -> None:
        self.page, self.actions = page, 0

    def click(self, at: Locator) -> None:
        at.click()
        self.actions += 1

    def fill(self, at: Locator, text: str) -> None:
        at.fill(text)
        at.press("Enter")
        self.actions += 1

    def key(self, key: str) -> None:
        self.page.keyboard.press(key)
        self.actions += 1

    def double(self, at: Locator) -> None:
        at.dblclick()
        self.actions += 1

    def drag(self, start: float, end: float) -> None:
        box = self.page.get_by_test_id("wave").bounding_box()
        assert box
        y = box["y"] + box["height"] * 0.7
        self.page.mouse.move(box["x"] + box["width"] * start, y)
        self.page.mouse.down()
        self.page.mouse.move(box["x"] + box["width"] * end, y, steps=5)
        self.page.mouse.up()
        self.actions += 1


@pytest.fixture(scope="module")
def home(tmp_path_factory: pytest.TempPathFactory) -> Path:
    return tmp_path_factory.mktemp("album")


def made(page: Page, mix: int) -> list[dict[str, Any]]:
    expect(page.get_by_role("link", name="Open proof")).to_be_visible(timeout=60_000)
    files: list[dict[str, Any]] = page.request.get(f"/api/mixes/{mix}/pressing").json()["files"]
    return files


def test_three_files_seven_tags_bars_1_to_25_into_a_folder_take_fourteen_actions(page: Page, home: Path) -> None:
    path = write(home / "Coping Stones.wav", noise(RATE * 60, 1, 3, 0.1), RATE, "PCM_16")
    (home / "Coping Stones").mkdir()
    mix = shelved(page, path)
    bench = page.request.get(f"/api/mixes/{mix}").json()["bench"]
    # 120 bpm in 4/4: a bar is two seconds, bar 25 begins at 48 s.
    tempo = {"first_bar_frame": 0, "changes": [{"bar": 1, "tempo_bpm": 120, "beats": 4, "unit": 4}]}
    on_the_bench(page, path, **{**bench, "tempo": tempo, "tags": []})
    view(page, "Snapping", "To bars")
    person, panel = Counted(page), page.get_by_role("region", name="Delivery")
    person.drag(0.999, 0.803)
    expect(page.get_by_label("To", exact=True)).to_have_value("0:48.000")
    person.key("d")
    person.double(page.locator(".brief-card", has_text="Phone and car"))
    person.click(panel.locator(".path-line", has_text="Tags"))
    for field, text in TAGS.items():
        person.fill(panel.get_by_label(field, exact=True), text)
    person.click(page.get_by_role("button", name="Save to"))
    person.click(page.get_by_role("list", name="Folders").get_by_title(str(home / "Coping Stones"), exact=True))
    expect(page.get_by_role("button", name="Save to")).to_have_attribute("title", str(home / "Coping Stones"))
    person.click(page.get_by_role("button", name="Press 3 files"))
    files = made(page, mix)
    assert len(files) == 3 and {one["frames"] / one["sample_rate_hz"] for one in files} == {48.0}
    assert {str(home / "Coping Stones") in one["path"] for one in files} == {True}
    assert person.actions <= 14


def test_an_mp3_with_a_name_of_ones_own_into_a_folder_takes_seven_actions(page: Page, home: Path) -> None:
    path = write(home / "Sill Plate.wav", noise(RATE * 2, 2, 4, 0.05), RATE, "PCM_16")
    (home / "Sill Plate").mkdir()
    shelved(page, path)
    page.goto("/shelf")
    person = Counted(page)
    person.click(page.get_by_role("button", name="Quick start"))
    steps = page.get_by_role("region", name="Quick start")
    steps.get_by_label("Mix on the Shelf").fill("Sill")
    person.click(page.locator(".ant-select-dropdown:visible").get_by_title("Sill Plate", exact=True))
    mp3 = steps.get_by_role("button", name="Phone and car")
    expect(mp3).to_contain_text("MP3 320")
    person.click(mp3)
    person.fill(steps.get_by_label("File name"), "Ada Weir, portfolio 1")
    person.click(steps.get_by_role("button", name="Save to"))
    person.click(page.get_by_role("list", name="Folders").get_by_title(str(home / "Sill Plate"), exact=True))
    person.click(steps.get_by_role("button", name="Press file"))
    expect(steps).to_contain_text(f"Saved to {home / 'Sill Plate' / 'Ada Weir, portfolio 1.mp3'}", timeout=60_000)
    assert person.actions <= 7
