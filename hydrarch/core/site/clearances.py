"""Where the line crosses or comes too near what is fixed on the site: walls, trees, drives, cables, other pipe."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from math import hypot

import numpy as np

from hydrarch.core.base.messages import tell
from hydrarch.core.base.problems import Problem, declare
from hydrarch.core.base.units import show
from hydrarch.core.components.marks import Mark
from hydrarch.core.plan.document import Plan, Point, Run
from hydrarch.core.site.layout import Layout

__all__ = ["CLEAR", "how_near", "mark_problems"]

declare("survey", "crosses-drive", "crosses-service", "crosses-wall", "near-mark")

CLEAR = {"cable": 0.3, "other pipe": 0.3, "tree": 1.5, "wall": 0.3, "post": 0.3}
"""m that buried pipe keeps from a thing unless a crew says otherwise: a foot from cables, pipe, walls and posts, five
from a tree's trunk; common practice, from memory."""
_SERVICES = ("cable", "other pipe")
_WHAT = {
    "cable": "Find it by hand before digging, go over or under it at a right angle, and have whoever owns it say how "
    "near you may come.",
    "other pipe": "Find it by hand before digging, and go over or under it at a right angle.",
    "tree": "Go round it, or dig by hand between its roots.",
    "wall": "Go further out: a trench along a footing takes its ground away.",
    "post": "Go further out, or dig by hand there.",
}

Spot = tuple[float, float]


@dataclass(frozen=True, slots=True)
class _Near:
    """How near a run comes to a mark in plan (m), the share of the run where it does, and whether it goes across."""

    apart: float
    share: float
    crosses: bool


def mark_problems(plan: Plan, lay: Layout) -> tuple[Problem, ...]:
    """Runs that are dug or led across a mark or too near to it.

    What exists already lies where it lies, and is not told.
    """
    marks = [(p, p.what) for p in plan.points if isinstance(p.what, Mark)]
    runs = [r for r in plan.runs if r.id in lay.lines and r.existing is None and not r.coupled]
    if not marks or not runs:
        return ()
    ends = np.array([[(p.x, p.y) for p in (plan.by_id[r.a.point], plan.by_id[r.b.point])] for r in runs])
    low, high = ends.min(axis=1), ends.max(axis=1)
    found: list[Problem] = []
    for point, mark in marks:
        reach = max(_clear(mark), mark.width / 2 if mark.what == "drive" else 0.0)
        far = (point.x + mark.east, point.y + mark.north)
        west, east = sorted((point.x, far[0]))
        south, north = sorted((point.y, far[1]))
        may = (
            (low[:, 0] <= east + reach)
            & (high[:, 0] >= west - reach)
            & (low[:, 1] <= north + reach)
            & (high[:, 1] >= south - reach)
        )
        for n in np.flatnonzero(may):
            found += _judged(plan, runs[n], point, mark, far)
    return tuple(found)


def _clear(mark: Mark) -> float:
    return CLEAR.get(mark.what, 0.0) if mark.clear is None else mark.clear


def _judged(plan: Plan, run: Run, point: Point, mark: Mark, far: Spot) -> Iterator[Problem]:
    a, b = plan.by_id[run.a.point], plan.by_id[run.b.point]
    near = _near((a.x, a.y), (b.x, b.y), (point.x, point.y), far)
    named = point.name or f"the {mark.what}"
    names = [plan.names[p] for p in run.points]
    buried = run.situation == "buried"
    if mark.what == "drive":
        inside = near.crosses or near.apart < mark.width / 2
        if buried and inside and mark.long and not run.wheels:
            yield tell("crosses-drive", run.id, a=names[0], b=names[1], mark=named)
        return
    if mark.what == "wall" and near.crosses:
        yield tell("crosses-wall", run.id, a=names[0], b=names[1], mark=named)
        return
    if not buried:
        return
    clear, at = (
        _clear(mark),
        f"{show(near.share * hypot(b.x - a.x, b.y - a.y), 'length', plan.units)} from {plan.names[run.a.point]}",
    )
    if mark.what in _SERVICES:
        gap = abs(a.depth + (b.depth - a.depth) * near.share - point.depth)
        if near.crosses:
            yield tell(
                "crosses-service" if gap >= clear else "crosses-service/near",
                run.id,
                plan.units,
                a=names[0],
                b=names[1],
                mark=named,
                at=at if gap < clear else at[:1].upper() + at[1:],
                gap=gap,
                clear=clear,
                way=_WHAT[mark.what],
            )
            return
        if hypot(gap, near.apart) >= clear:
            return
    if clear and near.apart < clear:
        yield tell(
            "near-mark",
            run.id,
            plan.units,
            a=names[0],
            b=names[1],
            mark=named,
            at=at,
            apart=near.apart,
            clear=clear,
            way=_WHAT.get(mark.what, "Go further out."),
        )


def _near(a: Spot, b: Spot, c: Spot, d: Spot) -> _Near:
    """How a run from `a` to `b` lies to a mark from `c` to `d`, which may be one place."""
    cross = (b[0] - a[0]) * (d[1] - c[1]) - (b[1] - a[1]) * (d[0] - c[0])
    if cross:
        t = ((c[0] - a[0]) * (d[1] - c[1]) - (c[1] - a[1]) * (d[0] - c[0])) / cross
        u = ((c[0] - a[0]) * (b[1] - a[1]) - (c[1] - a[1]) * (b[0] - a[0])) / cross
        if 0 <= t <= 1 and 0 <= u <= 1:
            return _Near(0.0, t, crosses=True)
    ways = [how_near(p, a, b) for p in (c, d)] + [(how_near(p, c, d)[0], share) for p, share in ((a, 0.0), (b, 1.0))]
    apart, share = min(ways)
    return _Near(apart, share, crosses=False)


def how_near(p: Spot, a: Spot, b: Spot) -> tuple[float, float]:
    """How far (m) a place is from a straight stretch seen from above, and at what share of it."""
    dx, dy = b[0] - a[0], b[1] - a[1]
    long = dx * dx + dy * dy
    t = max(0.0, min(1.0, ((p[0] - a[0]) * dx + (p[1] - a[1]) * dy) / long)) if long else 0.0
    return hypot(p[0] - a[0] - t * dx, p[1] - a[1] - t * dy), t
