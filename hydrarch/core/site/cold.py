"""Frost: how deep it goes, how long still water takes to freeze in pipe that lies bare."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from math import inf, log, pi, sqrt

from hydrarch.core.base.messages import tell
from hydrarch.core.base.problems import Problem, declare
from hydrarch.core.catalogue.pipes import Pipe, series
from hydrarch.core.plan.conditions import Conditions
from hydrarch.core.plan.document import Plan

__all__ = ["BARE", "cold_problems", "freezes_after", "frost_depth", "frost_reaches"]

declare("size", "freezes")

BARE = ("on surface", "on bracket", "above water")
"""Situations in which air comes to the pipe."""
_SOIL = {
    "sand": (2.2, 1700.0, 0.08),
    "sandy-loam": (2.0, 1650.0, 0.12),
    "loam": (1.9, 1550.0, 0.18),
    "clay-loam": (1.8, 1500.0, 0.22),
    "clay": (1.7, 1450.0, 0.25),
}
"""Of each soil, frozen: conductivity (W/m·K), dry density (kg/m³) and water by weight; usual moist ground, after
Kersten's charts, from memory.
"""
_FUSION = 334e3  # J/kg of ice
_WATER, _HEAT = 1000.0, 4186.0  # kg/m³, J/kg·K
_LAGGING = 0.040  # W/m·K of foam sleeves
_AIR = 9.0  # W/m²·K at the surface of pipe in light wind; ASHRAE, from memory
_WALL = {
    "pvc": 0.16,
    "pe": 0.4,
    "pe100": 0.4,
    "ppr": 0.24,
    "steel": 50.0,
    "copper": 390.0,
    "cast iron": 50.0,
    "lead": 35.0,
}
"""W/m·K of pipe walls; handbook values."""
_NIGHT = 12 * 3600.0
"""s of a winter's night: what freezes within it is reported."""


def frost_depth(days: float, soil: str) -> float:
    """How deep (m) frost goes in bare ground after so much cold (K·s below freezing): Stefan's equation X = sqrt(2 k F
    / L), L the heat of fusion of the water in the ground. The heat of the ground itself is left out, so that it goes
    somewhat too deep; turf and snow keep half of it away.

    >>> round(frost_depth(500 * 86400.0, "loam"), 2)
    1.33
    """
    conducts, dense, wet = _SOIL[soil]
    return sqrt(2 * conducts * days / (dense * wet * _FUSION))


def frost_reaches(conditions: Conditions) -> float | None:
    """How deep (m) frost reaches in a job: by the local table, else from its winter's degree-days; None where neither
    is told.
    """
    if conditions.frost is not None or conditions.frost_days is None:
        return conditions.frost
    return frost_depth(conditions.frost_days, conditions.soil)


def freezes_after(item: Pipe, lagging: float, water: float, air: float) -> float:
    """How long (s) still water in bare pipe takes to come to freezing: without end in air that does not freeze.

    θ = ρ c A R ln((ti − ta)/(0 − ta)) with R of wall, lagging (m) and air: ASHRAE, insulation of pipe. Ice that then
    grows takes longer; a valve or a bend freezes first.
    """
    freezing = 273.15
    if air >= freezing:
        return inf
    if water <= freezing:
        return 0.0
    wall = log(item.outside / item.bore) / (2 * pi * _WALL.get(series(item.series).material, 50.0))
    sleeve = log((item.outside + 2 * lagging) / item.outside) / (2 * pi * _LAGGING)
    outer = 1 / (_AIR * pi * (item.outside + 2 * lagging))
    held = _WATER * _HEAT * pi * item.bore**2 / 4
    return held * (wall + sleeve + outer) * log((water - air) / (freezing - air))


def cold_problems(plan: Plan, pipes: Mapping[str, Pipe], warm: Mapping[str, float]) -> Iterator[Problem]:
    """Pipe in the open whose still water freezes in a night of the job's coldest air, once for each size and lagging;
    none is reported where nobody said how cold it gets.
    """
    coldest = plan.conditions.coldest
    if coldest is None:
        return
    found: dict[tuple[str, str, float], tuple[float, str, int]] = {}
    for run in plan.runs:
        item = pipes.get(run.id)
        if item is None or run.situation not in BARE or run.coupled or series(item.series).kind == "drain":
            continue
        after = freezes_after(item, run.lagging, warm.get(run.id, plan.conditions.water_temperature), coldest)
        if after < _NIGHT:
            key = (item.series, item.size, run.lagging)
            least, where, many = found.get(key, (after, run.id, 0))
            found[key] = (min(least, after), where, many + 1)
    for (name, size, lagging), (after, where, many) in found.items():
        yield tell(
            "freezes" if lagging else "freezes/bare",
            where,
            plan.units,
            pipe=f"{series(name).short} {size}",
            after=after,
            air=coldest,
            many=f" The same in {many - 1} more runs." if many > 1 else "",
        )
