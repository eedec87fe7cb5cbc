"""What a section's weakest part carries, and the pressure it is tested at."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from hydrarch.core.base.messages import tell
from hydrarch.core.base.problems import Problem, declare
from hydrarch.core.base.units import show
from hydrarch.core.catalogue.pipes import Pipe, joined_rating, laid_rating, pipe_called, rating_at, series
from hydrarch.core.hydraulics.static import static_pressure
from hydrarch.core.hydraulics.water import water
from hydrarch.core.joining.assembled import Assembly, Joint
from hydrarch.core.joining.short import part_rating
from hydrarch.core.joining.strength import seen_by, warmth_of
from hydrarch.core.plan.document import Plan
from hydrarch.core.site.layout import Layout

__all__ = [
    "SUCTION_TEST",
    "TEST_FACTOR",
    "Weakest",
    "part_rating_problems",
    "suction_test",
    "test_pressure",
    "weakest_of",
]

declare("join", "part-over-rating", holds=True)

TEST_FACTOR = 1.5
"""Test pressure over the highest working pressure; common practice."""
SUCTION_TEST = 172.37e3
"""Pa (25 psi) that a line is tested at in which a pump draws: what lets air in there must show as water; pool codes,
from memory."""


@dataclass(frozen=True, slots=True)
class Weakest:
    """What of a section comes to its rating first: `limit` (Pa) at the gauge then, its `name`, what it `carries` (Pa),
    and how much more (`deeper`, Pa) it sees than the gauge; less than zero where it lies above.
    """

    limit: float
    name: str
    carries: float
    deeper: float


def weakest_of(
    plan: Plan,
    lay: Layout,
    pipes: Mapping[str, Pipe],
    runs: list[str],
    assembly: Assembly,
    joints: set[str],
    gauge: float,
) -> Weakest:
    """The pipe or part of a section that comes to its rating first under a test, the gauge at a level (m).

    What lies below the gauge sees the water over it on top of what that reads, what lies above sees so much less.
    """
    weight = water(plan.conditions.water_temperature).weight
    warm = plan.conditions.water_temperature
    held = {s.part for j in assembly.joints if j.id in joints for s in (j.a, j.b) if s.part is not None}
    low = min((lay.places[p][2] for r in runs for p in plan.run_by_id[r].points), default=gauge)

    def deeper(*places: str | None) -> float:
        """How much more the lowest of these places sees; where none is known, the lowest there is."""
        return weight * (gauge - min((lay.places[p][2] for p in places if p is not None), default=low))

    found: list[Weakest] = []

    def rated(name: str, carries: float, more: float) -> None:
        found.append(Weakest(carries - more, name, carries, more))

    for r in runs:
        item = pipes[r]
        carries = laid_rating(item, warm, plan.run_by_id[r].situation)
        rated(f"{series(item.series).short} {item.size} pipe", carries, deeper(*plan.run_by_id[r].points))
    for j in (j for j in assembly.joints if j.id in joints):
        for side in (j.a, j.b):
            if side.pipe is None or series((item := pipe_called(side.pipe)).series).kind == "met":
                continue
            carries = joined_rating(item, warm, side.end)
            if carries < rating_at(item, warm):
                rated(f"threaded {series(item.series).short} {item.size} pipe", carries, deeper(*_along(plan, j)))
    for part in assembly.parts:
        if part.id in held:
            rated(part.name, part_rating(plan, lay, pipes, part, warm), deeper(part.point))
    if not found:
        return Weakest(0.0, "what its maker says of the things that are screwed together", 0.0, 0.0)
    return min(found, key=lambda w: w.limit)


def _along(plan: Plan, joint: Joint) -> tuple[str | None, ...]:
    """The places a joint may lie between."""
    return plan.run_by_id[joint.run].points if joint.run is not None else (joint.point,)


def test_pressure(plan: Plan, highest: float, working: float, weakest: Weakest) -> tuple[float, str, str]:
    """The test pressure (Pa) at the gauge, why, and what forbids any test at all ("" where nothing does); `highest` is
    the pressure at rest where that is highest, `working` what the gauge shows then.
    """
    units, limit = plan.units, weakest.limit
    if limit < working - 1:
        seen, carries = (show(p, "pressure", units) for p in (working + weakest.deeper, weakest.carries))
        return (
            working,
            "what it sees at rest",
            f"{weakest.name} sees {seen} at rest, and carries {carries}: change that part first",
        )
    own = plan.conditions.test_pressure
    if own is not None and own < working:
        return (
            working,
            f"what it sees at rest: the job's {show(own, 'pressure', units)} is below that, so it would be no test",
            "",
        )
    wanted, says = (
        (own, "the job's test pressure")
        if own is not None
        else (
            TEST_FACTOR * highest - (highest - working),
            f"{TEST_FACTOR:g} times the highest pressure at rest, where that is",
        )
    )
    if wanted > limit:
        return limit, f"{says}, held down to what the weakest part carries: {weakest.name}", ""
    return max(wanted, 0.0), says, ""


def suction_test(plan: Plan, working: float, limit: float, weakest: str) -> tuple[float, str]:
    """The test of a line a pump draws through: at rest it sees next to nothing, and at work it must let no air in."""
    least = max(SUCTION_TEST, TEST_FACTOR * working)
    told = (
        f"{show(SUCTION_TEST, 'pressure', plan.units)} at the least: a pump draws in it, and what lets air in at "
        "work must show as water"
    )
    return (
        (least, told) if least <= limit else (limit, f"{told}, held down to what the weakest part carries: {weakest}")
    )


def part_rating_problems(plan: Plan, lay: Layout, pipes: Mapping[str, Pipe], assembly: Assembly) -> tuple[Problem, ...]:
    """The places where a part carries less than the pressure at shut-off in its water, one for each, its weakest part
    named.
    """
    pressures, names = static_pressure(plan, lay), plan.names
    weakest: dict[str, tuple[float, str, float]] = {}
    for part in assembly.parts:
        seen = seen_by(plan, lay, pressures, part)
        if seen is not None and part.point is not None:
            mine = (part_rating(plan, lay, pipes, part, warmth_of(lay, part)), part.name, seen)
            if seen > mine[0]:
                weakest[part.point] = min(weakest.get(part.point, mine), mine)
    along = {j.id: j for j in assembly.joints if j.role == "length" and j.run is not None}
    parts = {p.id: p for p in assembly.parts}
    for joint in along.values():
        run = plan.run_by_id[joint.run or ""]
        seen = max((pressures[p] for p in run.points if p in pressures), default=0.0)
        for part in (parts[s.part] for s in (joint.a, joint.b) if s.part is not None):
            carries = part_rating(plan, lay, pipes, part, lay.warm[run.id])
            if seen > carries:
                mine = (carries, f"{part.name}, which joins its lengths,", seen)
                weakest[run.id] = min(weakest.get(run.id, mine), mine)
                names = {**names, run.id: f"The run from {names[run.a.point]} to {names[run.b.point]}"}
    return tuple(
        tell("part-over-rating", point, plan.units, place=names[point], part=name, seen=seen, rated=rated)
        for point, (rated, name, seen) in weakest.items()
    )
