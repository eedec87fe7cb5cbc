"""Rain down from a roof and away into the ground: what a downpipe carries, what a soakaway must hold."""

from __future__ import annotations

from dataclasses import dataclass

from hydrarch.core.components.inlets import Soakaway

__all__ = ["FILLED", "SoakawayState", "downpipe_carries", "soakaway_state"]

FILLED = {"stone": 0.30, "crates": 0.95, "nothing: a lined ring": 1.0}
"""The share of a soakaway that water takes: clean stone 30 % and an open ring all of it as in BRE Digest 365, from
memory; crates as they are usually sold.
"""
HALF_EMPTY = 24 * 3600.0
"""s in which a full soakaway is to be half empty, ready for the next storm: BRE Digest 365, from memory."""
_ROUGH, _FULL = 0.25, 0.33
"""mm roughness, and the share of a downpipe's cross-section that water takes: EN 12056-3."""


def downpipe_carries(across: float) -> float:
    """What an upright rainwater pipe so wide inside (m) carries (m³/s), a third full: Wyly-Eaton as in EN 12056-3,
    Q = 2.5·10⁻⁴ k⁻⁰·¹⁶⁷ d²·⁶⁶⁷ f¹·⁶⁶⁷ with L/s and mm.

    >>> [round(downpipe_carries(d) * 1e3, 1) for d in (0.050, 0.080, 0.100)]
    [1.7, 5.9, 10.7]
    """
    litres = 2.5e-4 * _ROUGH**-0.167 * (across * 1e3) ** 2.667 * _FULL**1.667
    return float(litres * 1e-3)


@dataclass(frozen=True, slots=True)
class SoakawayState:
    """What a soakaway must hold and holds (m³), and how long (s) it takes to be half empty; None where its storm or its
    test is not told.
    """

    needs: float | None
    holds: float
    half_empty: float | None


def soakaway_state(what: Soakaway, area: float, other: float) -> SoakawayState:
    """How a soakaway does in its storm: `area` (m²) is what all runs off of, `other` (m³/s) what comes to it besides.

    Storage S = I − O, with I = A R, O = a f D: `a` is the area of its sides to half of its depth, its base is left out,
    as silt closes it. Source: BRE Digest 365.
    """
    ring = what.filled == "nothing: a lined ring"
    base = 3.141592653589793 * what.wide**2 / 4 if ring else what.wide * what.long
    sides = 3.141592653589793 * what.wide if ring else 2 * (what.wide + what.long)
    holds = base * what.deep * FILLED[what.filled]
    if what.storm_rain <= 0 or what.soaks <= 0:
        return SoakawayState(None, holds, None)
    wall = sides * what.deep / 2
    comes = area * what.storm_rain + other * what.storm
    needs = max(comes - wall * what.soaks * what.storm, 0.0)
    return SoakawayState(needs, holds, needs / 2 / (wall * what.soaks))
