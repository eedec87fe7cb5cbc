"""The quantities of the trade: the SI unit of each, the unit each system shows it in, and every unit a crew may
type.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Literal

__all__ = ["FOOT", "GALLON", "INCH", "PSI", "QUANTITIES", "STANDARD_GRAVITY", "TYPED", "Quantity", "Unit"]

INCH = 0.0254
POUND = 0.45359237
FOOT = 0.3048
GALLON = 3.785411784e-3
PSI = 6894.757293168361
STANDARD_GRAVITY = 9.80665
"""m/s², the conventional value (CGPM 1901)."""


@dataclass(frozen=True, slots=True)
class Unit:
    """A unit: SI value = number x `factor` + `offset`. `decimals` is what a crew reads; `style` how it is set.

    A number less than one of it is told in the `less` unit, if it has one, and from `most` of it on in the `more` unit:
    an emitter's gallon an hour is no 0.0 gpm, and a pump in a well does not hang at 61000 mm.
    """

    symbol: str
    factor: float
    offset: float = 0.0
    decimals: int = 1
    style: Literal["decimal", "inch-fraction", "feet-inches"] = "decimal"
    less: Unit | None = None
    more: Unit | None = None
    most: float = 0.0

    def fit(self, value: float) -> Unit:
        """The unit an SI `value` is told in."""
        number = abs(value - self.offset) / self.factor
        if self.less and 0.5 * 10**-self.less.decimals < number * self.factor / self.less.factor and number < 1:
            return self.less
        return self.more.fit(value) if self.more and number >= self.most else self


@dataclass(frozen=True, slots=True)
class Quantity:
    """A kind of number: its SI unit, and the unit each system shows it in."""

    name: str
    si: str
    us: Unit
    metric: Unit


def _same(name: str, unit: Unit) -> Quantity:
    return Quantity(name, unit.symbol, unit, unit)


_MILE = 5280 * FOOT
_FT = Unit("ft", FOOT, decimals=1)
_M = Unit("m", 1.0, decimals=2)
_IN = Unit("in", INCH, decimals=3)
_MM = Unit("mm", 1e-3, decimals=1)
_GAL_H = Unit("gal/h", GALLON / 3600, decimals=1)
_L_H = Unit("L/h", 1e-3 / 3600, decimals=1)

QUANTITIES: dict[str, Quantity] = {
    q.name: q
    for q in (
        Quantity("length", "m", _FT, _M),
        Quantity("level", "m", _FT, _M),
        Quantity("invert", "m", Unit("ft", FOOT, decimals=2), Unit("m", 1.0, decimals=3)),
        Quantity(
            "depth",
            "m",
            Unit("in", INCH, decimals=0, more=_FT, most=120),
            Unit("mm", 1e-3, decimals=0, more=_M, most=3000),
        ),
        Quantity("cut", "m", Unit("in", INCH, decimals=4, style="feet-inches"), Unit("mm", 1e-3, decimals=0)),
        Quantity("diameter", "m", _IN, _MM),
        Quantity("takeoff", "m", Unit("in", INCH, decimals=4, style="inch-fraction"), Unit("mm", 1e-3, decimals=0)),
        Quantity(
            "flow",
            "m³/s",
            Unit("gpm", GALLON / 60, decimals=1, less=_GAL_H),
            Unit("L/min", 1e-3 / 60, decimals=1, less=_L_H),
        ),
        Quantity("air", "m³/s", Unit("cfm", FOOT**3 / 60, decimals=1), Unit("L/min", 1e-3 / 60, decimals=0)),
        Quantity("earth", "m³", Unit("yd³", (3 * FOOT) ** 3, decimals=1), Unit("m³", 1.0, decimals=1)),
        Quantity("load", "kg", Unit("ton", 2000 * POUND, decimals=1), Unit("t", 1000.0, decimals=1)),
        Quantity("area", "m²", Unit("ft²", FOOT**2, decimals=1), Unit("m²", 1.0, decimals=2)),
        Quantity("leak", "m³/s", Unit("gal/h", GALLON / 3600, decimals=3), Unit("L/h", 1e-3 / 3600, decimals=3)),
        Quantity("emitter", "m³/s", Unit("gal/h", GALLON / 3600, decimals=2), Unit("L/h", 1e-3 / 3600, decimals=2)),
        Quantity("pressure", "Pa", Unit("psi", PSI, decimals=1), Unit("bar", 1e5, decimals=2)),
        Quantity("water level", "Pa", Unit("inWC", 249.089, decimals=2), Unit("mmWC", 9.80665, decimals=0)),
        Quantity("head", "m", _FT, _M),
        Quantity("velocity", "m/s", Unit("ft/s", FOOT, decimals=1), Unit("m/s", 1.0, decimals=2)),
        Quantity("wind", "m/s", Unit("mph", _MILE / 3600, decimals=1), Unit("m/s", 1.0, decimals=1)),
        Quantity("rain", "m/s", Unit("in/h", INCH / 3600, decimals=1), Unit("mm/h", 1e-3 / 3600, decimals=0)),
        Quantity(
            "temperature", "K", Unit("°F", 5 / 9, 459.67 * 5 / 9, decimals=0), Unit("°C", 1.0, 273.15, decimals=0)
        ),
        Quantity("frost days", "K·s", Unit("°F·d", 86400 * 5 / 9, decimals=0), Unit("°C·d", 86400.0, decimals=0)),
        Quantity("temperature change", "ΔK", Unit("°F", 5 / 9, decimals=1), Unit("°C", 1.0, decimals=1)),
        Quantity(
            "volume",
            "m³",
            Unit("gal", GALLON, decimals=2, more=Unit("gal", GALLON, decimals=0), most=100),
            Unit(
                "L",
                1e-3,
                decimals=2,
                more=Unit("L", 1e-3, decimals=0, more=Unit("m³", 1.0, decimals=2), most=10000),
                most=100,
            ),
        ),
        Quantity("dose", "m³", Unit("oz", GALLON / 128, decimals=2), Unit("mL", 1e-6, decimals=0)),
        Quantity("well depth", "m", Unit("ft", FOOT, decimals=0), Unit("m", 1.0, decimals=0)),
        Quantity("mass", "kg", Unit("lb", POUND, decimals=0), Unit("kg", 1.0, decimals=0)),
        Quantity("mass per length", "kg/m", Unit("lb/ft", POUND / FOOT, decimals=2), Unit("kg/m", 1.0, decimals=2)),
        Quantity(
            "torque", "N·m", Unit("lbf·ft", POUND * STANDARD_GRAVITY * FOOT, decimals=1), Unit("N·m", 1.0, decimals=1)
        ),
        _same("duration", Unit("min", 60.0, decimals=0)),
        _same("hours", Unit("h", 3600.0, decimals=1)),
        _same("power", Unit("kW", 1e3, decimals=2)),
        _same("charge", Unit("A·h", 3600.0, decimals=0)),
        _same("current", Unit("A", 1.0, decimals=1)),
        _same("seconds", Unit("s", 1.0, decimals=1)),
        _same("humidity", Unit("%", 0.01, decimals=0)),
        _same("ratio", Unit("", 1.0, decimals=2)),
        _same("money", Unit("", 1.0, decimals=2)),
        _same("angle", Unit("°", math.pi / 180, decimals=0)),
        _same("bearing", Unit("°", math.pi / 180, decimals=2)),
    )
}

_TIMES = {"s": Unit("s", 1.0), "min": Unit("min", 60.0), "h": Unit("h", 3600.0)}

# Every unit a crew may type, by quantity dimension. Keys are lower case with blanks and dots taken out.
TYPED: dict[str, dict[str, Unit]] = {
    "m": {
        **dict.fromkeys(("m", "metre", "metres", "meter", "meters"), Unit("m", 1.0)),
        **dict.fromkeys(("mm",), Unit("mm", 1e-3)),
        **dict.fromkeys(("cm",), Unit("cm", 1e-2)),
        **dict.fromkeys(("in", "inch", "inches", '"', "″"), Unit("in", INCH)),
        **dict.fromkeys(("ft", "foot", "feet", "'", "′"), Unit("ft", FOOT)),
    },
    "m³/s": {
        **dict.fromkeys(("gpm", "gal/min", "usgpm", "usgal/min"), Unit("gpm", GALLON / 60)),
        **dict.fromkeys(("gph", "gal/h", "usgal/h"), Unit("gal/h", GALLON / 3600)),
        **dict.fromkeys(("l/s", "lps"), Unit("L/s", 1e-3)),
        **dict.fromkeys(("l/min", "lpm"), Unit("L/min", 1e-3 / 60)),
        **dict.fromkeys(("l/h", "lph"), Unit("L/h", 1e-3 / 3600)),
        **dict.fromkeys(("cfm", "ft³/min", "ft3/min"), Unit("cfm", FOOT**3 / 60)),
        **dict.fromkeys(("m³/h", "m3/h"), Unit("m³/h", 1 / 3600)),
        **dict.fromkeys(("m³/s", "m3/s"), Unit("m³/s", 1.0)),
    },
    "Pa": {
        "psi": Unit("psi", PSI),
        "bar": Unit("bar", 1e5),
        "mbar": Unit("mbar", 100.0),
        "pa": Unit("Pa", 1.0),
        "kpa": Unit("kPa", 1e3),
        "mpa": Unit("MPa", 1e6),
        "mmwc": Unit("mmWC", 9.80665),
        "inwc": Unit("inWC", 249.089),
    },
    "m/s": {
        **dict.fromkeys(("m/s",), Unit("m/s", 1.0)),
        **dict.fromkeys(("ft/s", "fps"), Unit("ft/s", FOOT)),
        **dict.fromkeys(("mph", "mi/h"), Unit("mph", _MILE / 3600)),
        **dict.fromkeys(("in/h", "in/hr"), Unit("in/h", INCH / 3600)),
        **dict.fromkeys(("mm/h", "mm/hr"), Unit("mm/h", 1e-3 / 3600)),
        **dict.fromkeys(("l/(s·ha)", "l/s/ha", "l/(sha)"), Unit("L/(s·ha)", 1e-7)),
        **dict.fromkeys(("km/h", "kmh", "kph"), Unit("km/h", 1 / 3.6)),
    },
    "K·s": {
        **dict.fromkeys(("°c·d", "°cd", "c·d", "k·d"), Unit("°C·d", 86400.0)),
        **dict.fromkeys(("°f·d", "°fd", "f·d"), Unit("°F·d", 86400 * 5 / 9)),
    },
    "K": {
        **dict.fromkeys(("c", "°c"), Unit("°C", 1.0, 273.15)),
        **dict.fromkeys(("f", "°f"), Unit("°F", 5 / 9, 459.67 * 5 / 9)),
        "k": Unit("K", 1.0),
    },
    "ΔK": {
        **dict.fromkeys(("c", "°c", "k"), Unit("°C", 1.0)),
        **dict.fromkeys(("f", "°f"), Unit("°F", 5 / 9)),
    },
    "m³": {
        "ml": Unit("mL", 1e-6),
        "oz": Unit("oz", GALLON / 128),
        "l": Unit("L", 1e-3),
        **dict.fromkeys(("gal", "usgal"), Unit("gal", GALLON)),
        **dict.fromkeys(("m³", "m3"), Unit("m³", 1.0)),
        **dict.fromkeys(("ft³", "ft3", "cuft"), Unit("ft³", FOOT**3)),
        **dict.fromkeys(("yd³", "yd3", "cuyd"), Unit("yd³", (3 * FOOT) ** 3)),
    },
    "kg": {
        **dict.fromkeys(("t", "tonne"), Unit("t", 1000.0)),
        **dict.fromkeys(("ton", "tons"), Unit("ton", 2000 * POUND)),
        **dict.fromkeys(("kg", "kilo"), Unit("kg", 1.0)),
        **dict.fromkeys(("lb", "lbs"), Unit("lb", POUND)),
    },
    "kg/m": {"kg/m": Unit("kg/m", 1.0), **dict.fromkeys(("lb/ft", "lbs/ft"), Unit("lb/ft", POUND / FOOT))},
    "N·m": {"n·m": Unit("N·m", 1.0), "nm": Unit("N·m", 1.0), "lbf·ft": Unit("lbf·ft", POUND * STANDARD_GRAVITY * FOOT)},
    "min": _TIMES,
    "s": _TIMES,
    "h": _TIMES,
    "kW": {
        "kw": Unit("kW", 1e3),
        "w": Unit("W", 1.0),
        "btu/h": Unit("BTU/h", 0.29307107),
        "hp": Unit("hp", 745.699872),
    },
    "m²": {
        **dict.fromkeys(("m²", "m2", "sqm"), Unit("m²", 1.0)),
        **dict.fromkeys(("ft²", "ft2", "sqft"), Unit("ft²", FOOT**2)),
    },
    "A·h": dict.fromkeys(("ah", "a·h", "amp-hours"), Unit("A·h", 3600.0)),
    "A": dict.fromkeys(("a", "amp", "amps"), Unit("A", 1.0)),
    "%": {"%": Unit("%", 0.01)},
    "": {},
    "°": {**dict.fromkeys(("°", "deg"), Unit("°", math.pi / 180))},
}
