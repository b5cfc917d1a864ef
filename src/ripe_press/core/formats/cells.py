"""Cells of CSV tables, safe against formulas: a spreadsheet computes any cell that begins like one.

Source: OWASP, CSV injection (from memory of the text): such a cell gets an apostrophe in front.
"""

import re

_FORMULA = re.compile(r"'*[=+\-@\t\r]")


def as_cell(text: str) -> str:
    """A text as a spreadsheet shows it; what has such an apostrophe already gets another, and is read back so."""
    return f"'{text}" if _FORMULA.match(text) else text


def of_cell(cell: str) -> str:
    """The text of a cell that `as_cell` wrote."""
    return cell[1:] if cell.startswith("'") and _FORMULA.match(cell) else cell
