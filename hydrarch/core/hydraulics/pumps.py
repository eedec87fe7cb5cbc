"""Pumps by their curves: other speeds, series and parallel, a curve through three points, suction and cavitation."""

from __future__ import annotations

from collections.abc import Sequence
from math import exp

import numpy as np
from scipy.interpolate import PchipInterpolator

from hydrarch.core.base.errors import OutOfRange
from hydrarch.core.base.units import STANDARD_GRAVITY, check_range
from hydrarch.core.catalogue.curves import Curve, at_speed, check_curve, three_point_curve
from hydrarch.core.hydraulics.water import water

__all__ = [
    "Curve",
    "air_pressure",
    "at_speed",
    "check_curve",
    "flow_at",
    "head_at",
    "in_parallel",
    "in_series",
    "npsh_available",
    "power",
    "three_point_curve",
    "vapour_pressure",
]


def head_at(curve: Curve, flow: float) -> float:
    """Head (m) at `flow` (m³/s), smooth and monotone between the points; raises `OutOfRange` beyond them."""
    check_range("flow on the pump curve", flow, curve[0][0], curve[-1][0] + 1e-12, "flow")
    return float(PchipInterpolator([q for q, _ in curve], [h for _, h in curve])(flow))


def flow_at(curve: Curve, head: float) -> float:
    """Flow (m³/s) against a head (m), straight between the points; none above the curve, its last flow below it.

    >>> flow_at(((0.0, 9.0), (0.001, 7.0), (0.003, 3.0)), 5.0)
    0.002
    """
    flows, heads = np.array(curve).T
    return float(np.interp(-head, -heads, flows)) if head < heads[0] else 0.0


def in_series(curves: Sequence[Curve]) -> Curve:
    """Pumps one behind the other: heads add at the same flow, up to the smallest one's last flow."""
    top = min(c[-1][0] for c in curves)
    flows = sorted({q for c in curves for q, _ in c if q <= top} | {top})
    return check_curve([(q, sum(head_at(c, max(q, c[0][0])) for c in curves)) for q in flows])


def in_parallel(curves: Sequence[Curve]) -> Curve:
    """Pumps side by side, each behind its check valve: flows add at the same head.

    A pump below that head gives nothing.
    """
    heads = sorted({h for c in curves for _, h in c}, reverse=True)
    inverse = [PchipInterpolator([h for _, h in reversed(c)], [q for q, _ in reversed(c)]) for c in curves]

    def flow(c: Curve, f: PchipInterpolator, head: float) -> float:
        return 0.0 if head >= c[0][1] else c[-1][0] if head <= c[-1][1] else float(f(head))

    floor = max(c[-1][1] for c in curves)
    points = [(sum(flow(c, f, h) for c, f in zip(curves, inverse, strict=True)), h) for h in heads if h >= floor]
    return check_curve([p for i, p in enumerate(points) if i == 0 or p[0] > points[i - 1][0]])


def power(flow: float, head: float, efficiency: float, density: float = 998.0) -> float:
    """Power (W) at the shaft or plug for `flow` (m³/s) against `head` (m): ρ g Q H / η, η above 0 and up to 1."""
    if not 0 < efficiency <= 1:
        raise OutOfRange("efficiency", efficiency, 0, 1)
    return density * STANDARD_GRAVITY * flow * head / efficiency


def vapour_pressure(temperature: float) -> float:
    """Pressure (Pa) at which water of `temperature` (K, 273 to 373) boils.

    Source: Buck 1981, form of 1996, from memory.

    >>> round(vapour_pressure(293.15))
    2338
    """
    t = temperature - 273.15
    check_range("water temperature", temperature, 273.15, 373.15, "temperature")
    return 611.21 * exp((18.678 - t / 234.5) * t / (257.14 + t))


def air_pressure(altitude: float) -> float:
    """Air pressure (Pa) at `altitude` (m, −500 to 9,000) in the standard atmosphere: 101325 (1 − 2.25577e-5
    z)^5.25588.
    """
    check_range("altitude", altitude, -500, 9000, "level")
    return float(101325.0 * (1 - 2.25577e-5 * altitude) ** 5.25588)


def npsh_available(inlet_pressure: float, temperature: float, altitude: float = 0.0) -> float:
    """Net positive suction head (m) with gauge pressure `inlet_pressure` (Pa) at the pump's inlet: (p + p_air −
    p_vapour)/γ.
    """
    return (inlet_pressure + air_pressure(altitude) - vapour_pressure(temperature)) / water(temperature).weight
