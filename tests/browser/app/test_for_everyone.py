"""Every screen, light and dark, checked for WCAG 2.2 A and AA by an independent engine (axe-core)."""

import re
from collections.abc import Iterator
from typing import Any
from urllib.parse import quote

import pytest
from playwright.sync_api import Browser, Page, expect

from support.axe import problems
from support.pages import on_the_bench
from support.signals import noise, write

RATE = 48_000


@pytest.fixture(scope="module")
def bench_of_it(browser: Browser, server: Any, tmp_path_factory: pytest.TempPathFactory) -> str:
    """Where a mix is on the bench that was pressed once."""
    path = write(tmp_path_factory.mktemp("pass") / "Fish Pass.wav", noise(RATE * 3), RATE, "FLOAT")
    context = browser.new_context(viewport={"width": 1280, "height": 800}, base_url=server.address)
    page = context.new_page()
    page.set_default_timeout(30_000)
    on_the_bench(page, path)
    expect(page.get_by_role("region", name="Delivery")).to_contain_text("Audio CD")
    page.keyboard.press("Control+Enter")
    expect(page.get_by_role("status", name="Last pressing")).to_contain_text("pressed in")
    where = page.url
    context.close()
    return where


@pytest.fixture(scope="module")
def looked_at(browser: Browser, server: Any, bench_of_it: str) -> Iterator[tuple[Page, str]]:
    """A page, and where the bench is."""
    context = browser.new_context(viewport={"width": 1280, "height": 800}, base_url=server.address)
    page = context.new_page()
    page.set_default_timeout(30_000)
    yield page, bench_of_it
    context.close()


@pytest.mark.parametrize("screen", ["shelf", "order", "press", "proof", "send", "tags", "briefs"])
def test_nothing_is_found_on_any_screen(looked_at: tuple[Page, str], screen: str) -> None:
    page, _ = looked_at
    page.goto(f"/{screen}")
    expect(page.get_by_role("heading", level=1)).to_be_visible()
    assert problems(page) == []


def bench(looked_at: tuple[Page, str], *, anew: bool = True) -> Page:
    page, where = looked_at
    if anew or page.url != where:
        page.goto(where)
    expect(page.get_by_role("region", name="Delivery")).to_contain_text("Audio CD")
    return page


@pytest.mark.parametrize("station", ["source", "range", "rate", "level", "depth", "codec", "tags", "name", "stems"])
def test_nothing_is_found_at_any_station(looked_at: tuple[Page, str], station: str) -> None:
    page = bench(looked_at, anew=False)
    # The palette stays open where a station is not in the ticket.
    page.keyboard.press("Escape")
    if station == "stems":
        page.keyboard.press("b")
    else:
        page.keyboard.press("Control+k")
        page.get_by_role("combobox", name="Search").fill(f"station {station}")
        page.keyboard.press("Enter")
    assert problems(page) == []


@pytest.mark.parametrize("key", ["d", "?", "Control+k"])
def test_nothing_is_found_in_any_dialog(looked_at: tuple[Page, str], key: str) -> None:
    page = bench(looked_at)
    page.keyboard.press(key)
    expect(page.get_by_role("dialog")).to_be_visible()
    assert problems(page) == []


def test_nothing_is_found_in_the_list_of_the_shelf_and_on_the_way_to_a_first_file(looked_at: tuple[Page, str]) -> None:
    page, _ = looked_at
    page.goto("/shelf")
    page.get_by_text("List", exact=True).click()
    expect(page.get_by_role("table", name="Mixes")).to_be_visible()
    page.get_by_label("Select Fish Pass").check()
    assert problems(page) == []
    page.get_by_role("button", name="Quick start").click()
    page.get_by_role("button", name="Audio CD").click()
    assert problems(page) == []
    page.get_by_text("Cards", exact=True).click()


def test_nothing_is_found_on_a_running_order_that_is_a_disc(looked_at: tuple[Page, str]) -> None:
    page, where = looked_at
    mix = int(where.rsplit("/", 1)[1])
    ranges = [{"mix_id": mix}, {"mix_id": mix}]
    made = page.request.post("/api/orders", data={"title": "Fish Ladder", "ranges": ranges}).json()
    disc = page.request.put(f"/api/orders/{made['id']}", data={**made["order"], "disc": True})
    assert disc.ok, disc.text()
    page.goto(f"/order/{made['id']}")
    expect(page.locator("#entry-1")).to_be_visible()
    page.locator("#entry-1").click()
    assert problems(page) == []
    page.request.delete(f"/api/orders/{made['id']}")


def test_nothing_is_found_at_the_listening_desk_and_in_a_blind_test(looked_at: tuple[Page, str]) -> None:
    page, where = looked_at
    mix = where.rsplit("/", 1)[1]
    newest = page.request.get(f"/api/mixes/{mix}/pressing").json()["id"]
    page.goto(f"/desk/{mix}?beside=" + quote(f'[{{"pressing":{newest},"number":0}}]'))
    expect(page.get_by_text("Fish Pass 44k1 16b.wav").first).to_be_visible()
    assert problems(page) == []
    page.get_by_role("button", name=re.compile("[Bb]lind test")).click()
    assert problems(page) == []


def test_waveform_has_a_description(looked_at: tuple[Page, str]) -> None:
    page = bench(looked_at)
    words = page.get_by_test_id("wave").get_attribute("aria-label") or ""
    assert re.search(r"Waveform of Fish Pass: 0:03\.000, peak at 0:0\d\.\d{3}, .* LUFS", words), words
