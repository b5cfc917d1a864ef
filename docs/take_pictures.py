"""Takes the pictures of the README from the demo data, with a server of its own."""

import re
import subprocess
import sys
import tempfile
from pathlib import Path

from playwright.sync_api import Page, sync_playwright

ROOT = Path(__file__).parents[1]
PICTURES = ROOT / "docs" / "screenshots"
COMMAND = str(Path(sys.executable).with_name("ripe-press"))
QUIET = ["--no-sandbox", "--disable-gpu", "--disable-quic", "--no-first-run", "--disable-background-networking"]


def shelf(page: Page) -> None:
    """The four demo mixes."""
    page.goto("/shelf")
    page.get_by_text("Lock Cottage Tapes").first.wait_for(timeout=60_000)
    page.get_by_text("Reading and measuring").first.wait_for(state="detached", timeout=60_000)
    page.wait_for_timeout(1_500)
    page.screenshot(path=PICTURES / "shelf.png")


def bench(page: Page) -> None:
    """Millrace with what sounds chosen, going to five places; the noise that its CD file gets."""
    page.goto("/shelf")
    page.get_by_role("link", name="Open Millrace on the Bench").click()
    page.get_by_role("button", name="Range actions").click()
    page.locator(".range-menu").get_by_role("button", name="Trim silence").click()
    page.keyboard.press("d")
    dialog = page.get_by_role("dialog")
    dialog.wait_for()
    page.screenshot(path=PICTURES / "deliveries.png")
    for name in ("Streaming, loud", "Phone and car", "Video hand-over"):
        dialog.get_by_role("button", name=re.compile(f"^{name}")).click()
    dialog.get_by_role("button", name="Add 3 deliveries").click()
    page.get_by_role("button", name=re.compile("^16 bits triangular")).first.click()
    page.get_by_text("quietest half second:").wait_for()
    page.wait_for_timeout(6_000)
    page.screenshot(path=PICTURES / "bench.png")


def level(page: Page) -> None:
    """The streaming master's level, measured as it will be pressed, with its gain reduction on the waveform."""
    page.get_by_role("button", name=re.compile("^−14.0 LUFS")).click()
    page.get_by_role("button", name="Measure level").click()
    page.get_by_text("Peak gain reduction").wait_for(timeout=90_000)
    page.get_by_text("Peak gain reduction").scroll_into_view_if_needed()
    page.screenshot(path=PICTURES / "bench-level.png")


def ranges(page: Page) -> None:
    """Ranges from markers, in bars; the station of one of them."""
    page.get_by_role("button", name="Add or suggest ranges").click()
    proposal = page.get_by_role("listitem").filter(has_text="from markers")
    proposal.get_by_role("button", name="Replace ranges").click()
    page.get_by_role("button", name="view of the waveform").click()
    page.get_by_label("Time units").click()
    page.get_by_title("Bars and beats").click()
    page.get_by_role("button", name="view of the waveform").click()
    page.get_by_role("group", name="Ranges").get_by_role("button", name=re.compile("^Bridge")).click()
    page.get_by_label("Mean spectrum of the range").wait_for()
    page.get_by_text("dBTP near").wait_for()
    page.wait_for_timeout(800)
    page.get_by_role("button", name="Undo").click()
    page.get_by_role("button", name="Press 5 files").wait_for()
    page.get_by_role("button", name=re.compile("^44.1 kHz")).click()
    page.get_by_role("button", name="Dark").click()
    page.get_by_text("Passband edge").wait_for()
    page.wait_for_timeout(800)
    page.screenshot(path=PICTURES / "bench-dark.png")
    page.get_by_role("button", name="Light").click()


def proof(page: Page) -> None:
    """What came of pressing it."""
    page.get_by_role("button", name="Press 5 files").click()
    page.get_by_role("link", name="Open proof").click(timeout=120_000)
    page.get_by_text("SHA-256").first.wait_for()
    page.get_by_role("radio", name=re.compile("mp3")).click()
    # Most different is found by holding the file against its mix.
    page.keyboard.press("m")
    card = page.get_by_role("article", name=re.compile("mp3"))
    card.get_by_text("aligned to the sample").wait_for(timeout=120_000)
    page.get_by_role("button", name=re.compile("^Loop")).wait_for()
    page.wait_for_timeout(800)
    page.screenshot(path=PICTURES / "proof.png")
    card.get_by_role("heading", name="Comparison with the mix").evaluate("one => one.scrollIntoView()")
    page.wait_for_timeout(500)
    page.screenshot(path=PICTURES / "proof-against.png")
    page.keyboard.press("x")
    page.get_by_role("button", name="Start test").click()
    page.get_by_role("heading", name="Trial 1 of 10").wait_for()
    page.wait_for_timeout(500)
    page.screenshot(path=PICTURES / "blind-test.png")
    page.get_by_role("button", name="End test").click()
    page.get_by_role("button", name="Back to listening desk").click()


def formats(page: Page) -> None:
    """What an MP3 does to this mix; its tag sheet; how its file is named: with more room for the station."""
    page.get_by_role("separator", name="Height of the waveform").focus()
    for _ in range(4):
        page.keyboard.press("ArrowUp")
    page.get_by_role("separator", name="Width of the delivery").focus()
    page.keyboard.press("ArrowLeft")
    page.get_by_role("button", name=re.compile("^MP3 320k")).click()
    page.get_by_text("Coding error below the mix").wait_for(timeout=60_000)
    page.get_by_text("Mix energy above cutoff").wait_for(timeout=60_000)
    page.locator(".station-path").evaluate("path => { path.scrollTop = 160 }")
    page.wait_for_timeout(500)
    page.screenshot(path=PICTURES / "bench-format.png")
    page.get_by_role("button", name="Find smallest transparent setting").click()
    ladder = page.get_by_role("region", name="Bit-rate ladder")
    ladder.get_by_role("table").wait_for(timeout=180_000)
    ladder.evaluate("part => part.scrollIntoView()")
    page.wait_for_timeout(500)
    page.screenshot(path=PICTURES / "bench-ladder.png")
    page.get_by_role("button", name=re.compile("^Tags 1")).click()
    page.get_by_label("Artist", exact=True).wait_for()
    page.locator(".station-path").evaluate("path => { path.scrollTop = 190 }")
    page.wait_for_timeout(500)
    page.screenshot(path=PICTURES / "bench-tags.png")


def stems(page: Page) -> None:
    """What stands beside a mix set out as parts, and a pass through a unit while it runs."""
    page.goto("/shelf")
    page.get_by_role("link", name="Open Millrace on the Bench").click()
    page.get_by_role("button", name="Stems (5)").click()
    page.get_by_text("All 5 stems align and sum to the mix").wait_for()
    page.get_by_role("button", name="Add as deliveries").click()
    page.get_by_role("checkbox", name="5 single stems").uncheck()
    page.get_by_role("checkbox", name="5 mix-minus files").check()
    page.locator(".brief-card", has_text="Archive").first.click()
    page.get_by_role("button", name="Add 5 deliveries").click()
    page.get_by_role("img", name=re.compile("^Sum of")).nth(2).wait_for(timeout=120_000)
    page.get_by_role("button", name="Stems (5)").click()
    page.get_by_role("button", name="Live pass").click()
    page.get_by_label("Name", exact=True).fill("warmed")
    page.get_by_role("button", name="Run now").click()
    running = page.get_by_role("group", name="Live pass of warmed")
    running.get_by_text("0:20 recorded").wait_for(timeout=60_000)
    running.scroll_into_view_if_needed()
    page.get_by_role("img", name=re.compile("^Sum of")).nth(1).scroll_into_view_if_needed()
    page.wait_for_timeout(300)
    page.screenshot(path=PICTURES / "bench-stems.png")


def send(page: Page) -> None:
    """Millrace on its way: accepted, taken, refused with reasons and by size, and a file that needs sign-off."""
    shelf(page)
    ask = page.request
    mix = next(one for one in ask.get("/api/shelf").json()["mixes"] if one["title"] == "Millrace")["id"]
    bench = ask.get(f"/api/mixes/{mix}").json()["bench"]
    bench.pop("version", None)
    sound = bench["ranges"][0]["id"]
    wishes = {
        "distributor": ["Headrace distribution", "Millpond"], "mastering": ["Mill Lane mailbox"],
        "phone-and-car": ["For listening", "Music library", "Mill Lane mailbox"],
    }  # fmt: skip
    ticket = [
        {"id": name, "brief": name, "range_id": sound, "changes": {"sends_to": places}}
        for name, places in wishes.items()
    ]
    made = ask.post("/api/pressings", data={"mix_id": mix, "bench": {**bench, "ticket": ticket}}).json()["id"]
    page.goto("/send")
    page.get_by_text("needs sign-off").first.wait_for(timeout=120_000)
    page.wait_for_timeout(1_000)
    because = {"accepted_by": "Ada Weir", "because": "The band wants it as loud as it is."}
    for one in ask.get(f"/api/pressings/{made}/parcels").json():
        if one["drop_off"] != "Music library":
            ask.post(f"/api/outbox/{one['id']}/accept", data=because)
    for one in ask.get("/api/drop-offs").json()["drop_offs"]:
        ask.post(f"/api/drop-offs/{one['id']}/look")
    page.get_by_text("Uploaded").wait_for(timeout=60_000)
    page.wait_for_timeout(8_000)
    page.wait_for_timeout(1_000)
    page.screenshot(path=PICTURES / "send.png")


def press(page: Page) -> None:
    """One ticket for many mixes; then what runs and waits, held in the middle, and the record below it."""
    page.goto("/shelf")
    for name in ("Eel Ladder", "Millrace", "Lock Cottage Tapes"):
        page.get_by_label(f"Select {name}").check()
    page.get_by_role("button", name="Press…").click()
    dialog = page.get_by_role("dialog")
    dialog.get_by_text("Eel Ladder 44k1 16b.wav", exact=False).wait_for()
    page.wait_for_timeout(500)
    page.screenshot(path=PICTURES / "batch.png")
    dialog.get_by_role("button", name=re.compile("^Press 6 files")).click()
    page.get_by_text("No pressings in the queue").wait_for(timeout=120_000)
    page.get_by_role("button", name=re.compile("^Pressing 1,")).click()
    page.get_by_role("button", name="Press again").click()
    page.get_by_text(re.compile("byte-identical")).wait_for(timeout=120_000)
    page.get_by_role("button", name="Check files").click()
    page.get_by_text("Unchanged").wait_for(timeout=60_000)
    page.get_by_role("button", name="Pause").click()
    chosen = page.url
    for names in (("Millrace",), ("Long Pound", "Eel Ladder")):
        page.goto("/shelf")
        for name in names:
            page.get_by_label(f"Select {name}").check()
        page.get_by_role("button", name="Press…").click()
        if names == ("Millrace",):
            for brief in ("Distributor", "Phone and car", "E-mail"):
                dialog.get_by_role("combobox", name="Briefs").fill(brief)
                page.keyboard.press("Enter")
            page.keyboard.press("Escape")
        page.wait_for_timeout(1_000)
        dialog.get_by_role("button", name=re.compile("^Press [0-9]+ files")).click()
        page.wait_for_url(re.compile("/press"))
    page.goto(chosen)
    page.get_by_role("button", name="Resume").click()
    page.get_by_text("verifying").first.wait_for(timeout=60_000)
    page.screenshot(path=PICTURES / "press.png")
    page.get_by_role("button", name="Pause").click()


def order(page: Page) -> None:
    """The demo's running order with one level for all; its disc, pressed and burnt."""
    page.goto("/order/all")
    page.get_by_role("link", name="Nine Weirs").click(timeout=60_000)
    page.get_by_label("Method").click()
    page.get_by_text("One gain, from the highest peak").click()
    page.locator("#entry-5").click()
    page.wait_for_timeout(3_000)
    page.screenshot(path=PICTURES / "order.png")
    page.get_by_role("button", name="Press disc image").click()
    page.get_by_role("button", name="Burn").wait_for(timeout=180_000)
    page.get_by_role("button", name="Burn").click()
    page.get_by_text("Every sample is identical").wait_for(timeout=120_000)
    page.wait_for_timeout(1_000)
    page.screenshot(path=PICTURES / "disc.png")


def tags(page: Page) -> None:
    """The tag sheets of all mixes."""
    page.goto("/tags")
    page.get_by_label("Field to fill").fill("track")
    page.keyboard.press("Enter")
    page.get_by_label("Text to fill in").fill("{n}/9")
    page.wait_for_timeout(500)
    page.screenshot(path=PICTURES / "tags.png")


def briefs(page: Page) -> None:
    """What a broadcaster asks for."""
    page.goto("/briefs")
    page.get_by_role("button", name="Broadcast").click()
    page.wait_for_timeout(300)
    page.screenshot(path=PICTURES / "briefs.png")


def main() -> None:
    """Starts the demo on a free port in a temporary folder, and takes every picture, or those that are named."""
    takes = (shelf, order, bench, level, ranges, formats, proof, send, press, tags, briefs, stems)
    wanted = [one for one in takes if not sys.argv[1:] or one.__name__ in sys.argv[1:]]
    with tempfile.TemporaryDirectory() as data:
        words = [COMMAND, "demo", "--port", "0", "--data", data]
        server = subprocess.Popen(words, stdout=subprocess.PIPE, text=True)
        try:
            assert server.stdout
            address = next(line for line in server.stdout if "http://" in line).split()[-1]
            with sync_playwright() as playwright:
                browser = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=QUIET)
                page = browser.new_page(viewport={"width": 1280, "height": 800}, base_url=address)
                for take in wanted:
                    take(page)
                browser.close()
        finally:
            server.terminate()
            server.wait()


if __name__ == "__main__":
    main()
