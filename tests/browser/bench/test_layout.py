"""The bench at five sizes and enlarged twice: no word is cut, nothing lies over anything else, press is in sight."""

import re
from pathlib import Path

import pytest
from playwright.sync_api import Page, expect

from support.pages import on_the_bench, range_act, shelved
from support.server import wait_for
from support.signals import noise, write

RATE = 96_000
BRIEFS = ("audio-cd", "streaming-loud", "phone-and-car", "archive", "ringtone")
SIZES = [(1024, 768), (1280, 800), (1440, 900), (1920, 1080), (2560, 1440), (960, 540)]
"""The last is 1920 by 1080 at 200 %."""

CUT = """
() => [...document.querySelectorAll("main *")]
  .filter((one) => one.checkVisibility() && one.children.length === 0 && one.textContent.trim())
  .filter((one) => !one.closest(".unseen, .ant-select, textarea, input"))
  .filter((one) => {
    const style = getComputedStyle(one);
    const cuts = style.overflowX !== "visible" || style.textOverflow === "ellipsis";
    return cuts && one.scrollWidth > one.clientWidth + 1;
  })
  .map((one) => one.textContent.trim().slice(0, 60))
"""
OVER = """
() => {
  const cells = [...document.querySelectorAll(".tree-rows .cell")].map((one) => one.getBoundingClientRect());
  const over = [];
  for (const [at, a] of cells.entries())
    for (const b of cells.slice(at + 1))
      if (
        Math.min(a.right, b.right) - Math.max(a.left, b.left) > 1 &&
        Math.min(a.bottom, b.bottom) - Math.max(a.top, b.top) > 1
      )
        over.push([a.left, a.top, b.left, b.top]);
  return over;
}
"""
OUTSIDE = """
() => [...document.querySelectorAll(".tree-rows .cell b, .tree-rows .cell small")]
  .filter((one) => one.checkVisibility())
  .filter((one) => {
    const inner = one.getBoundingClientRect();
    const outer = one.closest(".cell").getBoundingClientRect();
    return inner.right > outer.right + 1 || inner.bottom > outer.bottom + 1 || inner.top < outer.top - 1;
  })
  .map((one) => one.textContent)
"""


SEEN = """
() => {
  const inside = (one, box) => {
    const place = one.getBoundingClientRect();
    return place.top >= box.top - 1 && place.bottom <= box.bottom + 1;
  };
  const tree = document.querySelector(".tree-rows").getBoundingClientRect();
  const path = document.querySelector(".station-path").getBoundingClientRect();
  const bar = document.querySelector(".press-bar").getBoundingClientRect();
  const tops = [...document.querySelectorAll(".press-bar > *")].map((one) => one.getBoundingClientRect());
  return {
    rows: [...document.querySelectorAll(".cell-file")].filter((one) => inside(one, tree)).length,
    row: document.querySelector(".cell-file").getBoundingClientRect().height,
    wave: document.querySelector(".waveform").getBoundingClientRect().height,
    lines: [...document.querySelectorAll(".path-line")].filter((one) => inside(one, path)).length,
    controls: [...document.querySelectorAll(".path-body :is(button, input)")].filter((one) => inside(one, path)).length,
    bar: Math.max(...tops.map((one) => one.bottom)) - Math.min(...tops.map((one) => one.top)),
    pressed: bar.right - tops.at(-1).right,
  };
}
"""
ENDS = """
() => {
  const box = document.querySelector(".tree-rows");
  const frame = box.getBoundingClientRect();
  const edges = [...box.querySelectorAll("[data-node]")].map((one) => one.getBoundingClientRect());
  const same = (one, y) => Math.abs((one.top + one.bottom) / 2 - frame.top + box.scrollTop - y) < 1.5;
  const near = (x, y, side) => edges.some((one) => Math.abs(one[side] - frame.left - x) < 1.5 && same(one, y));
  return [...box.querySelectorAll(".tree-lines path")].map((one) => one.getAttribute("d")).filter((d) => {
    const [x, y, , endY, endX] = d.match(/-?[0-9.]+/g).map(Number);
    return !near(x, y, "right") || !near(endX, endY, "left");
  });
}
"""


@pytest.fixture(scope="module")
def culvert(tmp_path_factory: pytest.TempPathFactory) -> Path:
    return write(tmp_path_factory.mktemp("culvert") / "Culvert Street.wav", noise(RATE * 2), RATE, "FLOAT")


def test_no_word_of_the_tree_is_cut_at_any_size(page: Page, culvert: Path) -> None:
    mix = on_the_bench(page, culvert)
    expect(page.get_by_role("region", name="Delivery")).to_contain_text("Audio CD")
    bench = page.request.get(f"/api/mixes/{mix}").json()["bench"]
    bench.pop("version", None)
    bench["ticket"] = [{"id": one[:9], "brief": one, "range_id": bench["ranges"][0]["id"]} for one in BRIEFS]
    headers = {"Origin": page.evaluate("location.origin")}
    assert page.request.put(f"/api/mixes/{mix}/bench", data=bench, headers=headers).ok
    for width, height in SIZES:
        page.set_viewport_size({"width": width, "height": height})
        page.reload()
        expect(page.get_by_role("button", name="Press 5 files")).to_be_in_viewport(ratio=0.9)
        page.wait_for_timeout(600)
        size = f"{width} by {height}"
        assert page.evaluate(CUT) == [], size
        assert page.evaluate(OVER) == [], size
        assert page.evaluate(OUTSIDE) == [], size
        # Nothing makes the page itself wider than its window.
        assert page.evaluate("document.documentElement.scrollWidth <= innerWidth"), size


ALL_SEEN = {(1024, 768): 8, (1280, 800): 8, (1440, 900): 14, (1920, 1080): 14}
"""So many deliveries are in sight at once, without scrolling."""


@pytest.mark.parametrize("size", [*ALL_SEEN])
def test_rows_and_the_whole_path_are_in_sight(page: Page, culvert: Path, size: tuple[int, int]) -> None:
    mix = shelved(page, culvert)
    bench = page.request.get(f"/api/mixes/{mix}").json()["bench"]
    bench.pop("version", None)
    line, briefs = bench["ticket"][0], (*BRIEFS, "podcast", "video", "distributor")
    page.set_viewport_size({"width": size[0], "height": size[1]})
    for count in (1, 2, 8, ALL_SEEN[size], 24):
        ticket = [{**line, "id": f"d{at}", "brief": briefs[at % len(briefs)]} for at in range(count)]
        assert page.request.put(f"/api/mixes/{mix}/bench", data={**bench, "ticket": ticket}).ok
        page.goto(f"/bench/{mix}")
        press = page.get_by_role("button", name=re.compile(rf"^Press {count} files?$"))
        expect(press).to_be_in_viewport(ratio=0.9)
        expect(page.locator(".path-open")).to_be_visible()
        page.wait_for_timeout(700)
        seen, about = page.evaluate(SEEN), (size, count)
        assert seen["rows"] >= min(count, ALL_SEEN[size]), (about, seen)
        # Depth and dither of the selected delivery, and at least so many lines of its path.
        assert seen["controls"] >= 2 and seen["lines"] >= (5 if size[1] < 800 else 7), (about, seen)
        assert (seen["bar"] <= 44, seen["pressed"]) == (True, 0), (about, seen)
        if count == 8:
            assert 200 <= seen["wave"] <= 0.6 * size[1], (about, seen)
        assert (page.evaluate(CUT), page.evaluate(OVER), page.evaluate(OUTSIDE)) == ([], [], []), about
        assert page.evaluate(ENDS) == [], about
    page.get_by_role("button", name="Compact").click()
    page.request.put(f"/api/mixes/{mix}/bench", data=bench)


def test_lines_of_the_tree_follow_cells_that_grow(page: Page, culvert: Path) -> None:
    mix = on_the_bench(page, culvert)
    bench = page.request.get(f"/api/mixes/{mix}").json()["bench"]
    bench.pop("version", None)
    line = bench["ticket"][0]
    bench["ticket"] = [{**line, "id": one[:9], "brief": one} for one in BRIEFS]
    on_the_bench(page, culvert, **bench)
    expect(page.get_by_role("button", name="Press 5 files")).to_be_visible()
    page.wait_for_timeout(500)
    before = page.locator(".tree-lines path").evaluate_all("all => all.map((one) => one.getAttribute('d'))")
    range_act(page, "Rename range")
    page.get_by_label("Name of the range").fill("The long verse by the lock")
    page.keyboard.press("Enter")
    expect(page.locator("[data-node]", has_text="The long verse by the lock").first).to_be_visible()
    page.wait_for_timeout(500)
    assert page.locator(".tree-lines path").evaluate_all("all => all.map((one) => one.getAttribute('d'))") != before
    assert page.evaluate(ENDS) == []


def test_nowhere_is_the_librarys_own_blue(page: Page) -> None:
    """The palette's tokens carry every part; what the library comes with would show as its blue."""
    for place in ("/shelf", "/order", "/press", "/proof", "/send", "/tags", "/briefs"):
        page.goto(place)
        page.wait_for_timeout(300)
        tokens = page.evaluate(
            "() => [...document.querySelectorAll('*')].flatMap((one) => ["
            "...['--ant-color-info', '--ant-color-primary', '--ant-color-link', '--ant-progress-default-color']"
            ".map((name) => getComputedStyle(one).getPropertyValue(name).trim().toLowerCase()),"
            "...['color', 'backgroundColor', 'borderTopColor'].map((name) => getComputedStyle(one)[name])])"
        )
        blue = {one for one in tokens if one in ("#1677ff", "#1668dc", "rgb(22, 119, 255)", "rgb(22, 104, 220)")}
        assert not blue, place


def test_twenty_four_deliveries_can_be_overseen(page: Page, culvert: Path) -> None:
    mix = shelved(page, culvert)
    bench = page.request.get(f"/api/mixes/{mix}").json()["bench"]
    (like,) = bench["ranges"][:1]
    names = ("Head", "Verse", "Refrain", "Bridge", "Close", "Coda")
    ranges = [
        {**like, "id": f"x{at}", "name": name, "start_frame": at * 20_000, "end_frame": at * 20_000 + 15_000}
        for at, name in enumerate(names)
    ]
    line = bench["ticket"][0]
    ticket = [
        {**line, "id": f"{one['id']} {brief}", "brief": brief, "range_id": one["id"]}
        for one in ranges
        for brief in ("audio-cd", "archive", "phone-and-car", "video")
    ]
    wish = {**bench, "ranges": ranges, "ticket": ticket}
    assert page.request.put(f"/api/mixes/{mix}/bench", data=wish).ok
    page.goto(f"/bench/{mix}")
    expect(page.get_by_role("button", name="Press 24 files")).to_be_visible()
    tree = page.get_by_role("group", name="The ticket: the path of the signal to every file")
    heads = tree.locator(".tree-group button")
    expect(heads).to_have_count(6)
    # One line of words a station: no word is cut, nothing lies over anything else.
    assert page.locator(".cell-file").count() == 24
    assert page.locator(".cell-file").first.bounding_box()["height"] < 60  # type: ignore[index]
    assert (page.evaluate(CUT), page.evaluate(OVER), page.evaluate(OUTSIDE)) == ([], [], [])
    page.get_by_role("button", name="Collapse all").click()
    expect(page.locator(".cell-file")).to_have_count(0)
    expect(heads.nth(1)).to_contain_text("4 files")
    last = heads.nth(5).bounding_box()
    tree_box = tree.bounding_box()
    assert last and tree_box and last["y"] + last["height"] <= tree_box["y"] + tree_box["height"]
    heads.nth(2).click()
    expect(page.locator(".cell-file")).to_have_count(4)
    # A file selected elsewhere expands its group.
    page.keyboard.press("Control+k")
    page.get_by_role("combobox", name="Search").fill("delivery phone Coda")
    page.keyboard.press("Enter")
    expect(heads.nth(5)).to_have_attribute("aria-expanded", "true")
    page.request.put(f"/api/mixes/{mix}/bench", data=bench)


def test_no_word_is_cut_and_nothing_is_pushed_out_of_any_other_screen(page: Page, tmp_path: Path) -> None:
    title = "Tallow Yard, as it was played in the long room, second reading"
    path = write(tmp_path / f"{title}.wav", noise(RATE // 4), RATE, "FLOAT")
    mix = shelved(page, path)
    bench = page.request.get(f"/api/mixes/{mix}").json()["bench"]
    bench.pop("version", None)
    line = bench["ticket"][0]
    bench["ticket"] = [{**line, "id": one[:9], "brief": one} for one in BRIEFS]
    # One that is made, and two that wait while the press is paused.
    ask = page.request.post("/api/pressings", data={"mix_id": mix, "bench": bench})
    assert ask.ok, ask.text()
    number = ask.json()["id"]
    wait_for(lambda: page.request.get(f"/api/pressings/{number}").json()["state"] == "done")
    page.request.patch("/api/press", data={"paused": True})
    for _ in range(2):
        page.request.post("/api/pressings", data={"mix_id": mix, "bench": bench})
    for place in ("/shelf", "/order", f"/press/{number}", "/proof", "/send", "/tags", "/briefs"):
        page.goto(place)
        page.wait_for_load_state("load")
        if "press" in place:
            expect(page.get_by_role("button", name=f"Pressing {number}, {title}")).to_be_visible()
        for width, height in SIZES:
            page.set_viewport_size({"width": width, "height": height})
            page.wait_for_timeout(100)
            # Paths are shortened on purpose, and are whole behind the pointer.
            cut = [one for one in page.evaluate(CUT) if "/" not in one]
            wide = page.evaluate("document.documentElement.scrollWidth - document.documentElement.clientWidth")
            assert (place, width, cut, wide) == (place, width, [], 0)
            if "press" in place:
                # Each that waits has a line of its own, and its words have room.
                lines = page.get_by_role("list", name="Queue").get_by_role("listitem")
                expect(lines).to_have_count(2)
                first, second = (one.bounding_box() for one in lines.all())
                assert first and second and second["y"] >= first["y"] + first["height"] and first["height"] < 75
    page.request.patch("/api/press", data={"paused": False})
