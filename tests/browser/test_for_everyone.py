"""Every screen, light and dark, held against WCAG 2.2 A and AA by an engine that is not ours (axe-core)."""

from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest
from playwright.sync_api import Browser, Page, expect

from support.signals import noise, write

AXE = Path(__file__).parents[2] / "web/node_modules/axe-core/axe.min.js"
RATE = 48_000
RULES = ["wcag2a", "wcag2aa", "wcag21a", "wcag21aa", "wcag22aa", "best-practice"]


@pytest.fixture(scope="module")
def bench_of_it(browser: Browser, server: Any, tmp_path_factory: pytest.TempPathFactory) -> str:
    """Where a mix is on the bench that was pressed once."""
    path = write(tmp_path_factory.mktemp("pass") / "Fish Pass.wav", noise(RATE * 3), RATE, "FLOAT")
    context = browser.new_context(viewport={"width": 1280, "height": 800}, base_url=server.address)
    page = context.new_page()
    page.set_default_timeout(30_000)
    page.goto("/shelf")
    page.get_by_label("or give its path on this machine").fill(str(path))
    page.get_by_role("button", name="Bring in").click()
    page.get_by_role("link", name="Open Fish Pass on the bench").click()
    expect(page.get_by_role("region", name="Station")).to_contain_text("Audio CD")
    page.keyboard.press("Control+Enter")
    expect(page.get_by_role("status", name="Last pressing")).to_contain_text("pressed in")
    where = page.url
    context.close()
    return where


@pytest.fixture(scope="module", params=["light", "dark"])
def looked_at(
    browser: Browser, server: Any, bench_of_it: str, request: pytest.FixtureRequest
) -> Iterator[tuple[Page, str]]:
    """A page in one of both lights, and where the bench is."""
    context = browser.new_context(
        viewport={"width": 1280, "height": 800}, base_url=server.address, color_scheme=request.param
    )
    page = context.new_page()
    page.set_default_timeout(30_000)
    yield page, bench_of_it
    context.close()


def problems(page: Page) -> list[str]:
    """What the engine finds, in a line each."""
    # What comes and goes by itself is looked at once it stands.
    page.wait_for_timeout(1_200)
    if not page.evaluate("() => 'axe' in window"):
        page.evaluate(AXE.read_text(encoding="utf-8"))
    found: dict[str, Any] = page.evaluate(
        "(rules) => axe.run(document, { runOnly: rules, resultTypes: ['violations'] })", RULES
    )
    return [
        f"{one['id']}: {node['target']} {node['failureSummary'][:300]}"
        for one in found["violations"]
        for node in one["nodes"]
    ]


@pytest.mark.parametrize("screen", ["shelf", "order", "press", "proof", "send", "tags", "briefs"])
def test_nothing_is_found_on_any_screen(looked_at: tuple[Page, str], screen: str) -> None:
    page, _ = looked_at
    page.goto(f"/{screen}")
    page.wait_for_load_state("load")
    assert problems(page) == []


def on_the_bench(looked_at: tuple[Page, str]) -> Page:
    page, where = looked_at
    page.goto(where)
    expect(page.get_by_role("region", name="Station")).to_contain_text("Audio CD")
    return page


@pytest.mark.parametrize("station", ["source", "range", "rate", "level", "depth", "codec", "tags", "name", "stems"])
def test_nothing_is_found_at_any_station(looked_at: tuple[Page, str], station: str) -> None:
    page = on_the_bench(looked_at)
    if station == "stems":
        page.keyboard.press("b")
    else:
        page.keyboard.press("Control+k")
        page.get_by_role("combobox", name="Find anything").fill(f"station {station}")
        page.keyboard.press("Enter")
    assert problems(page) == []


@pytest.mark.parametrize("key", ["d", "?", "Control+k"])
def test_nothing_is_found_in_any_dialog(looked_at: tuple[Page, str], key: str) -> None:
    page = on_the_bench(looked_at)
    page.keyboard.press(key)
    expect(page.get_by_role("dialog")).to_be_visible()
    assert problems(page) == []
