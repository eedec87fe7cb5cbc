"""Where things stand: axes of fittings and pipe, as columns of a matrix."""

from __future__ import annotations

from collections.abc import Sequence
from math import hypot

import numpy as np

from hydrarch.core.model.solids import Vectors

__all__ = ["UPWARD", "Spot", "frame_along", "frame_of", "placed_at", "spot_of"]

Spot = tuple[float, float, float]
UPWARD: Spot = (0.0, 0.0, 1.0)


def _cross(a: Spot, b: Spot) -> Spot:
    return a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0]


def _unit(a: Spot) -> Spot | None:
    """A vector of length one; None where it is too short to have a way."""
    size = hypot(*a)
    return None if size < 1e-3 else (a[0] / size, a[1] / size, a[2] / size)


def _columns(x: Spot, z: Spot) -> Vectors:
    return np.array((x, _cross(z, x), z)).T


def frame_of(ways: Sequence[Spot]) -> Vectors:
    """The axes of a fitting: x along its first way, the plane of x and y through the first that is not in line with it,
    else z as near upright as may be.
    """
    x = ways[0]
    for way in ways[1:]:
        z = _unit(_cross(x, way))
        if z is not None:
            return _columns(x, z)
    z = _unit(_cross(_cross(x, UPWARD), x)) or _unit(_cross(x, (0.0, 1.0, 0.0)))
    return np.eye(3) if z is None else _columns(x, z)


def frame_along(way: Vectors) -> Vectors:
    """Axes with z along a unit vector."""
    z = spot_of(way)
    x = _unit(_cross((1.0, 0.0, 0.0) if abs(z[0]) < 0.9 else (0.0, 1.0, 0.0), z))
    return np.eye(3) if x is None else np.array((x, _cross(z, x), z)).T


def placed_at(frame: Vectors, at: Vectors) -> Vectors:
    """The matrix, shape (4, 4), of axes, shape (3, 3), at a place (m)."""
    found = np.eye(4)
    found[:3, :3], found[:3, 3] = frame, at
    return found


def spot_of(at: Vectors) -> Spot:
    """A place as three plain numbers (m)."""
    return float(at[0]), float(at[1]), float(at[2])
