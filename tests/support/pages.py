"""Gestures on the real page that several tests make."""

import time
from pathlib import Path
from typing import Any

from playwright.sync_api import Locator, Page, expect


def shelved(page: Page, path: Path) -> int:
    """A mix on the shelf, by the interface of the server: faster than by its page, which has tests of its own."""
    for one in page.request.get("/api/shelf").json()["mixes"]:
        if one["title"] == path.stem:
            return int(one["id"])
    (arrival,) = page.request.post("/api/arrivals/path", data={"path": str(path)}).json()
    while (now := page.request.get(f"/api/arrivals/{arrival['id']}").json())["state"] == "running":
        time.sleep(0.05)
    assert now["state"] == "done", now["sentence"]
    return int(now["mix_id"])


def on_the_bench(page: Page, path: Path, **bench: Any) -> int:
    """Opens a mix on the bench, as it came or with a bench that is set; gives its number."""
    number = shelved(page, path)
    if bench:
        assert page.request.put(f"/api/mixes/{number}/bench", data=bench).ok
    page.goto(f"/bench/{number}")
    expect(page.get_by_role("heading", name=path.stem, exact=True)).to_be_visible()
    return number


def press_and_see(page: Page, button: str) -> None:
    """Presses, and goes to the proof of that very pressing: one that was made before is shown until it is through."""
    link = page.get_by_role("link", name="Open proof")
    before = link.get_attribute("href") if link.count() else None
    page.get_by_role("button", name=button).click()
    if before:
        expect(link).not_to_have_attribute("href", before, timeout=60_000)
    link.click(timeout=60_000)


def range_act(page: Page, name: str) -> None:
    """Does something with the chosen range, from the menu of its tab."""
    page.get_by_role("button", name="Range actions").click()
    page.locator(".range-menu:visible").get_by_role("button", name=name).click()


def view(page: Page, label: str, value: str) -> None:
    """Sets how the waveform is shown: time units, snapping."""
    page.get_by_role("button", name="view of the waveform").click()
    page.get_by_label(label).click()
    page.locator(".ant-select-dropdown:visible").get_by_title(value, exact=True).click()
    page.get_by_role("button", name="view of the waveform").click()


def station(page: Page, title: str) -> Locator:
    """Unfolds a station on the path of the selected delivery; gives the panel."""
    panel = page.get_by_role("region", name="Delivery")
    line = panel.get_by_role("list", name="Path of the signal").locator(".path-line", has_text=title).first
    if line.get_attribute("aria-expanded") != "true":
        line.click()
    return panel


def choose(page: Page, title: str, label: str, value: str) -> None:
    """Chooses a value at a station of the selected delivery."""
    station(page, title).get_by_label(label, exact=True).click()
    page.locator(".ant-select-dropdown:visible").get_by_title(value, exact=True).click()
