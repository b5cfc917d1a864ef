"""Sending on the real page: a drop-off is added and tested, a delivery is sent automatically, rejected and fixed."""

import re
from collections.abc import Iterator
from pathlib import Path

import numpy as np
import pytest
from playwright.sync_api import Page, expect

from ripe_press.rack.intake_look import Looker
from support.pages import on_the_bench
from support.sending import intake_desk
from support.signals import noise, write

RATE = 32_000


@pytest.fixture(scope="module")
def overfall(tmp_path_factory: pytest.TempPathFactory) -> Path:
    sound = noise(RATE * 3) * np.hanning(RATE * 3)[:, None]
    return write(tmp_path_factory.mktemp("overfall") / "Overfall.wav", sound, RATE, "FLOAT")


@pytest.fixture(scope="module")
def desk(tmp_path_factory: pytest.TempPathFactory) -> Iterator[str]:
    with intake_desk(tmp_path_factory.mktemp("desk"), looker=Looker()) as (_, url):
        yield url


def choose(page: Page, words: str) -> None:
    page.locator(f'.ant-select-item-option[title="{words}"]:visible').click()
    page.keyboard.press("Escape")


def set_up(page: Page, kind: str, name: str, place: str) -> None:
    page.get_by_role("button", name="New drop-off").click()
    form = page.get_by_role("form", name="New drop-off")
    form.get_by_label("Type").click()
    choose(page, kind)
    form.get_by_label("Name").fill(name)
    form.get_by_label("URL" if "intake" in kind else "Folder", exact=True).fill(place)
    form.get_by_role("button", name="Add", exact=True).click()


def test_a_file_is_sent_refused_mended_accepted_and_recalled(
    page: Page, overfall: Path, desk: str, tmp_path: Path
) -> None:
    page.goto("/send")
    expect(page.get_by_role("region", name="Transfers")).to_contain_text("No transfers yet")
    # An invalid drop-off is reported, and the form keeps its values.
    set_up(page, "Folder", "Overfall folder", "not a whole path")
    form = page.get_by_role("form", name="New drop-off")
    expect(form.get_by_role("alert")).to_contain_text("is not a full path")
    form.get_by_label("Folder", exact=True).fill(str(tmp_path / "there"))
    form.get_by_role("button", name="Add", exact=True).click()
    expect(form).to_have_count(0)
    page.get_by_role("button", name="Test Overfall folder").click()
    places = page.get_by_role("list", name="Drop-offs")
    expect(places).to_contain_text("Connect its disk or create it")
    (tmp_path / "there").mkdir()
    page.get_by_role("button", name="Test Overfall folder").click()
    expect(places).to_contain_text("Folder found")
    set_up(page, "Distributor intake", "Overfall desk", desk)
    expect(places).to_contain_text("Overfall desk")

    # A delivery says where it goes, and is pressed.
    on_the_bench(page, overfall)
    station = page.get_by_role("region", name="Delivery")
    expect(station).to_contain_text("Audio CD")
    page.get_by_role("button", name="Overfall 44k1 16b.wav").click()
    station.get_by_label("Send to").click()
    choose(page, "Overfall desk")
    expect(station).to_contain_text("Overfall desk")
    page.get_by_role("button", name=re.compile(r"^Press \d+ files?$")).click()
    page.goto("/send")
    # The brief asks for an artist, and there is none: that is for a person to accept.
    asks = page.get_by_role("list", name="Needs sign-off").get_by_role("listitem", name="Overfall 44k1 16b.wav")
    expect(asks).to_contain_text("requires artist")
    asks.get_by_label("Your name").fill("Ada Weir")
    asks.get_by_label("Reason").fill("To see what the desk says.")
    asks.get_by_role("button", name="Sign off and send").click()
    refused = page.get_by_role("list", name="Rejected or failed")
    expect(refused).to_contain_text("This distributor requires ISRC; this file has none.")
    expect(refused.get_by_role("link", name="Fix on the Bench")).to_be_visible()

    # The bench shows the rejection until the delivery meets the requirement.
    refused.get_by_role("link", name="Fix on the Bench").click()
    expect(page.locator("body")).to_contain_text("Overfall desk rejected the file: This distributor requires")

    # From the proof it goes to the folder as well.
    page.goto("/proof")
    page.get_by_role("button", name="Send…").click()
    page.get_by_label("Drop-offs").click()
    choose(page, "Overfall folder")
    acceptance = page.get_by_role("form", name="Sign-off")
    acceptance.get_by_label("Reason").fill("It is only for us.")
    acceptance.get_by_role("button", name="Sign off and send").click()
    taken = page.get_by_role("list", name="Delivered")
    expect(taken).to_contain_text("Overfall 44k1 16b.wav to Overfall folder")
    assert (tmp_path / "there" / "Overfall 44k1 16b.wav").is_file()

    # The transfers of a deleted drop-off stay in the history.
    page.get_by_role("button", name="Delete Overfall desk").click()
    page.get_by_role("button", name="Delete", exact=True).last.click()
    expect(places).not_to_contain_text("Overfall desk")
    expect(refused).to_contain_text("to Overfall desk")


def test_file_with_findings_is_signed_off_or_cancelled(page: Page, tmp_path: Path) -> None:
    # It begins and ends within sound, which needs a sign-off.
    flume = write(tmp_path / "Flume.wav", noise(RATE * 3), RATE, "FLOAT")
    (tmp_path / "gallery").mkdir()
    page.goto("/send")
    set_up(page, "Folder", "Gallery", str(tmp_path / "gallery"))
    expect(page.get_by_role("list", name="Drop-offs")).to_contain_text("Gallery")
    on_the_bench(page, flume)
    expect(page.get_by_role("region", name="Delivery")).to_contain_text("Audio CD")
    page.get_by_role("button", name=re.compile(r"^Press \d+ files?$")).click()
    expect(page.get_by_role("status", name="Last pressing")).to_contain_text("pressed in")
    page.goto("/proof")
    for _ in range(2):
        page.get_by_role("button", name="Send…").click()
        page.get_by_label("Drop-offs").click()
        choose(page, "Gallery")
        page.get_by_role("button", name="Send ready files").click()
        asks = page.get_by_role("list", name="Needs sign-off").get_by_role(
            "listitem", name="Flume 44k1 16b.wav to Gallery"
        )
        expect(asks).to_contain_text("needs sign-off")
        if not _:
            asks.get_by_role("button", name="Cancel Flume 44k1 16b.wav").click()
            expect(page.get_by_role("list", name="Cancelled")).to_contain_text("Flume 44k1 16b.wav to Gallery")
            page.goto("/proof")
    accept = asks.get_by_role("button", name="Sign off and send")
    expect(accept).to_be_disabled()
    asks.get_by_label("Your name").fill("Ada Weir")
    asks.get_by_label("Reason").fill("The whole tape is noise.")
    # By keyboard, as everything else.
    page.keyboard.press("Enter")
    taken = page.get_by_role("list", name="Delivered").get_by_role("listitem", name="Flume 44k1 16b.wav to Gallery")
    expect(taken).to_contain_text("Signed off by Ada Weir: The whole tape is noise.")
    assert [one.name for one in (tmp_path / "gallery").iterdir()] == ["Flume 44k1 16b.wav"]


def test_a_mix_is_handed_off_to_picture_and_files_get_their_sidecars(page: Page, tmp_path: Path) -> None:
    leat = write(tmp_path / "Leat.wav", noise(RATE * 2), RATE, "FLOAT")
    on_the_bench(page, leat)
    expect(page.get_by_role("region", name="Delivery")).to_contain_text("Audio CD")
    page.keyboard.press("b")
    form = page.get_by_role("form", name="Video editing")
    form.get_by_role("button", name="Save to").click()
    page.get_by_role("button", name="Choose another folder").click()
    page.get_by_label("Folder path").fill("nowhere whole")
    page.keyboard.press("Enter")
    expect(page.get_by_role("alert").filter(has_text="is not a full path")).to_be_visible()
    (tmp_path / "picture").mkdir()
    page.get_by_label("Folder path").fill(str(tmp_path / "picture"))
    page.keyboard.press("Enter")
    expect(page.get_by_role("list", name="Folders in picture")).to_contain_text("No folders in here.")
    page.get_by_role("button", name="Use this folder").click()
    expect(form.get_by_role("button", name="Save to")).to_have_attribute("title", str(tmp_path / "picture"))
    form.get_by_label("Frame rate").click()
    choose(page, "29.97 drop frame")
    form.get_by_role("button", name="Export").click()
    expect(form.get_by_role("status")).to_contain_text("Leat.otio")
    assert (tmp_path / "picture" / "media" / "Leat.wav").is_file()
    page.get_by_role("button", name=re.compile(r"^Press \d+ files?$")).click()
    expect(page.get_by_role("status", name="Last pressing")).to_contain_text("pressed in")
    page.goto("/press")
    page.get_by_role("button", name="Export sidecars").click()
    expect(page.get_by_role("status").filter(has_text="Written")).to_contain_text("Leat 44k1 16b.wav.json")
