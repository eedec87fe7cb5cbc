"""How warm the water of each run is at work: the job's, what a body of water is kept at, or what a heater gives.

What a pipe or a fitting carries is looked up at that temperature. What flows is calculated with the job's own water,
which is the thicker: warm water passes a little more.
"""

from __future__ import annotations

from hydrarch.core.base.graph import Edge, Graph
from hydrarch.core.components.basins import Basin, Heater
from hydrarch.core.plan.document import Plan, Point, RunEnd
from hydrarch.core.site.systems import System, Systems, home_of, water_at

__all__ = ["beyond_heater", "heats", "parted_at", "working_temperatures"]

Node = tuple[str, str]


def working_temperatures(plan: Plan, parted: Systems) -> dict[str, float]:
    """The temperature (K) of each run's water at work, never below the job's.

    Behind a heater on a supply it is what the heater gives; in what goes round, what the warmest of its bodies of water
    is kept at.
    """
    found = dict.fromkeys((r.id for r in plan.runs), plan.conditions.water_temperature)
    for system in parted.found:
        if system.sort == "circulation":
            homes = (plan.by_id[home].what for p in system.points if (home := home_of(plan.by_id[p])) in plan.by_id)
            kept = [w.warm for w in homes if isinstance(w, Basin) and w.warm is not None]
            for run in system.runs:
                found[run] = max(found[run], *kept) if kept else found[run]
        elif system.sort == "supply":
            for point in (plan.by_id[p] for p in system.points):
                if isinstance(point.what, Heater) and heats(point):
                    for run in beyond_heater(plan, system, point):
                        found[run] = max(found[run], point.what.sends)
    return found


def heats(point: Point) -> bool:
    """Whether what stands there warms water."""
    return isinstance(point.what, Heater) and point.what.does == "heats" and point.what.power > 0


def parted_at(plan: Plan, system: System, heater: Point) -> Graph[Node]:
    """A system's water, parted at the heater by its ports."""

    def at(end: RunEnd) -> Node:
        return (end.point, plan.port_name(end)) if end.point == heater.id else water_at(plan, end)

    runs = (plan.run_by_id[r] for r in system.runs)
    return Graph(Edge(r.id, at(r.a), at(r.b)) for r in runs)


def beyond_heater(plan: Plan, system: System, heater: Point) -> list[str]:
    """The runs that hot water comes to: all that hang on the heater's outlet.

    Where a bypass or a loop joins that to the source as well, all but the way from the source to the heater and what
    branches off that: hot water may run there, and nothing drawn says that it does not.
    """
    graph = parted_at(plan, system, heater)
    for nodes, edges in graph.parts():
        if (heater.id, "out") not in nodes:
            continue
        here = {p for p, _ in nodes}
        if here.isdisjoint(system.sources):
            return [e.name for e in edges]
        reach = graph.from_nodes([(heater.id, "in")])
        cold = {r for n in nodes if n[0] in system.sources for r in reach.way(n)}
        rest = Graph(e for e in edges if e.name not in cold)
        hot = next((e for n, e in rest.parts() if (heater.id, "out") in n), ())
        return [e.name for e in hot]
    return []
