"""The bench's listening: what the meter reads, loops, the sound under the pointer, and how loud it comes out."""

import re

import numpy as np
import pytest
from playwright.sync_api import Page, expect

from support.pages import on_the_bench
from support.signals import sine, write

RATE = 48_000
SPY = """
window.grains = 0;
const start = AudioBufferSourceNode.prototype.start;
AudioBufferSourceNode.prototype.start = function (...all) { window.grains += 1; return start.apply(this, all); };
"""


@pytest.fixture
def bench(page: Page, tmp_path_factory: pytest.TempPathFactory) -> Page:
    """Eight seconds of a sine that reads −23 LUFS, on the bench."""
    page.add_init_script(SPY)
    tone = sine(1000, 8, RATE, 10 ** (-23 / 20))
    on_the_bench(page, write(tmp_path_factory.mktemp("tone") / "Moorhen.wav", tone, RATE, "PCM_24"))
    expect(page.get_by_role("button", name=re.compile("^Press [1-9]"))).to_be_visible()
    return page


def figure(page: Page, name: str) -> float:
    found = re.match(r"[−\d.]+", page.get_by_test_id(f"meter-{name}").inner_text())
    return float(found.group().replace("−", "-")) if found else -np.inf


def seconds(page: Page) -> float:
    minutes, rest = page.get_by_label("Position").inner_text().split(":")
    return 60 * int(minutes) + float(rest)


@pytest.mark.quiet
def test_meter_is_independent_of_the_volume(bench: Page) -> None:
    expect(bench.get_by_test_id("meter-momentary")).to_have_text("–")
    bench.get_by_role("button", name="Meter and volume").click()
    bench.get_by_role("slider", name="Volume").focus()
    for _ in range(12):
        bench.keyboard.press("ArrowLeft")
    expect(bench.get_by_text("−12 dB", exact=True)).to_be_visible()
    bench.get_by_role("button", name="Play range").click()
    # EBU Tech 3341, case 1: a stereo sine of 1 kHz at −23 dBFS reads −23.0 ± 0.1 LUFS.
    expect(bench.get_by_test_id("meter-short-term")).to_have_text("−23.0 LUFS")
    assert figure(bench, "momentary") == pytest.approx(-23, abs=0.1)
    assert figure(bench, "true-peak") == pytest.approx(-23, abs=0.2)
    bench.get_by_role("button", name="Stop").click()
    # It is kept; the peak hold is still readable.
    assert figure(bench, "true-peak") == pytest.approx(-23, abs=0.2)
    bench.reload()
    bench.get_by_role("button", name="Meter and volume").click()
    expect(bench.get_by_text("−12 dB", exact=True)).to_be_visible()
    bench.get_by_role("slider", name="Volume").focus()
    bench.keyboard.press("End")


def test_a_loop_comes_round_and_the_pointer_says_from_where(bench: Page) -> None:
    start, end = bench.get_by_label("From", exact=True), bench.get_by_label("To", exact=True)
    for field, text in ((start, "0:02"), (end, "0:03")):
        field.fill(text)
        field.press("Enter")
        expect(field).to_have_value(f"{text}.000")
    # How far the range sounds is known with its ticket.
    expect(bench.get_by_role("group", name=re.compile("The ticket"))).to_contain_text("0:01.000")
    bench.get_by_test_id("wave").click(position={"x": 400, "y": 120})
    bench.keyboard.press("l")
    expect(bench.get_by_role("button", name="Loop")).to_have_attribute("aria-pressed", "true")
    bench.keyboard.press("Space")
    expect(bench.get_by_role("button", name="Stop")).to_be_visible()
    bench.wait_for_timeout(2_600)
    # It has gone round more than once, and is still in the range.
    assert 2.0 <= seconds(bench) <= 3.01
    expect(bench.get_by_role("button", name="Stop")).to_be_visible()
    bench.keyboard.press("Space")
    bench.keyboard.press("l")
    box = bench.get_by_test_id("wave").bounding_box()
    assert box
    bench.mouse.dblclick(box["x"] + box["width"] * 0.75, box["y"] + box["height"] / 2)
    expect(bench.get_by_role("button", name="Stop")).to_be_visible()
    bench.wait_for_timeout(300)
    assert 5.9 < seconds(bench) < 7.5
    bench.get_by_role("button", name="Stop").click()


def test_ruler_drag_scrubs_the_audio(bench: Page) -> None:
    box = bench.get_by_test_id("wave").bounding_box()
    assert box
    y = box["y"] + 8
    bench.mouse.move(box["x"] + box["width"] * 0.25, y)
    with bench.expect_response(re.compile("/listen")):
        bench.mouse.down()
    for step in range(30):
        bench.mouse.move(box["x"] + box["width"] * (0.25 + step / 200), y)
        bench.wait_for_timeout(20)
    bench.mouse.up()
    assert bench.evaluate("window.grains") >= 2
    assert 3.0 < seconds(bench) < 3.4
    # The ruler sets the cursor and hears; the range is as it was.
    expect(bench.get_by_role("button", name="Play range")).to_be_visible()
