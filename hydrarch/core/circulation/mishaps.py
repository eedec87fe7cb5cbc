"""What can happen to a circulation, and to which things; what frost does to pipe that lies bare."""

from __future__ import annotations

from collections.abc import Mapping
from math import log
from typing import Literal

from hydrarch.core.catalogue.pipes import Pipe
from hydrarch.core.circulation.standing import WaterStanding
from hydrarch.core.components.basins import Basin, InWall
from hydrarch.core.components.devices import Filter, Pump, Valve
from hydrarch.core.components.fixtures import Fixture
from hydrarch.core.components.outlets import Hydrant, Tap
from hydrarch.core.plan.basin_shapes import shape_of
from hydrarch.core.plan.document import Plan, Point
from hydrarch.core.site.cold import BARE

__all__ = ["FROST", "MISHAPS", "Mishap", "freezes", "may_befall", "mishaps_of"]

Mishap = Literal[
    "nothing",
    "pump stops",
    "power fails",
    "valve shut",
    "outlet opens",
    "filter clogs",
    "drain blocked",
    "return off",
    "frost",
]
MISHAPS: dict[Mishap, str] = {
    "nothing": "nothing: it runs as it should",
    "pump stops": "a pump stops",
    "power fails": "the power fails in the night, eight hours",
    "valve shut": "a valve is shut",
    "outlet opens": "an outlet is opened",
    "filter clogs": "a filter clogs",
    "drain blocked": "a standpipe is blocked",
    "return off": "a return comes off its wall",
    "frost": "frost in the night, eight hours, with the pumps at rest",
}
FROST = "A night at −5 °C"
_COLD, _AIR = 5.0, 10.0
"""K below freezing, and W/(m²·K) from bare pipe to still air: handbook values, from memory."""
_SLUSH = 0.2
"""Share of the water that is ice when a plug of it bursts the pipe; from memory."""


def may_befall(work: WaterStanding, point: Point, mishap: Mishap) -> bool:
    """Whether a mishap can befall a thing: one that is in water that goes round, and a return only where a pump
    pushes.
    """
    what, there = point.what, point.id in work.pumped
    match mishap:
        case "pump stops" | "power fails":
            return there and isinstance(what, Pump)
        case "frost":
            return there and isinstance(what, Pump) and bool(freezes(work))
        case "valve shut":
            return there and isinstance(what, Valve) and what.opening > 0
        case "outlet opens":
            return there and (
                (isinstance(what, Valve) and what.opening < 1) or isinstance(what, (Tap, Hydrant, Fixture))
            )
        case "filter clogs":
            return there and isinstance(what, Filter)
        case "drain blocked":
            return any(d.point == point.id for d in work.drains)
        case "return off":
            return there and isinstance(what, InWall) and point.kind.role != "source"
        case _:
            return False


def mishaps_of(plan: Plan, pipes: Mapping[str, Pipe], minor: Mapping[str, float]) -> dict[Mishap, tuple[str, ...]]:
    """What can happen on a plan, and to which things; "power fails" and "frost" to all of its pumps."""
    found: dict[Mishap, tuple[str, ...]] = {"nothing": ()}
    if any(isinstance(p.what, Basin) and shape_of(p).crosses for p in plan.points):
        return found  # that is told, and whoever asks what happens is told it again
    work = WaterStanding(plan, pipes, minor)
    for mishap in MISHAPS:
        things = tuple(p.id for p in plan.points if may_befall(work, p, mishap))
        if things:
            found[mishap] = things
    return found


def freezes(work: WaterStanding) -> dict[str, float]:
    """How long (s) the water of each run that lies bare stands until ice bursts it, from the job's water temperature
    on.

    t = ρ·d² / (4·D·h) · (c·ln((T + 5)/5) + s·L/5), d the bore and D the outside: water that cools evenly through bare
    pipe to still air at −5 °C, then freezes. Wind is quicker.
    """
    warm = max(work.plan.conditions.water_temperature - 273.15, 0.0)
    found = {}
    for run in work.plan.runs:
        pipe = work.pipes.get(run.id)
        if run.situation not in BARE or pipe is None or not set(run.points) & work.pumped:
            continue
        share = 1000.0 * pipe.bore**2 / (4 * pipe.outside * _AIR)
        found[run.id] = share * (4186.0 * log((warm + _COLD) / _COLD) + _SLUSH * 334e3 / _COLD)
    return found
