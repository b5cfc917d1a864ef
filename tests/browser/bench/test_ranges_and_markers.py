"""Several ranges, markers, tempo, snapping and the meter, on the real page."""

import re
from pathlib import Path

import numpy as np
import pytest
from playwright.sync_api import Page, expect

from browser.conftest import Server
from ripe_press.core.tags.riff_notes import append_chunks, marker_chunks
from ripe_press.core.timeline import Marker
from support.pages import on_the_bench, press_and_see, range_act, station, view
from support.signals import sine, write

RATE = 48_000


@pytest.fixture(scope="module")
def long_pound(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """Eight seconds: two tones parted by silence, with a marker at each."""
    samples = np.concatenate((sine(440, 3, RATE), np.zeros((RATE * 2, 2)), sine(660, 3, RATE)))
    path = write(tmp_path_factory.mktemp("mixes") / "Long Pound.wav", samples, RATE, "PCM_16")
    append_chunks(path, marker_chunks([Marker(0, "Headwater"), Marker(RATE * 5, "Towpath")]))
    return path


@pytest.fixture
def bench(page: Page, long_pound: Path) -> Page:
    """The mix on the bench as it came, whatever an earlier test left."""
    markers = [{"frame": 0, "name": "Headwater"}, {"frame": RATE * 5, "name": "Towpath"}]
    ticket = [{"id": "d1", "brief": "audio-cd", "range_id": "r1", "changes": {}}]
    ranges = [{"id": "r1", "start_frame": 0, "end_frame": RATE * 8}]
    whole = {"ranges": ranges, "markers": markers, "ticket": ticket}
    on_the_bench(page, long_pound, **whole)
    expect(page.get_by_label("To", exact=True)).to_have_value("0:08.000")
    return page


def test_ranges_from_markers_are_named_pressed_and_undone(bench: Page) -> None:
    ranges = bench.get_by_role("group", name="Ranges")
    bench.get_by_role("button", name="Add or suggest ranges").click()
    proposal = bench.get_by_role("listitem").filter(has_text="2 ranges from markers")
    expect(proposal).to_contain_text("One range per marker")
    proposal.get_by_role("button", name="Replace ranges").click()
    expect(ranges.get_by_role("button", name=re.compile("^Headwater"))).to_have_attribute("aria-pressed", "true")
    ranges.get_by_role("button", name=re.compile("^Towpath")).click()
    expect(bench.get_by_label("From", exact=True)).to_have_value("0:05.000")
    range_act(bench, "Rename range")
    field = bench.get_by_label("Name of the range")
    field.fill("Towpath, live")
    field.press("Enter")
    press_and_see(bench, "Press 2 files")
    for name in ("Long Pound Headwater 44k1 16b.wav", "Long Pound Towpath, live 44k1 16b.wav"):
        expect(bench.get_by_role("article", name=name)).to_be_visible()
    bench.go_back()
    # The bench is unchanged on return, with its selection.
    range_act(bench, "Delete range")
    expect(bench.get_by_role("button", name="Press 1 file")).to_be_visible()
    bench.get_by_role("button", name="Undo").click()
    expect(bench.get_by_role("button", name="Press 2 files")).to_be_visible()


def test_markers_by_key_by_name_and_by_file(bench: Page) -> None:
    lane = bench.get_by_role("group", name="Markers")
    bench.keyboard.press("End")
    bench.keyboard.press("Shift+ArrowLeft")
    bench.keyboard.press("m")
    flag = lane.get_by_role("slider", name="Marker Marker 3")
    expect(flag).to_have_attribute("aria-valuetext", "0:07.900")
    flag.focus()
    bench.keyboard.press("Shift+ArrowLeft")
    expect(flag).to_have_attribute("aria-valuetext", "0:07.800")
    bench.get_by_role("button", name="Markers (3)").click()
    name = bench.get_by_label("Name of marker 3")
    name.fill("Weir")
    name.press("Enter")
    expect(lane.get_by_role("slider", name="Marker Weir")).to_be_visible()
    time = bench.get_by_label("Time of Weir")
    time.fill("0:06")
    time.press("Enter")
    expect(lane.get_by_role("slider", name="Marker Weir")).to_have_attribute("aria-valuetext", "0:06.000")
    chooser = bench.get_by_test_id("marker-chooser")
    chooser.set_input_files({"name": "more.csv", "mimeType": "text/csv", "buffer": b"0:02,Lock\nlater,Gate\n"})
    expect(bench.get_by_role("alert")).to_contain_text("Line 2")
    chooser.set_input_files({"name": "more.csv", "mimeType": "text/csv", "buffer": b"0:02,Lock\n"})
    expect(lane.get_by_role("slider", name="Marker Lock")).to_be_visible()
    # A recent change is included, too.
    with bench.expect_download() as caught:
        bench.get_by_role("link", name="Export CSV").click()
    assert "96000,Lock" in Path(caught.value.path()).read_text()
    bench.keyboard.press("Escape")
    bench.get_by_role("heading", name="Long Pound", exact=True).click()
    lane.get_by_role("slider", name="Marker Lock").focus()
    bench.keyboard.press("Delete")
    expect(lane.get_by_role("slider")).to_have_count(3)


def test_bars_are_typed_shown_and_snapped_to(bench: Page) -> None:
    bench.get_by_role("button", name="Tempo").click()
    bench.get_by_label("Tempo", exact=True).fill("120")
    bench.get_by_role("button", name="Use tempo").click()
    bench.get_by_label("Bar 1 at").fill("0")
    bench.get_by_label("Bar 1 at").press("Enter")
    bench.get_by_role("button", name="Add change").click()
    bar = bench.get_by_label("Bar of change 1")
    bar.fill("3")
    bar.press("Enter")
    tempo = bench.get_by_label("Tempo from bar 3")
    tempo.fill("60")
    tempo.press("Enter")
    bench.get_by_role("heading", name="Long Pound", exact=True).click()
    view(bench, "Time units", "Bars and beats")
    start, end = bench.get_by_label("From", exact=True), bench.get_by_label("To", exact=True)
    # Bars 1 and 2 last two seconds each at 120; bar 3 lasts four at 60.
    expect(end).to_have_value("b4.1")
    start.fill("b2.3")
    start.press("Enter")
    expect(start).to_have_value("b2.3")
    expect(bench.get_by_role("slider", name="Start of the range")).to_have_attribute("aria-valuenow", str(RATE * 3))
    view(bench, "Snapping", "To bars")
    handle = bench.get_by_role("slider", name="Start of the range")
    grip, box = handle.bounding_box(), bench.get_by_test_id("wave").bounding_box()
    assert grip
    assert box
    bench.mouse.move(grip["x"] + 6, box["y"] + 100)
    bench.mouse.down()
    bench.mouse.move(box["x"] + box["width"] * 0.46, box["y"] + 100, steps=4)
    bench.mouse.up()
    expect(start).to_have_value("b3.1")
    expect(bench.locator("[data-node]", has_text="Bar 3").first).to_be_visible()


def test_shift_and_drag_adds_a_range_and_alt_leaves_the_grid(bench: Page) -> None:
    box = bench.get_by_test_id("wave").bounding_box()
    assert box
    bench.keyboard.down("Shift")
    bench.mouse.move(box["x"] + box["width"] * 0.25, box["y"] + 120)
    bench.mouse.down()
    bench.mouse.move(box["x"] + box["width"] * 0.5, box["y"] + 120, steps=4)
    bench.mouse.up()
    bench.keyboard.up("Shift")
    expect(bench.get_by_role("button", name="Press 2 files")).to_be_visible()
    bench.keyboard.press("PageUp")
    expect(bench.get_by_label("To", exact=True)).to_have_value("0:08.000")
    tree = bench.get_by_role("group", name=re.compile("The ticket"))
    expect(tree.get_by_role("button", name="Long Pound", exact=True)).to_have_count(1)


def test_meter_shows_the_playback(bench: Page) -> None:
    bench.get_by_role("button", name="Play range").click()
    bench.get_by_role("button", name="Meter and volume").click()
    figure = bench.get_by_test_id("meter-peak")
    expect(figure).to_have_text(re.compile(r"^−6\.[01] dBFS"))
    bench.get_by_role("button", name="Stop").click()


def test_a_range_has_its_own_spectrum_and_true_peak(bench: Page) -> None:
    bench.locator("[data-node]", has_text="Whole mix").first.click()
    panel = bench.get_by_role("region", name="Delivery")
    expect(panel.get_by_label("Mean spectrum of the range")).to_be_visible()
    expect(panel.get_by_text(re.compile(r"^−6\.0 dBTP near"))).to_be_visible()
    panel.get_by_label("De-click").fill("3")
    panel.get_by_label("De-click").press("Enter")
    expect(panel.get_by_text("0.003 s, s")).to_have_count(2)


def test_channels_of_a_surround_file_are_chosen_on_the_page(page: Page, server: Server, tmp_path: Path) -> None:
    samples = np.zeros((RATE, 6))
    samples[:, 2] = np.sin(np.arange(RATE) * 0.05) * 0.5
    on_the_bench(page, write(tmp_path / "Round.wav", samples, RATE))
    # The centre folded down lies 3 dB lower on either side.
    expect(page.locator(".bench-head")).to_contain_text("peak −9.0 dBFS")
    station(page, "Source")
    page.get_by_label("Channels to use").click()
    page.get_by_title("Channels 2 and 3").click()
    expect(page.locator(".bench-head")).to_contain_text("peak −6.0 dBFS")
    expect(page.get_by_role("region", name="Delivery")).to_contain_text("channels 2 and 3 of 6")
