"""What a pump may hold a body to, over every state: each valve open or shut, each pump alone and all together.

A state is which covers are still joined to the pumps. With every valve open that is all of them; a person who shuts
valves can leave as few as stand on one cover's own way to a pump.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from math import dist

from hydrarch.core.base.graph import Edge, Graph
from hydrarch.core.circulation.bodies import WaterBody, body_at
from hydrarch.core.components.basins import Bulkhead, InWall, SuctionCover
from hydrarch.core.components.devices import Pump, ThreeWay, Valve
from hydrarch.core.hydraulics.round_flow import suction_side
from hydrarch.core.plan.document import Plan, Point, RunEnd
from hydrarch.core.site.layout import Layout
from hydrarch.core.site.systems import water_at

__all__ = ["APART", "DrawnTogether", "State", "clusters", "drawn_fast", "states"]

APART = 0.914
"""m (3 ft) between the centres of two suctions of one pump: ANSI/APSP/ICC-7, from memory; or in different planes, as
the local code says."""

Node = tuple[str, str]


@dataclass(frozen=True, slots=True)
class DrawnTogether:
    """Pumps that draw by the same line from a body that somebody is or may be in, with the covers and bare openings
    they draw through, and the runs between.
    """

    body: WaterBody
    pumps: tuple[str, ...]
    covers: tuple[Point, ...]
    bare: tuple[Point, ...]
    runs: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class State:
    """The covers that are joined to a pump while the valves `shut` (by name) are shut."""

    covers: tuple[Point, ...]
    shut: tuple[str, ...]


def drawn_fast(plan: Plan, lay: Layout) -> Iterator[DrawnTogether]:
    """Every line by which pumps draw from a body of water that somebody is or may be in."""
    for system in lay.systems.found:
        if not any(isinstance(plan.by_id[p].what, Pump) for p in system.points):
            continue
        by_runs: dict[tuple[str, ...], list[str]] = {}
        for pump, runs in suction_side(plan, system).items():
            by_runs.setdefault(runs, []).append(pump)
        for runs, pumps in by_runs.items():
            here = dict.fromkeys(e.point for r in runs for e in plan.run_by_id[r].ends)
            mine: dict[str, list[Point]] = {}
            for p in (plan.by_id[n] for n in here):
                if isinstance(p.what, (SuctionCover, Bulkhead)) and p.kind.role == "source":
                    assert isinstance(p.what, InWall)
                    if p.what.waters is not None:
                        mine.setdefault(p.what.waters.basin, []).append(p)
            for home, points in sorted(mine.items()):
                body = body_at(plan, home)
                if body.use.bathed or body.use.gets_in:
                    covers = tuple(p for p in points if isinstance(p.what, SuctionCover))
                    bare = tuple(p for p in points if isinstance(p.what, Bulkhead))
                    yield DrawnTogether(body, tuple(sorted(pumps)), covers, bare, runs)


def states(plan: Plan, drawn: DrawnTogether) -> tuple[State, ...]:
    """The covers that may be all that is joined to a pump: with every valve open, and for each cover with every valve
    shut that is not on its own way.
    """
    valves = {
        e.point
        for r in drawn.runs
        for e in plan.run_by_id[r].ends
        if isinstance(plan.by_id[e.point].what, (Valve, ThreeWay))
    }
    found = {tuple(c.id for c in drawn.covers): State(drawn.covers, ())}
    whole = _graph(plan, drawn)
    for cover in drawn.covers if valves else ():
        reach = whole.from_nodes(_at(plan, cover, drawn))
        for pump in drawn.pumps:
            way = reach.way((pump, "in"))
            kept = frozenset(e.id for r in way for e in plan.run_by_id[r].ends)
            on = {e.point for r in way for e in plan.run_by_id[r].ends}
            shut = frozenset(v for v in valves if v not in on or isinstance(plan.by_id[v].what, ThreeWay))
            reached = _graph(plan, drawn, shut, kept).from_nodes([(p, "in") for p in drawn.pumps]).distance
            left = tuple(c for c in drawn.covers if any(n in reached for n in _at(plan, c, drawn)))
            if cover in left:
                names = tuple(sorted(plan.by_id[v].label for v in shut))
                found.setdefault(tuple(c.id for c in left), State(left, names))
    return tuple(found.values())


def clusters(covers: Sequence[Point]) -> tuple[tuple[Point, ...], ...]:
    """Of covers a body can block: for each, all that one body blocks with it."""
    return tuple(
        tuple(o for o in covers if dist((c.x, c.y, c.level), (o.x, o.y, o.level)) < APART - 1e-9) for c in covers
    )


def _node(plan: Plan, end: RunEnd, shut: frozenset[str], kept: frozenset[str]) -> Node:
    """A run's end, parted at pumps and at what is shut; of a three-way valve the two ports on the way stay joined."""
    point = plan.by_id[end.point]
    if isinstance(point.what, Pump):
        return end.point, plan.port_name(end)
    if end.point in shut:
        return end.point, "on the way" if end.id in kept else end.id
    return water_at(plan, end)


def _graph(
    plan: Plan, drawn: DrawnTogether, shut: frozenset[str] = frozenset(), kept: frozenset[str] = frozenset()
) -> Graph[Node]:
    runs = (plan.run_by_id[r] for r in drawn.runs)
    return Graph(Edge(r.id, _node(plan, r.a, shut, kept), _node(plan, r.b, shut, kept)) for r in runs)


def _at(plan: Plan, cover: Point, drawn: DrawnTogether) -> list[Node]:
    return [water_at(plan, e) for r in drawn.runs for e in plan.run_by_id[r].ends if e.point == cover.id]
