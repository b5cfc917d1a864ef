"""A page checked for WCAG 2.2 A and AA by an independent engine (axe-core)."""

from typing import Any, Literal

from playwright.sync_api import Page, expect

from support import ROOT

AXE = ROOT / "web/node_modules/axe-core/axe.min.js"
AT_REST = """
Promise.all(document.getAnimations()
    .filter((one) => Number.isFinite(one.effect.getComputedTiming().endTime)).map((one) => one.finished))
"""
RULES = ["wcag2a", "wcag2aa", "wcag21a", "wcag21aa", "wcag22aa", "best-practice"]


def problems(page: Page) -> list[str]:
    """What the engine finds in a line each: by all rules, and in the dark by those about colours."""
    return [*_problems_in(page, "dark", ["color-contrast"]), *_problems_in(page, "light", RULES)]


def _problems_in(page: Page, light: Literal["dark", "light"], rules: list[str]) -> list[str]:
    # The page turns with the system, as at dusk. Animated parts are checked when they are at rest.
    page.emulate_media(color_scheme=light)
    expect(page.locator("html")).to_have_attribute("data-mode", light)
    page.evaluate(AT_REST)
    if not page.evaluate("() => 'axe' in window"):
        page.evaluate(AXE.read_text(encoding="utf-8"))
    found: dict[str, Any] = page.evaluate(
        "(rules) => axe.run(document, { runOnly: rules, resultTypes: ['violations'] })", rules
    )
    return [
        f"{light}: {one['id']}: {node['target']} {node['failureSummary'][:300]}"
        for one in found["violations"]
        for node in one["nodes"]
    ]
