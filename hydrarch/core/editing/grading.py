"""Levels set many at once: an even fall along a line, or a line that follows the ground.

A depth is below the ground, a level is above the datum: what is set here is the level of the pipe, and its depth
follows.
"""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import Literal

from hydrarch.core.base.errors import HydrarchError
from hydrarch.core.base.messages import tell
from hydrarch.core.base.numerals import parse_number
from hydrarch.core.base.problems import Problem, declare
from hydrarch.core.base.units import System, read, show
from hydrarch.core.editing.draft import Body
from hydrarch.core.hydraulics.drain_flow import fall_words
from hydrarch.core.plan.document import LineRule, Plan
from hydrarch.core.site.layout import Layout, layout, path_between

__all__ = [
    "Graded",
    "OffRule",
    "even_fall",
    "follow_ground",
    "lay_by_rule",
    "may_lay_by_rule",
    "off_rule_problems",
    "off_their_rules",
    "read_slope",
]

_SLOPE = re.compile(
    r"^\s*(?:1\s*in\s*(\d+(?:[.,]\d+)?)|(\d+(?:[.,]\d+)?)\s*%|(\d+(?:[.,]\d+)?|\d+/\d+)\s*(mm|cm|in)\s*(?:/|per|in)\s*(m|ft))\s*$",
    re.I,
)
_PER: dict[str, float] = {"mm": 1e-3, "cm": 1e-2, "in": 0.0254, "m": 1.0, "ft": 0.3048}


declare("survey", "off-rule")

_OFF = 0.002
"""m off its rule from which a point is reported: less is not set with a level."""


@dataclass(frozen=True, slots=True)
class OffRule:
    """A line whose rule is not kept: the `point` that is off most, by how much (m, above zero where it is high), and
    how many `points` are off.
    """

    rule: LineRule
    point: str
    by: float
    points: int


@dataclass(frozen=True, slots=True)
class Graded:
    """A plan with new levels, the points they were set at, and what was done, in words."""

    plan: Plan
    points: tuple[str, ...]
    says: str


def read_slope(text: str) -> float:
    """A slope as crews write it, as a ratio: "1 in 70", "2 %", "1/4 in per ft", "10 mm/m".

    Raises `HydrarchError` for any other.

    >>> read_slope("1 in 50"), round(read_slope("1/4 in per ft"), 5)
    (0.02, 0.02083)
    """
    match = _SLOPE.match(text)
    if match is None:
        raise HydrarchError(f"'{text.strip()}' is no slope: write it as 1 in 70, 1.5 %, 1/4 in per ft or 10 mm/m")
    one_in, percent, rise, unit, run = match.groups()
    if one_in:
        number = parse_number(one_in)
        if number <= 0:
            raise HydrarchError("a slope is 1 in a number above zero")
        return 1 / number
    if percent:
        return parse_number(percent) / 100
    return read(rise, "ratio") * _PER[unit.lower()] / _PER[run.lower()]


def even_fall(plan: Plan, start: str, stop: str, slope: float | None = None) -> Graded:
    """Set the levels along the shortest way between two points: evenly from the one's to the other's, or falling by
    `slope` from the first.

    What is set is the pipe's level; the ground stays. Raises `HydrarchError` where no pipe leads from one to the other.
    """
    way, along = _way(plan, start, stop)
    first, last = plan.by_id[start].level, plan.by_id[stop].level
    whole = along[-1]
    fall = slope * whole if slope is not None else first - last
    levels = {p: first - fall * a / whole for p, a in zip(way, along, strict=True)}
    done = _set(plan, {p: v for p, v in levels.items() if p != start and (slope is not None or p != stop)})
    done = _keep(done, start, stop, "even" if slope is None else "slope", slope or 0.0)
    return Graded(
        done,
        way,
        f"{_fall_words(fall, whole, plan.units)} from {plan.names[start]} to {plan.names[stop]}, over "
        f"{len(way)} points.",
    )


def follow_ground(plan: Plan, start: str, stop: str) -> Graded:
    """Let the pipe lie as deep at every point of the shortest way as it does at its first."""
    way, _ = _way(plan, start, stop)
    depth = plan.by_id[start].depth
    done = _keep(_set(plan, {p: plan.by_id[p].ground - depth for p in way[1:]}), start, stop, "ground", 0.0)
    return Graded(
        done,
        way,
        f"{show(depth, 'depth', plan.units)} below the ground from {plan.names[start]} to {plan.names[stop]}, "
        f"over {len(way)} points.",
    )


def _keep(plan: Plan, start: str, stop: str, by: Literal["even", "slope", "ground"], slope: float) -> Plan:
    """The plan with the rule of a line, in place of any other between the same two points."""
    rest = tuple(r for r in plan.rules if {r.start, r.stop} != {start, stop})
    rule = LineRule.model_validate({"start": start, "stop": stop, "by": by, "slope": slope})
    return Plan.model_validate({**plan.model_dump(mode="json"), "rules": [r.model_dump() for r in (*rest, rule)]})


def off_their_rules(plan: Plan, lay: Layout) -> tuple[OffRule, ...]:
    """Of each line with a rule that some point of it no longer keeps, the point that is off most."""
    found = []
    for rule in plan.rules:
        wanted = _wanted(plan, lay, rule)
        off = {p: plan.by_id[p].level - level for p, level in wanted.items()}
        worst = max(off, key=lambda p: (abs(off[p]), p), default="")
        if worst and abs(off[worst]) > _OFF:
            found.append(OffRule(rule, worst, off[worst], sum(abs(x) > _OFF for x in off.values())))
    return tuple(found)


def _wanted(plan: Plan, lay: Layout, rule: LineRule) -> dict[str, float]:
    """The level (m) of each point of a line by its rule; none where no way leads along it any more."""
    runs = path_between(lay, rule.start, rule.stop) if {rule.start, rule.stop} <= plan.by_id.keys() else ()
    if not runs:
        return {}
    way, along = _along(plan, lay, rule.start, runs)
    first, last, whole = plan.by_id[rule.start], plan.by_id[rule.stop], along[-1]
    if rule.by == "ground":
        return {p: plan.by_id[p].ground - first.depth for p in way}
    if whole <= 0:
        return {}
    fall = rule.slope if rule.by == "slope" else (first.level - last.level) / whole
    return {p: first.level - fall * a for p, a in zip(way, along, strict=True)}


def off_rule_problems(plan: Plan, lay: Layout) -> Iterator[Problem]:
    """Lines that no longer lie by the rule they were laid out by."""
    for off in off_their_rules(plan, lay):
        a, b = plan.names[off.rule.start], plan.names[off.rule.stop]
        by = off.rule.by
        key = "off-rule/even" if by == "even" else "off-rule/slope" if by == "slope" else "off-rule/ground"
        yield tell(
            key,
            off.point,
            plan.units,
            place=plan.names[off.point],
            off=abs(off.by),
            side="high" if off.by > 0 else "low",
            a=a,
            b=b,
            falls=fall_words(off.rule.slope, plan.units),
            more=f" {off.points - 1} more of its points are off, too." if off.points > 1 else "",
        )


def lay_by_rule(body: Body, where: str) -> bool:
    """Lay the line to its rule again of which a point is off most; False where none is."""
    plan = Plan.model_validate(body)
    wanted = _off_there(plan, where)
    for p in body["points"]:
        if p["id"] in wanted:
            p["depth"] = round(p["ground"] - wanted[p["id"]], 6)
    return bool(wanted)


def may_lay_by_rule(plan: Plan, where: str) -> bool:
    """Whether a line with a rule is off there, and none of it lies in the ground already."""
    wanted = _off_there(plan, where)
    return bool(wanted) and not any(plan.by_id[p].existing for p in wanted)


def _off_there(plan: Plan, where: str) -> dict[str, float]:
    """The levels (m) by its rule of the line of which a point is off most; none where none is."""
    lay = layout(plan)
    off = next((o for o in off_their_rules(plan, lay) if o.point == where), None)
    return {} if off is None else _wanted(plan, lay, off.rule)


def _way(plan: Plan, start: str, stop: str) -> tuple[tuple[str, ...], tuple[float, ...]]:
    """The points of the shortest way, and how far along it (m, level) each is."""
    for name in (start, stop):
        if name not in plan.by_id:
            raise HydrarchError("one of the two points is not on the drawing any more: choose again")
    if start == stop:
        raise HydrarchError("choose two different points")
    lay = layout(plan)
    runs = path_between(lay, start, stop)
    if not runs:
        raise HydrarchError(f"no pipe leads from {plan.names[start]} to {plan.names[stop]}: draw it first")
    way, along = _along(plan, lay, start, runs)
    if along[-1] <= 0:
        raise HydrarchError("that line stands upright: it has no fall to set")
    return way, along


def _along(plan: Plan, lay: Layout, start: str, runs: Sequence[str]) -> tuple[tuple[str, ...], tuple[float, ...]]:
    way, along = [start], [0.0]
    for run in runs:
        here = lay.lines[run].other(way[-1])
        a, b = plan.by_id[way[-1]], plan.by_id[here]
        along.append(along[-1] + ((a.x - b.x) ** 2 + (a.y - b.y) ** 2) ** 0.5)
        way.append(here)
    return tuple(way), tuple(along)


def _set(plan: Plan, levels: dict[str, float]) -> Plan:
    body = plan.model_dump(mode="json")
    for p in body["points"]:
        if p["id"] in levels:
            p["depth"] = round(p["ground"] - levels[p["id"]], 6)
    return Plan.model_validate(body)


def _fall_words(fall: float, over: float, units: System) -> str:
    if abs(fall) < 1e-6:
        return "Level"
    way: Literal["Falls", "Rises"] = "Falls" if fall > 0 else "Rises"
    return f"{way} {show(abs(fall), 'cut', units)}, 1 in {over / abs(fall):.3g},"
