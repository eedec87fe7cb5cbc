"""What a run must be able to carry though no scenario sends it: what fills a vessel, and what a shut outlet draws when
it is opened.
"""

from __future__ import annotations

from hydrarch.core.base.graph import Edge, Graph
from hydrarch.core.building.together import all_scenarios
from hydrarch.core.components.drains import Sump
from hydrarch.core.components.equipment import Vessel
from hydrarch.core.components.sources import Lifter
from hydrarch.core.hydraulics.flow import draws
from hydrarch.core.hydraulics.pumps import flow_at
from hydrarch.core.hydraulics.round_flow import round_flows
from hydrarch.core.hydraulics.static import fed_at_rest, head_at_rest
from hydrarch.core.hydraulics.water import water
from hydrarch.core.plan.document import Plan, Point
from hydrarch.core.site.layout import Layout

__all__ = ["filling", "standby_flows"]


def standby_flows(plan: Plan, lay: Layout) -> dict[str, float]:
    """The flow (m³/s) each run must carry by itself, one thing at a time and by the shortest way: 0 for any that is not
    told.

    A vessel is filled by its pump's flow at the pressure where that starts; an outlet that no scenario opens draws what
    it wants; a sump's pump that stands by lifts alone what it gives. Beyond the last point of its curve, no pump is
    counted.
    """
    graph = Graph[str](Edge(x.run, x.a, x.b, x.length) for x in lay.lines.values())
    found: dict[str, float] = round_flows(plan, lay)

    def carry(starts: list[str], to: str, flow: float) -> None:
        for run in graph.from_nodes(starts).way(to):
            found[run] = max(found.get(run, 0.0), flow)

    opened = {p for s in all_scenarios(plan) for p in s.open}
    sources = [p.id for p in plan.sources]
    for p in plan.outlets:
        if p.id not in opened and p.id in lay.fed:
            carry(sources, p.id, draws(p.what))
    opens = [p.id for p in plan.points if any(x.falls for x in p.kind.ports_of(p.what))]
    for sump in plan.of_kind(Sump):
        if isinstance(sump.what, Sump) and sump.what.stands_by:
            system = next((s for s in lay.systems.found if sump.id in s.sources), None)
            for end in (o for o in opens if system is not None and o in system.points):
                carry([sump.id], end, flow_at(sump.what.running(), plan.by_id[end].level - sump.what.level))
    for vessel in plan.of_kind(Vessel):
        system = next((s for s in lay.systems.found if vessel.id in s.points), None)
        for name in system.points if system is not None else ():
            if isinstance(plan.by_id[name].what, Lifter):
                flow = filling(plan, plan.by_id[name], vessel)
                if flow is not None and flow > 0:
                    carry([name], vessel.id, flow)
    return found


def filling(plan: Plan, pump: Point, vessel: Point) -> float | None:
    """What a pump gives (m³/s) against the pressure at which its vessel has it start, losses left out; None where that
    is beyond the last point of its curve, which nobody knows it by.
    """
    assert isinstance(pump.what, Lifter)
    assert isinstance(vessel.what, Vessel)
    wet = water(plan.conditions.water_temperature)
    own = head_at_rest(pump.what, pump, wet)
    curve = pump.what.running()
    before = own - curve[0][1] if own is not None else fed_at_rest(plan)
    lift = vessel.level + vessel.what.cut_in / wet.weight - before
    return None if lift < curve[-1][1] else flow_at(curve, lift)
