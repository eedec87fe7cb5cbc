"""Prices: a starting figure for everything, which the crew puts its own shop's price over.

Money has no unit here: it is whatever the crew's shop counts in. Pipe goes by weight, fittings by size.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from math import pi
from typing import Any

from hydrarch.core.base.cache import remembered
from hydrarch.core.base.errors import Unknown
from hydrarch.core.base.units import size_value
from hydrarch.core.catalogue.fittings import Fitting, fitting
from hydrarch.core.catalogue.own import own
from hydrarch.core.catalogue.pipes import Pipe, pipe_called, series
from hydrarch.core.catalogue.tables import read_rows

__all__ = ["InLine", "fitting_price", "known_price", "pipe_price", "pipe_weight", "priced_item", "ranking_price"]

_STUB = 0.3  # m of pipe in a piece cut to join two fittings, waste included


_INLINE = 2.0
"""How much dearer tubing with emitters in it is than without; from memory."""
_WITH = " with "
_LAST = 1e4
"""More than anything of ours costs."""


@dataclass(frozen=True, slots=True, order=True)
class InLine:
    """Emitters that are in the tubing: `spacing` (m) apart, each passing `each` (L/h).

    Such tubing is another pipe to buy than the plain.
    """

    spacing: float
    each: float

    @property
    def tag(self) -> str:
        """What it adds to the name of its pipe: "drip-535 1/2 with 0.33/2"."""
        return f"{_WITH}{self.spacing:g}/{self.each:g}"

    @property
    def words(self) -> str:
        """What it is, for the price book."""
        return f"an emitter of {self.each:g} L/h every {self.spacing:g} m"


@dataclass(frozen=True, slots=True)
class _Start:
    material: str
    family: str
    base: float
    exponent: float
    per_kg: float
    source: str


@remembered()
def _starts() -> dict[tuple[str, str], _Start]:
    def make(row: dict[str, str]) -> _Start:
        base, exponent, per_kg = (float(row[c] or 0) for c in ("base", "exponent", "per_kg"))
        return _Start(row["material"], row["family"], base, exponent, per_kg, row["source"])

    return {(s.material, s.family): s for s in read_rows("hydrarch.core.catalogue", "prices.csv", make)}


_FOLDED = 0.22
"""Share of plastic between the outside and the inside of corrugated drain: 4 in weighs about 0.4 lb/ft, from memory."""


def pipe_weight(item: Pipe) -> float:
    """Mass (kg) of a metre of empty pipe: density × π (D² − d²)/4, with the average bore; of corrugated pipe the share
    of that which is plastic.
    """
    solid = _FOLDED if item.series == "corrugated" else 1.0
    return solid * series(item.series).density * pi / 4 * (item.outside**2 - item.bore**2)


def pipe_price(item: Pipe, own: Mapping[str, float] | None = None, made: InLine | None = None) -> float:
    """Price of a metre of pipe: the crew's own for "series size" where `own` has one, else by weight; tubing with
    emitters `made` in is dearer.
    """
    mine = (own or {}).get(f"{item.name}{made.tag if made else ''}")
    if mine is not None:
        return mine
    if made is not None:
        return _INLINE * pipe_price(item, own)
    return pipe_weight(item) * _start(series(item.series).material, "pipe").per_kg


def fitting_price(name: str, own: Mapping[str, float] | None = None) -> float:
    """Price of a fitting by id: the crew's own where `own` has one, else base × size^exponent by its largest opening.

    Raises `Unknown` for a fitting that is not in the catalogue.
    """
    mine = (own or {}).get(name)
    return _usual(name) if mine is None else mine


def known_price(price: Callable[..., float], *of: Any) -> float | None:
    """What `price` gives, or None where our tables have no price of it and the crew neither."""
    try:
        return price(*of)
    except Unknown:
        return None


def ranking_price(name: str) -> float:
    """What a fitting counts for where ways are put in order: its starting price; one without a price comes last."""
    found = known_price(fitting_price, name)
    return _LAST if found is None else found


@remembered()
def _usual(name: str) -> float:
    told = own().prices.get(name)
    if told is not None:
        return told
    part: Fitting = fitting(name)
    size = max(size_value(p.end.size) for p in part.ports)
    if part.material == "pipe":  # a piece cut from what is there
        return round(0.5 * _STUB * 4 * size, 2)
    known = _starts()
    kinds = (part.family, *(p.end.system for p in part.ports))
    start = next((known[part.material, k] for k in kinds if (part.material, k) in known), None) or _start(
        part.material, ""
    )
    return float(round(start.base * size**start.exponent, 2))


def _start(material: str, family: str) -> _Start:
    found = _starts().get((material, family))
    if found is None:
        raise Unknown("starting price", f"{material} {family}".strip())
    return found


def priced_item(name: str) -> str:
    """What a price is for, in words; raises `Unknown` unless `name` is a fitting's id or "series size" of a pipe, with
    what is in it.
    """
    plain, _, inside = name.partition(_WITH)
    if " " in plain:
        item = pipe_called(plain)
        made = f", {_in_line(inside).words}" if inside else ""
        return f"{series(item.series).name}, {item.size}{made}, per metre"
    return fitting(name).name


def _in_line(told: str) -> InLine:
    spacing, _, each = told.partition("/")
    try:
        found = InLine(float(spacing), float(each))
    except ValueError:
        raise Unknown("tubing with emitters", told) from None
    if not (0 < found.spacing <= 100 and 0 < found.each <= 1000) or found.tag != f"{_WITH}{told}":
        raise Unknown("tubing with emitters", told)
    return found
