"""Circulation: what a loop must carry, and which of its ways are one size.

The suctions of a pump are one size up to it, so that each carries all of it where another is blocked; so are the ways
out to returns or jets, so that each gets its share. What a loop must carry is what its bodies want to go round, or what
its jets are made for.
"""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
from scipy.sparse import csc_array
from scipy.sparse.linalg import spsolve

from hydrarch.core.base.graph import Edge, Graph
from hydrarch.core.catalogue.fittings import end
from hydrarch.core.catalogue.waters import use_of
from hydrarch.core.components.basins import Basin, Blower, InWall, Jet, Standpipe
from hydrarch.core.components.devices import Pump
from hydrarch.core.hydraulics.pumps import flow_at
from hydrarch.core.plan.basin_shapes import shape_of
from hydrarch.core.plan.document import Plan, RunEnd
from hydrarch.core.site.layout import Layout
from hydrarch.core.site.systems import System, water_at

__all__ = [
    "AIR_SPEED",
    "air_carried",
    "alike",
    "jets_on",
    "loops",
    "overflows",
    "round_flows",
    "suction_side",
    "turnover_flow",
    "wanted_round",
    "ways_out",
]

Place = tuple[str, str]
_SHORT = 1e-3  # m: what has no length loses as much
AIR_SPEED = 12.0
"""m/s (40 ft/s) that air runs at in a tub's lines at the most: from memory; yours by the blower's maker."""


def loops(plan: Plan, lay: Layout) -> Iterator[System]:
    """The systems in which water goes round under a pump."""
    for system in lay.systems.found:
        if system.sort == "circulation" and any(isinstance(plan.by_id[p].what, Pump) for p in system.points):
            yield system


def turnover_flow(plan: Plan, basin: str) -> float:
    """What a body of water wants to go round (m³/s): its water in the time asked; 0 where none is asked."""
    point = plan.by_id[basin]
    assert isinstance(point.what, Basin)
    once = point.what.turnover or use_of(point.what.use).turnover
    shape = shape_of(point)
    return shape.volume(shape.rim - point.what.below_rim) / once if once and not shape.crosses else 0.0


def wanted_round(plan: Plan, system: System) -> float:
    """What a loop must carry (m³/s): the most that a body it draws from or returns to wants, or all its jets
    together.
    """
    inside = [p.what for name in system.points if isinstance((p := plan.by_id[name]).what, InWall)]
    homes = {w.waters.basin for w in inside if isinstance(w, InWall) and w.waters is not None}
    jets = sum(w.flow for w in inside if isinstance(w, Jet))
    return max([turnover_flow(plan, b) for b in homes] + [jets], default=0.0)


def _place(plan: Plan, end: RunEnd) -> Place:
    """A run's end in a graph that a pump parts."""
    port = plan.port(end)
    if isinstance(plan.by_id[end.point].what, Pump) and port is not None:
        return end.point, port.name
    return water_at(plan, end)


def suction_side(plan: Plan, system: System) -> dict[str, tuple[str, ...]]:
    """The runs before each pump of a loop, by the pump: all that leads from open water to its inlet."""
    graph = Graph[Place](Edge(r, _place(plan, (run := plan.run_by_id[r]).a), _place(plan, run.b)) for r in system.runs)
    found: dict[str, tuple[str, ...]] = {}
    for places, edges in graph.parts():
        pumps = [p for p, port in places if port == "in" and isinstance(plan.by_id[p].what, Pump)]
        if any(plan.by_id[p].kind.role == "source" and isinstance(plan.by_id[p].what, InWall) for p, _ in places):
            for pump in pumps:
                found[pump] = tuple(sorted(e.name for e in edges))
    return found


def ways_out(plan: Plan, lay: Layout, system: System) -> list[tuple[str, tuple[str, ...]]]:
    """The last way to each return or jet of a loop, by its point: back to the first branching, pump or body of
    water.
    """
    found = []
    for name in system.points:
        what = plan.by_id[name].what
        if not isinstance(what, InWall) or plan.by_id[name].kind.role == "source":
            continue
        mine = set(system.runs)
        for first in (r for r in lay.at[name] if r in mine):
            way, here, run = [first], lay.lines[first].other(name), first
            while True:
                there = plan.by_id[here]
                nexts = [r for r in lay.at[here] if r != run and r in mine]
                if len(nexts) != 1 or isinstance(there.what, (Pump, InWall)) or there.kind.role == "source":
                    break
                run = nexts[0]
                way.append(run)
                here = lay.lines[run].other(here)
            if not isinstance(plan.by_id[here].what, Pump):
                found.append((name, tuple(way)))
    return found


def alike(plan: Plan, lay: Layout) -> Iterator[tuple[str, ...]]:
    """Runs of loops that are one size unless a crew chooses otherwise."""
    for system in loops(plan, lay):
        yield from suction_side(plan, system).values()
        by_kind: dict[str, list[str]] = {}
        for name, way in ways_out(plan, lay, system):
            by_kind.setdefault(plan.by_id[name].what.kind, []).extend(way)
        yield from (tuple(dict.fromkeys(runs)) for runs in by_kind.values())


def round_flows(plan: Plan, lay: Layout) -> dict[str, float]:
    """The flow (m³/s) each run of a loop must carry by itself: all of what goes round before the pump, its share beyond
    branchings.

    A standpipe's drain carries all that comes to its body, alone.
    """
    found: dict[str, float] = {}
    for system in loops(plan, lay):
        flow = wanted_round(plan, system)
        out = ways_out(plan, lay, system)
        jets = {name: what.flow for name, _ in out if isinstance(what := plan.by_id[name].what, Jet)}
        others = sum(name not in jets for name, _ in out)
        rest = max(flow - sum(jets.values()), 0.0)
        shares = {r: jets.get(name, rest / max(others, 1)) for name, way in out for r in way}
        for run in system.runs:
            found[run] = max(found.get(run, 0.0), shares.get(run, 0.0))
        for runs in suction_side(plan, system).values():
            found |= {r: max(found.get(r, 0.0), flow) for r in runs}
        graph = Graph[Place](
            Edge(r, _place(plan, (x := plan.run_by_id[r]).a), _place(plan, x.b), lay.lines[r].length)
            for r in system.runs
        )
        starts = [(p, "out") for p in system.points if isinstance(plan.by_id[p].what, Pump)]
        through: dict[str, float] = {}
        reach = graph.from_nodes(starts)
        for name, _ in out:
            port = "water" if name in jets else ""
            share = jets.get(name, rest / max(others, 1))
            for r in reach.way((name, port)):
                through[r] = through.get(r, 0.0) + share
        for r, q in through.items():
            found[r] = max(found.get(r, 0.0), min(q, flow) if flow else q)
    found |= _aired(plan, lay)
    for name, flow in overflows(plan, lay).items():
        for run in (r for s in lay.systems.found if name in s.points for r in s.runs):
            found[run] = max(found.get(run, 0.0), flow)
    return found


def air_carried(plan: Plan, lay: Layout) -> dict[str, float]:
    """The air (m³/s) each run of a tub's air carries: of a tree what the jets beyond it take, of a ring its share."""
    found: dict[str, float] = {}
    for system in lay.systems.found:
        if system.sort != "air":
            continue
        edges = [
            Edge(r, water_at(plan, (x := plan.run_by_id[r]).a), water_at(plan, x.b), lay.lines[r].length)
            for r in system.runs
        ]
        jets = {(p, "air"): what.air for p in system.points if isinstance(what := plan.by_id[p].what, Jet)}
        found |= _parted(edges, {(p, "") for p in system.points if isinstance(plan.by_id[p].what, Blower)}, jets)
    return found


def _parted(edges: list[Edge[Place]], starts: set[Place], taken: dict[Place, float]) -> dict[str, float]:
    """What each run carries from where it starts to where it is `taken`, parted as by lines that lose in proportion to
    length and flow.

    Of a tree it is exact. Of a ring the shorter side is given more than it has: true losses grow faster than the flow,
    and even it out.
    """
    found: dict[str, float] = {}
    for places, joined in Graph[Place](edges).parts():
        free = {p: n for n, p in enumerate(p for p in places if p not in starts)}
        if len(free) in (0, len(places)):
            continue
        eases = {e.name: 1 / max(e.length, _SHORT) for e in joined}
        cells: dict[tuple[int, int], float] = {}
        for e in joined:
            for one, two in ((e.a, e.b), (e.b, e.a)):
                if one in free:
                    cells[free[one], free[one]] = cells.get((free[one], free[one]), 0.0) + eases[e.name]
                    if two in free:
                        cells[free[one], free[two]] = cells.get((free[one], free[two]), 0.0) - eases[e.name]
        rows, columns = zip(*cells, strict=True)
        matrix = csc_array((list(cells.values()), (rows, columns)), shape=(len(free), len(free)))
        heads = np.atleast_1d(spsolve(matrix, np.array([-taken.get(p, 0.0) for p in free])))
        at = {p: float(heads[n]) for p, n in free.items()}
        found |= {e.name: abs(at.get(e.a, 0.0) - at.get(e.b, 0.0)) * eases[e.name] for e in joined}
    return found


def jets_on(plan: Plan, lay: Layout) -> dict[str, tuple[tuple[str, str], ...]]:
    """The jets a run leads to, each with the size of its own end: of its last way the one jet, of what is before it
    all.

    No line to a jet is smaller than the jet's own end: 2 in of water and 1-1/2 in of air at a large body, an inch of
    each at a small one; common practice.
    """
    found: dict[str, tuple[tuple[str, str], ...]] = {}
    for system in lay.systems.found:
        port = "air" if system.sort == "air" else "water"
        jets = {p: end(name).size for p in system.points if (name := _jet_end(plan, p, port))}
        if not jets or system.sort not in ("air", "circulation"):
            continue
        ways = ways_out(plan, lay, system)
        before = {r for runs in suction_side(plan, system).values() for r in runs}
        aside = {r for name, way in ways if name not in jets for r in way}
        found |= {r: tuple(jets.items()) for r in system.runs if r not in before | aside}
        found |= {r: ((name, jets[name]),) for name, way in ways if name in jets for r in way}
    return found


def _jet_end(plan: Plan, name: str, port: str) -> str | None:
    point = plan.by_id[name]
    spec = point.kind.port(point.what, port) if isinstance(point.what, Jet) else None
    return None if spec is None else plan.end_at(point, spec)


def _aired(plan: Plan, lay: Layout) -> dict[str, float]:
    """The flow of water (m³/s) by which the pipe of a run of air has the size its air asks for: air runs faster."""
    return {r: q * plan.conditions.max_velocity / AIR_SPEED for r, q in air_carried(plan, lay).items()}


def _pushed(plan: Plan, system: System) -> float:
    """What the pumps of a loop push round (m³/s) with its losses left out: never less than they will."""
    things = [plan.by_id[p] for p in system.points]
    levels = {True: list[float](), False: list[float]()}
    for p in things:
        if isinstance(p.what, InWall):
            water = p.level if p.what.water_level is None else p.what.water_level
            levels[p.kind.role == "source"].append(water if p.kind.role == "source" else max(water, p.level))
    lift = min(levels[False], default=0.0) - max(levels[True], default=0.0)
    pushed = 0.0
    for p in things:
        if isinstance(p.what, Pump):
            pushed += flow_at(p.what.running(), lift)
    return pushed


def overflows(plan: Plan, lay: Layout) -> dict[str, float]:
    """What each standpipe must take alone (m³/s): the crew's figure, or all that the loops into its body push; 0 where
    none is known.
    """
    if not any(isinstance(p.what, Standpipe) for p in plan.points):
        return {}
    coming: dict[str, float] = {}
    for system in loops(plan, lay):
        flow = max(wanted_round(plan, system), _pushed(plan, system))
        homes = {
            what.waters.basin
            for p in system.points
            if isinstance(what := plan.by_id[p].what, InWall)
            and what.waters is not None
            and plan.by_id[p].kind.role != "source"
        }
        for home in homes:
            coming[home] = coming.get(home, 0.0) + flow
    return {
        p.id: p.what.flow or (coming.get(p.what.waters.basin, 0.0) if p.what.waters is not None else 0.0)
        for p in plan.points
        if isinstance(p.what, Standpipe)
    }
