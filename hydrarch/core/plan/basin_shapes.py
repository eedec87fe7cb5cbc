"""Bodies of water as shapes: outline, area, volume and level, and which fitting is in the wall of which.

A body is a frustum: its outline at the rim, narrowing evenly to its floor. Areas in m², volumes in m³, levels in m.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from functools import cached_property
from math import cos, hypot, pi, sin, sqrt
from typing import Protocol

import numpy as np

from hydrarch.core.components.base import What
from hydrarch.core.components.basins import Basin, InWall, TopUp, Waters

__all__ = ["REACH", "BasinShape", "filled_by", "let_in", "nearest", "shape_of"]

REACH = 0.6
"""How far (m) from a body's wall a thing may stand and still be meant to be in it: a skimmer's box, a pipe's stub."""
_UP = 0.1  # m over its rim or under its floor
_ROUND = 48


class _Point(Protocol):
    @property
    def id(self) -> str: ...
    @property
    def x(self) -> float: ...
    @property
    def y(self) -> float: ...
    @property
    def ground(self) -> float: ...
    @property
    def level(self) -> float: ...
    @property
    def what(self) -> What: ...


@dataclass(frozen=True)
class BasinShape:
    """A body of water in its place: corners of the rim (m, anticlockwise), rim and floor (m), and the floor's share of
    the rim's area.

    >>> tank = BasinShape(((0, 0), (2, 0), (2, 1), (0, 1)), rim=1.0, bottom=0.0, share=1.0)
    >>> tank.area(0.5), tank.volume(0.5), tank.level(1.0)
    (2.0, 1.0, 0.5)
    """

    corners: tuple[tuple[float, float], ...]
    rim: float
    bottom: float
    share: float

    @cached_property
    def open_area(self) -> float:
        """The area at the rim (m²)."""
        return abs(self._doubled) / 2

    @cached_property
    def _doubled(self) -> float:
        return sum(
            a * d - c * b for (a, b), (c, d) in zip(self.corners, (*self.corners[1:], *self.corners[:1]), strict=True)
        )

    @property
    def depth(self) -> float:
        """From the rim to the floor (m)."""
        return self.rim - self.bottom

    @property
    def crosses(self) -> bool:
        """Whether its outline crosses itself, or holds nothing."""
        return self.open_area < 1e-6 or _crossing(self.corners)

    def area(self, level: float) -> float:
        """The water's surface (m²) at a level; the floor's below it, the rim's above."""
        up = min(max((level - self.bottom) / self.depth, 0.0), 1.0)
        side = sqrt(self.share) + (1 - sqrt(self.share)) * up
        return float(self.open_area * side**2)

    def volume(self, level: float) -> float:
        """The water in it (m³) at a level, none below the floor, upright above the rim."""
        high = min(max(level - self.bottom, 0.0), self.depth)
        a, b = self.area(self.bottom), self.area(self.bottom + high)
        return high * (a + sqrt(a * b) + b) / 3 + max(level - self.rim, 0.0) * self.open_area

    @cached_property
    def holds(self) -> float:
        """What goes into it up to the rim (m³)."""
        return self.volume(self.rim)

    def level(self, volume: float) -> float:
        """The level (m) at which it holds a volume (m³)."""
        if volume >= self.holds:
            return self.rim + (volume - self.holds) / self.open_area
        root, depth = sqrt(self.share), self.depth
        if volume <= 0:
            return self.bottom
        if 1 - root < 1e-9:
            return self.bottom + volume / self.open_area
        # side s grows from root to 1 over the depth; V = A·D/(3(1−root))·(s³ − root³)
        s = float((root**3 + 3 * (1 - root) * volume / (self.open_area * depth)) ** (1 / 3))
        return self.bottom + depth * (s - root) / (1 - root)

    def away(self, x: float, y: float, z: float) -> float:
        """How far (m) a place is from the body: zero inside of it."""
        flat = 0.0 if _inside(self.corners, x, y) else _to_outline(self.corners, x, y)
        return hypot(flat, max(z - self.rim, 0.0), max(self.bottom - z, 0.0))


def shape_of(point: _Point) -> BasinShape:
    """The body of water that stands at a point."""
    what = point.what
    assert isinstance(what, Basin)
    if what.shape == "outline" and len(what.outline) >= 3:
        corners = [(c.east, c.north) for c in what.outline]
    elif what.shape == "round":
        # a polygon of the circle's own area
        r = what.long / 2 * sqrt(2 * pi / _ROUND / sin(2 * pi / _ROUND))
        corners = [(r * cos(2 * pi * i / _ROUND), r * sin(2 * pi * i / _ROUND)) for i in range(_ROUND)]
    else:
        x, y, c, s = what.long / 2, what.wide / 2, cos(what.facing), sin(what.facing)
        corners = [(c * u - s * v, s * u + c * v) for u, v in ((-x, -y), (x, -y), (x, y), (-x, y))]
    rim = point.ground + what.rim
    placed = tuple((point.x + u, point.y + v) for u, v in corners)
    return BasinShape(placed, rim, rim - what.depth, what.floor)


def nearest(shapes: Mapping[str, BasinShape], x: float, y: float, z: float) -> str | None:
    """The body of water a place belongs to, within `REACH` of its wall and not far over its rim or under its floor.

    Of several it is the nearest, and of those the smallest, as a box that stands in a tank.
    """
    near = [
        (round(s.away(x, y, z), 3), s.holds, name) for name, s in shapes.items() if s.bottom - _UP <= z <= s.rim + _UP
    ]
    return min((n for n in near if n[0] <= REACH), default=(0.0, 0.0, None))[2]


def let_in(points: Iterable[_Point]) -> dict[str, What]:
    """What stands in a wall, by its point: itself, knowing the water it is in. Empty where there is no such thing."""
    placed = list(points)
    inside = [p for p in placed if isinstance(p.what, InWall)]
    if not inside:
        return {}
    basins = {p.id: p for p in placed if isinstance(p.what, Basin)}
    shapes = {name: shape_of(p) for name, p in basins.items()}
    found: dict[str, What] = {}
    for p in inside:
        assert isinstance(p.what, InWall)
        name = nearest(shapes, p.x, p.y, p.level)
        waters = None
        if name is not None:
            shape, body = shapes[name], basins[name].what
            assert isinstance(body, Basin)
            waters = Waters(name, shape.rim - body.below_rim, shape.rim, shape.bottom)
        if p.what.waters != waters:
            found[p.id] = p.what.let_in(waters)
    return found


def filled_by(points: Iterable[_Point], valve: _Point) -> str | None:
    """The body of water that a float valve fills: the one it stands at, or over."""
    assert isinstance(valve.what, TopUp)
    shapes = {p.id: shape_of(p) for p in points if isinstance(p.what, Basin)}
    over = {
        name: s
        for name, s in shapes.items()
        if _inside(s.corners, valve.x, valve.y) or _to_outline(s.corners, valve.x, valve.y) <= REACH
    }
    return min(over, key=lambda n: (abs(over[n].rim - valve.level), n), default=None)


def _inside(corners: tuple[tuple[float, float], ...], x: float, y: float) -> bool:
    odd = False
    for (a, b), (c, d) in zip(corners, (*corners[1:], *corners[:1]), strict=True):
        if (b > y) != (d > y) and x < a + (y - b) * (c - a) / (d - b):
            odd = not odd
    return odd


def _to_outline(corners: tuple[tuple[float, float], ...], x: float, y: float) -> float:
    one = np.array(corners)
    two = np.roll(one, -1, axis=0)
    way, here = two - one, np.array((x, y)) - one
    long = np.maximum((way**2).sum(axis=1), 1e-18)
    along = np.clip((here * way).sum(axis=1) / long, 0, 1)
    return float(np.hypot(*(here - along[:, None] * way).T).min())


def _crossing(corners: tuple[tuple[float, float], ...]) -> bool:
    sides = list(zip(corners, (*corners[1:], *corners[:1]), strict=True))

    def turn(a: tuple[float, float], b: tuple[float, float], c: tuple[float, float]) -> float:
        return (b[0] - a[0]) * (c[1] - a[1]) - (b[1] - a[1]) * (c[0] - a[0])

    for i, (a, b) in enumerate(sides):
        for c, d in sides[i + 2 : len(sides) - (i == 0)]:
            if turn(a, b, c) * turn(a, b, d) < 0 and turn(c, d, a) * turn(c, d, b) < 0:
                return True
    return False
