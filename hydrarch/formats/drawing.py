"""The drawing on paper: the plan or a detail of it as SVG, true to a round scale when it is printed.

What is seen is projected as the page does it: from above, from a side, or standing with true lengths along three axes.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from itertools import pairwise
from math import cos, hypot, pi, sin, sqrt

from hydrarch.core.base.units import show
from hydrarch.core.catalogue.pipes import series
from hydrarch.core.components.basins import Basin, InWall
from hydrarch.core.components.marks import Mark
from hydrarch.core.derivation.chain import Derivation
from hydrarch.core.plan.basin_shapes import shape_of
from hydrarch.core.plan.details import SeenFrom
from hydrarch.core.plan.document import Plan, Point
from hydrarch.formats.paper import WIDE, Paper, Spot

__all__ = ["Sheet", "drawings", "project"]

_HIGH, _EDGE = 118.0, 14.0  # mm of paper
_SCALES = (
    1,
    2,
    5,
    10,
    20,
    25,
    50,
    100,
    200,
    250,
    300,
    400,
    500,
    600,
    750,
    1000,
    2000,
    2500,
    5000,
    10000,
    25000,
    50000,
    100000,
)
_ALONG: dict[str, float] = {"south": 0.0, "east": pi / 2, "north": pi, "west": 1.5 * pi}
_STANDS = 0.1  # m that a run rises more than it goes on, from which a standing drawing is worth its paper


@dataclass(frozen=True, slots=True)
class Sheet:
    """One drawing: its title with its scale, and the paper it is on."""

    title: str
    paper: Paper

    @property
    def svg(self) -> str:
        """It as SVG."""
        return self.paper.svg(self.title)


def project(seen: SeenFrom, x: float, y: float, level: float) -> Spot:
    """Where a place (m) is seen: to the right and up.

    >>> project("south", 3, 4, 1), project("standing", 1, 0, 0)[1]
    ((3.0, 1), -0.5)
    """
    if seen == "above":
        return x, y
    if seen == "standing":
        return (x + y) * sqrt(3) / 2, (y - x) / 2 + level
    return x * cos(_ALONG[seen]) + y * sin(_ALONG[seen]), level


def drawings(plan: Plan, derived: Derivation) -> tuple[Sheet, ...]:
    """The whole from above, standing where it stands up, and each detail as it is seen; none of an empty plan."""
    things = [p for p in plan.points if p.kind.joined]
    if not things:
        return ()
    found = [_sheet(plan, derived, "The line, from above", plan.points, "above")]
    rises = (
        abs(a.level - b.level) - hypot(a.x - b.x, a.y - b.y)
        for r in plan.runs
        for a, b in [[plan.by_id[p] for p in r.points]]
    )
    if any(rise > _STANDS for rise in rises):
        found.append(_sheet(plan, derived, "The line, standing", things, "standing"))
    for detail in plan.details:
        inside = [p for p in things if detail.holds(p.x, p.y, p.level)]
        if inside:
            found.append(_sheet(plan, derived, f"Detail: {detail.name}", inside, detail.seen))
    return tuple(found)


def _sheet(plan: Plan, derived: Derivation, title: str, points: Iterable[Point], seen: SeenFrom) -> Sheet:
    mine = {p.id: project(seen, p.x, p.y, p.level) for p in points}
    waters = [ring for home in _homes(plan, mine.keys()) for ring in _rings(plan.by_id[home], seen)]
    spots = [*mine.values(), *(s for ring, _ in waters for s in ring)]
    xs, ys = [s[0] for s in spots], [s[1] for s in spots]
    wide, high = max(xs) - min(xs), max(ys) - min(ys)
    room = WIDE - 2 * _EDGE, _HIGH - 2 * _EDGE
    scale = next((s for s in _SCALES if wide / s * 1e3 <= room[0] and high / s * 1e3 <= room[1]), _SCALES[-1])
    tall = min(_HIGH, max(high / scale * 1e3 + 2 * _EDGE, 40.0))
    middle = (max(xs) + min(xs)) / 2, (max(ys) + min(ys)) / 2

    def mm(spot: Spot) -> Spot:
        return WIDE / 2 + (spot[0] - middle[0]) / scale * 1e3, tall / 2 - (spot[1] - middle[1]) / scale * 1e3

    drawn, unnamed, pipes = Paper(WIDE, tall), list[str](), 0
    for ring, dash in waters:
        for one, two in pairwise((*ring, ring[0])):
            drawn.line(mm(one), mm(two), 0.35, "#2b6f86", dash)
    for p in plan.points:
        if isinstance(p.what, Mark) and p.what.long and p.id in mine:
            far = mm(project(seen, p.x + p.what.east, p.y + p.what.north, p.level))
            drawn.line(mm(mine[p.id]), far, 0.5, "#8a8577", "2 1.2")
    for run in plan.runs:
        if not set(run.points) & mine.keys():
            continue
        a, b = (mm(project(seen, q.x, q.y, q.level)) for q in (plan.by_id[run.a.point], plan.by_id[run.b.point]))
        drawn.line(a, b, 0.9, "#16212a", "1.6 1" if run.existing else "")
    for p in plan.points:
        if p.id in mine:
            drawn.point(mm(mine[p.id]), plain=p.kind.plain, mark=not p.kind.joined)
    for p in sorted(plan.points, key=lambda p: p.kind.plain):
        if p.id in mine and not p.kind.plain and not drawn.label(mm(mine[p.id]), p.label, bold=True):
            unnamed.append(p.label)
    for run in plan.runs:
        if run.coupled or not set(run.points) <= mine.keys():
            continue
        a, b = (mm(project(seen, q.x, q.y, q.level)) for q in (plan.by_id[run.a.point], plan.by_id[run.b.point]))
        if not drawn.label(((a[0] + b[0]) / 2, (a[1] + b[1]) / 2), _run_words(plan, derived, run.id), bold=False):
            pipes += 1
    if seen == "above":
        drawn.north()
    drawn.bar(scale, plan.units)
    if unnamed:
        drawn.foot(f"Not labelled above (no room): {', '.join(unnamed)}.")
    if pipes:
        drawn.foot(f"Pipe, size and length are left out at {pipes} {'run' if pipes == 1 else 'runs'}: no room.")
    return Sheet(f"{title}, 1 : {scale}", drawn)


def _homes(plan: Plan, shown: Iterable[str]) -> list[str]:
    """The bodies of water that something shown is let into."""
    there = set(shown)
    homes = {
        w.basin
        for p in plan.points
        if p.id in there and isinstance(p.what, InWall) and (w := p.what.waters) is not None
    }
    return [p.id for p in plan.points if p.id in homes]


def _rings(body: Point, seen: SeenFrom) -> list[tuple[list[Spot], str]]:
    """A body of water as rings: its rim, and where its height is seen its water and its floor, dashed."""
    assert isinstance(body.what, Basin)
    shape = shape_of(body)
    root = shape.share**0.5
    floor = [(body.x + (x - body.x) * root, body.y + (y - body.y) * root) for x, y in shape.corners]
    found = [([project(seen, x, y, shape.rim) for x, y in shape.corners], "")]
    if seen != "above":
        water = shape.rim - body.what.below_rim
        found.append(([project(seen, x, y, water) for x, y in shape.corners], "0.6 0.6"))
    return [*found, ([project(seen, x, y, shape.bottom) for x, y in floor], "1.6 1")]


def _run_words(plan: Plan, derived: Derivation, run: str) -> str:
    """What stands at a run: its pipe, size and length."""
    line, choice = derived.layout.lines.get(run), derived.sizes.choices.get(run)
    if line is None:
        return ""
    pipe = "" if choice is None else f"{series(choice.series or plan.conditions.series).short} {choice.size}, "
    return f"{pipe}{show(line.length, 'length', plan.units)}"
