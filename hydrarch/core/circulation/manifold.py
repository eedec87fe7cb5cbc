"""One pump for several ways, parted by valves, beside a small pump for each: what flows in each, power, and the heat
that is left.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from hydrarch.core.base.units import STANDARD_GRAVITY, show
from hydrarch.core.components.devices import Pump, Valve
from hydrarch.core.hydraulics.acting import throttled_coefficient
from hydrarch.core.hydraulics.flow import Flow
from hydrarch.core.hydraulics.pumps import power
from hydrarch.core.hydraulics.round_flow import loops, ways_out
from hydrarch.core.plan.document import Plan
from hydrarch.core.site.layout import Layout
from hydrarch.core.site.systems import System

__all__ = ["SMALL_EFFICIENCY", "Manifold", "WayOut", "manifolds"]

SMALL_EFFICIENCY = 0.25
"""Of what a small circulation pump takes from its plug, the share that lifts water; from memory: read the maker's
figures."""
_FLOWS = 1e-7


@dataclass(frozen=True, slots=True)
class WayOut:
    """One way of a manifold: the return or jet it ends at, its valve ("" for none) and how far that is open, its flow
    (m³/s).

    `burnt` (m) is the head its valve takes by standing partly shut, `alone` (W) what a small pump for this way would
    take.
    """

    end: str
    valve: str
    opening: float
    flow: float
    burnt: float
    alone: float


@dataclass(frozen=True, slots=True)
class Manifold:
    """A pump that feeds several ways: what it takes (W), what a small pump for each would take together, the work (W)
    left as heat in the water.
    """

    pump: str
    ways: tuple[WayOut, ...]
    takes: float
    small: float
    work: float
    says: str


def manifolds(plan: Plan, lay: Layout, flows: Mapping[str, Flow]) -> tuple[Manifold, ...]:
    """Every loop with one pump, two ways out or more, and a valve in one of them at the least; none where nothing
    flows.
    """
    found = []
    for system in loops(plan, lay):
        pumps = [p for p in system.points if isinstance(plan.by_id[p].what, Pump)]
        ways = ways_out(plan, lay, system)
        flow = next((f for f in flows.values() if pumps and pumps[0] in f.lifts), None)
        if len(pumps) != 1 or len(ways) < 2 or flow is None:
            continue
        made = _manifold(plan, lay, system, pumps[0], ways, flow)
        if made is not None:
            found.append(made)
    return tuple(found)


def _manifold(
    plan: Plan, lay: Layout, system: System, pump: str, ways: list[tuple[str, tuple[str, ...]]], flow: Flow
) -> Manifold | None:
    through, lift = flow.lifts[pump]
    if through <= _FLOWS or lift <= 0:
        return None
    made = []
    for end, runs in ways:
        q = abs(flow.runs[runs[0]].flow) if runs and runs[0] in flow.runs else 0.0
        here = {p for r in runs for p in (lay.lines[r].a, lay.lines[r].b)}
        valve = next((p for p in sorted(here) if isinstance(plan.by_id[p].what, Valve)), "")
        opening, burnt = 1.0, 0.0
        if valve:
            what = plan.by_id[valve].what
            assert isinstance(what, Valve)
            opening = what.opening
            run = next((r for r in runs if valve in (lay.lines[r].a, lay.lines[r].b)), runs[0])
            speed = flow.runs[run].velocity if run in flow.runs else 0.0
            burnt = (
                min(throttled_coefficient(opening) * speed**2 / (2 * STANDARD_GRAVITY), lift)
                if 0 < opening < 1
                else 0.0
            )
        alone = power(q, lift - burnt, SMALL_EFFICIENCY) if q > _FLOWS and lift > burnt else 0.0
        made.append(WayOut(end, valve, opening, q, burnt, alone))
    if not any(w.valve for w in made):
        return None
    takes = power(through, lift, plan.conditions.pump_efficiency)
    small, work = sum(w.alone for w in made), power(through, lift, 1.0)
    return Manifold(pump, tuple(made), takes, small, work, _says(plan, pump, made, takes, small, work))


def _says(plan: Plan, pump: str, ways: list[WayOut], takes: float, small: float, work: float) -> str:
    told = ", ".join(
        f"{plan.names[w.end]} {show(w.flow, 'flow', plan.units)}"
        + (f" ({plan.names[w.valve]} {w.opening:.0%} open)" if w.valve else "")
        for w in ways
    )
    better = "less" if small < takes else "more"
    return (
        f"{plan.names[pump]} feeds {len(ways)} ways: {told}. It takes {takes:.0f} W at "
        f"{plan.conditions.pump_efficiency:.0%}; "
        f"{len(ways)} small pumps of {SMALL_EFFICIENCY:.0%}, each for its own way with its valve wide open, "
        f"{small:.0f} W, which is "
        f"{abs(small - takes):.0f} W {better}. {work:.0f} W of it end as heat in the water, and all of it "
        "where a pump stands in the water."
    )
