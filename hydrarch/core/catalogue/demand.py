"""What fixtures count for, and how much of what hangs on a pipe runs together: two published methods.

Fixture units and their curve come from Hunter's work for the American plumbing codes; loading units are those of
EN 806-3, a tenth of a litre a second each, and what of them runs together in a dwelling follows DIN 1988-300.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from math import nan

import numpy as np

from hydrarch.core.base.cache import remembered
from hydrarch.core.catalogue.tables import read_rows

__all__ = ["MOST_UNITS", "FixtureLoad", "fixture_load", "units_together", "loads_together"]

_GPM = 3.785411784e-3 / 60  # m³/s
LOADING_UNIT = 1e-4
"""m³/s of one loading unit: EN 806-3."""
_A, _B, _C = 1.48, 0.19, 0.94
"""DIN 1988-300, table 3, dwellings, with flows in L/s."""
_APART = 2e-4  # m³/s: up to which all is taken to run, DIN 1988-300


@dataclass(frozen=True, slots=True)
class FixtureLoad:
    """What a kind of fixture counts for: fixture units on its cold pipe, its hot pipe and on one that feeds both;
    loading units on each side; the height (m) its wall plates usually stand at. `hot` is not a number where it has
    none.
    """

    kind: str
    cold: float
    hot: float
    both: float
    loading: float
    plate: float
    source: str


def _load(row: Mapping[str, str]) -> FixtureLoad:
    return FixtureLoad(
        kind=row["kind"],
        cold=float(row["cold_units"]),
        hot=float(row["hot_units"]) if row["hot_units"] else nan,
        both=float(row["both_units"]),
        loading=float(row["loading_units"]),
        plate=float(row["plate_m"]),
        source=row["source"],
    )


@remembered()
def _loads() -> dict[str, FixtureLoad]:
    return {x.kind: x for x in read_rows("hydrarch.core.catalogue", "fixtures.csv", _load)}


def fixture_load(kind: str) -> FixtureLoad:
    """What a kind of fixture counts for; raises KeyError for one that no row is about."""
    return _loads()[kind]


@remembered()
def _curve() -> tuple[tuple[float, ...], tuple[float, ...]]:
    rows = read_rows(
        "hydrarch.core.catalogue", "together.csv", lambda r: (float(r["units"]), float(r["flow_gpm"]) * _GPM)
    )
    units, flows = zip(*rows, strict=True)
    return (0.0, *units), (0.0, *flows)


MOST_UNITS = 1000.0
"""Fixture units of the last row of the table."""


def units_together(units: float) -> float:
    """Flow (m³/s) expected of so many fixture units (0 to `MOST_UNITS`), closets with tanks; nan beyond the table.

    Between rows a straight line, as the code has it.

    Source: International Plumbing Code, table E103.3(3).
    """
    if not 0 <= units <= MOST_UNITS:
        return nan
    at, flows = _curve()
    return float(np.interp(units, at, flows))


def loads_together(flow: float) -> float:
    """Flow (m³/s) expected of fixtures that would draw `flow` (m³/s, to 0.5) in all, in a dwelling; nan beyond.

    Source: DIN 1988-300:2012, equation 9 and table 3: 1.48 (Σ)^0.19 − 0.94 in L/s, and all of it up to 0.2 L/s.
    """
    if not 0 <= flow <= 0.5:
        return nan
    if flow <= _APART:
        return flow
    return float(max(_APART, (_A * (flow * 1e3) ** _B - _C) * 1e-3))
