"""Drains that run part full: Manning's formula, depth and velocity, and whether they keep themselves clean."""

from __future__ import annotations

from dataclasses import dataclass
from math import acos, pi, sin, sqrt

from scipy.optimize import brentq

from hydrarch.core.base.errors import HydrarchError, OutOfRange
from hydrarch.core.base.units import System, check_range, show
from hydrarch.core.catalogue.pipes import Pipe, series

__all__ = ["PartFull", "SELF_CLEANSING", "manning_flow", "most_flow", "part_full"]

SELF_CLEANSING = 0.6
"""Velocity (m/s) at which a drain carries its own dirt along: about 2 ft/s, common practice."""
_FULLEST = 0.938  # depth over diameter at which a round pipe carries most


@dataclass(frozen=True, slots=True)
class PartFull:
    """A drain in use: `depth` of water over bore, velocity (m/s), `full` the flow it carries just full (m³/s).

    `cleans` is whether the velocity reaches 0.6 m/s; `fits` whether it carries the flow at all.
    """

    depth: float
    velocity: float
    full: float
    full_velocity: float
    cleans: bool
    fits: bool
    says: str


def manning_flow(bore: float, slope: float, n: float, depth: float = 1.0) -> tuple[float, float]:
    """Flow (m³/s) and velocity (m/s) in a round pipe of `bore` (m) at `depth` (of 1) on `slope` (m/m), roughness `n`.

    v = R^(2/3) S^(1/2) / n with R the area over the wetted edge. Source: Manning 1891; part-full geometry.

    >>> round(manning_flow(1.0, 0.01, 0.013)[0], 2)
    2.4
    """
    if not 0 < depth <= 1:
        raise OutOfRange("depth of water", depth, 0, 1, "of the bore")
    if slope <= 0:
        raise HydrarchError("the drain does not fall: lower its far end")
    angle = 2 * acos(1 - 2 * depth)
    area = bore**2 / 8 * (angle - sin(angle))
    radius = area / (bore * angle / 2)
    v = radius ** (2 / 3) * sqrt(slope) / n
    return area * v, v


def most_flow(item: Pipe, slope: float, left: float = 1.0) -> float:
    """The most (m³/s) a drain laid to `slope` (m/m) carries before it backs up, with this share of its bore `left`
    (above 0, up to 1). Raises `HydrarchError` for a drain that does not fall.
    """
    return manning_flow(item.bore * left, slope, series(item.series).manning_n, _FULLEST)[0]


def part_full(item: Pipe, flow: float, slope: float, units: System = "metric") -> PartFull:
    """How `flow` (m³/s) runs in a drain laid to `slope` (m/m).

    Raises `HydrarchError` for a drain that does not fall.
    """
    check_range("flow", flow, 1e-9, 100, "flow")
    n, bore = series(item.series).manning_n, item.bore
    full, full_v = manning_flow(bore, slope, n)
    most = most_flow(item, slope)
    if flow > most:
        says = f"too small: it carries {show(full, 'flow', units)} full; take a larger size or more fall"
        return PartFull(1.0, flow / (pi * bore**2 / 4), full, full_v, True, False, says)
    depth = brentq(lambda y: manning_flow(bore, slope, n, y)[0] - flow, 1e-6, _FULLEST, xtol=1e-10)
    v = manning_flow(bore, slope, n, depth)[1]
    cleans = round(v, 2) >= SELF_CLEANSING  # a figure of experience: no finer than it is told
    says = "it keeps itself clean" if cleans else "too slow to carry dirt: more fall, or a smaller pipe"
    return PartFull(float(depth), v, full, full_v, cleans, True, says)
