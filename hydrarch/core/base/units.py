"""SI inside, units at the edges: reads what a crew types and prints either system.

A quantity has one SI unit and, in each system, one unit it is shown in. Nothing else in the project converts.
"""

from __future__ import annotations

import re
from dataclasses import dataclass
from fractions import Fraction
from itertools import pairwise
from typing import Literal

from hydrarch.core.base.cache import remembered
from hydrarch.core.base.errors import BadQuantity, OutOfRange, Unknown
from hydrarch.core.base.numerals import NUMERAL, DecimalMark, parse_number
from hydrarch.core.base.quantities import FOOT, GALLON, INCH, PSI, QUANTITIES, STANDARD_GRAVITY, TYPED, Quantity, Unit

__all__ = [
    "FOOT",
    "GALLON",
    "INCH",
    "MARK",
    "PSI",
    "QUANTITIES",
    "STANDARD_GRAVITY",
    "SYSTEMS",
    "Quantity",
    "Shown",
    "System",
    "Unit",
    "check_range",
    "inch_fraction",
    "nominal_diameter",
    "out_of_range",
    "read",
    "show",
    "show_apart",
    "size_is_metric",
    "size_value",
]

System = Literal["us", "metric"]
SYSTEMS: tuple[System, ...] = ("us", "metric")

_NUMBER = rf"(?:\d+(?:[.,]\d+)?[ -]+\d+/\d+|\d+/\d+|{NUMERAL})"
_PART = re.compile(rf"\s*({_NUMBER})\s*([^\d\s,.;-][^\d\s]*(?:³/\w+|3/\w+)?)?")
_SQUARED = re.compile(rf"\s*({_NUMBER})\s*([^\d\s,.;-][^\d\s]*(?:[23](?![\d/]))?)?")
"""As above for areas and volumes, whose units may end in a figure: 45 m2, 2 ft3."""
_WORDED = ((re.compile(r"\b(?:square|sq)\.?\s*"), "2"), (re.compile(r"\b(?:cubic|cu)\.?\s*"), "3"))
_LONGER = {"feet": "ft", "foot": "ft", "metre": "m", "metres": "m", "meter": "m", "meters": "m", "yards": "yd"}
MARK: dict[System, DecimalMark] = {"us": ".", "metric": ""}
"""The decimal mark that is settled by the units a person works in: in US units a comma parts thousands."""


def _number(text: str, mark: DecimalMark = "") -> float:
    whole, _, fraction = text.rpartition(" ") if " " in text else text.rpartition("-")
    if "/" not in fraction:
        return parse_number(text, mark)
    count = parse_number(whole.strip(" -"), mark) if whole.strip(" -") else 0.0
    if not count.is_integer():
        raise ValueError("a fraction stands behind a whole number")
    return count + float(Fraction(fraction))


def read(text: str, quantity: str, system: System = "metric") -> float:
    """Read what a crew typed as an SI number.

    Takes decimals, fractions and feet-and-inches ("6 ft 3-1/2 in", or "6 ft 3-1/2"), with or without a unit; without
    one, the unit of `system` is meant. Of several numbers each has its unit, the larger first. Raises `BadQuantity`
    with what would do, and `Unknown` for a quantity that does not exist.

    >>> round(read("3/4 in", "length"), 5)
    0.01905
    >>> round(read("25 gpm", "flow") * 1e3, 4)
    1.5773
    """
    wanted = _quantity(quantity)
    default = getattr(wanted, system)
    units = TYPED[wanted.si if wanted.si in TYPED else ""]
    mend = f"type a number such as {_example(default)}"
    rest = _plain_units(text.strip()) if "²" in wanted.si or "³" in wanted.si else text.strip()
    if not rest:
        raise BadQuantity(text, quantity, mend)
    sign = -1.0 if rest[0] in "-−" else 1.0
    rest = rest.lstrip("+-−").strip()
    total, parts = 0.0, 0
    above: Unit | None = None
    while rest:
        match = (_SQUARED if wanted.si in ("m²", "m³") else _PART).match(rest)
        if match is None:
            raise BadQuantity(text, quantity, mend)
        name = (match.group(2) or "").lower().replace("us ", "")
        bare = (
            default if above is None else units.get("in") if above.symbol == "ft" else None
        )  # behind feet it is inches
        unit = units.get(name) if name else None if rest[match.end() :].strip() else bare
        if unit is None and not name:
            raise BadQuantity(text, quantity, f"of more than one number, {match.group(1).strip()} has no unit; {mend}")
        if unit is None:
            known = ", ".join(dict.fromkeys(u.symbol for u in units.values())) or "a plain number"
            raise BadQuantity(text, quantity, f"'{match.group(2)}' is not a unit of it; use {known}")
        try:
            value = sign * _number(match.group(1).strip(), MARK[system])
        except ZeroDivisionError:
            raise BadQuantity(text, quantity, mend) from None
        except ValueError as error:
            raise BadQuantity(text, quantity, str(error) if "," in match.group(1) else mend) from None
        if above is not None and unit.factor >= above.factor and wanted.si == "m":
            raise BadQuantity(text, quantity, f"of more than one number, say the larger unit first, each once; {mend}")
        above = unit
        total += value * unit.factor + (unit.offset if parts == 0 else 0.0)
        parts += 1
        rest = rest[match.end() :].strip()
    if parts > 1 and wanted.si != "m":
        raise BadQuantity(text, quantity, f"it holds more than one number; {mend}")
    return total


def _plain_units(text: str) -> str:
    """Square and cubic units written with a figure: 500 sq ft as 500 ft2."""
    for pattern, power in _WORDED:
        found = pattern.search(text.lower())
        if found is not None:
            unit = text[found.end() :].strip().lower()
            return f"{text[: found.start()].strip()} {_LONGER.get(unit, unit)}{power}"
    return text


def _example(unit: Unit) -> str:
    return f"12 {unit.symbol}".strip()


def _quantity(name: str) -> Quantity:
    if name not in QUANTITIES:
        raise Unknown("quantity", name, QUANTITIES)
    return QUANTITIES[name]


@dataclass(frozen=True, slots=True)
class Shown:
    """A number set for a person: `text` without and `unit` as its symbol."""

    text: str
    unit: str

    def __str__(self) -> str:
        return f"{self.text} {self.unit}".strip()


def show(value: float, quantity: str, system: System = "metric") -> Shown:
    """Print an SI number in `system`. Cut lengths in inches read as a tape does, to 1/16; flows below 1 gpm in gal/h.

    >>> str(show(0.4572 + 0.009525, "cut", "us"))
    '1 ft 6-3/8 in'
    >>> str(show(8 * GALLON / 3600, "flow", "us"))
    '8.0 gal/h'
    """
    unit: Unit = getattr(_quantity(quantity), system).fit(value)
    number = (value - unit.offset) / unit.factor
    if unit.style == "inch-fraction":
        return Shown(inch_fraction(number), unit.symbol)
    if unit.style == "feet-inches" and round(abs(number) * 16) >= 12 * 16:
        sixteenths = round(abs(number) * 16)
        feet, rest = divmod(sixteenths, 12 * 16)
        inches = f" {inch_fraction(rest / 16)} in" if rest else ""
        return Shown(f"{'-' if number < 0 else ''}{feet} ft{inches}", "")
    if unit.style == "feet-inches":
        return Shown(inch_fraction(number), unit.symbol)
    rounded = round(number, unit.decimals)
    return Shown(f"{rounded + 0.0:.{unit.decimals}f}", unit.symbol)


def show_apart(value: float, limit: float, quantity: str, system: System = "metric") -> tuple[str, str]:
    """Two numbers to be told apart, each with as many decimals as that takes: never "5.0 over the limit of 5.0".

    >>> show_apart(1.5246, 1.524, "velocity")
    ('1.525 m/s', '1.524 m/s')
    """
    one, two = show(value, quantity, system), show(limit, quantity, system)
    unit: Unit = getattr(_quantity(quantity), system).fit(value)
    decimals = unit.decimals
    while one.text == two.text and value != limit and decimals < unit.decimals + 6:
        decimals += 1
        one, two = (Shown(f"{(x - unit.offset) / unit.factor:.{decimals}f}", unit.symbol) for x in (value, limit))
    return str(one), str(two)


def check_range(field: str, value: float, low: float, high: float, quantity: str) -> None:
    """Raise `out_of_range` unless the SI `value` of `field` lies between `low` and `high`."""
    if not low <= value <= high:
        raise out_of_range(field, value, low, high, quantity)


def out_of_range(field: str, value: float, low: float, high: float, quantity: str) -> OutOfRange:
    """The error of an SI `value` of `field` that is not between `low` and `high`; it can tell so in either system."""
    told: dict[str, str] = {}
    for system in SYSTEMS:
        said, least, most = (str(show(x, quantity, system)) for x in (value, low, high))
        if said in (least, most):  # it is out by less than is shown
            said = show_apart(value, low if value < low else high, quantity, system)[0]
        told[system] = f"{field} is {said}; it must lie between {least} and {most}"
    return OutOfRange(field, value, low, high, QUANTITIES[quantity].si, told)


def inch_fraction(inches: float) -> str:
    """Set inches as whole and fraction to the nearest 1/16, as read off a tape: 1.375 is "1-3/8"."""
    sixteenths = round(abs(inches) * 16)
    sign = "-" if inches < 0 and sixteenths else ""
    whole, rest = divmod(sixteenths, 16)
    if rest == 0:
        return f"{sign}{whole}"
    fraction = Fraction(rest, 16)
    part = f"{fraction.numerator}/{fraction.denominator}"
    return f"{sign}{whole}-{part}" if whole else f"{sign}{part}"


_METRIC_IN_INCHES = {
    "16": 0.375,
    "20": 0.5,
    "25": 0.75,
    "32": 1.0,
    "40": 1.25,
    "50": 1.5,
    "63": 2.0,
    "75": 2.5,
    "90": 3.0,
    "110": 4.0,
    "125": 4.5,
    "160": 6.0,
    "200": 8.0,
}
_COPPER_IN_INCHES = {"15": 0.5, "22": 0.75, "28": 1.0}
"""Metric copper tube, whose wall is thinner than plastic's: the bore nearest by inches."""


def _inches_of_outside(millimetres: float) -> float:
    """The inch size between those of the metric outsides on either side."""
    steps = [(float(o), i) for o, i in _METRIC_IN_INCHES.items()]
    for (o0, i0), (o1, i1) in pairwise(steps):
        if millimetres <= o1:
            return i0 + (i1 - i0) * (millimetres - o0) / (o1 - o0)
    return steps[-1][1]


_NOMINAL = {
    "1/4": 8,
    "3/8": 10,
    "1/2": 15,
    "3/4": 20,
    "1": 25,
    "1-1/4": 32,
    "1-1/2": 40,
    "2": 50,
    "2-1/2": 65,
    "3": 80,
    "4": 100,
    "6": 150,
}
_NOMINAL |= {"16": 10, "20": 15, "25": 20, "32": 25, "40": 32, "50": 40, "63": 50, "75": 65, "90": 80, "110": 100}
_NOMINAL |= {"125": 125, "160": 150, "200": 200, "15": 15, "22": 20, "28": 25}


def nominal_diameter(size: str) -> int:
    """The nominal diameter DN (mm) of a size by inches or by metric outside: what "3/4" and "25" have in common; 0 for
    any other.

    Source: ISO 6708 and the usual pairing of outside diameters with thread sizes, common practice.

    >>> nominal_diameter("3/4"), nominal_diameter("25")
    (20, 20)
    """
    return _NOMINAL.get(size, 0)


def size_is_metric(size: str) -> bool:
    """Whether a nominal size is an outside diameter in millimetres: "32" is, "1" and "3/4" are not."""
    return size in _METRIC_IN_INCHES or size in _COPPER_IN_INCHES


@remembered(4096)
def size_value(size: str) -> float:
    """The inch size nearest in bore to a nominal size, for putting sizes in order only: "1-1/2" and "50" are 1.5.

    Raises `BadQuantity` for text that is not a size.
    """
    if size_is_metric(size):
        return _METRIC_IN_INCHES.get(size) or _COPPER_IN_INCHES[size]
    if ".." in size:  # a wide-range nut, by the outside diameters in mm that it takes
        return _inches_of_outside(sum(float(x) for x in size.split("..")) / 2)
    try:
        return _number(size)
    except (ValueError, ZeroDivisionError):
        raise BadQuantity(size, "nominal size", "write it as 3/4 or 1-1/2") from None
