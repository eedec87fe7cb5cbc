"""The line with everything shut: the highest pressure each place sees, and the pipes that are rated below it."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from functools import singledispatch
from math import inf

from hydrarch.core.base.graph import Edge, Graph
from hydrarch.core.base.messages import tell
from hydrarch.core.base.problems import Problem, declare
from hydrarch.core.catalogue.pipes import HUNG, Pipe, laid_rating, series, thread_end
from hydrarch.core.components.base import What
from hydrarch.core.components.basins import InWall, Standpipe
from hydrarch.core.components.devices import CheckValve, Pump, Regulator
from hydrarch.core.components.drains import DrainPump
from hydrarch.core.components.sources import Lifter, Mains, Tank, WellPump
from hydrarch.core.hydraulics.water import Water, water
from hydrarch.core.plan.document import Plan, Point, Run, RunEnd
from hydrarch.core.site.layout import Layout
from hydrarch.core.site.systems import System, water_at

__all__ = [
    "fed_at_rest",
    "head_at_rest",
    "pressing",
    "pressure_at",
    "rating_problems",
    "shut_off_head",
    "static_pressure",
    "suction_runs",
]

declare("size", "over-rating", "too-warm", holds=True)


@singledispatch
def head_at_rest(what: What, point: Point, wet: Water) -> float | None:
    """The head (m) a source holds against a shut line; None for what is no source."""
    return None


@head_at_rest.register
def _(what: WellPump, point: Point, wet: Water) -> float | None:
    return what.water_level + what.running()[0][1]


@head_at_rest.register
def _(what: DrainPump, point: Point, wet: Water) -> float | None:
    return what.level + what.running()[0][1]


@head_at_rest.register
def _(what: Mains, point: Point, wet: Water) -> float | None:
    return point.level + what.pressure / wet.weight


@head_at_rest.register
def _(what: Tank, point: Point, wet: Water) -> float | None:
    return what.water_level


@head_at_rest.register
def _(what: InWall, point: Point, wet: Water) -> float | None:
    return what.water_level if point.kind.role == "source" else None


@head_at_rest.register
def _(what: Standpipe, point: Point, wet: Water) -> float | None:
    return None if what.waters is None else what.waters.rim  # what it may rise to where the drain is blocked below


def fed_at_rest(plan: Plan) -> float:
    """The head (m) at rest of the strongest source without a pump of its own, by which a pump in the line is fed; 0
    without one.
    """
    wet = water(plan.conditions.water_temperature)
    heads = [head_at_rest(p.what, p, wet) for p in plan.sources if not isinstance(p.what, Lifter)]
    return max((h for h in heads if h is not None), default=0.0)


def shut_off_head(plan: Plan, system: System) -> float:
    """The highest head (m) a system can see with everything closed: its strongest source, with every pump in the line
    on top.
    """
    wet = water(plan.conditions.water_temperature)
    heads = [h for p in system.sources if (h := head_at_rest(plan.by_id[p].what, plan.by_id[p], wet)) is not None]
    lifted = sum(what.running()[0][1] for p in system.points if isinstance(what := plan.by_id[p].what, Pump))
    return max(heads, default=0.0) + lifted


def static_pressure(plan: Plan, lay: Layout) -> dict[str, float]:
    """Gauge pressure (Pa) at every fed point with everything closed: at its sources' highest head, or what the
    regulators before it hold. Worked out once for a layout.
    """
    known: tuple[Plan, dict[str, float]] | None = lay.remembered.get("static pressure")
    if known is None or known[0] is not plan:
        known = lay.remembered["static pressure"] = plan, _at_rest(plan, lay)
    return known[1]


def _at_rest(plan: Plan, lay: Layout) -> dict[str, float]:
    weight = water(plan.conditions.water_temperature).weight
    found: dict[str, float] = {}
    for system in lay.systems.found:
        if not system.sources or system.sort == "gravity drain":
            continue
        for p, rest in _heads(plan, system, weight).items():
            found[p] = max((rest - plan.by_id[p].level) * weight, found.get(p, -1e9))
    for source in plan.sources:
        head = head_at_rest(source.what, source, water(plan.conditions.water_temperature))
        if head is not None:
            found.setdefault(source.id, (head - source.level) * weight)
    return found


def _heads(plan: Plan, system: System, weight: float) -> dict[str, float]:
    """The head (m) at each point of a system at rest: behind a regulator what that holds, with the pumps beyond it on
    top.

    Before a pump, a line that is open to its water sees that water alone: what the pump has pushed up runs back through
    it.
    """
    top, points = shut_off_head(plan, system), plan.by_id
    whole = dict.fromkeys(system.points, top) | _before_pumps(plan, system)
    if not any(isinstance(points[p].what, Regulator) for p in system.points):
        return whole

    def at(end: RunEnd) -> tuple[str, str]:
        return (
            (end.point, plan.port_name(end)) if isinstance(points[end.point].what, Regulator) else water_at(plan, end)
        )

    graph = Graph(Edge(r, at(plan.run_by_id[r].a), at(plan.run_by_id[r].b)) for r in system.runs)
    for nodes, _ in graph.parts():
        held = [
            points[p].level + what.pressure / weight
            for p, port in nodes
            if isinstance(what := points[p].what, Regulator) and port == "out"
        ]
        mine = {p for p, _ in nodes if not isinstance(points[p].what, Regulator)}
        if held and mine.isdisjoint(system.sources):
            head = max(held) + sum(what.running()[0][1] for p in mine if isinstance(what := points[p].what, Pump))
            whole |= dict.fromkeys(mine, min(head, top))
    return whole


def _before_pumps(plan: Plan, system: System) -> dict[str, float]:
    return {p: head for mine, _, head in _suctions(plan, system) for p in mine}


def suction_runs(plan: Plan, lay: Layout) -> set[str]:
    """The runs through which pumps draw from open water, as far as nothing before the pump keeps pressure in them."""
    return {r for s in lay.systems.found if s.sources for _, runs, _ in _suctions(plan, s) for r in runs}


def _suctions(plan: Plan, system: System) -> Iterator[tuple[set[str], set[str], float]]:
    """Points, runs and the head (m) at rest of each part between open water and the first valve on the way to a pump,
    or the pump itself.

    A check or foot valve keeps pressure in; behind a valve that was shut it is locked in between that and the pump.
    """
    points, wet = plan.by_id, water(plan.conditions.water_temperature)
    if not any(isinstance(points[p].what, Pump) for p in system.points):
        return

    def at(end: RunEnd) -> tuple[str, str]:
        return (
            (end.point, plan.port_name(end))
            if isinstance(points[end.point].what, (Pump, CheckValve))
            else water_at(plan, end)
        )

    shut = {p for p in system.points if points[p].kind.parting == "shuts"}

    def at_valve(end: RunEnd) -> tuple[str, str]:
        return (end.point, end.id) if end.point in shut else at(end)

    for nodes, edges in Graph(Edge(r, at(plan.run_by_id[r].a), at(plan.run_by_id[r].b)) for r in system.runs).parts():
        sources = [points[p] for p, _ in nodes if points[p].kind.role == "source"]
        drawn = any(isinstance(points[p].what, Pump) for p, _ in nodes)
        pushed = any(isinstance(points[p].what, Pump) and port != "in" for p, port in nodes)
        if drawn and not pushed and sources and all(_open_to_water(p.what) for p in sources):
            heads = [h for p in sources if (h := head_at_rest(p.what, p, wet)) is not None]
            runs = [plan.run_by_id[e.name] for e in edges]
            for near, some in Graph(Edge(r.id, at_valve(r.a), at_valve(r.b)) for r in runs).parts():
                here = {p for p, _ in near}
                if any(p.id in here for p in sources):
                    mine = {p for p in here if not isinstance(points[p].what, (Pump, CheckValve))}
                    yield mine - shut, {e.name for e in some}, max(heads, default=0.0)


def _open_to_water(what: What) -> bool:
    return isinstance(what, InWall) or (isinstance(what, Tank) and what.intake != "foot valve")


def pressure_at(plan: Plan, pressures: Mapping[str, float], end: RunEnd, run: Run) -> float | None:
    """Gauge pressure (Pa) at rest in a run's end: behind a regulator what that holds, as it is known at the run's far
    end.
    """
    here = plan.by_id[end.point]
    if not (isinstance(here.what, Regulator) and plan.port_name(end) == "out"):
        return pressures.get(end.point)
    far = plan.by_id[(run.b if end.id == run.a.id else run.a).point]
    if far.id not in pressures or isinstance(far.what, Regulator):
        return pressures.get(end.point)
    return pressures[far.id] + (far.level - here.level) * water(plan.conditions.water_temperature).weight


def pressing(plan: Plan, lay: Layout, run: Run) -> float:
    """The most (Pa) that presses out of a run at rest: inside a well what water stands outside presses back.

    The well's water is taken as it stands while it is pumped, the lowest it comes to. Worked out once for a layout.
    """
    known: tuple[Plan, dict[str, float]] | None = lay.remembered.get("pressing")
    if known is None or known[0] is not plan:
        known = lay.remembered["pressing"] = plan, {}
    if run.id not in known[1]:
        known[1][run.id] = _pressing(plan, lay.systems.found[lay.systems.of[run.id]], static_pressure(plan, lay), run)
    return known[1][run.id]


def _pressing(plan: Plan, system: System, pressures: Mapping[str, float], run: Run) -> float:
    seen = {e.point: p for e in run.ends if (p := pressure_at(plan, pressures, e, run)) is not None}
    if run.situation == HUNG:
        weight = water(plan.conditions.water_temperature).weight
        levels = [w.water_level for p in system.sources if isinstance(w := plan.by_id[p].what, WellPump)]
        seen = {p: v - max(0.0, max(levels, default=-inf) - plan.by_id[p].level) * weight for p, v in seen.items()}
    return max(seen.values(), default=0.0)


def rating_problems(plan: Plan, lay: Layout, pipes: Mapping[str, Pipe]) -> tuple[Problem, ...]:
    """Runs whose pipe is rated below the pressure it sees at shut-off, at the temperature of its water."""
    found = []
    pressures = static_pressure(plan, lay)
    names, units = plan.names, plan.units
    for run in plan.runs:
        if run.id not in pipes or run.coupled or run.existing is not None or lay.systems.drain(run.id):
            continue
        seen = [pressures[p] for p in run.points if p in pressures]
        if len(seen) < 2:
            continue
        warm, item, worst = (
            lay.warm[run.id],
            pipes[run.id],
            pressing(plan, lay, run),
        )
        rated, a, b = laid_rating(item, warm, run.situation), names[run.a.point], names[run.b.point]
        halved = run.situation == HUNG and thread_end(item.series) is not None
        if rated <= 0 < item.rating:
            found.append(tell("too-warm", run.id, units, pipe=series(item.series).name, warm=warm, a=a, b=b))
        elif worst > rated:
            found.append(
                tell(
                    "over-rating",
                    run.id,
                    units,
                    a=a,
                    b=b,
                    seen=worst,
                    rated=rated,
                    warm=warm,
                    halved=", half of plain pipe for its threads" if halved else "",
                )
            )
    return tuple(found)
