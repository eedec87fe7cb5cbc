"""Plan to true three-dimensional lengths, turns, connections and profile."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from functools import cached_property
from math import acos, dist, hypot, pi
from typing import Any

from hydrarch.core.base.graph import Edge, Graph, Reach
from hydrarch.core.base.messages import tell
from hydrarch.core.base.problems import Problem, declare
from hydrarch.core.components.devices import ThreeWay
from hydrarch.core.components.drains import Inlet
from hydrarch.core.plan.document import LEAST_LENGTH, Plan, Run, RunEnd
from hydrarch.core.site.systems import Systems, Water, systems, water_at
from hydrarch.core.site.warmth import working_temperatures

__all__ = ["COUPLED_LENGTH", "Layout", "Line", "ProfilePoint", "layout", "path_between", "profile", "turns_at"]

declare("survey", "run-without-length", holds=True)

COUPLED_LENGTH = 0.05
"""What is calculated (m) for two ports that are coupled without pipe: the way through both bodies' ends."""
Spot = tuple[float, float, float]


@dataclass(frozen=True, slots=True)
class Line:
    """A run laid out: `length` (m) along the pipe, `rise` (m) from a to b, `drawn` (m) as the drawing has it.

    `a` and `b` are the points it joins, `ends` the names of its own ends there; `coupled` has no pipe.
    """

    run: str
    a: str
    b: str
    ends: tuple[str, str]
    length: float
    drawn: float
    rise: float
    coupled: bool = False

    def other(self, point: str) -> str:
        """The far end's point."""
        return self.b if point == self.a else self.a

    def end_at(self, point: str) -> str:
        """The name of its end at a point."""
        return self.ends[0] if point == self.a else self.ends[1]


@dataclass(frozen=True)
class Layout:
    """The plan in space. `places` are the pipe's axis at each point (m), `at` lists the runs of each point in drawing
    order.

    `systems` are what it is parted into. `distance` is along the pipe (m) from the nearest source, `outfall` along a
    drain to the nearest outfall; `fed` the points a source reaches. `warm` is the temperature (K) of each run's water
    at work.
    """

    places: dict[str, Spot]
    lines: dict[str, Line]
    at: dict[str, tuple[str, ...]]
    spots: dict[str, Spot]
    fed: frozenset[str]
    distance: dict[str, float]
    outfall: dict[str, float]
    systems: Systems
    warm: dict[str, float]
    problems: tuple[Problem, ...]

    def warmth(self, point: str) -> float:
        """The warmest water (K) of the runs at a point that has any."""
        return max(self.warm[r] for r in self.at[point])

    def away(self, point: str) -> float:
        """How far (m) a point is from its source, or a drain's from its outfall; without end where it has neither."""
        return self.distance.get(point, self.outfall.get(point, float("inf")))

    def other_run(self, point: str, run: str | None) -> str | None:
        """The first run at a point that is not `run`; None where there is none."""
        return next((r for r in self.at[point] if r != run), None)

    @cached_property
    def run_of(self) -> dict[str, str]:
        """The run of each run's end, by the end's name."""
        return {end: line.run for line in self.lines.values() for end in line.ends}

    @cached_property
    def point_of(self) -> dict[str, str]:
        """The point of each run's end, by the end's name."""
        return {end: p for line in self.lines.values() for end, p in zip(line.ends, (line.a, line.b), strict=True)}

    @cached_property
    def graph(self) -> Graph[str]:
        """The points joined by the runs, as long as they are."""
        return Graph((Edge(x.run, x.a, x.b, x.length) for x in self.lines.values()), self.places)

    @cached_property
    def remembered(self) -> dict[str, Any]:
        """What rooms beyond worked out of this layout and ask for again, by what it is."""
        return {}

    @cached_property
    def _reaches(self) -> dict[str, Reach[str]]:
        return {}

    def reach(self, start: str) -> Reach[str]:
        """What is reached from a point, and by which way; worked out once for each point asked for."""
        if start not in self._reaches:
            self._reaches[start] = self.graph.from_nodes([start])
        return self._reaches[start]


def _spot(plan: Plan, end: RunEnd) -> Spot:
    """Where a run's end is: at its thing, as high above it as the port is."""
    point, port = plan.by_id[end.point], plan.port(end)
    up = port.height if port is not None and not point.kind.stands else 0.0
    return point.x, point.y, point.level + up


def layout(plan: Plan, parted: Systems | None = None) -> Layout:
    """Lay a plan out. What cannot work is a `Problem`, not an error; `parted` are its systems where they are known."""
    problems: list[Problem] = []
    lines: dict[str, Line] = {}
    at: dict[str, list[str]] = {p.id: [] for p in plan.points}
    spots: dict[str, Spot] = {}
    names = plan.names
    for run in plan.runs:
        a, b = (_spot(plan, e) for e in run.ends)
        spots |= {run.a.id: a, run.b.id: b}
        drawn = dist(a, b)
        if drawn < 1e-6 and run.measured_length is None and not run.coupled:
            problems.append(tell("run-without-length", run.id, a=names[run.a.point], b=names[run.b.point]))
        lines[run.id] = _line(run, drawn, b[2] - a[2])
        at[run.a.point].append(run.id)
        at[run.b.point].append(run.id)
    places = {p.id: (p.x, p.y, p.level) for p in plan.points}
    parted = systems(plan) if parted is None else parted
    distance, outfall = _distances(plan, lines, parted)
    fed = frozenset(distance)
    return Layout(
        places=places,
        lines=lines,
        at={p: tuple(runs) for p, runs in at.items()},
        spots=spots,
        fed=fed,
        distance=distance,
        outfall=outfall,
        systems=parted,
        warm=working_temperatures(plan, parted),
        problems=(*parted.problems, *problems),
    )


def _line(run: Run, drawn: float, rise: float) -> Line:
    length = COUPLED_LENGTH if run.coupled else run.measured_length or max(drawn, LEAST_LENGTH)
    return Line(run.id, *run.points, (run.a.id, run.b.id), length, drawn, rise, run.coupled)


def _distances(plan: Plan, lines: dict[str, Line], parted: Systems) -> tuple[dict[str, float], dict[str, float]]:
    """Pipe (m) from the nearest source to every point its water reaches, and in drains to the nearest outfall."""
    waters = Graph[Water](Edge(r.id, water_at(plan, r.a), water_at(plan, r.b), lines[r.id].length) for r in plan.runs)
    starts: list[Water] = []
    ends: list[Water] = []
    sorts = parted.of
    for run in plan.runs:
        system = parted.found[sorts[run.id]]
        for end in run.ends:
            port = plan.port(end)
            if end.point in system.sources and port is not None and port.way == "out":
                starts.append(water_at(plan, end))
            if port is not None and port.role == "drain" and port.way == "in":
                ends.append(water_at(plan, end))
    distance = _by_point(waters.from_nodes(starts).distance)
    for p in plan.sources:
        distance.setdefault(p.id, 0.0)
    up = [e for r in plan.runs for e in _upstream(plan, r, lines[r.id].length)]
    up += [Edge(f"{p.id}~", (p.id, "out"), (p.id, "in"), 0.0, one_way=True) for p in plan.of_kind(Inlet)]
    away = Graph[Water](up)
    return distance, _by_point(away.from_nodes(ends).distance)


def _upstream(plan: Plan, run: Run, length: float) -> Iterator[Edge[Water]]:
    """A run as it is gone up from an outfall: either way, but through a three-way valve only from where it lets out to
    where water comes to it.
    """
    a, b = (water_at(plan, e) for e in run.ends)
    ways = {(a, b), (b, a)}
    for near, (here, there) in ((run.a, (a, b)), (run.b, (b, a))):
        port = plan.port(near)
        if isinstance(plan.by_id[near.point].what, ThreeWay) and port is not None:
            ways.discard((there, here) if port.name == "in" else (here, there))
    if len(ways) == 2:
        yield Edge(run.id, a, b, length)
    for one, two in ways if len(ways) == 1 else ():
        yield Edge(run.id, one, two, length, one_way=True)


def _by_point(distance: dict[Water, float]) -> dict[str, float]:
    found: dict[str, float] = {}
    for (point, _), far in distance.items():
        found[point] = min(far, found.get(point, far))
    return found


def turns_at(lay: Layout, point: str) -> tuple[tuple[str, str, float], ...]:
    """The turn (rad) of the line where it passes `point`, for every two of the run ends there: 0 is straight on, π is
    back.
    """
    away = []
    for run in lay.at[point]:
        line = lay.lines[run]
        mine = line.end_at(point)
        other = line.ends[1] if mine == line.ends[0] else line.ends[0]
        x, y, z = lay.spots[mine]
        u, v, w = lay.spots[other]
        away.append((mine, u - x, v - y, w - z, hypot(u - x, v - y, w - z)))
    found = []
    for i, (one, a, b, c, near) in enumerate(away):
        for two, d, e, f, far in away[i + 1 :]:
            cosine = (a * d + b * e + c * f) / (near * far) if min(near, far) > 1e-9 else -1.0
            found.append((one, two, pi - acos(max(-1.0, min(1.0, cosine)))))
    return tuple(found)


def path_between(lay: Layout, start: str, stop: str) -> tuple[str, ...]:
    """The runs of the shortest way from one point to another; empty where there is none."""
    return lay.reach(start).way(stop)


@dataclass(frozen=True, slots=True)
class ProfilePoint:
    """A point of a long section: distance along the pipe, ground, pipe axis and hydraulic grade (m), None if unfed."""

    point: str
    name: str
    distance: float
    ground: float
    pipe: float
    grade: float | None


def profile(plan: Plan, lay: Layout, start: str, stop: str, heads: dict[str, float]) -> tuple[ProfilePoint, ...]:
    """The long section between two points along the shortest way, with the hydraulic grade from `heads` (m)."""
    points = plan.by_id
    here, along = start, 0.0
    way = [here]
    stations = [0.0]
    for run in path_between(lay, start, stop):
        here = lay.lines[run].other(here)
        along += lay.lines[run].length
        way.append(here)
        stations.append(along)
    return tuple(
        ProfilePoint(p, points[p].label, s, points[p].ground, points[p].level, heads.get(p))
        for p, s in zip(way, stations, strict=True)
    )
