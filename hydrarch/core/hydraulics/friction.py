"""Friction in full pipes. Flows in m³/s, lengths and diameters in m, heads in m of the water flowing."""

from __future__ import annotations

from typing import TypeAlias

import numpy as np
from numpy.typing import NDArray

from hydrarch.core.base.units import STANDARD_GRAVITY

__all__ = [
    "HAZEN_WILLIAMS_EXPONENT",
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
