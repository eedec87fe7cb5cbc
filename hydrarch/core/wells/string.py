"""The string of a drawn job: what hangs in its well is judged by the rules of the bench, with what the drawing
knows.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from itertools import pairwise
from math import pi

from hydrarch.core.base.messages import tell
from hydrarch.core.base.problems import Problem, declare
from hydrarch.core.base.units import STANDARD_GRAVITY
from hydrarch.core.catalogue.guidance import choose_practice
from hydrarch.core.catalogue.pipes import HUNG, Pipe, series
from hydrarch.core.catalogue.prices import pipe_weight
from hydrarch.core.components.devices import CheckValve
from hydrarch.core.components.sources import WellPump
from hydrarch.core.components.wells import Pitless
from hydrarch.core.hydraulics.water import water
from hydrarch.core.plan.document import Plan, Point, Run
from hydrarch.core.site.layout import Layout
from hydrarch.core.wells.droppipe import CHECK_EVERY, LEAST_WATER, SAFETY, candidates, check_body

__all__ = ["string_problems"]

declare("size", "string-dry", holds=True)
declare("size", "string-pipe", "string-weight", "string-depth", "string-check", "string-pitless")

_SOON = 3.0  # m above the pump within which its own check valve is looked for; from memory


def string_problems(plan: Plan, lay: Layout, pipes: Mapping[str, Pipe]) -> Iterator[Problem]:
    """What speaks against the pipe and the check valves that hang in each well of a plan."""
    for system in lay.systems.found:
        hung = [
            plan.run_by_id[r]
            for r in sorted(system.runs)  # the same run is named however they were drawn
            if plan.run_by_id[r].situation == HUNG and r in pipes and plan.run_by_id[r].existing is None
        ]
        string = {p for r in hung for p in r.points}
        pumps = [plan.by_id[p] for p in system.sources if isinstance(plan.by_id[p].what, WellPump)]
        pumps.sort(
            key=lambda p: (p.id not in string, p.level, p.id)
        )  # the one that hangs on it; of several the deepest
        if hung and pumps:
            yield from _pump(plan, hung, pumps[0])
            yield from _pipe(plan, lay, pipes, hung)
            yield from _checks(plan, system.points, hung, pumps[0])
            yield from _adapters(plan, lay, pipes, hung, pumps[0])


def _pump(plan: Plan, hung: list[Run], pump: Point) -> Iterator[Problem]:
    """A pump that hangs on its string above the water it pumps, or with too little over it."""
    assert isinstance(pump.what, WellPump)
    under = pump.what.water_level - pump.level
    if under < LEAST_WATER - 1e-9 and any(pump.id in r.points for r in hung):
        yield tell(
            "string-dry/above" if under <= 0 else "string-dry",
            pump.id,
            plan.units,
            pump=pump.label,
            far=abs(under),
            least=LEAST_WATER,
        )


def _pipe(plan: Plan, lay: Layout, pipes: Mapping[str, Pipe], hung: list[Run]) -> Iterator[Problem]:
    units = plan.units
    length = sum(lay.lines[r.id].length for r in hung)
    weight = _weight(plan, lay, pipes, hung)
    for name, size in dict.fromkeys((pipes[r.id].series, pipes[r.id].size) for r in hung):
        run = next(r for r in hung if (pipes[r.id].series, pipes[r.id].size) == (name, size))
        row, family, item = candidates().get(name), series(name), pipes[run.id]
        if row is None:
            yield tell(
                "string-pipe",
                run.id,
                units,
                pipe=family.name,
                long=length,
                others=" or ".join(series(s).name for s in candidates()),
            )
            continue
        section = pi / 4 * (item.outside**2 - (item.outside - 2 * item.wall) ** 2)
        holds = row.strength * row.share * section / SAFETY / STANDARD_GRAVITY
        if weight > holds:
            yield tell("string-weight", run.id, units, weight=weight, most=holds, pipe=family.name, size=size)
        pulled = choose_practice(plan.practices, "drop") == "pulling"
        if row.practice_depth is not None and length > row.practice_depth + 0.5 and pulled:
            yield tell("string-depth", run.id, units, long=length, limit=row.practice_depth)


def _weight(plan: Plan, lay: Layout, pipes: Mapping[str, Pipe], hung: list[Run]) -> float:
    """What a string weighs full of water (kg), without its pump and cable."""
    wet = water(plan.conditions.water_temperature)
    return sum(
        lay.lines[r.id].length * (pipe_weight(pipes[r.id]) + pi / 4 * pipes[r.id].bore ** 2 * wet.density) for r in hung
    )


def _adapters(plan: Plan, lay: Layout, pipes: Mapping[str, Pipe], hung: list[Run], pump: Point) -> Iterator[Problem]:
    """Pitless adapters that carry less than hangs on them, or stand less than they see."""
    assert isinstance(pump.what, WellPump)
    wet, weight = water(plan.conditions.water_temperature), _weight(plan, lay, pipes, hung)
    for p in (plan.by_id[x] for x in {x for r in hung for x in r.points}):
        what = p.what
        if not isinstance(what, Pitless):
            continue
        sees = (pump.what.running()[0][1] + pump.what.water_level - p.level) * wet.weight
        for has, asks, quantity in ((what.carries, weight, "mass"), (what.stands, sees, "pressure")):
            if 0 < has < asks:
                yield tell(
                    "string-pitless/weight" if quantity == "mass" else "string-pitless",
                    p.id,
                    plan.units,
                    place=p.label,
                    has=has,
                    sees=asks,
                )


def _checks(plan: Plan, points: tuple[str, ...], hung: list[Run], pump: Point) -> Iterator[Problem]:
    """A check valve at the pump, one about every 200 ft, and none with a body its depth asks too much of."""
    units, what = plan.units, pump.what
    assert isinstance(what, WellPump)
    string = {p for r in hung for p in r.points}
    valves = sorted(
        (plan.by_id[p] for p in points if p in string and isinstance(plan.by_id[p].what, CheckValve)),
        key=lambda p: p.level,
    )
    top = max(plan.by_id[p].level for p in string)
    if not valves or valves[0].level > pump.level + _SOON:
        yield tell("string-check", pump.id, pump=pump.label)
    stops = [*(v.level for v in valves), top]
    far = max((b - a for a, b in pairwise(stops)), default=0.0)
    if valves and far > 1.5 * CHECK_EVERY:
        yield tell("string-check/far", valves[-1].id, units, far=far, usual=CHECK_EVERY)
    shut = what.running()[0][1] + what.water_level
    for valve in valves:
        pressed = max(top - valve.level, shut - valve.level)
        body = check_body(pressed)
        if body != "brass":
            yield tell("string-check/body", valve.id, units, far=pressed, valve=valve.label, body=body)
