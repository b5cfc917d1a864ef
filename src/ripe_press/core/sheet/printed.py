"""The delivery sheet as PDF: the same as the page, with fonts of its own in it; written twice, the same bytes."""

import io
from functools import cache
from importlib.resources import as_file, files
from typing import Any, Literal

from ripe_press.core.sheet.contents import COLUMNS, DeliverySheet, cell
from ripe_press.core.sheet.page import accepted, remarks_of, summary, tag_names
from ripe_press.core.words import VERDICTS

_REGULAR, _BOLD = "DejaVuSans", "DejaVuSans-Bold"
_MARGIN_MM = 14
Paper = Literal["A4", "Letter"]
MISSING = "\N{REPLACEMENT CHARACTER}"
"""Shown for a letter that the fonts do not have, instead of omitting it."""


@cache
def _fonts() -> frozenset[int]:
    """Registers the fonts once; gives the code points that both have."""
    from reportlab.pdfbase import pdfmetrics
    from reportlab.pdfbase.ttfonts import TTFont

    there: list[frozenset[int]] = []
    for name in (_REGULAR, _BOLD):
        with as_file(files("ripe_press.core.sheet") / "fonts" / f"{name}.ttf") as path:
            font = TTFont(name, str(path))
        pdfmetrics.registerFont(font)
        there.append(frozenset(font.face.charToGlyph))
    return there[0] & there[1]


def write_pdf(sheet: DeliverySheet, paper: Paper = "A4") -> bytes:
    """The whole document, on its side."""
    from reportlab.lib.pagesizes import A4, LETTER, landscape
    from reportlab.lib.units import mm
    from reportlab.platypus import Paragraph, SimpleDocTemplate, Spacer

    known = _fonts()
    size = landscape(A4 if paper == "A4" else LETTER)
    width = size[0] - 2 * _MARGIN_MM * mm
    small, plain, head, title = _styles()

    def text(words: str, style: Any = plain) -> Any:
        return Paragraph(_plain(words, known), style)

    story: list[Any] = [text(sheet.title, title)]
    if sheet.artist:
        story.append(text(sheet.artist))
    story += [text(summary(sheet)), Spacer(0, 4 * mm)]
    rows = [[text(one.title, head) for one in COLUMNS]]
    rows += [[text(cell(file, one), small) for one in COLUMNS] for file in sheet.files]
    story.append(_table(rows, [one.share for one in COLUMNS], width))
    if found := remarks_of(sheet):
        story.append(text("Findings", head))
        rows = [[text(one, head) for one in ("File", "Verdict", "Finding", "Sign-off")]]
        rows += [
            [text(one, small) for one in (file.name, VERDICTS[remark.verdict], remark.sentence, accepted(remark))]
            for file, remark in found
        ]
        story.append(_table(rows, [2.4, 0.8, 4.0, 1.8], width))
    if names := tag_names(sheet):
        story.append(text("Tags", head))
        lines = [[text("File", head), text("Field", head), text("Text", head)]]
        lines += [
            [
                text(file.name if at == 0 else "", small),
                text(name.replace("_", " "), small),
                text(file.tag(name), small),
            ]
            for file in sheet.files
            for at, name in enumerate(one for one in names if file.tag(one))
        ]
        story.append(_table(lines, [3.0, 1.2, 4.8], width))
    story.append(text("Checksums (SHA-256)", head))
    story.append(_table([[text(one.name, small), text(one.sha256, small)] for one in sheet.files], [3.0, 4.6], width))
    if sheet.contact:
        story.append(text("Contact", head))
        story += [text(f"{name}: {words}") for name, words in sheet.contact.items()]
    out = io.BytesIO()
    document = SimpleDocTemplate(
        out, pagesize=size, leftMargin=_MARGIN_MM * mm, rightMargin=_MARGIN_MM * mm, topMargin=_MARGIN_MM * mm,
        bottomMargin=_MARGIN_MM * mm, title=f"{sheet.title}: delivery sheet", author=sheet.artist or sheet.written_by,
        creator=sheet.written_by, invariant=1, lang="en",
    )  # fmt: skip

    def numbered(canvas: Any, made: Any) -> None:
        canvas.setFont(_REGULAR, 7)
        canvas.drawRightString(size[0] - _MARGIN_MM * mm, 8 * mm, str(made.page))

    document.build(story, onFirstPage=numbered, onLaterPages=numbered)
    return out.getvalue()


def _styles() -> tuple[Any, Any, Any, Any]:
    from reportlab.lib.styles import ParagraphStyle

    plain = ParagraphStyle("plain", fontName=_REGULAR, fontSize=9, leading=12)
    small = ParagraphStyle("small", parent=plain, fontSize=7.5, leading=10, splitLongWords=1, wordWrap="LTR")
    head = ParagraphStyle("head", parent=plain, fontName=_BOLD, fontSize=8.5, leading=12, spaceBefore=8, spaceAfter=2)
    title = ParagraphStyle("title", parent=plain, fontName=_BOLD, fontSize=16, leading=20, spaceAfter=4)
    return small, plain, head, title


def _table(rows: list[list[Any]], shares: list[float], width: float) -> Any:
    from reportlab.lib.colors import HexColor
    from reportlab.platypus import Table, TableStyle

    whole = sum(shares)
    made = Table(rows, [width * share / whole for share in shares], repeatRows=1 if len(rows) > 1 else 0)
    made.setStyle(
        TableStyle(
            [
                ("VALIGN", (0, 0), (-1, -1), "TOP"),
                ("LINEBELOW", (0, 0), (-1, -1), 0.3, HexColor("#aa9999")),
                ("LEFTPADDING", (0, 0), (-1, -1), 3),
                ("RIGHTPADDING", (0, 0), (-1, -1), 3),
            ]
        )
    )
    return made


def _plain(words: str, known: frozenset[int]) -> str:
    """Text for a paragraph: nothing of it is taken for markup, and a letter that no font has is shown to be missing."""
    shown = "".join(one if ord(one) in known or one == " " else MISSING for one in words)
    return shown.replace("&", "&amp;").replace("<", "&lt;").replace(">", "&gt;")
