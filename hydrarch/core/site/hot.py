"""Water that a heater on a supply makes hot: what it may run in, what must let its pressure out, what takes up its growth.

A tub's heater warms what goes round and is open at its top; this is about heaters on lines that are shut.
"""

from __future__ import annotations

from collections.abc import Iterator

from hydrarch.core.base.graph import Edge, Graph
from hydrarch.core.base.problems import Problem, declare
from hydrarch.core.catalogue.pipes import series
from hydrarch.core.components.basins import Heater
from hydrarch.core.components.devices import Regulator
from hydrarch.core.components.equipment import Vessel
from hydrarch.core.plan.document import Plan, Point, RunEnd
from hydrarch.core.site.layout import Layout
from hydrarch.core.site.systems import System, water_at

__all__ = ["hot_problems"]

declare("survey", "hot-pipe", "no-relief", "no-expansion", holds=True, danger=True)

_NOT_FOR_HOT = ("pvc", "pe", "pe100")
"""Materials that no hot supply runs in, at 60 °C and its pressure, for years: common practice and plumbing codes."""

Node = tuple[str, str]


def hot_problems(plan: Plan, lay: Layout) -> Iterator[Problem]:
    """Of each heater on a shut line: pipe behind it that is not for hot water, its relief valve, and where its water
    has no room to grow.
    """
    for system in lay.systems.found:
        if system.sort != "supply":
            continue
        for name in system.points:
            point = plan.by_id[name]
            if isinstance(point.what, Heater) and point.what.does == "heats" and point.what.power > 0:
                yield from _heater(plan, system, point)


def _heater(plan: Plan, system: System, heater: Point) -> Iterator[Problem]:
    hot = _beyond(plan, system, heater)
    poor = [r for r in hot if series(plan.run_by_id[r].series or plan.conditions.series).material in _NOT_FOR_HOT]
    if poor:
        what = series(plan.run_by_id[poor[0]].series or plan.conditions.series)
        yield Problem(
            code="hot-pipe",
            severity="stop",
            where=poor[0],
            says=f"Hot water of {heater.label} runs in {what.name}"
            + (f" and {len(poor) - 1} more runs of such pipe" if len(poor) > 1 else "")
            + ": it softens, sags and bursts under pressure.",
            mend="Take pipe that is made for hot water under pressure behind a heater: PPR, copper or steel.",
        )
    yield Problem(
        code="no-relief",
        severity="warn",
        where=heater.id,
        says=f"{heater.label} is on a line that is shut, and no relief valve can be drawn here: without one a heater that "
        "fails to switch off bursts.",
        mend="See that it has a temperature and pressure relief valve of its own, never shut off, led open to where it "
        "scalds nobody; the local code and a licensed fitter say how.",
    )
    held = _held_back(plan, system, heater)
    if held and not any(isinstance(plan.by_id[e.point].what, Vessel) for r in hot for e in plan.run_by_id[r].ends):
        yield Problem(
            code="no-expansion",
            severity="stop",
            where=heater.id,
            says=f"Water that {heater.label} warms grows by some 2 %, and {held.label} lets none of it back: the pressure "
            "rises until something gives.",
            mend="Set an expansion vessel for hot water between them, sized by its maker.",
        )


def _parted(plan: Plan, system: System, heater: Point) -> Graph[Node]:
    """A system's water, parted at the heater by its ports."""

    def at(end: RunEnd) -> Node:
        return (end.point, end.port) if end.point == heater.id else water_at(plan, end)

    runs = (plan.run_by_id[r] for r in system.runs)
    return Graph(Edge(r.id, at(r.a), at(r.b)) for r in runs)


def _beyond(plan: Plan, system: System, heater: Point) -> list[str]:
    """The runs that hot water comes to: all that hang on the heater's outlet, and on no source but through it."""
    for nodes, edges in _parted(plan, system, heater).parts():
        if (heater.id, "out") in nodes:
            here = {p for p, _ in nodes}
            first = [e.name for e in edges if heater.id in plan.run_by_id[e.name].points]
            return [e.name for e in edges] if here.isdisjoint(system.sources) else first
    return []


def _held_back(plan: Plan, system: System, heater: Point) -> Point | None:
    """What lets no water back on the way from the source to the heater, the nearest to the heater; None where nothing
    does.
    """
    graph = _parted(plan, system, heater)
    reach = graph.from_nodes([(heater.id, "in")])
    for source in system.sources:
        for run in reach.way((source, "")) or reach.way((source, "out")):
            for end in plan.run_by_id[run].ends:
                point = plan.by_id[end.point]
                if point.kind.one_way or isinstance(point.what, Regulator):
                    return point
    return None
