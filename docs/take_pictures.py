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
    """Millrace with what sounds chosen, the depth station open; then the converter in the dark theme."""
    page.get_by_role("link", name="Open Millrace on the bench").click()
    page.get_by_role("button", name="Only what sounds").click()
    page.get_by_text("the quietest half second of this range is at").wait_for()
    page.wait_for_timeout(1_000)
    page.screenshot(path=PICTURES / "bench.png")
    end = page.get_by_label("End", exact=True)
    end.fill("2:16")
    end.press("Enter")
    page.get_by_role("button", name=re.compile("^Range")).click()
    page.get_by_label("Fade in", exact=True).fill("2")
    page.get_by_label("Fade in", exact=True).press("Enter")
    page.get_by_role("button", name="Next finding").click()
    page.locator(".press-bar").get_by_role("button", name="Ring out").click()
    page.get_by_text("so that the tail dies away").wait_for()
    page.wait_for_timeout(800)
    page.screenshot(path=PICTURES / "bench-range.png")
    page.get_by_role("button", name=re.compile("^44.1 kHz")).click()
    page.get_by_role("button", name="Dark").click()
    page.get_by_text("Begins to close").wait_for()
    page.wait_for_timeout(500)
    page.screenshot(path=PICTURES / "bench-dark.png")
    page.get_by_role("button", name="Light").click()


def proof(page: Page) -> None:
    """What came of pressing it."""
    page.get_by_role("button", name="Press 1 file").click()
    page.get_by_role("link", name="See the proof").click()
    page.get_by_text("SHA-256").wait_for()
    page.screenshot(path=PICTURES / "proof.png")


def main() -> None:
    """Starts the demo on a free port in a temporary folder, and takes every picture."""
    with tempfile.TemporaryDirectory() as data:
        words = [COMMAND, "demo", "--port", "0", "--data", data]
        server = subprocess.Popen(words, stdout=subprocess.PIPE, text=True)
        try:
            assert server.stdout
            address = next(line for line in server.stdout if "http://" in line).split()[-1]
            with sync_playwright() as playwright:
                browser = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=QUIET)
                page = browser.new_page(viewport={"width": 1280, "height": 800}, base_url=address)
                for take in (shelf, bench, proof):
                    take(page)
                browser.close()
        finally:
            server.terminate()
            server.wait()


if __name__ == "__main__":
    main()
