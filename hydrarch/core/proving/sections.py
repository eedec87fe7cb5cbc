"""The parts of a line that can be tested alone: what lies between valves, which shut, and unions, which open to be plugged."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from hydrarch.core.catalogue.pipes import Pipe, rating_at, series
from hydrarch.core.catalogue.ratings import fitting_rating_at
from hydrarch.core.graph import Edge, Graph
from hydrarch.core.hydraulics.static import static_pressure
from hydrarch.core.hydraulics.water import water
from hydrarch.core.joining.records import Assembly
from hydrarch.core.layout import Layout
from hydrarch.core.plan import Plan, Point, RunEnd
from hydrarch.core.problems import Problem, declare
from hydrarch.core.systems import water_at
from hydrarch.core.units import show

__all__ = ["Section", "part_rating_problems", "sections"]

declare("join", "part-over-rating")

TEST_FACTOR = 1.5
"""Test pressure over the highest working pressure; common practice."""
OLD_TEST = "its working pressure and no more: it holds what was met in the ground, and nobody knows what that still carries"
DRAIN_TEST = "a drain is filled to its highest inlet and watched there, never pumped up"


@dataclass(frozen=True, slots=True)
class Section:
    """A part of the line between valves and unions: its runs and joints, and the pressures (Pa) it works and is tested at.

    `isolate` says what to shut or to open and plug before a test, `caps` which heads, open ends for water, to cap. `limit` is the rating of its weakest part or pipe, named by `weakest`, at the water's temperature; the test never goes above it.
    """

    id: str
    name: str
    runs: tuple[str, ...]
    joints: tuple[str, ...]
    working: float
    test: float
    limit: float
    says: str
    weakest: str
    isolate: tuple[str, ...]
    caps: tuple[str, ...]


def sections(plan: Plan, lay: Layout, pipes: Mapping[str, Pipe], assembly: Assembly) -> tuple[Section, ...]:
    """Divide a plan at its valves and unions. A section's id is that of its first run, so that edits elsewhere leave it alone."""
    points = plan.by_id
    found = []
    pressures, weight = static_pressure(plan, lay), water(plan.conditions.water_temperature).weight
    by_end: dict[str, list[str]] = {}
    by_run: dict[str, list[str]] = {}
    by_point: dict[str, list[str]] = {}
    for j in assembly.joints:
        home = by_run if j.run is not None else by_end if j.end in lay.run_of else by_point
        home.setdefault(j.run or (j.end if j.end in lay.run_of else j.point) or "", []).append(j.id)
    place: dict[str, int] = {j.id: n for n, j in enumerate(assembly.joints)}
    heads = {j.point for j in assembly.joints if j.role == "head"}
    for runs, edge in _parted(plan, lay):
        ends = [points[p].label for p in sorted(edge, key=lambda p: (lay.distance.get(p, 0.0), p))]
        spots = dict.fromkeys(p for r in runs for p in (lay.lines[r].a, lay.lines[r].b))
        source = [p.label for p in plan.sources if p.id in spots]
        drain = lay.systems.drain(runs[0])
        levels = [lay.places[p][2] for p in spots]
        working = (max(levels) - min(levels)) * weight if drain else max((pressures.get(p, 0.0) for p in spots), default=0.0)
        mine = [*(j for r in runs for j in by_run.get(r, ())), *(j for p in spots if p not in edge for j in by_point.get(p, ()))]
        joints = tuple(sorted(mine, key=place.__getitem__))
        limit, weakest = _weakest(plan, {r: pipes[r] for r in runs if not lay.lines[r].coupled}, assembly, set(joints))
        test, says = (working, DRAIN_TEST) if drain else _test_pressure(plan, working, limit, weakest)
        old = any(plan.run_by_id[r].existing is not None for r in runs) or any(points[p].existing is not None for p in spots)
        if old and not drain and test > working:
            test, says = working, OLD_TEST
        first = plan.run_by_id[runs[0]]
        found.append(Section(
            f"sec-{runs[0]}", " to ".join([*dict.fromkeys(source), *ends]) or points[first.a.point].label,
            runs, joints, working, test, limit, says, weakest,
            tuple(_shut(points[p]) for p in sorted(edge, key=lambda p: (lay.distance.get(p, 0.0), p))),
            tuple(points[p].label for p in spots if p in heads),
        ))  # fmt: skip
    return tuple(found)


def _shut(point: Point) -> str:
    return f"shut {point.label}" if point.kind.parting == "shuts" else f"open {point.label} and plug it"


def _parted(plan: Plan, lay: Layout) -> list[tuple[tuple[str, ...], set[str]]]:
    """The runs of each section in drawing order, and the points it is isolated at; sections in the order of their first runs."""
    stops = {p.id for p in plan.points if p.kind.parting != "through"}
    order = {r.id: n for n, r in enumerate(plan.runs)}

    def at(end: RunEnd) -> tuple[str, str]:
        return (end.point, end.id) if end.point in stops else water_at(plan, end)

    graph = Graph(Edge(r.id, at(r.a), at(r.b)) for r in plan.runs)
    parts = [tuple(sorted((e.name for e in edges), key=order.__getitem__)) for _, edges in graph.parts() if edges]
    parts.sort(key=lambda runs: order[runs[0]])
    return [(runs, {p for r in runs for p in plan.run_by_id[r].points if p in stops}) for runs in parts]


def _weakest(plan: Plan, pipes: dict[str, Pipe], assembly: Assembly, joints: set[str]) -> tuple[float, str]:
    """The lowest rating (Pa) among a section's pipes and the parts its joints hold, and whose it is."""
    warm = plan.conditions.water_temperature
    held = {s.part for j in assembly.joints if j.id in joints for s in (j.a, j.b) if s.part is not None}
    rated = {f"{series(p.series).short} {p.size} pipe": rating_at(p, warm) for p in pipes.values()}
    rated |= {part.name: fitting_rating_at(part.fitting, warm) for part in assembly.parts if part.id in held}
    if not rated:
        return 0.0, "what its maker says of the things that are screwed together"
    name = min(rated, key=lambda n: rated[n])
    return rated[name], name


def _test_pressure(plan: Plan, working: float, limit: float, weakest: str) -> tuple[float, str]:
    if plan.conditions.test_pressure is not None:
        wanted, says = plan.conditions.test_pressure, "the job's test pressure"
    else:
        wanted, says = TEST_FACTOR * working, f"{TEST_FACTOR:g} times the highest pressure at rest"
    if wanted > limit:
        return limit, f"{says}, held down to what the weakest part carries: {weakest}"
    return max(wanted, 0.0), says


def part_rating_problems(plan: Plan, lay: Layout, assembly: Assembly) -> tuple[Problem, ...]:
    """The places where a part carries less than the pressure at shut-off in this water, one for each, its weakest part named."""
    pressures, warm = static_pressure(plan, lay), plan.conditions.water_temperature
    names = plan.names
    weakest: dict[str, tuple[float, str]] = {}
    for part in assembly.parts:
        if part.point in pressures:
            mine = (fitting_rating_at(part.fitting, warm), part.name)
            weakest[part.point] = min(weakest.get(part.point, mine), mine)
    return tuple(
        Problem(
            "part-over-rating", "warn", point,
            f"{names[point]} sees {show(pressures[point], 'pressure', plan.units)} at shut-off; "
            f"{name} there is taken to carry {show(rated, 'pressure', plan.units)} in this water.",
            "Take a stronger part there, metal for a thread, or lower the pressure at the source.",
        )
        for point, (rated, name) in weakest.items() if pressures[point] > rated
    )  # fmt: skip
