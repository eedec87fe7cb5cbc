"""Curves of pumps as points, and what a change of speed does to them."""

from __future__ import annotations

from collections.abc import Sequence
from itertools import pairwise
from math import log
from typing import TypeAlias

from hydrarch.core.base.errors import HydrarchError, OutOfRange

__all__ = ["Curve", "at_speed", "check_curve", "running_curve", "three_point_curve"]

Curve: TypeAlias = tuple[tuple[float, float], ...]
"""Points of (flow in m³/s, head in m), flow growing and head falling."""


def check_curve(curve: Sequence[tuple[float, float]]) -> Curve:
    """The curve itself; raises `HydrarchError` unless it has three points or more, flows that grow and heads
    that fall.
    """
    if len(curve) < 3:
        raise HydrarchError("a pump curve needs three points or more: shut-off, duty and largest flow")
    for (q0, h0), (q1, h1) in pairwise(curve):
        if q1 <= q0:
            raise HydrarchError("the flows of a pump curve must grow from point to point")
        if h1 >= h0:
            raise HydrarchError("the heads of a pump curve must fall from point to point")
    return tuple(curve)


def at_speed(curve: Curve, ratio: float) -> Curve:
    """The curve at another speed, `ratio` of the one it was measured at: Q ∝ n, H ∝ n². Affinity laws; 0.3 to 1.5.

    >>> at_speed(((0.0, 50.0), (0.001, 40.0), (0.002, 20.0)), 0.5)[1]
    (0.0005, 10.0)
    """
    if not 0.3 <= ratio <= 1.5:
        raise OutOfRange("the speed of a pump", ratio, 0.3, 1.5, "of its rated speed")
    return tuple((q * ratio, h * ratio**2) for q, h in curve)


def three_point_curve(shut_off: float, duty: tuple[float, float], most: tuple[float, float], points: int = 9) -> Curve:
    """H = A − B·Q^C through shut-off head (m) and two points of (flow, head), as `points` points.

    The usual three-point form of pump curves; C = ln((A − h₂)/(A − h₁)) / ln(q₂/q₁). Raises `HydrarchError` unless
    heads fall.
    """
    (q1, h1), (q2, h2) = duty, most
    if not (0 < q1 < q2 and shut_off > h1 > h2):
        raise HydrarchError("from shut-off to duty to largest flow, flows must grow and heads fall")
    c = log((shut_off - h2) / (shut_off - h1)) / log(q2 / q1)
    b = (shut_off - h1) / q1**c
    return tuple((q, shut_off - b * q**c) for q in (q2 * n / (points - 1) for n in range(points)))


def running_curve(points: Sequence[tuple[float, float]], ratio: float) -> Curve:
    """A pump's curve at a speed: three points from shut-off up stand for the usual form through them, more for
    themselves.
    """
    curve = tuple(points)
    if len(curve) == 3 and curve[0][0] == 0:
        curve = three_point_curve(curve[0][1], curve[1], curve[2])
    return at_speed(curve, ratio)
