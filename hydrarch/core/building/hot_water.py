"""Hot water at a fixture: whether it comes there at all, whether it scalds, and how long one waits for it."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from math import pi

from hydrarch.core.base.graph import Edge, Graph
from hydrarch.core.base.messages import tell
from hydrarch.core.base.problems import Problem, declare
from hydrarch.core.building.together import ExpectedFlow, expected_flows, method_used
from hydrarch.core.catalogue.pipes import Pipe
from hydrarch.core.components.fixtures import Fixture
from hydrarch.core.plan.document import Plan, Point
from hydrarch.core.site.layout import Layout
from hydrarch.core.site.warmth import beyond_heater, heats

__all__ = ["LONGEST", "HotWait", "House", "hot_waits", "house", "scald_problems", "wait_problems"]

declare("survey", "scald", holds=True, danger=True)
declare("survey", "side-not-hot", "side-not-cold")
declare("size", "hot-wait", "beyond-table")

LONGEST = 30.0
"""s of running, fully open, after which hot water is to be at a fixture: EN 806-2:2005, 3.6, from memory."""


@dataclass(frozen=True, slots=True)
class House:
    """A house's pipework: what is expected in its runs and by which method, the wait for hot water, and what is wrong
    with that.
    """

    method: str
    expected: tuple[ExpectedFlow, ...]
    waits: tuple[HotWait, ...]
    problems: tuple[Problem, ...]


def house(plan: Plan, lay: Layout, pipes: Mapping[str, Pipe]) -> House:
    """What there is to tell of the fixtures of a plan."""
    waits = hot_waits(plan, lay, pipes)
    expected = expected_flows(plan)
    beyond = [tell("beyond-table", x.run, plan.units, many=f"{x.units:.0f}") for x in expected if x.beyond_table]
    return House(method_used(plan), expected, waits, (*wait_problems(plan, waits), *beyond[:1]))


@dataclass(frozen=True, slots=True)
class HotWait:
    """What stands cooled in the pipe between a heater and a fixture: over so much `length` (m) so much `volume` (m³),
    which runs away in `seconds` at the fixture's own flow; `late` where that is longer than is taken for good.
    """

    point: str
    heater: str
    length: float
    volume: float
    seconds: float
    late: bool


def hot_waits(plan: Plan, lay: Layout, pipes: Mapping[str, Pipe]) -> tuple[HotWait, ...]:
    """The wait at each hot fixture, by the shortest way from a heater to it, in the plan's order.

    The pipe's own warming takes longer yet, and is not counted.
    """
    found = dict[str, HotWait]()
    for heater, hot in _heaters(plan, lay):
        edges = [Edge(r, x.a, x.b, x.length) for r in hot if r in pipes and (x := lay.lines.get(r)) is not None]
        reach = Graph[str](edges).from_nodes([heater.id])
        for point in _hot(plan):
            way = reach.way(point.id)
            if way:
                volume = sum(lay.lines[r].length * pi / 4 * pipes[r].bore ** 2 for r in way)
                seconds = volume / _flow(point)
                wait = HotWait(point.id, heater.id, reach.distance[point.id], volume, seconds, late=seconds > LONGEST)
                if point.id not in found or wait.seconds < found[point.id].seconds:
                    found[point.id] = wait
    return tuple(found[p.id] for p in _hot(plan) if p.id in found)


def wait_problems(plan: Plan, waits: tuple[HotWait, ...]) -> Iterator[Problem]:
    """Where it takes longer than is taken for good."""
    for wait in waits:
        if wait.late:
            yield tell(
                "hot-wait",
                wait.point,
                plan.units,
                place=plan.names[wait.point],
                heater=plan.names[wait.heater],
                wait=wait.seconds,
                most=LONGEST,
                stands=wait.volume,
            )


def scald_problems(plan: Plan, lay: Layout) -> Iterator[Problem]:
    """Hot water for the skin that nothing keeps from scalding, and sides that hang on the wrong water."""
    heated = {r: heater for heater, hot in _heaters(plan, lay) for r in hot}
    warm = dict[str, float]()
    heater_of = dict[str, Point]()
    for run in plan.runs:
        for name in run.points if run.id in heated else ():
            heater_of[name] = heated[run.id]
            warm[name] = max(warm.get(name, 0.0), lay.warm.get(run.id, 0.0))
    burns = dict[tuple[str, str], list[Point]]()
    for point in plan.of_kind(Fixture):
        what = point.what
        assert isinstance(what, Fixture)
        if point.id not in lay.fed:
            continue
        if what.side == "hot" and point.id not in heater_of:
            yield tell("side-not-hot", point.id, place=point.label)
        elif what.side == "cold" and point.id in heater_of:
            yield tell("side-not-cold", point.id, place=point.label, heater=heater_of[point.id].label)
        if warm.get(point.id, 0.0) > what.wets + 0.01 and what.mixer != "thermostatic":
            burns.setdefault((heater_of[point.id].id, what.mixer), []).append(point)
    for (heater, mixer), points in burns.items():
        yield tell(
            "scald/plain" if mixer == "plain" else "scald",
            points[0].id,
            plan.units,
            places=_listed([p.label for p in points]),
            heater=plan.names[heater],
            gives=max(warm[p.id] for p in points),
            most=min(p.what.wets for p in points if isinstance(p.what, Fixture)),
        )


def _listed(names: list[str]) -> str:
    return ", ".join(names[:3]) + (f" and {len(names) - 3} more" if len(names) > 3 else "")


def _flow(point: Point) -> float:
    assert isinstance(point.what, Fixture)
    return point.what.flow


def _hot(plan: Plan) -> list[Point]:
    return [p for p in plan.of_kind(Fixture) if isinstance(p.what, Fixture) and p.what.side == "hot"]


def _heaters(plan: Plan, lay: Layout) -> Iterator[tuple[Point, list[str]]]:
    """Each heater on a supply, and the runs that its hot water comes to."""
    for system in lay.systems.found:
        if system.sort == "supply":
            for point in (plan.by_id[p] for p in system.points):
                if heats(point):
                    yield point, beyond_heater(plan, system, point)
