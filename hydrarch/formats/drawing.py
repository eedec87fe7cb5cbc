"""The drawing on paper: the plan or a detail of it as SVG, true to a round scale when it is printed.

What is seen is projected as the page does it: from above, from a side, or standing with true lengths along three axes.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from html import escape
from itertools import pairwise
from math import cos, hypot, pi, sin, sqrt

from hydrarch.core.basins import shape_of
from hydrarch.core.catalogue.pipes import series
from hydrarch.core.chain import Derivation
from hydrarch.core.cutbox import SeenFrom
from hydrarch.core.kinds.basins import Basin, InWall
from hydrarch.core.kinds.marks import Mark
from hydrarch.core.plan import Plan, Point
from hydrarch.core.units import FOOT, System, show

__all__ = ["Sheet", "drawings", "project"]

_WIDE, _HIGH, _EDGE = 178.0, 118.0, 14.0  # mm of paper
_SCALES = (1, 2, 5, 10, 20, 25, 50, 100, 200, 250, 300, 400, 500, 600, 750, 1000, 2000, 2500, 5000, 10000, 25000, 50000, 100000)
_ALONG: dict[str, float] = {"south": 0.0, "east": pi / 2, "north": pi, "west": 1.5 * pi}
_STANDS = 0.1  # m that a run rises more than it goes on, from which a standing drawing is worth its paper
_FONT = 2.9  # mm
_ROUND = tuple(n * 10.0**e for e in range(-2, 4) for n in (1, 2, 5))
Spot = tuple[float, float]
Box = tuple[float, float, float, float]


@dataclass(frozen=True, slots=True)
class Sheet:
    """One drawing: its title with its scale, and the SVG."""

    title: str
    svg: str


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
        abs(a.level - b.level) - hypot(a.x - b.x, a.y - b.y) for r in plan.runs for a, b in [[plan.by_id[p] for p in r.points]]
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
    room = _WIDE - 2 * _EDGE, _HIGH - 2 * _EDGE
    scale = next((s for s in _SCALES if wide / s * 1e3 <= room[0] and high / s * 1e3 <= room[1]), _SCALES[-1])
    tall = min(_HIGH, max(high / scale * 1e3 + 2 * _EDGE, 40.0))
    middle = (max(xs) + min(xs)) / 2, (max(ys) + min(ys)) / 2

    def mm(spot: Spot) -> Spot:
        return _WIDE / 2 + (spot[0] - middle[0]) / scale * 1e3, tall / 2 - (spot[1] - middle[1]) / scale * 1e3

    drawn = _Paper(_WIDE, tall)
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
        if p.id in mine and not p.kind.plain:
            drawn.label(mm(mine[p.id]), p.label, bold=True)
    for run in plan.runs:
        if run.coupled or not set(run.points) <= mine.keys():
            continue
        a, b = (mm(project(seen, q.x, q.y, q.level)) for q in (plan.by_id[run.a.point], plan.by_id[run.b.point]))
        drawn.label(((a[0] + b[0]) / 2, (a[1] + b[1]) / 2), _run_words(plan, derived, run.id), bold=False)
    if seen == "above":
        drawn.north()
    drawn.bar(scale, plan.units)
    return Sheet(f"{title}, 1 : {scale}", drawn.svg(title))


def _homes(plan: Plan, shown: Iterable[str]) -> list[str]:
    """The bodies of water that something shown is let into."""
    there = set(shown)
    homes = {w.basin for p in plan.points if p.id in there and isinstance(p.what, InWall) and (w := p.what.waters) is not None}
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


class _Paper:
    """A sheet under way, in mm: labels keep off one another and off the edge, and are left out where there is no room."""

    def __init__(self, wide: float, tall: float) -> None:
        self.wide, self.tall = wide, tall
        self.parts: list[str] = []
        self.words: list[str] = []
        self.taken: list[Box] = []

    def line(self, a: Spot, b: Spot, width: float, colour: str, dash: str) -> None:
        steps = max(1, round(hypot(b[0] - a[0], b[1] - a[1]) / 1.5))
        spots = ((a[0] + (b[0] - a[0]) * n / steps, a[1] + (b[1] - a[1]) * n / steps) for n in range(steps + 1))
        self.taken += [(x - 0.7, y - 0.7, x + 0.7, y + 0.7) for x, y in spots if 0 <= x <= self.wide and 0 <= y <= self.tall]
        broken = f' stroke-dasharray="{dash}"' if dash else ""
        self.parts.append(
            f'<path d="M{a[0]:.2f} {a[1]:.2f}L{b[0]:.2f} {b[1]:.2f}" stroke="{colour}" stroke-width="{width}"{broken}/>'
        )

    def point(self, at: Spot, plain: bool, mark: bool) -> None:
        if mark:
            self.parts.append(f'<path d="M{at[0] - 1:.2f} {at[1] - 1:.2f}l2 2m-2 0l2-2" stroke="#8a8577" stroke-width="0.4"/>')
        else:
            self.parts.append(
                f'<circle cx="{at[0]:.2f}" cy="{at[1]:.2f}" r="{0.8 if plain else 1.5}" fill="#fff" stroke="#16212a" stroke-width="0.5"/>'
            )
        self.taken.append((at[0] - 1.5, at[1] - 1.5, at[0] + 1.5, at[1] + 1.5))

    def label(self, at: Spot, text: str, bold: bool) -> None:
        if not text:
            return
        wide, high = len(text) * _FONT * (0.62 if bold else 0.57), _FONT * 1.2
        aside = wide / 2 + 2.4
        aside, rows = wide / 2 + 2.4, (1, -2.6, 5, -7, 9, -12, 14)
        places = [(0, -2.6), (0, 5), *((side, y) for y in rows for side in (aside, -aside)), (0, -7), (0, 9), (0, -12), (0, 14)]
        for dx, dy in places:
            x, y = at[0] + dx, at[1] + dy
            box = (x - wide / 2, y - high, x + wide / 2, y + 0.6)
            if (
                box[0] < 0
                or box[1] < 0
                or box[2] > self.wide
                or box[3] > self.tall
                or any(_meet(box, other) for other in self.taken)
            ):
                continue
            self.taken.append(box)
            if abs(dy - 1) > 5:  # it stands away from what it names
                near = min(max(at[0], box[0]), box[2]), box[1] if dy > 0 else box[3]
                self.parts.append(
                    f'<path d="M{at[0]:.2f} {at[1]:.2f}L{near[0]:.2f} {near[1]:.2f}" stroke="#8a8577" stroke-width="0.2"/>'
                )
            weight = ' font-weight="700"' if bold else ' fill="#4a545c"'
            self.words.append(f'<text x="{x:.2f}" y="{y:.2f}" text-anchor="middle"{weight}>{escape(text)}</text>')
            return

    def north(self) -> None:
        x, y = self.wide - 6, 12.0
        self.parts.append(f'<path d="M{x} {y}v-8m-1.6 2.6l1.6-2.6l1.6 2.6" stroke="#16212a" stroke-width="0.5"/>')
        self.words.append(f'<text x="{x}" y="{y + 3.4}" text-anchor="middle" font-weight="700">N</text>')

    def bar(self, scale: int, system: System) -> None:
        """A bar of a round length, so that a copy that was not printed to scale can still be measured."""
        foot = FOOT if system == "us" else 1.0
        most = 40.0 * scale / 1e3 / foot  # in the person's unit
        step = max((s for s in _ROUND if s <= most), default=_ROUND[0])
        long = step * foot / scale * 1e3
        x, y = 5.0, self.tall - 4.0
        self.parts.append(f'<path d="M{x} {y - 1.4}v1.4h{long:.2f}v-1.4" stroke="#16212a" stroke-width="0.4"/>')
        self.words.append(f'<text x="{x + long + 1.2:.2f}" y="{y}">{step:g} {"ft" if system == "us" else "m"}</text>')

    def svg(self, title: str) -> str:
        return (
            f'<svg xmlns="http://www.w3.org/2000/svg" role="img" aria-label="{escape(title)}" width="{self.wide}mm" height="{self.tall:.1f}mm" '
            f'viewBox="0 0 {self.wide} {self.tall:.1f}" fill="none" stroke-linecap="round">{"".join(self.parts)}'
            f'<g font-size="{_FONT}" fill="#16212a" stroke="none" font-family="inherit">{"".join(self.words)}</g></svg>'
        )


def _meet(a: Box, b: Box) -> bool:
    return a[0] < b[2] and b[0] < a[2] and a[1] < b[3] and b[1] < a[3]
