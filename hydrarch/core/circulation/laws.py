"""The laws of open water: weirs, holes, standpipes, evaporation, warming. SI throughout.

Sources stand at each; what is from memory says so.
"""

from __future__ import annotations

from math import pi, sqrt

from hydrarch.core.base.units import STANDARD_GRAVITY
from hydrarch.core.coverage.need import vapour_kpa

__all__ = ["air_gap", "evaporation", "hole", "losing", "saturation", "standpipe", "standpipe_head", "warming"]

_WEIR = 1.84
"""m^0.5/s, Francis (1883) for a sharp crest, here on the rim of an upright pipe."""
_HOLE = 0.61
"""Discharge coefficient of a sharp round hole: handbooks of hydraulics, from memory."""
_HEAT, _EVAPORATES = 4186.0, 2.43e6  # J/(kg·K) of water, J/kg to evaporate it near 30 °C
_STILL = 0.5  # share of an occupied pool's evaporation from one that lies still: ASHRAE activity factors, from memory
_COOLS = 10.0  # W/(m²·K) of a still surface to air, convection and radiation together: from memory
_LID = 1.5  # W/(m²·K) through a lid of a tub, some 50 mm of foam that no longer is new: from memory


def standpipe(head: float, bore: float) -> float:
    """What an upright open pipe of `bore` (m) takes (m³/s) with water standing `head` (m) above its rim.

    Over its rim as a weir, Q = 1.84 π d h^1.5, while shallow; once it drowns as a hole, Q = 0.61 A √(2 g h); the lesser
    of the two.

    >>> round(standpipe(0.010, 0.048) * 60e3, 2)
    16.65
    """
    if head <= 0:
        return 0.0
    return float(min(_WEIR * pi * bore * head**1.5, hole(head, bore)))


def standpipe_head(flow: float, bore: float) -> float:
    """How high (m) water stands above the rim of an upright open pipe that takes `flow` (m³/s)."""
    if flow <= 0:
        return 0.0
    drowned = (flow / (_HOLE * pi * bore**2 / 4)) ** 2 / (2 * STANDARD_GRAVITY)
    return float(max((flow / (_WEIR * pi * bore)) ** (2 / 3), drowned))


def hole(head: float, bore: float) -> float:
    """Flow (m³/s) through a sharp hole of `bore` (m) under a head (m): 0.61 A √(2 g h).

    >>> round(hole(0.3, 0.010) * 60e3, 3)
    6.973
    """
    return _HOLE * pi * bore**2 / 4 * sqrt(2 * STANDARD_GRAVITY * head) if head > 0 else 0.0


def saturation(temperature: float) -> float:
    """Pressure of water vapour at saturation (Pa): Tetens (1930), as FAO-56 equation 11 has it.

    >>> round(saturation(298.15))
    3168
    """
    return 1e3 * vapour_kpa(temperature - 273.15)


def evaporation(area: float, water: float, air: float, humidity: float) -> float:
    """What a still surface of `area` (m²) gives off (m³/s), water and air in K: ASHRAE's 4e-5 kg/(s·m²·kPa) for an
    occupied pool times 0.5 where nobody stirs it, both from memory; nothing below zero.
    """
    return max(0.0, _STILL * 4e-5 * area * (saturation(water) - humidity * saturation(air)) / 1e3 / 1000.0)


def losing(area: float, water: float, air: float, humidity: float, lid: bool) -> float:
    """Heat (W) a body gives off at its surface: what evaporates and what the air takes; under a lid, what goes through
    that.
    """
    if lid:
        return max(0.0, _LID * area * (water - air))
    return max(0.0, evaporation(area, water, air, humidity) * 1000 * _EVAPORATES + _COOLS * area * (water - air))


def warming(volume: float, cold: float, warm: float, power: float, lost: float = 0.0) -> float | None:
    """Seconds to warm `volume` (m³) from `cold` to `warm` (K) with `power` (W), `lost` (W) on the way at the mean; None
    where it never gets there.

    >>> round(warming(1.2, 285.15, 311.15, 6000.0) / 3600, 2)
    6.05
    """
    left = power - lost
    return None if left <= 0 else max(0.0, volume * 1000 * _HEAT * (warm - cold) / left)


def air_gap(opening: float) -> float:
    """The least (m) a spout of that bore (m) stands above the rim it fills: twice the opening, an inch at the least.

    Source: ASME A112.1.2, from memory.

    >>> round(air_gap(0.01905), 4)
    0.0381
    """
    return max(2 * opening, 0.0254)
