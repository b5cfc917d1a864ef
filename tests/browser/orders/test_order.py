"""The screen Order, as it is used: from the shelf to a disc that was burnt."""

import json
import re
from collections.abc import Iterator
from pathlib import Path

import numpy as np
import pytest
from playwright.sync_api import Page, expect

from support.pages import shelved
from support.signals import noise, write

RATE = 44_100


@pytest.fixture(scope="module")
def mixes(tmp_path_factory: pytest.TempPathFactory) -> list[Path]:
    folder = tmp_path_factory.mktemp("order")
    long = noise(RATE * 16, seed=1, level=0.2).astype(np.float32)
    short = noise(RATE * 6, seed=2, level=0.04).astype(np.float32)
    return [write(folder / f"{name}.wav", one, RATE) for name, one in (("Long Cut", long), ("Sluice Gate", short))]


@pytest.fixture
def order(page: Page, mixes: list[Path]) -> Iterator[Page]:
    """An order of both mixes, made on the shelf; the long one has a marker."""
    for path in mixes:
        shelved(page, path)
    page.goto("/shelf")
    for path in mixes:
        page.get_by_role("checkbox", name=re.compile(path.stem)).check()
    page.get_by_role("button", name="New running order").click()
    expect(page.get_by_role("heading", name="Running order")).to_be_visible()
    title = page.get_by_label("Title", exact=True).first
    title.fill("Nine Weirs")
    title.press("Enter")
    expect(page.get_by_role("heading", name="Nine Weirs")).to_be_visible()
    yield page
    page.get_by_role("heading", name="Nine Weirs").click()
    page.get_by_role("button", name="More", exact=True).click()
    page.get_by_text("Delete").click()
    page.get_by_role("dialog").get_by_role("button", name="Delete").click()
    expect(page.get_by_role("heading", name="Orders")).to_be_visible()


def rows(page: Page) -> list[str]:
    return [one.split("\n")[0] for one in page.locator(".entries tbody tr td:nth-child(2)").all_inner_texts()]


def kept(page: Page) -> dict[str, object]:
    """The order as the server has it."""
    found: dict[str, object] = page.request.get(f"/api/orders/{page.url.rsplit('/', 1)[1]}").json()["order"]
    return found


def test_an_order_is_made_on_its_own_page(page: Page, mixes: list[Path]) -> None:
    for path in mixes:
        shelved(page, path)
    page.goto("/order/all")
    page.get_by_role("button", name="New running order").click()
    expect(page.get_by_text("No entries")).to_be_visible()
    page.get_by_role("button", name="Add mixes", exact=True).click()
    dialog = page.get_by_role("dialog")
    dialog.get_by_role("listitem").filter(has_text="Long Cut").get_by_role("button", name="Add whole mix").click()
    dialog.get_by_role("button", name="Close").last.click()
    expect(page.locator(".entries tbody tr").first).to_contain_text("Long Cut")
    page.request.delete(f"/api/orders/{page.url.rsplit('/', 1)[1]}")


def test_entries_are_moved_by_key_and_by_hand_and_undone(order: Page) -> None:
    first = rows(order)
    assert sorted(first) == ["Long Cut", "Sluice Gate"]
    order.locator("#entry-0").focus()
    order.keyboard.press("Alt+ArrowDown")
    expect(order.locator("#entry-0")).to_contain_text(first[1])
    expect(order.locator("#entry-1")).to_be_focused()
    # Playwright's mouse does not wait for rows that change while it drags: the move is saved first.
    order.wait_for_load_state("networkidle")
    order.locator("#entry-1").drag_to(order.locator("#entry-0"))
    expect(order.locator("#entry-0")).to_contain_text(first[0])
    order.get_by_role("button", name="Undo").click()
    expect(order.locator("#entry-0")).to_contain_text(first[1])
    order.keyboard.press("Control+z")
    expect(order.locator("#entry-0")).to_contain_text(first[0])
    order.locator("#entry-1").focus()
    order.keyboard.press("Delete")
    expect(order.locator("#entry-1")).to_have_count(0)
    order.get_by_role("button", name="Undo").click()
    expect(order.locator("#entry-1")).to_contain_text(first[1])
    # It is unchanged on return.
    order.reload()
    expect(order.locator("#entry-1")).to_contain_text(first[1])


def test_a_join_is_typed_switched_and_heard(order: Page) -> None:
    order.locator("#entry-1").click()
    side = order.get_by_role("region", name="Track 2")
    gap = side.get_by_label("Gap before")
    expect(gap).to_have_value("0:02:00")
    gap.fill("two")
    gap.press("Enter")
    expect(side.get_by_role("alert")).to_contain_text("is not a gap")
    gap.fill("1.5 s")
    gap.press("Enter")
    expect(order.locator("#entry-1")).to_contain_text("0:01:38")
    expect(side.locator(".join-wave rect")).to_have_count(220)
    with order.expect_response(re.compile("/joins/1/listen")) as heard:
        order.keyboard.press("Escape")
        side.get_by_role("button", name="Play join").click()
    assert heard.value.ok and heard.value.headers["content-type"] == "audio/wav"
    expect(order.get_by_role("button", name="Stop J")).to_be_visible()
    side.get_by_text("Gapless", exact=True).click()
    expect(order.locator("#entry-1")).to_contain_text("gapless")
    expect(side.get_by_role("heading", name=re.compile("Gapless after"))).to_be_visible()


def test_one_level_for_all_is_shown_and_a_finding_healed(order: Page) -> None:
    order.get_by_label("Method").click()
    order.get_by_text("One gain, from the highest peak").click()
    levels = order.get_by_role("region", name="Album level")
    expect(levels).to_contain_text("Long Cut at −1.0 dBTP")
    order.get_by_role("button", name=re.compile("^Show . more")).click()
    order.get_by_role("button", name="Same loudness for all").click()
    expect(levels).to_contain_text("Every track at −14.0 LUFS")
    expect(order.get_by_role("button", name="Same loudness for all")).to_have_count(0)
    assert kept(order)["level"]["together"] == "each"  # type: ignore[index]


def test_a_mix_is_added_cut_and_an_order_travels(order: Page, tmp_path: Path) -> None:
    order.get_by_role("button", name="Add mixes", exact=True).click()
    dialog = order.get_by_role("dialog")
    line = dialog.get_by_role("listitem").filter(has_text="Sluice Gate")
    line.get_by_role("button", name="Split at markers").click()
    expect(dialog.get_by_role("alert")).to_contain_text("No markers to split at")
    line.get_by_role("button", name="Add its ranges").click()
    expect(dialog.get_by_role("status")).to_contain_text("1 range of Sluice Gate added")
    dialog.get_by_role("button", name="Close").filter(has_text="Close").click()
    expect(dialog).to_have_count(0)
    expect(order.locator("#entry-2")).to_contain_text("Sluice Gate")
    order.get_by_role("button", name="More", exact=True).click()
    with order.expect_download() as saved:
        order.get_by_role("link", name="Export").click()
    path = tmp_path / "order.json"
    saved.value.save_as(path)
    assert len(json.loads(path.read_text())["order"]["entries"]) == 3
    order.goto("/order/all")
    order.get_by_test_id("order-chooser").set_input_files(path)
    expect(order.locator("#entry-2")).to_contain_text("Sluice Gate")


def test_files_and_a_disc_are_pressed_and_the_disc_is_burnt(order: Page) -> None:
    for at, code in enumerate(("QZ-WLT-26-00001", "QZ-WLT-26-00002")):
        order.locator(f"#entry-{at}").click()
        field = order.get_by_role("region", name=f"Track {at + 1}").get_by_label("ISRC")
        field.fill(code)
        field.press("Enter")
        expect(order.locator(f"#entry-{at}")).to_contain_text(code)
    address = order.url
    order.get_by_role("button", name="Press files…").click()
    expect(order.get_by_label("Briefs")).to_be_focused()
    order.keyboard.type("Archive")
    order.keyboard.press("Enter")
    press = order.get_by_role("button", name="Press 2 files for Archive")
    press.click()
    expect(order).to_have_url(re.compile("/press/"))
    expect(order.get_by_role("complementary")).to_contain_text("02 ", timeout=60_000)
    order.goto(address)
    order.get_by_role("button", name="Press disc image").click()
    disc = order.get_by_role("region", name="Disc")
    expect(disc).to_contain_text("Disc: 2 tracks, 00:24:00", timeout=60_000)
    disc.get_by_label("Speed").click()
    order.get_by_text("48×").click()
    disc.get_by_role("button", name="Burn").click()
    expect(disc).to_contain_text("Every sample is identical", timeout=60_000)
    sheet = order.request.get(disc.get_by_role("link", name="log sheet").get_attribute("href") or "")
    assert "QZWLT2600002" in sheet.text()
    order.goto(address)


def test_a_server_that_is_away_loses_nothing(order: Page) -> None:
    order.locator("#entry-1").click()
    order.route("**/api/orders/*", lambda route: route.abort() if route.request.method == "PUT" else route.fallback())
    title = order.get_by_role("region", name="Track 2").get_by_label("Title")
    title.fill("Lost")
    title.press("Enter")
    expect(order.get_by_role("alert").first).to_contain_text("No answer from the server")
    order.unroute("**/api/orders/*")
    order.get_by_role("region", name="Track 2").get_by_label("Title").fill("Found")
    order.keyboard.press("Enter")
    expect(order.locator("#entry-1")).to_contain_text("Found")
    assert kept(order)["entries"][1]["title"] == "Found"  # type: ignore[index]
