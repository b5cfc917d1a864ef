"""The page from another address of the network: it says whether its line is private, and with --tls it is."""

from pathlib import Path

from playwright.sync_api import Browser, expect

from support.serving import served


def test_unencrypted_connection_is_reported_and_an_encrypted_one_is_not(browser: Browser, tmp_path: Path) -> None:
    for options, private in (((), False), (("--tls",), True)):
        with served(tmp_path / f"data {private}", "--host", "127.0.0.2", *options) as server:
            context = browser.new_context(ignore_https_errors=True, viewport={"width": 1280, "height": 800})
            page = context.new_page()
            page.goto(server.link)
            expect(page.get_by_role("heading", name="Shelf").first).to_be_visible()
            told = page.get_by_text("This connection is not encrypted")
            expect(told).to_have_count(0 if private else 1)
            if not private:
                page.get_by_role("status").filter(has_text="not encrypted").get_by_role("button", name="Close").click()
                expect(told).to_have_count(0)
            context.close()
