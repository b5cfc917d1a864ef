"""Figures that tests measured, kept in the documents; written anew where that is asked for."""

import os
from collections.abc import Sequence
from pathlib import Path

DETECTORS = Path(__file__).parents[2] / "docs" / "detectors.md"


def rates_in_docs(name: str, lines: Sequence[str]) -> None:
    """Checks that a block of the document of detectors holds these lines, or writes it with RIPE_PRESS_WRITE_DOCS."""
    begin, end = f"<!-- {name} -->", f"<!-- end of {name} -->"
    text = DETECTORS.read_text(encoding="utf-8")
    before, _, rest = text.partition(begin)
    inside, _, behind = rest.partition(end)
    block = "\n\n" + "\n".join(lines) + "\n\n"
    if os.environ.get("RIPE_PRESS_WRITE_DOCS"):
        DETECTORS.write_text(before + begin + block + end + behind, encoding="utf-8")
        return
    assert inside.strip() == block.strip(), f"docs/detectors.md, {name}: run with RIPE_PRESS_WRITE_DOCS=1"
