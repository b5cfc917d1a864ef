"""Sets of deliveries on the real page: saved, used on another mix and on several, chosen for new ones."""

import re
from pathlib import Path

from playwright.sync_api import Page, expect

from support.pages import on_the_bench, shelved
from support.signals import noise, write

RATE = 48_000
MP3 = {"id": "d1", "brief": "phone-and-car", "range_id": "r1", "changes": {"container": "mp3", "kbps": 192}}


def song(folder: Path, title: str, seed: int) -> Path:
    return write(folder / f"{title}.wav", noise(RATE, 2, seed, 0.1), RATE)


def test_a_set_is_saved_used_and_undone(page: Page, tmp_path: Path) -> None:
    first, second = (song(tmp_path, title, at) for at, title in enumerate(("Set one", "Set two"), 41))
    whole = [{"id": "r1", "start_frame": 0, "end_frame": RATE}]
    on_the_bench(page, first, ranges=whole, ticket=[MP3])
    page.get_by_role("button", name="Sets").click()
    page.get_by_label("Name of the set").fill("Student")
    page.get_by_role("button", name="Save as set").click()
    student = page.get_by_role("list", name="Sets").get_by_role("button", name=re.compile("^Student"))
    expect(student).to_contain_text("1 delivery: Phone and car")
    page.get_by_label("Name of the set").fill("student")
    expect(page.get_by_role("button", name="Replace set")).to_be_enabled()

    on_the_bench(page, second)
    tree = page.get_by_role("group", name="The ticket")
    expect(tree.get_by_text("Audio CD")).to_be_visible()
    page.keyboard.press("Control+k")
    page.get_by_placeholder(re.compile("")).last.fill("preset")
    page.get_by_role("option", name="Sets of deliveries").click()
    page.get_by_role("list", name="Sets").get_by_role("button", name=re.compile("^Student")).click()
    expect(tree.get_by_text("Set two.mp3")).to_be_visible()
    expect(page.get_by_role("button", name="Press 1 file")).to_be_visible()
    page.get_by_role("button", name="Undo").click()
    expect(page.get_by_role("button", name="Press 2 files")).to_be_visible()


def test_a_set_goes_on_several_benches_and_opens_new_mixes(page: Page, tmp_path: Path) -> None:
    numbers = [shelved(page, song(tmp_path, title, at)) for at, title in enumerate(("Many one", "Many two"), 51)]
    bench = page.request.get(f"/api/mixes/{numbers[0]}").json()["bench"] | {"ticket": [MP3]}
    assert page.request.put("/api/sets", data={"name": "Batch", "bench": bench}).ok
    page.goto("/")
    for title in ("Many one", "Many two"):
        page.get_by_role("checkbox", name=f"Select {title}").check()
    page.get_by_role("button", name=re.compile("^Press")).first.click()
    dialog = page.get_by_role("dialog")
    dialog.get_by_role("radio", name="Use a saved set").click()
    dialog.get_by_role("combobox", name="Set").click()
    page.get_by_title("Batch (1 delivery: Phone and car)").click()
    expect(dialog.get_by_text("Many two.mp3")).to_be_visible()
    dialog.get_by_role("button", name="Set without pressing").click()
    expect(page.get_by_text("Ticket set on 2 mixes.")).to_be_visible()
    page.goto(f"/bench/{numbers[1]}")
    expect(page.get_by_role("button", name="Press 1 file")).to_be_visible()

    page.get_by_role("button", name="Sets").click()
    try:
        page.get_by_label("New mixes open with").click()
        with page.expect_response(lambda answer: answer.url.endswith("/api/sets/default")):
            page.locator(".ant-select-dropdown:visible").get_by_title("Batch", exact=True).click()
        new = shelved(page, song(tmp_path, "Many three", 53))
        page.goto(f"/bench/{new}")
        expect(page.get_by_role("group", name="The ticket").get_by_text("Many three.mp3")).to_be_visible()
    finally:
        page.request.put("/api/sets/default", data={"name": "CD and archive"})
        page.request.delete("/api/sets?name=Batch")
