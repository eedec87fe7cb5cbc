"""Water that a heater on a supply makes hot: what it may run in, what must let its pressure out, what takes up its
growth.

A tub's heater warms what goes round and is open at its top; this is about heaters on lines that are shut.
"""

from __future__ import annotations

from collections.abc import Iterator

from hydrarch.core.base.errors import HydrarchError
from hydrarch.core.base.messages import tell
from hydrarch.core.base.problems import Problem, declare
from hydrarch.core.catalogue.pipes import pipe, pressure_rating, series
from hydrarch.core.components.basins import Heater
from hydrarch.core.components.devices import Regulator
from hydrarch.core.components.equipment import Vessel
from hydrarch.core.components.protection import ExpansionTank, ReliefValve
from hydrarch.core.plan.document import Plan, Point
from hydrarch.core.site.layout import Layout
from hydrarch.core.site.systems import System
from hydrarch.core.site.warmth import beyond_heater, heats, parted_at

__all__ = ["hot_problems", "lowest_relief", "tanks_of"]

declare("survey", "hot-pipe", "no-relief", "no-expansion", holds=True, danger=True)
declare("survey", "relief-high", "relief-no-heat")

_NOT_FOR_HOT = ("pvc", "pe", "pe100")
"""Materials that no hot supply runs in, at 60 °C and its pressure, for years: common practice and plumbing codes."""

_HOT = 333.15  # K: 60 °C, where stored hot water is kept against legionella; common practice


def hot_problems(plan: Plan, lay: Layout) -> Iterator[Problem]:
    """Of each heater on a shut line: pipe behind it that is not for hot water, its relief valve, and where its water
    has no room to grow.
    """
    for system in lay.systems.found:
        if system.sort != "supply":
            continue
        for name in system.points:
            point = plan.by_id[name]
            if heats(point):
                yield from _heater(plan, system, point)


def _heater(plan: Plan, system: System, heater: Point) -> Iterator[Problem]:
    hot = beyond_heater(plan, system, heater)
    poor = [
        r for r in sorted(hot) if series(plan.run_by_id[r].series or plan.conditions.series).material in _NOT_FOR_HOT
    ]
    if poor:
        what = series(plan.run_by_id[poor[0]].series or plan.conditions.series)
        yield tell(
            "hot-pipe",
            poor[0],
            heater=heater.label,
            pipe=what.name,
            more=f" and {len(poor) - 1} more runs of such pipe" if len(poor) > 1 else "",
        )
    yield from _relieved(plan, system, heater, hot)
    held = _held_back(plan, system, heater)
    if held and not any(isinstance(p.what, Vessel) for p in _on(plan, hot)) and not tanks_of(plan, system, heater):
        yield tell("no-expansion", heater.id, heater=heater.label, held=held.label)


def _on(plan: Plan, runs: list[str]) -> list[Point]:
    return [plan.by_id[p] for r in runs for p in plan.run_by_id[r].points]


def tanks_of(plan: Plan, system: System, heater: Point) -> list[Point]:
    """The expansion tanks that take up a heater's growth: on its hot pipe, or before it with nothing between that shuts
    or lets water one way.
    """
    near = [*_beside(plan, system, heater), *_on(plan, beyond_heater(plan, system, heater))]
    return list({p.id: p for p in near if isinstance(p.what, ExpansionTank)}.values())


def lowest_relief(plan: Plan, system: System, heater: Point) -> float | None:
    """The pressure (Pa) at which the lowest relief valve beside a heater opens; None where there is none."""
    return min((p.what.opens for p in _beside(plan, system, heater) if isinstance(p.what, ReliefValve)), default=None)


def _relieved(plan: Plan, system: System, heater: Point, hot: list[str]) -> Iterator[Problem]:
    """Whether a relief valve stands at a heater with nothing between that can be shut, low enough and by
    temperature.
    """
    near = _beside(plan, system, heater)
    valves = [(p, p.what) for p in near if isinstance(p.what, ReliefValve)]
    known = {p.id for p, _ in valves}
    shut_off = [p for n in system.points if isinstance((p := plan.by_id[n]).what, ReliefValve) and n not in known]
    if not valves:
        yield tell(
            "no-relief/shut off" if shut_off else "no-relief",
            heater.id,
            heater=heater.label,
            valve=shut_off[0].label if shut_off else "",
        )
        return
    valve, set_to = min(valves, key=lambda pair: pair[1].opens)
    assert isinstance(heater.what, Heater)
    warm = max(_HOT, heater.what.gives)
    carried = ((c, r) for r in hot if (c := _carries(plan, r, warm)) is not None)
    weakest = min(carried, key=lambda pair: pair[0], default=None)
    if weakest is not None and set_to.opens > weakest[0]:
        yield tell(
            "relief-high",
            valve.id,
            plan.units,
            valve=valve.label,
            heater=heater.label,
            opens=set_to.opens,
            carries=weakest[0],
            warm=warm,
        )
    if all(what.senses == "pressure" for _, what in valves):
        yield tell("relief-no-heat", valve.id, valve=valve.label, heater=heater.label)


def _carries(plan: Plan, run: str, warm: float) -> float | None:
    """What a run's pipe carries (Pa) in water so warm (K); None where its size is not chosen, or it is made for no such
    heat.
    """
    here = plan.run_by_id[run]
    if here.size is None:
        return None
    try:
        return pressure_rating(pipe(here.series or plan.conditions.series, here.size), warm)
    except HydrarchError:
        return None


def _beside(plan: Plan, system: System, heater: Point) -> list[Point]:
    """What is joined to a heater with nothing between that shuts, or lets water one way only, or holds pressure
    back.
    """

    def parts(point: Point) -> bool:
        return point.kind.parting == "shuts" or point.kind.one_way or isinstance(point.what, Regulator)

    found: dict[str, Point] = {}
    todo = [heater]
    while todo:
        here = todo.pop()
        if here.id in found:
            continue
        found[here.id] = here
        if here is heater or not parts(here):
            for run in (plan.run_by_id[r] for r in system.runs):
                if here.id in run.points:
                    todo += [plan.by_id[p] for p in run.points if p not in found]
    return list(found.values())


def _held_back(plan: Plan, system: System, heater: Point) -> Point | None:
    """What lets no water back on the way from the source to the heater, the nearest to the heater; None where nothing
    does.
    """
    graph = parted_at(plan, system, heater)
    reach = graph.from_nodes([(heater.id, "in")])
    for source in system.sources:
        for run in reach.way((source, "")) or reach.way((source, "out")):
            for end in plan.run_by_id[run].ends:
                point = plan.by_id[end.point]
                if point.kind.one_way or isinstance(point.what, Regulator):
                    return point
    return None
