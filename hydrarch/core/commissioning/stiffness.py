"""How a length of line full of water answers to more water and to warmth: what a pascal and a kelvin are worth
in it.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from math import ceil, pi

from hydrarch.core.base.errors import HydrarchError
from hydrarch.core.base.units import check_range
from hydrarch.core.catalogue.pipes import Pipe, series
from hydrarch.core.hydraulics.surge import elasticity, stretches_as
from hydrarch.core.hydraulics.water import density_kell
from hydrarch.core.site.layout import Layout

__all__ = [
    "ALLOWED",
    "GAUGE_ERROR",
    "Stiffness",
    "allowed_fall",
    "compressibility",
    "expansion",
    "least_hold",
    "pipe_compliance",
    "stiffness",
]

LEAST_HOLD = 15 * 60.0  # s; from memory
ALLOWED = 0.03
"""Share of the test pressure that may be lost: acceptance figures run from 2 to 5 %, from memory."""
GAUGE_ERROR = 2e3
"""What a usual gauge may be wrong by (Pa); from memory."""
_DRIP = 5e-8  # m³/s: a drip a second, at 20 drops to the millilitre; common practice


def compressibility(temperature: float) -> float:
    """Isothermal compressibility of water (1/Pa) at about atmospheric pressure, 273 to 373 K. Source: Kell 1975."""
    t = temperature - 273.15
    check_range("water temperature", temperature, 273.15, 373.15, "temperature")
    over = 50.88496 + t * (0.6163813 + t * (1.459187e-3 + t * (20.08438e-6 + t * (-58.47727e-9 + t * 410.4110e-12))))
    return over / (1 + 19.67348e-3 * t) * 1e-11


def expansion(temperature: float) -> float:
    """Volume expansion of water (1/K): −(1/ρ) dρ/dT of the Kell density, 274 to 372 K."""
    step = 0.05
    return (
        -(density_kell(temperature + step) - density_kell(temperature - step)) / (2 * step) / density_kell(temperature)
    )


def pipe_compliance(outside: float, wall: float, modulus: float, poisson: float) -> float:
    """Share of its volume a free pipe gains for a pascal (1/Pa), by Lamé: C = [3(1 − 2ν) + 2(1 + ν)k²] / (E (k² − 1)),
    k = D/d.

    Lengths in m, modulus in Pa. Thin-wall formulas are 12 to 40 % too stiff for these plastics.
    """
    if not 0 < 2 * wall < outside:
        raise HydrarchError("two walls leave no bore")
    k2 = (outside / (outside - 2 * wall)) ** 2
    return (3 * (1 - 2 * poisson) + 2 * (1 + poisson) * k2) / (modulus * (k2 - 1))


@dataclass(frozen=True, slots=True)
class Stiffness:
    """A section full of water: its volume (m³), the water a pascal is worth (m³/Pa), and what a kelvin does to pressure
    (Pa/K).
    """

    volume: float
    per_pascal: float
    per_kelvin: float


def stiffness(lay: Layout, pipes: Mapping[str, Pipe], runs: Iterable[str], temperature: float) -> Stiffness:
    """How runs answer to water and warmth together; pipe and water at one `temperature` (K).

    Without pipe there is nothing to fill: all are 0.
    """
    volume = worth = warmed = 0.0
    for run in runs:
        if lay.lines[run].coupled:
            continue
        item = pipes[run]
        family = series(item.series)
        modulus, poisson = elasticity(stretches_as(item.series))
        v = pi / 4 * item.bore**2 * lay.lines[run].length
        volume += v
        worth += v * (
            compressibility(temperature)
            + pipe_compliance(item.outside, (item.outside - item.bore) / 2, modulus, poisson)
        )
        warmed += v * (expansion(temperature) - 3 * family.expansion)
    return Stiffness(volume, worth, warmed / worth if worth > 0 else 0.0)


def allowed_fall(test: float, gauge_error: float = GAUGE_ERROR) -> float:
    """The fall (Pa) that passes: 3 % of the test pressure, and never less than twice the gauge's error (Pa)."""
    return max(ALLOWED * test, 2 * gauge_error)


def least_hold(full: Stiffness, test: float, gauge_error: float = GAUGE_ERROR) -> float:
    """How long (s), in whole minutes, a drip a second takes to bring the pressure down by twice what passes; a quarter
    of an hour at the least.
    """
    needed = max(LEAST_HOLD, 2 * allowed_fall(test, gauge_error) * full.per_pascal / _DRIP)
    return 60.0 * ceil(needed / 60.0 - 1e-9)
