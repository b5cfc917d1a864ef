"""Gestures on the real page that several tests make."""

from playwright.sync_api import Page, expect


def press_and_see(page: Page, button: str) -> None:
    """Presses, and goes to the proof of that very pressing: one that was made before is shown until it is through."""
    link = page.get_by_role("link", name="Open proof")
    before = link.get_attribute("href") if link.count() else None
    page.get_by_role("button", name=button).click()
    if before:
        expect(link).not_to_have_attribute("href", before, timeout=60_000)
    link.click(timeout=60_000)
