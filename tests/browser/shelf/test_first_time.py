"""The first five minutes: with nothing on the shelf two questions lead to a correct file."""

from collections.abc import Iterator
from pathlib import Path

import numpy as np
import pytest
import soundfile
from playwright.sync_api import Browser, Page, expect

from browser.conftest import Server
from ripe_press.core.tags.embedded import read_embedded
from support.signals import piece, write

RATE = 48_000


@pytest.fixture
def newcomer(browser: Browser, tmp_path: Path) -> Iterator[Page]:
    """An application before its first use."""
    server = Server(tmp_path / "data")
    context = browser.new_context(viewport={"width": 1280, "height": 800}, base_url=server.address)
    page = context.new_page()
    page.set_default_timeout(30_000)
    page.goto("/")
    yield page
    context.close()
    server.stop()


def test_three_clicks_to_a_correct_file(newcomer: Page, tmp_path: Path) -> None:
    loud = piece(5, seed=60)
    loud *= 1.3 / np.abs(loud).max()
    mix = write(tmp_path / "Weir Song.wav", loud, RATE, "FLOAT")
    steps = newcomer.get_by_role("region", name="Quick start")
    expect(steps.get_by_role("heading")).to_have_text(["Which mix?", "Where is it going?", "Press"])
    with newcomer.expect_file_chooser() as chooser:
        steps.get_by_role("button", name="Choose a file").click()
    chooser.value.set_files(mix)
    steps.get_by_role("button", name="Audio CD").click()
    # It would clip on a disc: what keeps it from that is set, said, and can be taken back.
    expect(steps).to_contain_text("Set automatically: True peak at −1.0 dBTP")
    # What the disc needs of the tag sheet is typed in place.
    field = steps.get_by_label("The field artist of the tag sheet")
    field.fill("The Sluicekeepers")
    field.press("Enter")
    expect(field).to_have_count(0)
    steps.get_by_role("button", name="Press file").click()
    download = steps.get_by_role("link", name="Download")
    with newcomer.expect_download() as saved:
        download.click()
    path = tmp_path / "there.wav"
    saved.value.save_as(path)
    found, rate = soundfile.read(path)
    assert dict(read_embedded(path, rate, len(found)).tags)["artist"] == "The Sluicekeepers"
    expect(steps).to_contain_text("All checks passed.")
    assert (rate, soundfile.info(path).subtype) == (44_100, "PCM_16")
    assert -4 < 20 * np.log10(np.abs(found).max()) < -0.99
    # The mix is on the shelf, and its bench has the pressed delivery.
    steps.get_by_role("link", name="Add deliveries on the Bench").click()
    expect(newcomer.get_by_role("button", name="Press 1 file")).to_be_visible()
    # A word that one may not know yet explains itself with the figures of this file, and is silent when asked.
    station = newcomer.get_by_role("region", name="Delivery")
    station.get_by_role("button", name="noise shaping").click()
    expect(station).to_contain_text("Off here: equal noise at all frequencies.")
    station.get_by_role("button", name="dither", exact=True).click()
    expect(station).to_contain_text("Noise here: −93.3 dBFS")
    station.get_by_role("button", name="Hide explanations").click()
    expect(station.get_by_role("button", name="dither", exact=True)).to_have_count(0)
    newcomer.reload()
    expect(station).to_contain_text("triangular dither")
    expect(station.get_by_role("button", name="dither", exact=True)).to_have_count(0)


def test_first_file_reports_errors_and_undoes_them(newcomer: Page, tmp_path: Path) -> None:
    steps = newcomer.get_by_role("region", name="Quick start")
    path = steps.get_by_label("Path of a mix on this machine")
    path.fill(str(tmp_path / "nothing.wav"))
    path.press("Enter")
    expect(steps.get_by_role("alert")).to_contain_text("File not found")
    other = tmp_path / "notes.wav"
    other.write_text("no sound")
    path.fill(str(other))
    path.press("Enter")
    expect(steps.get_by_role("alert")).to_contain_text("notes.wav")
    loud = piece(3, seed=61)
    path.fill(str(write(tmp_path / "Late Song.wav", loud * 1.2 / np.abs(loud).max(), RATE, "FLOAT")))
    path.press("Enter")
    expect(steps).to_contain_text("Late Song")
    steps.get_by_role("button", name="Audio CD").click()
    steps.get_by_role("button", name="Undo").click()
    expect(steps).to_contain_text("Lower the true peak")
    steps.get_by_role("button", name="True peak at −1.0 dBTP").click()
    expect(steps.get_by_text("Lower the true peak")).to_have_count(0)
    steps.get_by_role("button", name="Phone and car").click()
    expect(steps.get_by_role("button", name="Press file")).to_be_enabled()
    steps.get_by_role("button", name="Close").click()
    expect(newcomer.get_by_role("region", name="Add a mix")).to_be_visible()
