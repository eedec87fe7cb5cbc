"""Friction in full pipes. Flows in m³/s, lengths and diameters in m, heads in m of the water flowing."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Literal, TypeAlias

import numpy as np
from numpy.typing import NDArray

from hydrarch.core.base.units import STANDARD_GRAVITY

__all__ = [
    "HAZEN_WILLIAMS_EXPONENT",
    "METHODS",
    "Friction",
    "FrictionMethod",
    "friction_factor",
    "friction_factor_colebrook",
    "hazen_williams_resistance",
    "head_loss_darcy_weisbach",
    "head_loss_hazen_williams",
    "reynolds_number",
    "velocity",
]

Array: TypeAlias = NDArray[np.float64]
Number: TypeAlias = float | Array

HAZEN_WILLIAMS_EXPONENT = 1.852
LAMINAR_BELOW = 2000.0
TURBULENT_ABOVE = 4000.0


def velocity(flow: Number, bore: Number) -> Number:
    """Mean velocity (m/s) of `flow` in a full bore: v = Q / (π d²/4)."""
    return flow / (np.pi * np.square(bore) / 4)


def hazen_williams_resistance(length: Number, bore: Number, c: Number) -> Number:
    """R in h = r·Q^1.852: r = 10.67 L / (C^1.852 d^4.8704), SI.

    Source: Williams and Hazen, in the SI form printed in hydraulics handbooks; for water near room temperature in
    turbulent flow, C 60 to 160.
    """
    return 10.67 * length / (np.power(c, HAZEN_WILLIAMS_EXPONENT) * np.power(bore, 4.8704))


def head_loss_hazen_williams(flow: float, length: float, bore: float, c: float) -> float:
    """Head loss (m) over `length` by Hazen-Williams.

    >>> feet = head_loss_hazen_williams(25 * 3.785411784e-3 / 60, 30.48, 1.049 * 0.0254, 150) / 0.3048
    >>> round(feet, 1)
    30.0
    """
    return float(hazen_williams_resistance(length, bore, c) * abs(flow) ** HAZEN_WILLIAMS_EXPONENT * np.sign(flow))


def reynolds_number(flow: Number, bore: Number, density: float, viscosity: float) -> Number:
    """Re = ρ v d / μ."""
    return density * np.abs(velocity(flow, bore)) * bore / viscosity


def friction_factor_colebrook(reynolds: Number, relative_roughness: Number) -> Number:
    """Darcy friction factor of turbulent flow, Re above about 4000, to 1e-12 of Colebrook and White (1939).

    1/√f = −2 log10(ε/(3.7 d) + 2.51/(Re √f)), by Newton's method from Haaland's explicit form (1983).
    """
    re, k = np.maximum(reynolds, 1.0), np.asarray(relative_roughness) / 3.7
    x = -1.8 * np.log10(np.power(k, 1.11) + 6.9 / re)
    for _ in range(3):
        inside = k + 2.51 * x / re
        step = (x + 2 * np.log10(inside)) / (1 + 2 / np.log(10) * 2.51 / (re * inside))
        x = x - step
    result = 1 / np.square(x)
    return float(result) if np.ndim(result) == 0 else result


def friction_factor(reynolds: Number, relative_roughness: Number) -> Number:
    """Darcy friction factor at any Re: 64/Re below 2000, Colebrook above 4000, a straight line between.

    In between the flow is unsteady and no formula is right; the line keeps the solver's curve without a jump.
    """
    re = np.maximum(np.asarray(reynolds, dtype=float), 1e-12)
    laminar = 64 / re
    turbulent = friction_factor_colebrook(np.maximum(re, TURBULENT_ABOVE), relative_roughness)
    share = (re - LAMINAR_BELOW) / (TURBULENT_ABOVE - LAMINAR_BELOW)
    between = 64 / LAMINAR_BELOW + share * (turbulent - 64 / LAMINAR_BELOW)
    result = np.where(re <= LAMINAR_BELOW, laminar, np.where(re >= TURBULENT_ABOVE, turbulent, between))
    return float(result) if np.ndim(result) == 0 else result


def head_loss_darcy_weisbach(
    flow: Number, length: Number, bore: Number, roughness: Number, density: float, viscosity: float
) -> Number:
    """Head loss (m) over `length` by Darcy-Weisbach: h = f L/d v²/(2 g), signed as the flow is."""
    re = reynolds_number(flow, bore, density, viscosity)
    v = velocity(flow, bore)
    return friction_factor(re, np.asarray(roughness) / bore) * length / bore * v * np.abs(v) / (2 * STANDARD_GRAVITY)


Friction = Literal["hazen-williams", "darcy-weisbach"]


@dataclass(frozen=True, slots=True)
class FrictionMethod:
    """A way to work out friction: its loss, the power of flow the loss goes by, and where it is known to hold.

    `loss` takes flow (m³/s, one sign), length and bore (m), the pipe's Hazen-Williams constant and roughness (m), and
    the water's density (kg/m³) and viscosity (Pa·s), each a number or an array, and returns head (m). `power_law` gives
    r and n of h = r·q^n where the loss is such a law, from length, bore and constant; None where it is not. `speeds`
    (m/s) and `bores` (m) are the range in which it is used.
    """

    name: Friction
    title: str
    formula: str
    source: str
    exponent: float
    loss: Callable[[Number, Number, Number, Number, Number, float, float], Number]
    power_law: Callable[[Number, Number, Number], Number] | None
    speeds: tuple[float, float]
    bores: tuple[float, float]


def _by_hazen_williams(
    flow: Number, length: Number, bore: Number, c: Number, roughness: Number, density: float, viscosity: float
) -> Number:
    return hazen_williams_resistance(length, bore, c) * np.power(flow, HAZEN_WILLIAMS_EXPONENT)


def _by_darcy_weisbach(
    flow: Number, length: Number, bore: Number, c: Number, roughness: Number, density: float, viscosity: float
) -> Number:
    return head_loss_darcy_weisbach(flow, length, bore, roughness, density, viscosity)


DARCY_EXPONENT = 1.75
"""The power of flow that friction in smooth pipe goes by (Blasius 1913), used to share a loss along a row of emitters.
"""
METHODS: dict[Friction, FrictionMethod] = {
    m.name: m
    for m in (
        FrictionMethod(
            name="hazen-williams",
            title="Hazen-Williams",
            formula="h = 10.67 L Q^1.852 / (C^1.852 d^4.8704)",
            source="Hazen-Williams",
            exponent=HAZEN_WILLIAMS_EXPONENT,
            loss=_by_hazen_williams,
            power_law=hazen_williams_resistance,
            speeds=(0.0, 3.0),
            bores=(0.01, 2.0),
        ),
        FrictionMethod(
            name="darcy-weisbach",
            title="Darcy-Weisbach",
            formula="h = f (L/d) v²/2g; f by Colebrook, 64/Re below Re 2000",
            source="Darcy-Weisbach; Colebrook and White 1939",
            exponent=DARCY_EXPONENT,
            loss=_by_darcy_weisbach,
            power_law=None,
            speeds=(0.0, 20.0),
            bores=(1e-3, 5.0),
        ),
    )
}
"""The methods of friction by name: whoever works out a loss takes it from here (ranges: handbook practice, from
memory)."""
