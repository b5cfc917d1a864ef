"""Loops on the real page: the tempo is asked for, a tail is distinguished from music, and the seam can be played."""

import re
from pathlib import Path

import numpy as np
import pytest
import soxr
from playwright.sync_api import Page, expect

from support.cuts import RATE_HZ, music, room
from support.pages import on_the_bench, shelved, view
from support.signals import write

RATE = 44_100


@pytest.fixture(scope="module")
def song(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """Twelve bars at 100 bpm and their reverberation; only the sound gives the tempo."""
    random = np.random.default_rng(12)
    sound = room(music(random, 12 * 2.4, "band", 100), 1.0, 0.25, random)
    wide = soxr.resample(np.concatenate((sound, np.zeros(RATE_HZ))), RATE_HZ, RATE) * 0.4
    return write(tmp_path_factory.mktemp("song") / "Sluice Song.wav", np.stack((wide, wide), axis=1), RATE, "PCM_24")


@pytest.fixture
def bench(page: Page, song: Path) -> Page:
    """The mix on the bench as it came, whatever an earlier test left."""
    number = shelved(page, song)
    frames = page.request.get(f"/api/mixes/{number}").json()["frames"]
    ranges = [{"id": "r1", "start_frame": 0, "end_frame": frames}]
    ticket = [{"id": "d1", "brief": "loop", "range_id": "r1", "changes": {}}]
    tags = [["title", "Sluice Song"]]
    on_the_bench(page, song, ranges=ranges, ticket=ticket, tags=tags)
    return page


def test_a_loop_from_continuing_music_is_crossfaded_and_heard(bench: Page) -> None:
    # Nothing is guessed: the sound offers 100, with its half and double.
    bench.get_by_role("button", name="Tempo: No tempo").click()
    expect(bench.get_by_text("detected, confidence")).to_be_visible()
    expect(bench.get_by_role("button", name="50 bpm")).to_be_visible()
    bench.get_by_role("button", name="Use 100 bpm").last.click()
    expect(bench.get_by_role("button", name="Tempo: 100 bpm, 4/4")).to_be_visible()
    bench.keyboard.press("Escape")
    # In bars a bare number is a bar, and nonsense is explained in bars.
    view(bench, "Time units", "Bars and beats")
    end = bench.get_by_label("To", exact=True)
    end.fill("soon")
    end.press("Enter")
    expect(bench.get_by_role("alert").filter(has_text="25 for bar 25")).to_be_visible()
    end.fill("9")
    end.press("Enter")
    expect(end).to_have_value("b9.1")
    expect(bench.get_by_text("Bars 1–8").first).to_be_visible()
    bench.get_by_role("button", name=re.compile("^Bars 1–8")).last.click()
    edges = bench.get_by_label("End of the range")
    expect(bench.get_by_text("The music continues after the end.")).to_be_visible()
    expect(edges.get_by_role("radio", name="Fold")).to_be_disabled()
    edges.get_by_text("Crossfade").click()
    bench.get_by_role("spinbutton", name="Crossfade").fill("20")
    expect(bench.get_by_text("The last 20 ms crossfade into the start")).to_be_visible()
    bench.get_by_role("button", name="Press 1 file").click()
    bench.get_by_role("link", name="Open proof").click(timeout=60_000)
    # The bench has such a button too.
    expect(bench.get_by_role("heading", name="Proof")).to_be_visible()
    bench.get_by_role("button", name="Loop", exact=True).click()
    expect(bench.get_by_role("button", name="Stop", exact=True)).to_be_visible()
    expect(bench.get_by_text("Loop seam")).to_be_visible()


def test_a_tempo_can_be_tapped_and_silence_set(bench: Page) -> None:
    for _ in range(6):
        bench.keyboard.press("t")
        bench.wait_for_timeout(500)
    expect(bench.get_by_role("button", name=re.compile(r"^Tempo: 1[01]\d(\.\d)? bpm"))).to_be_visible()
    bench.get_by_role("button", name="Range actions").click()
    bench.get_by_role("button", name="Silence below −70.0 dBFS").click()
    bench.get_by_label("Silence below", exact=True).fill("-30")
    expect(bench.get_by_role("button", name="Silence below −30.0 dBFS")).to_be_visible()
    bench.get_by_role("button", name="Use automatic").click()
    expect(bench.get_by_role("button", name="Silence below −70.0 dBFS")).to_be_visible()


def test_the_guide_asks_for_tempo_and_bar_one(bench: Page) -> None:
    bench.goto("/shelf")
    bench.get_by_role("button", name="Quick start").click()
    guide = bench.get_by_role("region", name="Quick start")
    guide.get_by_label("Mix on the Shelf").fill("Sluice")
    bench.locator(".ant-select-dropdown:visible").get_by_title("Sluice Song", exact=True).click()
    guide.get_by_role("button", name=re.compile("^Loop")).click()
    expect(guide.get_by_text("Which tempo? A loop is whole bars.")).to_be_visible()
    guide.get_by_label("Tempo", exact=True).fill("100")
    guide.get_by_role("button", name="Use tempo").click()
    expect(guide.get_by_label("Bar 1 at")).to_have_value("0:00.000")
    guide.get_by_role("button", name="Snap to bars").click()
    expect(guide.get_by_role("button", name="Press file")).to_be_enabled()
