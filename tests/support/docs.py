"""Figures measured by tests and kept in the documents; rewritten on request."""

import os
import re
from collections.abc import Sequence

from support import ROOT, WHOLE

DETECTORS = ROOT / "docs" / "detectors.md"


def rates_in_docs(name: str, lines: Sequence[str]) -> None:
    """Checks that a block of the document of detectors holds these lines, or writes it with RIPE_PRESS_WRITE_DOCS.

    Only in a whole run: a sample has other rates.
    """
    if not WHOLE:
        return
    begin, end = f"<!-- {name} -->", f"<!-- end of {name} -->"
    text = DETECTORS.read_text(encoding="utf-8")
    before, _, rest = text.partition(begin)
    inside, _, behind = rest.partition(end)
    block = "\n\n" + "\n".join(lines) + "\n\n"
    if os.environ.get("RIPE_PRESS_WRITE_DOCS"):
        DETECTORS.write_text(before + begin + block + end + behind, encoding="utf-8")
        return
    assert _near(inside.strip(), block.strip()), f"docs/detectors.md, {name}: set RIPE_PRESS_WRITE_DOCS=1, too"


_FIGURE = re.compile(r"[0-9]+(?:\.[0-9]+)?")


def _near(kept: str, found: str) -> bool:
    """Return whether two texts are equal but for figures: counts within 2 or 5 %, others within 25 %.

    Processors differ in the last bit of a float, and a detector may then decide otherwise in a borderline case.
    """
    if _FIGURE.sub("#", kept) != _FIGURE.sub("#", found):
        return False
    pairs = zip(_FIGURE.findall(kept), _FIGURE.findall(found), strict=True)
    return all(
        abs(float(a) - float(b)) <= (0.25 * float(a) if "." in a else max(2.0, 0.05 * float(a))) for a, b in pairs
    )
