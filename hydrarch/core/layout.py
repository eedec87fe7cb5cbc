"""Plan to true three-dimensional lengths, turns, connections and profile."""

from __future__ import annotations

import heapq
from collections import defaultdict
from dataclasses import dataclass
from math import acos, dist, hypot, pi
from typing import get_args

from hydrarch.core.plan import Device, Drain, Ending, Mains, Outfall, Outlet, Plan, Source
from hydrarch.core.problems import Problem

__all__ = ["Layout", "Line", "layout", "path_between", "ProfilePoint", "profile", "turns_at"]


_DEVICES = frozenset(m.model_fields["kind"].default for m in get_args(Device))
_ENDS = frozenset(m.model_fields["kind"].default for m in (*get_args(Source), *get_args(Ending), *get_args(Drain)))


@dataclass(frozen=True, slots=True)
class Line:
    """A run laid out: `length` (m) along the pipe, `rise` (m) from a to b, `drawn` (m) as the drawing has it."""

    run: str
    a: str
    b: str
    length: float
    drawn: float
    rise: float

    def other(self, point: str) -> str:
        """The far end."""
        return self.b if point == self.a else self.a


@dataclass(frozen=True, slots=True)
class Layout:
    """The plan in space. `places` are the pipe's axis at each point (m), `at` lists the runs of each point in drawing order; `fed` the points a source reaches.

    `distance` is along the pipe (m) from the nearest source, `outfall` along a drain to the nearest outfall.
    """

    places: dict[str, tuple[float, float, float]]
    lines: dict[str, Line]
    at: dict[str, tuple[str, ...]]
    fed: frozenset[str]
    distance: dict[str, float]
    outfall: dict[str, float]
    problems: tuple[Problem, ...]

    def away(self, point: str) -> float:
        """How far (m) a point is from its source, or a drain's from its outfall; without end where it has neither."""
        return self.distance.get(point, self.outfall.get(point, float("inf")))

    def other_run(self, point: str, run: str | None) -> str | None:
        """The first run at a point that is not `run`; None where there is none."""
        return next((r for r in self.at[point] if r != run), None)


def layout(plan: Plan) -> Layout:
    """Lay a plan out. A run of no length, an unfed outlet or a lone point is a `Problem`, not an error."""
    points = plan.by_id
    problems: list[Problem] = []
    lines: dict[str, Line] = {}
    at: dict[str, list[str]] = defaultdict(list)
    for run in plan.runs:
        a, b = points[run.a], points[run.b]
        drawn = dist((a.x, a.y, a.level), (b.x, b.y, b.level))
        if drawn < 1e-6 and run.measured_length is None:
            problems.append(Problem(
                "run-without-length", "stop", run.id,
                f"The run from {a.label} to {b.label} has no length.",
                "Move one of its points, or type its measured length.",
            ))  # fmt: skip
        lines[run.id] = Line(run.id, a.id, b.id, run.measured_length or max(drawn, 1e-3), drawn, b.level - a.level)
        at[a.id].append(run.id)
        at[b.id].append(run.id)
    degrees = {p.id: tuple(at.get(p.id, ())) for p in plan.points}
    distance = _distances(lines, degrees, [p.id for p in plan.sources])
    outfall = _distances(lines, degrees, [p.id for p in plan.points if isinstance(p.what, Outfall)])
    problems += _drain_problems(plan, frozenset(distance))
    problems += _connection_problems(plan, degrees, frozenset(distance))
    places = {p.id: (p.x, p.y, p.level) for p in plan.points}
    return Layout(places, lines, degrees, frozenset(distance), distance, outfall, tuple(problems))


def _drain_problems(plan: Plan, fed: frozenset[str]) -> list[Problem]:
    """Drains and the water supply on one line: a health matter."""
    return [
        Problem(
            "drain-on-supply", "stop", p.id, f"{p.label} hangs on the water supply: drains and supply are never one line.",
            "Part the two; where a tap runs into a drain, leave an air gap.",
        )
        for p in plan.points if isinstance(p.what, Drain) and p.id in fed
    ]  # fmt: skip


def _connection_problems(plan: Plan, at: dict[str, tuple[str, ...]], fed: frozenset[str]) -> list[Problem]:
    found: list[Problem] = []
    supply = any(r.id not in plan.drains for r in plan.runs) or not any(isinstance(p.what, Drain) for p in plan.points)
    if plan.points and supply and not plan.sources:
        found.append(Problem(
            "no-source", "stop", "", "There is no source on the drawing, so no water moves.",
            "Add a well pump, a mains tapping or a tank.",
        ))  # fmt: skip
    for p in plan.points:
        runs = len(at[p.id])
        if isinstance(p.what, Outlet) and p.id not in fed:
            found.append(Problem(
                "outlet-without-source", "stop", p.id, f"No source reaches {p.label}.",
                "Draw runs that lead to it from a source.",
            ))  # fmt: skip
        elif runs == 0 and not isinstance(p.what, Outlet):
            found.append(Problem(
                "lone-point", "warn", p.id, f"{p.label} is joined to nothing.", "Draw a run to it, or delete it.",
            ))  # fmt: skip
        elif runs == 1 and p.what.kind in ("junction", "bend"):
            found.append(Problem(
                "open-end", "warn", p.id, f"The line ends open at {p.label}.",
                "Make the point a cap or an outlet, or draw the line on.",
            ))  # fmt: skip
        elif runs != 2 and p.what.kind in _DEVICES:
            found.append(Problem(
                "device-not-in-line", "stop", p.id, f"{p.label} has {runs} run{'' if runs == 1 else 's'}; it needs two.",
                "Put it between two runs.",
            ))  # fmt: skip
        elif p.what.kind == "three_way" and runs != 3:
            found.append(Problem(
                "device-not-in-line", "stop", p.id, f"{p.label} has {runs} run{'' if runs == 1 else 's'}; it needs three.",
                "Lead three runs to it.",
            ))  # fmt: skip
        elif runs > 1 and p.what.kind in _ENDS:
            found.append(Problem(
                "end-not-at-end", "stop", p.id, f"{p.label} has {runs} runs; it takes one.",
                "Lead one run from it to a junction and branch there.",
            ))  # fmt: skip
    on_mains = any(isinstance(p.what, Mains) for p in plan.sources)
    kinds = {p.what.kind for p in plan.points}
    if on_mains and kinds & {"sprinkler", "drip"} and "backflow" not in kinds:
        found.append(
            Problem(
                "no-backflow",
                "warn",
                "",
                "Irrigation hangs on a drinking-water mains with no backflow preventer.",
                "Put the kind the local code names beside the tapping.",
            )
        )
    return found


def _distances(lines: dict[str, Line], at: dict[str, tuple[str, ...]], starts: list[str]) -> dict[str, float]:
    """Least pipe length (m) from the nearest of `starts` to every point it reaches (Dijkstra)."""
    best = dict.fromkeys(starts, 0.0)
    queue = [(0.0, s) for s in starts]
    heapq.heapify(queue)
    while queue:
        so_far, here = heapq.heappop(queue)
        if so_far > best[here]:
            continue
        for run in at[here]:
            there, further = lines[run].other(here), so_far + lines[run].length
            if further < best.get(there, float("inf")):
                best[there] = further
                heapq.heappush(queue, (further, there))
    return best


def turns_at(lay: Layout, point: str) -> tuple[tuple[str, str, float], ...]:
    """The turn (rad) of the line where it passes `point`, for every two of its runs: 0 is straight on, π is back."""
    x, y, z = lay.places[point]
    away = []
    for run in lay.at[point]:
        u, v, w = lay.places[lay.lines[run].other(point)]
        away.append((run, u - x, v - y, w - z, hypot(u - x, v - y, w - z)))
    found = []
    for i, (one, a, b, c, near) in enumerate(away):
        for two, d, e, f, far in away[i + 1 :]:
            cosine = (a * d + b * e + c * f) / (near * far) if min(near, far) > 1e-9 else -1.0
            found.append((one, two, pi - acos(max(-1.0, min(1.0, cosine)))))
    return tuple(found)


def path_between(lay: Layout, start: str, stop: str) -> tuple[str, ...]:
    """The runs of the shortest way from one point to another; empty where there is none."""
    distance = _distances(lay.lines, lay.at, [start])
    if stop not in distance:
        return ()
    way: list[str] = []
    here = stop
    while here != start:
        for run in lay.at[here]:
            back = lay.lines[run].other(here)
            if back in distance and abs(distance[back] + lay.lines[run].length - distance[here]) < 1e-9:
                way.append(run)
                here = back
                break
    return tuple(reversed(way))


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
