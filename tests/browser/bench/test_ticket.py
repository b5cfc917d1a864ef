"""The ticket on the real page: briefs, departures, stations that change the signal, briefs of one's own."""

import json
import re
from pathlib import Path

import numpy as np
import pytest
import soundfile
from playwright.sync_api import Page, expect

from support.pages import choose, on_the_bench, press_and_see, station
from support.signals import noise, write

RATE = 48_000


@pytest.fixture(scope="module")
def eel_ladder(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """Five seconds of noise that swells, 24 bits."""
    samples = noise(RATE * 5, level=0.08) * (0.3 + 0.7 * np.sin(np.linspace(0, 9, RATE * 5)) ** 2)[:, None]
    return write(tmp_path_factory.mktemp("mixes") / "Eel Ladder.wav", samples, RATE, "PCM_24")


@pytest.fixture
def bench(page: Page, eel_ladder: Path) -> Page:
    ticket = [{"id": "d1", "brief": "audio-cd", "range_id": "r1", "changes": {}}]
    whole = {"ranges": [{"id": "r1", "start_frame": 0, "end_frame": RATE * 5}], "ticket": ticket}
    whole["tags"] = [["title", "Eel Ladder"], ["artist", "The Sluicekeepers"]]
    on_the_bench(page, eel_ladder, **whole)
    expect(page.get_by_role("button", name="Press 1 file")).to_be_visible()
    return page


def panel(page: Page) -> "Page":
    return page.get_by_role("region", name="Delivery")  # type: ignore[return-value]


def test_deliveries_from_briefs_are_pressed_in_one_go(bench: Page) -> None:
    bench.keyboard.press("d")
    dialog = bench.get_by_role("dialog")
    for name in ("Archive", "Streaming, loud", "Phone and car"):
        dialog.get_by_role("button", name=re.compile(f"^{name}")).click()
    dialog.get_by_role("button", name="Add 3 deliveries").click()
    press_and_see(bench, "Press 4 files")
    loud = bench.get_by_role("article", name="Eel Ladder -14 LUFS 48k 24b.wav")
    expect(loud.get_by_text("−14.0 LUFS")).to_be_visible()
    with bench.expect_download() as caught:
        bench.get_by_role("article", name="Eel Ladder.mp3").get_by_role("link", name="Download").click()
    info = soundfile.info(caught.value.path())
    assert (info.format, info.frames) == ("MP3", 5 * 44_100)


def test_a_change_departs_from_the_brief_and_comes_back(bench: Page) -> None:
    bench.get_by_role("button", name=re.compile(r"^16 bits")).click()
    choose(bench, "Depth", "Dither", "Noise-shaped, strong")
    expect(panel(bench)).to_contain_text("Automatic would use triangular.")
    expect(panel(bench).get_by_label("Spectrum of the mix and the added noise")).to_be_visible()
    choose(bench, "Depth", "Dither", "None")
    expect(panel(bench)).to_contain_text("without dither")
    panel(bench).get_by_role("button", name="Reset to brief: Dither").click()
    expect(panel(bench)).not_to_contain_text("without dither")
    choose(bench, "Depth", "Depth", "24 bits")
    expect(panel(bench)).to_contain_text("Audio CD requires 16 bits; this file: 24 bits")
    bench.get_by_role("button", name="Undo").click()
    expect(panel(bench)).not_to_contain_text("Audio CD requires")


def test_level_is_measured_as_it_will_be_pressed(bench: Page) -> None:
    bench.get_by_role("button", name=re.compile("Audio CD ·")).click()
    choose(bench, "Level", "Level", "Loudness to")
    bench.get_by_role("button", name=re.compile("^−14.0 LUFS")).click()
    panel(bench).get_by_role("button", name="Measure level").click()
    expect(panel(bench).get_by_text("Peak gain reduction")).to_be_visible(timeout=30_000)
    expect(panel(bench)).to_contain_text("−14.0 LUFS")


def test_a_loudness_out_of_reach_stops_and_is_remedied_by_one_click(bench: Page) -> None:
    bench.get_by_role("button", name=re.compile("Audio CD ·")).click()
    choose(bench, "Level", "Level", "Loudness to")
    target = panel(bench).get_by_label("Target")
    # One after the other, before the server has answered: both count.
    target.fill("-5")
    panel(bench).get_by_label("Max gain reduction").fill("3")
    bench.keyboard.press("Tab")
    bench.get_by_role("button", name=re.compile(r"^−5\.0 LUFS")).click()
    expect(target).to_have_value("-5.0")
    expect(panel(bench).get_by_label("Max gain reduction")).to_have_value("3.0")
    expect(bench.get_by_text("needs over 3 dB of gain reduction").first).to_be_visible()
    panel(bench).get_by_role("button", name="Measure level").click()
    take = panel(bench).get_by_role("button", name=re.compile("^Set −"))
    expect(panel(bench).get_by_text("Peak gain reduction")).to_be_visible()
    label = take.inner_text().removeprefix("Set ")
    take.click()
    expect(bench.get_by_role("button", name=re.compile(f"^{re.escape(label)}"))).to_be_visible()
    expect(take).to_have_count(0)


def test_sides_are_split_finished_and_excluded(bench: Page) -> None:
    bench.get_by_role("button", name=re.compile("Audio CD ·")).click()
    choose(bench, "Channels", "Channels", "Split into two mono files")
    expect(bench.get_by_role("button", name="Press 2 files")).to_be_visible()
    expect(bench.get_by_role("button", name=re.compile("Eel Ladder 44k1 16b R.wav"))).to_be_visible()
    station(bench, "Source")
    gain = panel(bench).get_by_label("Gain", exact=True)
    gain.fill("-6")
    gain.press("Enter")
    cell = bench.get_by_role("button", name=re.compile("^Finishing 1 step"))
    expect(cell).to_be_visible()
    cell.click()
    panel(bench).get_by_role("switch", name="Finishing chain").click()
    expect(cell).to_have_count(0)


def test_a_ring_out_has_its_threshold_and_its_limit(bench: Page) -> None:
    bench.locator("[data-node]", has_text="Whole mix").first.click()
    panel(bench).get_by_text("Ring out", exact=True).click()
    expect(panel(bench).get_by_label("Until decay below")).to_have_value("-70")
    limit = panel(bench).get_by_label("Max tail")
    limit.fill("2")
    limit.press("Enter")
    expect(limit).to_have_value("2.0")
    bench.get_by_role("button", name="Undo").click()
    expect(limit).to_have_value("30.0")


def test_deliveries_are_disabled_duplicated_and_removed(bench: Page) -> None:
    bench.get_by_role("button", name="Duplicate", exact=True).click()
    expect(bench.get_by_role("button", name="Press 2 files")).to_be_visible()
    bench.get_by_role("button", name="Disable", exact=True).click()
    expect(bench.get_by_role("button", name="Press 1 file")).to_be_visible()
    bench.get_by_role("button", name="Enable").click()
    expect(bench.get_by_role("button", name="Press 2 files")).to_be_visible()
    bench.get_by_role("button", name="Remove", exact=True).click()
    expect(bench.get_by_role("button", name="Press 1 file")).to_be_visible()
    bench.get_by_role("button", name="Remove", exact=True).click()
    expect(bench.get_by_text("Add one to choose where this mix goes")).to_be_visible()
    expect(bench.get_by_role("button", name="Press 0 files")).to_be_disabled()


def test_a_brief_of_ones_own_is_copied_changed_exported_and_refused(page: Page) -> None:
    page.goto("/briefs")
    page.get_by_role("button", name="Podcast").click()
    page.get_by_role("button", name="Duplicate").click()
    title = page.get_by_label("Title", exact=True)
    expect(title).to_have_value("Podcast, copy")
    title.fill("Weir Radio")
    page.get_by_role("button", name="Save").click()
    expect(page.get_by_role("heading", name="Weir Radio")).to_be_visible()
    with page.expect_download() as caught:
        page.get_by_role("link", name="Export").click()
    body = json.loads(Path(caught.value.path()).read_text())
    assert body["title"] == "Weir Radio"
    body |= {"id": "weir-tape", "title": "Weir Tape"}
    body["prefer"]["encoding"] = "f32"
    chooser = page.get_by_test_id("brief-chooser")
    chooser.set_input_files({"name": "a.json", "mimeType": "application/json", "buffer": json.dumps(body).encode()})
    expect(page.get_by_role("alert")).to_contain_text("MP3 is lossy: remove the bit depth")
    body["prefer"]["encoding"] = "lossy"
    chooser.set_input_files({"name": "a.json", "mimeType": "application/json", "buffer": json.dumps(body).encode()})
    expect(page.get_by_role("heading", name="Weir Tape")).to_be_visible()
    page.get_by_role("button", name="Delete").click()
    page.get_by_role("button", name="Delete").last.click()
    expect(page.get_by_role("button", name="Weir Tape")).to_have_count(0)


def test_the_parts_of_the_bench_are_made_larger_by_key_and_stay_so(bench: Page) -> None:
    wave = bench.get_by_test_id("wave")
    before = wave.bounding_box()
    cursor = bench.locator(".wave-box .cursor")
    stands = cursor.bounding_box()
    panel = bench.get_by_role("region", name="Delivery")
    narrow = panel.bounding_box()
    assert before
    assert narrow
    bench.get_by_role("separator", name="Height of the waveform").focus()
    bench.keyboard.press("ArrowUp")
    expect(wave).not_to_have_attribute("height", str(round(before["height"])))
    bench.get_by_role("separator", name="Width of the delivery").focus()
    bench.keyboard.press("ArrowLeft")
    after, wide = wave.bounding_box(), panel.bounding_box()
    assert after
    assert wide
    assert after["height"] < before["height"]
    assert wide["width"] > narrow["width"]
    # The arrows moved nothing else.
    moved = cursor.bounding_box()
    assert stands
    assert moved
    assert moved["x"] == stands["x"]
    bench.reload()
    expect(panel).to_be_visible()
    bench.wait_for_function("document.querySelector('[aria-label=Delivery]').offsetWidth > 340")


def test_a_finding_is_signed_off_once_for_all_files(bench: Page) -> None:
    tags = [["title", "Eel Ladder"]]
    number = int(bench.url.rsplit("/", 1)[1])
    changes = {"encoding": "s16", "dither": "none"}
    lines = [
        {"id": f"d{at}", "brief": brief, "range_id": "r1", "changes": changes}
        for at, brief in enumerate(("audio-cd", "blank"))
    ]
    wish = {"ranges": [{"id": "r1", "start_frame": 0, "end_frame": RATE * 5}], "ticket": lines, "tags": tags}
    assert bench.request.put(f"/api/mixes/{number}/bench", data=wish).ok
    bench.reload()
    bench.get_by_role("button", name=re.compile(r"findings? in")).click()
    findings = bench.get_by_role("list", name="Findings", exact=True)
    findings.get_by_role("button", name="Sign off…").first.click()
    findings.get_by_label("Your name").fill("Ada Weir")
    findings.get_by_label("Reason").fill("No artist yet.")
    findings.get_by_role("button", name="Sign off", exact=True).click()
    expect(findings).to_contain_text("Signed off by Ada Weir: No artist yet.")
    expect(bench.get_by_role("button", name=re.compile("1 signed off"))).to_be_visible()
    findings.get_by_role("button", name="Remove sign-off").click()
    expect(bench.get_by_role("button", name=re.compile("1 signed off"))).to_have_count(0)


def test_a_delivery_gets_a_range_of_its_own(bench: Page) -> None:
    bench.keyboard.press("d")
    bench.get_by_role("dialog").get_by_role("button", name=re.compile("^Archive")).dblclick()
    delivery = station(bench, "Range")
    expect(delivery).to_contain_text("Shared by 2 deliveries.")
    delivery.get_by_role("button", name="Copy for this delivery").click()
    expect(delivery.get_by_text("Shared by")).to_have_count(0)
    ranges = bench.get_by_role("group", name="Ranges")
    expect(ranges.get_by_role("button", name=re.compile("Whole mix"))).to_have_count(2)
    bench.get_by_role("button", name="Undo").click()
    expect(delivery).to_contain_text("Shared by 2 deliveries.")
