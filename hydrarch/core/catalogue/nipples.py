"""Lengths in which threaded nipples and risers are sold, by thread system."""

from __future__ import annotations

from typing import NamedTuple

from hydrarch.core.base.cache import remembered
from hydrarch.core.base.units import INCH
from hydrarch.core.catalogue.tables import read_rows

__all__ = ["StockLength", "nearest_nipple", "nipple_lengths"]

_UNITS = {"in": INCH, "mm": 1e-3}


class StockLength(NamedTuple):
    """A length over the threads (m), and what the shop calls it."""

    length: float
    title: str


@remembered()
def _lengths() -> dict[str, tuple[StockLength, ...]]:
    def make(row: dict[str, str]) -> tuple[str, StockLength]:
        return row["thread"], StockLength(float(row["length"]) * _UNITS[row["unit"]], f"{row['length']} {row['unit']}")

    found: dict[str, list[StockLength]] = {}
    for thread, long in read_rows("hydrarch.core.catalogue", "nipples.csv", make):
        found.setdefault(thread, []).append(long)
    return {thread: tuple(sorted(all_)) for thread, all_ in found.items()}


def nipple_lengths(thread: str) -> tuple[StockLength, ...]:
    """All lengths, shortest first; empty for a thread system that none are listed for."""
    return _lengths().get(thread, ())


def nearest_nipple(thread: str, wanted: float) -> StockLength | None:
    """The stock length nearest to one that is wanted (m), the longer of two as near; None where none is listed."""
    return min(nipple_lengths(thread), key=lambda x: (round(abs(x.length - wanted), 6), -x.length), default=None)
