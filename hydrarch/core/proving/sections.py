"""The parts of a line that can be tested alone: what lies between valves, which shut, and unions, which open to be plugged."""

from __future__ import annotations

from dataclasses import dataclass

from hydrarch.core.catalogue.pipes import Pipe, pressure_rating, series
from hydrarch.core.catalogue.ratings import fitting_rating
from hydrarch.core.hydraulics.flow import static_pressure
from hydrarch.core.hydraulics.water import water
from hydrarch.core.joining.records import Assembly
from hydrarch.core.layout import Layout
from hydrarch.core.plan import Plan, Point, Union, Valve
from hydrarch.core.problems import Problem
from hydrarch.core.units import show

__all__ = ["Section", "part_rating_problems", "sections"]

TEST_FACTOR = 1.5
"""Test pressure over the highest working pressure; common practice."""
DRAIN_TEST = "a drain is filled to its highest inlet and watched there, never pumped up"


@dataclass(frozen=True, slots=True)
class Section:
    """A part of the line between valves and unions: its runs and joints, and the pressures (Pa) it works and is tested at.

    `isolate` says what to shut or to open and plug before a test. `limit` is the rating of its weakest part or pipe, named by `weakest`, at the water's temperature; the test never goes above it.
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


def sections(plan: Plan, lay: Layout, pipes: dict[str, Pipe], assembly: Assembly) -> tuple[Section, ...]:
    """Divide a plan at its valves and unions. A section's id is that of its first run, so that edits elsewhere leave it alone."""
    points = plan.by_id
    found, done = [], set[str]()
    pressures, weight = static_pressure(plan, lay), water(plan.conditions.water_temperature).weight
    for run in plan.runs:
        if run.id in done:
            continue
        mine, edge = _flood(lay, run.id, {p.id for p in plan.points if isinstance(p.what, Valve | Union)})
        done |= mine
        ends = [points[p].label for p in sorted(edge, key=lambda p: lay.distance.get(p, 0.0))]
        runs = tuple(r.id for r in plan.runs if r.id in mine)
        spots = {p for r in runs for p in (lay.lines[r].a, lay.lines[r].b)}
        source = [p.label for p in plan.sources if p.id in spots]
        drain = run.id in plan.drains
        levels = [lay.places[p][2] for p in spots]
        working = (max(levels) - min(levels)) * weight if drain else max((pressures.get(p, 0.0) for p in spots), default=0.0)
        joints = tuple(j.id for j in assembly.joints if (j.run in mine) or (j.run == "riser" and j.point in spots))
        limit, weakest = _weakest(plan, {r: pipes[r] for r in runs}, assembly, set(joints))
        test, says = (working, DRAIN_TEST) if drain else _test_pressure(plan, working, limit, weakest)
        found.append(Section(
            f"sec-{run.id}", " to ".join([*dict.fromkeys(source), *ends]) or points[run.a].label,
            runs, joints, working, test, limit, says, weakest,
            tuple(_shut(points[p]) for p in sorted(edge, key=lambda p: (lay.distance.get(p, 0.0), p))),
        ))  # fmt: skip
    return tuple(found)


def _shut(point: Point) -> str:
    return f"shut {point.label}" if isinstance(point.what, Valve) else f"open {point.label} and plug it"


def _flood(lay: Layout, start: str, stops: set[str]) -> tuple[set[str], set[str]]:
    """The runs reached from `start` without passing one of `stops`, and those they end at."""
    mine, edge, queue = {start}, set[str](), [start]
    while queue:
        line = lay.lines[queue.pop()]
        for point in (line.a, line.b):
            if point in stops:
                edge.add(point)
                continue
            for other in lay.at[point]:
                if other not in mine:
                    mine.add(other)
                    queue.append(other)
    return mine, edge


def _weakest(plan: Plan, pipes: dict[str, Pipe], assembly: Assembly, joints: set[str]) -> tuple[float, str]:
    """The lowest rating (Pa) among a section's pipes and the parts its joints hold, and whose it is."""
    warm = plan.conditions.water_temperature
    held = {s.part for j in assembly.joints if j.id in joints for s in (j.a, j.b) if s.part is not None}
    rated = {f"{series(p.series).short} {p.size} pipe": pressure_rating(p, warm) for p in pipes.values()}
    rated |= {part.name: fitting_rating(part.fitting, warm) for part in assembly.parts if part.id in held}
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
            mine = (fitting_rating(part.fitting, warm), part.name)
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
