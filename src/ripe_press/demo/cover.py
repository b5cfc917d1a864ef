"""The cover of the demo's record: nine weirs one below the other, drawn from a fixed seed."""

from pathlib import Path

import numpy as np
from PIL import Image, ImageDraw

SIZE = 2000
_PAPER, _PLUM, _LEAF, _WATER = (246, 240, 228), (116, 48, 90), (75, 115, 66), (93, 124, 138)
WEIRS = 9


def draw_cover(path: Path) -> None:
    """Writes the picture as PNG: larger than players like it, so that there is something to make smaller."""
    random = np.random.default_rng(9)
    image = Image.new("RGB", (SIZE, SIZE), _PAPER)
    pen = ImageDraw.Draw(image)
    x = np.linspace(0, SIZE, 160)
    for number in range(WEIRS):
        y = 300 + number * 150
        phase = float(random.uniform(0, 6))
        crest = y + 26 * np.sin(x / 190 + phase) + 9 * np.sin(x / 43 + 2 * phase)
        below = crest + 46 + number * 4
        colour = _PLUM if number == 4 else _WATER
        pen.polygon(list(zip(x, crest, strict=True)) + list(zip(x[::-1], below[::-1], strict=True)), fill=colour)
    pen.ellipse((880, 90, 1120, 250), fill=_PLUM)
    pen.line((1000, 100, 1060, 40), fill=_LEAF, width=18)
    image.save(path, "PNG")
