"""Pages for people: HTML that prints well and needs nothing but itself."""

from collections.abc import Iterable
from html import escape

_STYLE = """
body { font: 11pt/1.45 Georgia, "Times New Roman", serif; color: #2b1f26; margin: 18mm; }
h1 { font-size: 20pt; margin: 0 0 2mm; } h2 { font-size: 12pt; margin: 8mm 0 2mm; break-after: avoid; }
p { margin: 0 0 1mm; } table { border-collapse: collapse; width: 100%; margin-top: 5mm; }
th, td { text-align: left; padding: 1.6mm 2mm; border-bottom: .3pt solid #a99; vertical-align: top; }
th { font-weight: 600; border-bottom: 1pt solid #2b1f26; }
td.n, th.n { text-align: right; font-variant-numeric: tabular-nums; }
td.small { font-size: 9pt; color: #6b5b62; word-break: break-all; }
td.name { overflow-wrap: anywhere; }
tr { break-inside: avoid; } thead { display: table-header-group; }
@page { size: PAPER; margin: 14mm; } @media print { body { margin: 0; } }
"""
Cells = Iterable[tuple[str, str]]
"""Texts, each with the class of its cell: empty, ``n`` for a number, ``small``, ``name``."""


def page(title: str, body: str, paper: str = "A4 landscape") -> str:
    """A whole page; ``body`` is HTML already. A ``paper`` of ``landscape`` uses the printer's paper size."""
    return (
        f'<!doctype html>\n<html lang="en"><head><meta charset="utf-8"><title>{escape(title)}</title>'
        f"<style>{_STYLE.replace('PAPER', paper)}</style></head><body>{body}</body></html>\n"
    )


def table(head: Cells, rows: Iterable[Cells]) -> str:
    """A table whose head is printed on every page."""
    first = _cells("th", head)
    body = "".join(f"<tr>{_cells('td', row)}</tr>" for row in rows)
    return f"<table><thead><tr>{first}</tr></thead><tbody>{body}</tbody></table>"


def _cells(tag: str, cells: Cells) -> str:
    return "".join(f'<{tag} class="{kind}">{escape(text)}</{tag}>' for text, kind in cells)


def paragraph(text: str) -> str:
    """A line of text; nothing for none."""
    return f"<p>{escape(text)}</p>" if text else ""
