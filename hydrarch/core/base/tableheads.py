"""The heads of a table: what column each is, in which unit, by the words of several trades and languages."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass

from hydrarch.core.base.errors import BadRow
from hydrarch.core.base.quantities import QUANTITIES, TYPED, Unit
from hydrarch.core.base.units import System

__all__ = [
    "WantedColumn",
    "found_columns",
    "goes_by",
    "lacks",
    "named_columns",
    "unit_named",
    "unit_said",
    "usual_unit",
]

_BRACKETED = re.compile(r"^(.*?)\s*[\[(<{]\s*([^\])>}]*?)\s*[\])>}]\s*$")
_SPOKEN = {"celsius": "°c", "fahrenheit": "°f", "kelvin": "k", "seconds": "s", "minutes": "min", "hours": "h"}
"""Units as heads spell them out."""


@dataclass(frozen=True, slots=True)
class WantedColumn:
    """A column that a reader takes: what it is called to people, and the `heads` it goes by, in lower case.

    Its figures are of a `quantity`, "" for words. Where a unit itself is the head (bar, psi), `by_unit`. `needed` where
    a table without it says nothing. `unit` is what figures without one are in; "" for the person's own.
    """

    name: str
    heads: tuple[str, ...]
    quantity: str = ""
    needed: bool = False
    unit: str = ""
    by_unit: bool = False


def _plain(head: str) -> str:
    """A head for comparing: lower case, one blank for whatever parts words."""
    return re.sub(r"[\s_.:]+", " ", head.replace("²", "2").strip().lower().strip("'\"")).strip()


def unit_named(text: str, quantity: str) -> Unit | None:
    """The unit of a quantity that a word in a head or a units row means, None where it means none."""
    units = TYPED.get(QUANTITIES[quantity].si, {})
    usual = QUANTITIES[quantity].us, QUANTITIES[quantity].metric
    word = text.strip().lower().replace("us ", "").replace("³", "3").replace("⁄", "/").replace(" ", "")
    word = _SPOKEN.get(word, word)
    for form in (word, word.replace("_", "/"), word.replace("per", "/"), word.rstrip("."), word.replace("/hr", "/h")):
        if form in units:
            return units[form]
        for unit in usual:
            if form and form == unit.symbol.lower().replace("³", "3"):
                return unit
    return None


def _split_head(head: str, quantity: str) -> tuple[str, Unit | None, str]:
    """A head without its unit, that unit, and what stands in brackets and is none."""
    bracketed = _BRACKETED.match(head.strip())
    if bracketed:
        unit = unit_named(bracketed[2], quantity) if quantity else None
        return _plain(bracketed[1]), unit, "" if unit else bracketed[2].strip()
    if quantity:
        for cut in re.finditer(r"[\s_,/]+", head.strip()):
            unit = unit_named(head.strip()[cut.end() :], quantity)
            if unit is not None:
                return _plain(head.strip()[: cut.start()]), unit, ""
    return _plain(head), None, ""


def goes_by(head: str, w: WantedColumn) -> bool:
    """Whether a head names the column wanted: by one of its names, or by a unit where that will do."""
    name, unit, told = _split_head(head, w.quantity)
    if told and w.quantity and any(unit_named(told, q) for q in QUANTITIES):
        return False  # of another quantity: T [°C] is no time
    if name in w.heads or _plain(head) in w.heads:
        return True
    return w.by_unit and bool(w.quantity) and (unit_named(head, w.quantity) is not None or (not name and bool(unit)))


def found_columns(heads: list[str], wanted: Sequence[WantedColumn]) -> dict[str, int]:
    """The column of each thing wanted: the first head that it goes by, in the order of its names."""
    found: dict[str, int] = {}
    for w in wanted:
        told = [i for i, h in enumerate(heads) if h and goes_by(h, w) and i not in found.values()]
        if told:
            found[w.name] = min(told, key=lambda i: _rank(heads[i], w))
    return found


def _rank(head: str, w: WantedColumn) -> int:
    names = (_split_head(head, w.quantity)[0], _plain(head))
    return min((w.heads.index(n) for n in names if n in w.heads), default=len(w.heads))


def named_columns(heads: list[str], by_name: dict[str, WantedColumn], use: Sequence[str]) -> dict[str, int]:
    """The columns as a person says; the first of two that are said to be the same."""
    found: dict[str, int] = {}
    for i, name in enumerate(use[: len(heads)]):
        if name in by_name:
            found.setdefault(name, i)
    return found


def unit_said(w: WantedColumn, head: str, under: str, what: str, line: int) -> Unit | None:
    """The unit that a column's head says, or the row under it; None where neither does.

    Raises `BadRow` where what stands there as a unit is none of the quantity.
    """
    _, unit, told = _split_head(head, w.quantity)
    if unit is None and w.by_unit:
        unit = unit_named(head, w.quantity)
    if unit is not None:
        return unit
    if under and (unit := unit_named(under, w.quantity)) is not None:
        return unit
    strange = told or (under if under not in ("", "-") else "")
    if strange and len(strange) <= 12 and " " not in strange:
        known = ", ".join(dict.fromkeys(u.symbol for u in TYPED[QUANTITIES[w.quantity].si].values()))
        raise BadRow(what, line, f"'{head}' is in {strange}, which is no unit of {w.name} here: use {known}")
    return None


def usual_unit(w: WantedColumn, told: dict[str, Unit | None], by_name: dict[str, WantedColumn], system: System) -> Unit:
    """The unit of a column that names none: the reader's, what all other columns of its kind say, or the person's."""
    if w.unit:
        unit = unit_named(w.unit, w.quantity)
        assert unit is not None, w.unit
        return unit
    si = QUANTITIES[w.quantity].si
    others = {u.symbol: u for n, u in told.items() if u is not None and QUANTITIES[by_name[n].quantity].si == si}
    if len(others) == 1:
        return next(iter(others.values()))
    quantity = QUANTITIES[w.quantity]
    return quantity.us if system == "us" else quantity.metric


def lacks(lacking: Sequence[WantedColumn], heads: Sequence[str] = ()) -> str:
    """What a table lacks, by the names it may go by, and what its columns are called."""
    names = [w.name for w in lacking if w.needed]
    told = f"it has no column{'s' if len(names) > 1 else ''} {' and '.join(names)}"
    if not any(heads):
        told += ": no line names any"
    else:
        told += f"; its columns are called {', '.join(h for h in heads if h)[:160]}"
    also = "; ".join(f"{w.name} may be {', '.join(w.heads[1:5])}" for w in lacking if w.needed and w.heads[1:])
    return f"{told}. Name the columns in the first line{f' ({also})' if also else ''}, or say which is which"
