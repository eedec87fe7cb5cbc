"""Drip tubing: which half-inch it is, asked before its fittings are bought, and the three ways to join it beside each
other.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from hydrarch.core.base.cache import remembered
from hydrarch.core.base.messages import tell
from hydrarch.core.base.problems import Problem, declare
from hydrarch.core.base.units import show
from hydrarch.core.catalogue.fittings import pipe_ends
from hydrarch.core.catalogue.guidance import choose_practice
from hydrarch.core.catalogue.pipes import pipe, series, series_list
from hydrarch.core.catalogue.tables import read_rows
from hydrarch.core.joining.assembled import Assembly
from hydrarch.core.plan.document import Plan

__all__ = ["Beside", "DripWay", "drip_ways", "half_inch_problems", "set_aside_ways", "tubing_end", "ways_beside"]

declare("join", "half-inch")


@dataclass(frozen=True, slots=True)
class DripWay:
    """A way to join drip tubing: what one fitting costs against a barb, how long a joint takes (s), whether it is used
    again, its skill, why.
    """

    way: str
    title: str
    times: float
    seconds: float
    reuse: str
    skill: str
    reason: str
    source: str


@dataclass(frozen=True, slots=True)
class Beside:
    """A way for the joints of one job: so many joints, the time they take (s), and it in words."""

    way: str
    title: str
    joints: int
    seconds: float
    times: float
    reuse: str
    skill: str
    reason: str


@remembered()
def drip_ways() -> tuple[DripWay, ...]:
    """The ways, the one for a new hand first."""
    return read_rows(
        "hydrarch.core.catalogue",
        "drip_ways.csv",
        lambda r: DripWay(
            way=r["way"],
            title=r["title"],
            times=float(r["times"]),
            seconds=float(r["seconds"]),
            reuse=r["reuse"],
            skill=r["skill"],
            reason=r["reason"],
            source=r["source"],
        ),
    )


def tubing_end(series_name: str, size: str, way: str) -> str | None:
    """The end (by name) that drip tubing offers to what goes over its outside; None for other pipe, for barbs, and
    where only barbs fit it.
    """
    family = series(series_name)
    if family.kind != "drip" or way == "barb":
        return None
    return next((e.name for e in pipe_ends(series_name, size)[1:]), None)


@remembered()
def set_aside_ways(way: str) -> frozenset[str]:
    """The systems of ends that are taken last where drip tubing is joined that way over its outside: those of the other
    such way.
    """
    if way == "compression":
        return frozenset({"lock"})
    tubing = (p for s in series_list() if s.kind == "drip" for p in s.sizes)
    outsides = (e.system for p in tubing for e in pipe_ends(p.series, p.size)[1:])
    return frozenset(outsides) if way == "lock" else frozenset()


def _on_tubing(assembly: Assembly) -> int:
    """How many joints of a job are on drip tubing of half an inch or more."""
    return sum(
        any(
            (side.pipe or "").startswith("drip-") and not (side.pipe or "").endswith(("1/4", "1/8"))
            for side in (j.a, j.b)
        )
        for j in assembly.joints
    )


def ways_beside(assembly: Assembly) -> tuple[Beside, ...]:
    """All ways for the joints that a job has on drip tubing; none where it has none."""
    joints = _on_tubing(assembly)
    if not joints:
        return ()
    return tuple(
        Beside(
            way=w.way,
            title=w.title,
            joints=joints,
            seconds=joints * w.seconds,
            times=w.times,
            reuse=w.reuse,
            skill=w.skill,
            reason=w.reason,
        )
        for w in drip_ways()
    )


def half_inch_problems(plan: Plan) -> Iterator[Problem]:
    """Half-inch tubing whose fittings are listed and that nobody has measured."""
    if choose_practice(plan.practices, "half_inch") == "measured":
        return
    halves = {
        s.id: pipe(s.id, "1/2")
        for s in series_list()
        if s.id.startswith("drip-") and any(p.size == "1/2" for p in s.sizes)
    }
    used = {r.series or plan.conditions.series for r in plan.runs if not r.coupled}
    for name in sorted(used & halves.keys()):
        mine = halves[name]
        others = sorted(
            {str(show(p.outside, "diameter", plan.units)) for p in halves.values() if p.outside != mine.outside}
        )
        yield tell("half-inch", "", plan.units, outside=mine.outside, others=", ".join(others))
