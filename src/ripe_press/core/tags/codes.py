"""Codes that follow rules: the recording's ISRC and the release's barcode.

Sources: ISO 3901 (ISRC: two letters, three letters or digits, two digits of year, five digits); GS1 General
Specifications (check digit: weights 3 and 1 from the right). From memory of the texts; checked in tests/published.
"""

import re

_ISRC = re.compile(r"^[A-Z]{2}[A-Z0-9]{3}[0-9]{7}$")
_GTIN_LENGTHS = (8, 12, 13, 14)


def compact_isrc(text: str) -> str:
    """The twelve characters without hyphens and in capitals, as containers carry it."""
    return re.sub(r"[\s-]", "", text).upper()


def isrc_problem(text: str) -> str | None:
    """The fault of an ISRC as the end of a sentence; None for a valid one."""
    code = compact_isrc(text)
    if _ISRC.match(code):
        return None
    if len(code) != 12:
        return f"has {len(code)} characters. Use 12"
    return "is not an ISRC. Use two letters, three letters or digits, seven digits"


def check_digit(digits: str) -> int:
    """The GS1 check digit that belongs behind ``digits``."""
    weighted = sum(int(digit) * (3 if place % 2 == 0 else 1) for place, digit in enumerate(reversed(digits)))
    return -weighted % 10


def barcode_problem(text: str) -> str | None:
    """The fault of a barcode as the end of a sentence; None for a valid one."""
    code = re.sub(r"[\s-]", "", text)
    if not code.isdigit() or not code.isascii():
        return "is not a barcode. Use digits only"
    if len(code) not in _GTIN_LENGTHS:
        return f"has {len(code)} digits. Use 8, 12, 13 or 14"
    expected = check_digit(code[:-1])
    return None if expected == int(code[-1]) else f"ends in {code[-1]}. Its check digit is {expected}"
