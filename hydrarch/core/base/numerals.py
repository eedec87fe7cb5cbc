"""How a figure is read: decimal point or comma, and thousands apart or not.

What can be read in two ways is refused, never guessed.
"""

from __future__ import annotations

import re
from collections.abc import Iterable
from typing import Literal

from hydrarch.core.base.errors import HydrarchError

__all__ = ["NUMERAL", "DecimalMark", "decimal_mark", "parse_number"]

DecimalMark = Literal[".", ",", ""]
"""What parts the whole from the fraction: settled as a point or a comma, or "" where it is not settled."""

NUMERAL = r"\d{1,3}(?:,\d{3})+(?!\d)(?:\.\d+)?|\d{1,3}(?:\.\d{3})+(?!\d)(?:,\d+)?|\d*[.,]\d+|\d+"
"""A pattern for one figure without sign or unit."""

_THOUSANDS_COMMA = re.compile(r"\d{1,3}(?:,\d{3})+(?:\.\d+)?")
_THOUSANDS_POINT = re.compile(r"\d{1,3}(?:\.\d{3})+(?:,\d+)?")
_PLAIN = re.compile(r"(?:\d+(?:[.,]\d*)?|[.,]\d+)(?:[eE][+-]?\d{1,3})?")
_SPACES = str.maketrans("", "", "\u00a0\u202f\u2009")
"""Spaces that programs set between thousands."""


def parse_number(text: str, mark: DecimalMark = "") -> float:
    """Return the value of a figure without unit; a sign may stand before it.

    Where the decimal mark is not settled, three digits behind a single comma can be a fraction or thousands: that is
    refused, unless the whole is zero. A single point is a decimal point. Raises `HydrarchError` with what to type
    instead.

    >>> parse_number("1,234.5"), parse_number("12,5"), parse_number("15,000", ".")
    (1234.5, 12.5, 15000.0)
    """
    bare = text.strip().translate(_SPACES)
    sign = -1.0 if bare[:1] in ("-", "\u2212") else 1.0
    bare = bare.lstrip("+-\u2212")
    if _THOUSANDS_COMMA.fullmatch(bare) and bare[0] != "0" and mark != ",":
        if bare.count(",") == 1 and "." not in bare and mark == "":
            plain = bare.replace(",", "")
            raise HydrarchError(
                f"'{bare}' can be {plain} or {bare.replace(',', '.')}: type {plain}, or a point for the fraction"
            )
        return sign * float(bare.replace(",", ""))
    if _THOUSANDS_POINT.fullmatch(bare) and (mark == "," or (mark == "" and ("," in bare or bare.count(".") > 1))):
        return sign * float(bare.replace(".", "").replace(",", "."))
    if not _PLAIN.fullmatch(bare):
        raise HydrarchError(f"'{text.strip()[:20]}' is no number")
    return sign * float(bare.replace(",", "."))


def decimal_mark(cells: Iterable[str]) -> DecimalMark:
    """Settle the decimal mark of a table by the figures in it that can be read in one way only; "" where none can.

    Raises `HydrarchError` where one figure says point and another comma.
    """
    found: dict[DecimalMark, str] = {}
    for cell in cells:
        bare = cell.strip().translate(_SPACES).lstrip("+-\u2212")
        if "." in bare and "," in bare:
            found.setdefault("." if bare.rfind(".") > bare.rfind(",") else ",", cell)
        elif _PLAIN.fullmatch(bare) and not _THOUSANDS_COMMA.fullmatch(bare) and not _THOUSANDS_POINT.fullmatch(bare):
            if "," in bare:
                found.setdefault(",", cell)
            elif "." in bare:
                found.setdefault(".", cell)
    if len(found) > 1:
        one, two = found["."].strip(), found[","].strip()
        raise HydrarchError(f"'{one}' has a decimal point and '{two}' a decimal comma: use one of them throughout")
    return next(iter(found), "")
