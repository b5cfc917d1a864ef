"""Gestures on the real page that several tests make."""

import time
from pathlib import Path
from typing import Any

from playwright.sync_api import Page, expect


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
