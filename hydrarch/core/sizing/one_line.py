"""One line, asked at the bench: what every size of a series loses, how fast it runs, what a fast valve does, and the
table.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np

from hydrarch.core.base.errors import HydrarchError, OutOfRange
from hydrarch.core.base.units import STANDARD_GRAVITY, System, check_range, show, show_apart
from hydrarch.core.catalogue.fittings import fully_turbulent_friction_factor
from hydrarch.core.catalogue.pipes import Pipe, pressure_rating, series
from hydrarch.core.catalogue.ratings import usual_fittings_rating
from hydrarch.core.hydraulics.friction import (
    METHODS,
    Friction,
    head_loss_hazen_williams,
    reynolds_number,
    velocity,
)
from hydrarch.core.hydraulics.gravity import PartFull, part_full
from hydrarch.core.hydraulics.surge import Surge, surge
from hydrarch.core.hydraulics.water import water
from hydrarch.core.sizing.rules import ThumbRule, rule_of_thumb

__all__ = ["FrictionTable", "LineAnswer", "LineQuestion", "SizeRow", "drain_sizes", "friction_table", "line_sizes"]

_LENGTHS = {
    "elbow": 30.0,
    "elbow 45": 16.0,
    "tee, straight through": 20.0,
    "tee, round the branch": 60.0,
    "ball valve": 3.0,
    "check valve": 100.0,
}
"""Equivalent lengths of fittings in diameters (Crane TP-410, from memory)."""


@dataclass(frozen=True, slots=True)
class LineQuestion:
    """A line: series, flow (m³/s), length and rise (m), fittings by kind, velocity limit (m/s).

    `working` is the pressure to hand at its foot, `wanted` what must be left at its far end (Pa).
    """

    series: str
    flow: float
    length: float
    rise: float = 0.0
    fittings: tuple[tuple[str, int], ...] = ()
    working: float = 400e3
    wanted: float = 100e3
    temperature: float = 285.15
    friction: Friction = "hazen-williams"
    max_velocity: float = 1.524
    units: System = "metric"

    def __post_init__(self) -> None:
        """Refuse what is no line."""
        check_range("flow", self.flow, 1e-7, 10, "flow")
        check_range("length", self.length, 0.01, 1e5, "length")
        check_range("rise", self.rise, -3000, 3000, "length")
        check_range("pressure to hand", self.working, 0, 1e7, "pressure")
        check_range("pressure wanted", self.wanted, 0, 1e7, "pressure")
        check_range("velocity limit", self.max_velocity, 0.1, 10, "velocity")
        for kind, count in self.fittings:
            if kind not in _LENGTHS:
                raise HydrarchError(f"'{kind}' is not a fitting counted here; say {', '.join(_LENGTHS)}")
            if not 0 <= count <= 1000:
                raise OutOfRange(f"the number of {kind}s", count, 0, 1000)


@dataclass(frozen=True, slots=True)
class SizeRow:
    """One size of a line, and whether it holds every limit.

    `bore` in m, `velocity` m/s, `friction` and `fittings` the heads lost to pipe and fittings (m), `pressure` (Pa) what
    is wanted at the foot above that at the end, rise included; `left` (Pa) what is left at the far end of the pressure
    to hand.
    """

    size: str
    bore: float
    velocity: float
    reynolds: float
    regime: Literal["laminar", "between", "turbulent"]
    friction: float
    fittings: float
    pressure: float
    left: float
    rating: float
    surge: Surge
    holds: bool
    says: str


@dataclass(frozen=True, slots=True)
class LineAnswer:
    """Every size of the series, the one to take and those beside it, the rule of thumb, and curves for a chart.

    `curves` hold for each size points of (flow in m³/s, head lost in m over the whole length).
    """

    rows: tuple[SizeRow, ...]
    pick: str | None
    below: str | None
    above: str | None
    rule: ThumbRule | None
    says: str
    curves: tuple[tuple[str, tuple[tuple[float, float], ...]], ...]


def _loss(q: LineQuestion, item: Pipe, flow: float) -> float:
    family, wet = series(item.series), water(q.temperature)
    method = METHODS[q.friction]
    return float(
        method.loss(flow, q.length, item.bore, family.hazen_williams_c, family.roughness, wet.density, wet.viscosity)
    )


def line_sizes(q: LineQuestion) -> LineAnswer:
    """Work a line out for every size of its series.

    Raises `Unknown` for a series, `HydrarchError` for one without pressure.
    """
    family = series(q.series)
    if family.kind not in ("pressure", "drip"):
        raise HydrarchError(f"{family.name} carries no pressure: ask it as a drain")
    rows = tuple(_row(q, item) for item in family.sizes)
    place = next((i for i, r in enumerate(rows) if r.holds), None)
    rule = rule_of_thumb(q.flow, q.length)
    flows = np.linspace(0, 1.6 * q.flow, 17)[1:]
    near = range(
        max(0, (place if place is not None else len(rows) - 1) - 1),
        min(len(rows), (place if place is not None else len(rows)) + 3),
    )
    curves = tuple((rows[i].size, tuple((float(f), _loss(q, family.sizes[i], float(f))) for f in flows)) for i in near)
    if place is None:
        says = "no size of this series holds: " + rows[-1].says
        return LineAnswer(rows=rows, pick=None, below=rows[-1].size, above=None, rule=rule, says=says, curves=curves)
    below, above = (rows[place - 1].size if place else None), (rows[place + 1].size if place + 1 < len(rows) else None)
    left = show(rows[place].left, "pressure", q.units)
    why = "the smallest that holds" if place else "the smallest made is enough"
    why += f", {left} left at the far end" + (f"; {below} {rows[place - 1].says}" if place else "")
    return LineAnswer(rows=rows, pick=rows[place].size, below=below, above=above, rule=rule, says=why, curves=curves)


def _row(q: LineQuestion, item: Pipe) -> SizeRow:
    wet = water(q.temperature)
    v = float(velocity(q.flow, item.bore))
    re = float(reynolds_number(q.flow, item.bore, wet.density, wet.viscosity))
    diameters = sum(_LENGTHS[kind] * count for kind, count in q.fittings)
    fittings = diameters * fully_turbulent_friction_factor(item.bore) * v * v / (2 * STANDARD_GRAVITY)
    friction = _loss(q, item, q.flow)
    wave = surge(item, q.length, v, q.working, q.temperature)
    rating = pressure_rating(item, q.temperature)
    faults = []
    if v > q.max_velocity * (1 + 1e-9):
        fast, limit = show_apart(v, q.max_velocity, "velocity", q.units)
        faults.append(f"runs at {fast}, over the limit of {limit}")
    if q.working > rating:
        faults.append("is rated below the pressure to hand")
    joined = usual_fittings_rating(item, q.temperature)
    if joined is not None and q.working > joined:
        carries, hand = show_apart(joined, q.working, "pressure", q.units)
        faults.append(f"its couplings and elbows carry {carries} in this water, and {hand} is to hand")
    needs = (friction + fittings + q.rise) * wet.weight
    left = q.working - needs
    if left < q.wanted * (1 - 1e-9):
        foot, hand = show_apart(needs + q.wanted, q.working, "pressure", q.units)
        end = show(q.wanted, "pressure", q.units)
        faults.append(f"wants {foot} at its foot to leave {end} at the end, and {hand} is to hand")
    regime: Literal["laminar", "between", "turbulent"] = (
        "laminar" if re < 2000 else "turbulent" if re > 4000 else "between"
    )
    return SizeRow(
        size=item.size,
        bore=item.bore,
        velocity=v,
        reynolds=re,
        regime=regime,
        friction=friction,
        fittings=fittings,
        pressure=needs,
        left=left,
        rating=rating,
        surge=wave,
        holds=not faults,
        says="; ".join(faults) or "holds",
    )


@dataclass(frozen=True, slots=True)
class FrictionTable:
    """Head lost (m in 100 m, or ft in 100 ft: the same number) and velocity (m/s) of every size of a series at round
    flows.
    """

    series: str
    sizes: tuple[str, ...]
    flows: tuple[float, ...]
    losses: tuple[tuple[float | None, ...], ...]
    velocities: tuple[tuple[float | None, ...], ...]
    source: str


def friction_table(name: str, flows: tuple[float, ...], most_velocity: float = 3.5) -> FrictionTable:
    """The friction table of a series at `flows` (m³/s) by Hazen-Williams; blank where water would run above
    `most_velocity`.
    """
    family = series(name)
    losses: list[tuple[float | None, ...]] = []
    speeds: list[tuple[float | None, ...]] = []
    for flow in flows:
        row = [(p, float(velocity(flow, p.bore))) for p in family.sizes]
        speeds.append(tuple(v if v <= most_velocity else None for _, v in row))
        losses.append(
            tuple(
                head_loss_hazen_williams(flow, 100.0, p.bore, family.hazen_williams_c) if v <= most_velocity else None
                for p, v in row
            )
        )
    source = f"Hazen-Williams, C = {family.hazen_williams_c:g}; {family.source}"
    return FrictionTable(name, tuple(p.size for p in family.sizes), flows, tuple(losses), tuple(speeds), source)


def drain_sizes(name: str, flow: float, slope: float, units: System = "metric") -> tuple[tuple[str, PartFull], ...]:
    """How a flow (m³/s) runs in every size of a drain laid to `slope` (m/m). Raises as `part_full` does."""
    return tuple((p.size, part_full(p, flow, slope, units)) for p in series(name).sizes)
