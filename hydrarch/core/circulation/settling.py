"""Where a fitting belongs in the wall or floor of a body of water: nearest to where it was set down, at the height its
kind has.
"""

from __future__ import annotations

from math import hypot, pi

import numpy as np

from hydrarch.core.components.base import What
from hydrarch.core.components.basins import Basin, Bulkhead, InWall, Skimmer, Standpipe, SuctionCover
from hydrarch.core.plan.basin_shapes import BasinShape, shape_of
from hydrarch.core.plan.document import Plan

__all__ = ["UNDER", "nearest_body", "outside", "all_round", "settled_place"]

UNDER = 0.15
"""m below the water that a return or a jet is let in: half a foot, common practice."""
_OVER_FLOOR, _OFF_WALL = 0.1, 0.3  # m
_OPENS = 0.07
"""m below the rim that a standpipe's open end is set: a few inches, common practice."""


def nearest_body(plan: Plan, x: float, y: float, z: float) -> str | None:
    """The body of water that lies nearest to a place as it is seen from above, and of those at one place the nearest in
    height.
    """
    found = []
    for p in plan.points:
        if isinstance(p.what, Basin) and not (shape := shape_of(p)).crosses:
            flat = shape.away(x, y, (shape.rim + shape.bottom) / 2)
            found.append((round(flat, 3), round(max(shape.bottom - z, z - shape.rim, 0.0), 3), p.id))
    return min(found, default=(0.0, 0.0, None))[2]


def settled_place(plan: Plan, where: str, home: str) -> tuple[float, float, float, What]:
    """Where a fitting is set into a body (east, north, level, m), and the fitting as it is there."""
    point, body = plan.by_id[where], plan.by_id[home]
    what, basin, shape = point.what, body.what, shape_of(body)
    assert isinstance(what, InWall)
    assert isinstance(basin, Basin)
    x, y, off = _on_wall(shape, point.x, point.y)
    water = shape.rim - basin.below_rim
    on_floor = (
        isinstance(what, (SuctionCover, Standpipe)) and off > _OFF_WALL and shape.away(point.x, point.y, water) == 0
    )
    if on_floor:
        x, y = point.x, point.y
    low = shape.bottom + (
        0.0 if on_floor or isinstance(what, Standpipe) else min(_OVER_FLOOR, (water - shape.bottom) / 2)
    )
    if isinstance(what, Standpipe):
        up = round(shape.rim - _OPENS - low, 4)
        return x, y, low, what.model_copy(update={"up": min(max(up, 0.0), 20.0)})
    if isinstance(what, Skimmer):
        return x, y, water, what
    if isinstance(what, (SuctionCover, Bulkhead)):
        return x, y, low, what
    return x, y, max(water - UNDER, low), what


def _on_wall(shape: BasinShape, x: float, y: float) -> tuple[float, float, float]:
    """The nearest spot of the outline, and how far (m) that is."""
    one = np.array(shape.corners)
    two = np.roll(one, -1, axis=0)
    way = two - one
    along = np.clip(((np.array((x, y)) - one) * way).sum(axis=1) / np.maximum((way**2).sum(axis=1), 1e-18), 0, 1)
    spots = one + along[:, None] * way
    far = np.hypot(*(spots - (x, y)).T)
    best = int(np.argmin(far))
    return float(spots[best, 0]), float(spots[best, 1]), float(far[best])


def all_round(shape: BasinShape, many: int) -> list[tuple[float, float]]:
    """So many spots evenly apart along the outline, the first half of that from its first corner."""
    one = np.array(shape.corners)
    two = np.roll(one, -1, axis=0)
    long = np.hypot(*(two - one).T)
    ends = np.concatenate([[0.0], np.cumsum(long)])
    found = []
    for n in range(many):
        at = (n + 0.5) / many * ends[-1]
        side = int(np.searchsorted(ends, at, side="right")) - 1
        share = (at - ends[side]) / long[side]
        found.append(
            (float(one[side, 0] + share * (two - one)[side, 0]), float(one[side, 1] + share * (two - one)[side, 1]))
        )
    return found


def outside(shape: BasinShape, x: float, y: float, by: float) -> tuple[float, float]:
    """The spot `by` (m) outside of the wall from a spot on it, square to it."""
    u, v = (float(n) for n in np.mean(shape.corners, axis=0))
    away = [hypot(a - u, b - v) for a, b in shape.corners]
    if len(away) > 8 and max(away) - min(away) < 1e-6:  # round: away from its middle
        far = max(hypot(x - u, y - v), 1e-9)
        return x + by * (x - u) / far, y + by * (y - v) / far
    near = min(
        zip(shape.corners, (*shape.corners[1:], *shape.corners[:1]), strict=True), key=lambda side: _off(side, x, y)
    )
    (a, b), (c, d) = near
    way = np.arctan2(d - b, c - a) - pi / 2  # outward where the outline goes anticlockwise
    sign = 1.0 if _anticlockwise(shape) else -1.0
    return x + sign * by * float(np.cos(way)), y + sign * by * float(np.sin(way))


def _off(side: tuple[tuple[float, float], tuple[float, float]], x: float, y: float) -> float:
    (a, b), (c, d) = side
    long = max((c - a) ** 2 + (d - b) ** 2, 1e-18)
    along = min(max(((x - a) * (c - a) + (y - b) * (d - b)) / long, 0.0), 1.0)
    return hypot(a + along * (c - a) - x, b + along * (d - b) - y)


def _anticlockwise(shape: BasinShape) -> bool:
    corners = shape.corners
    return sum(a * d - c * b for (a, b), (c, d) in zip(corners, (*corners[1:], *corners[:1]), strict=True)) > 0
