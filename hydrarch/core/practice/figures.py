"""What a fault costs, in figures: what is left of the weld, of the bore, of the pipe's strength, and how far it leads
off.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from math import pi, tan

from hydrarch.core.base.units import PSI
from hydrarch.core.catalogue.fittings import insert_loss_coefficient
from hydrarch.core.practice.flaws import CLAMP_BAND, JointShape

__all__ = ["FlawFigure", "figures"]

BOND = 250 * PSI
"""Lap shear strength of a cemented joint after two hours (Pa): the least that ASTM D2564 asks, from memory."""
_FRICTION = 0.02
"""Darcy friction factor for the length of straight pipe that loses as much; usual value for small plastic pipe."""


@dataclass(frozen=True, slots=True)
class FlawFigure:
    """One figure: what it is, its value in SI, the quantity it is told as, and where it comes from."""

    what: str
    value: float
    quantity: str
    source: str


def figures(flaw: str, shape: JointShape, dose: float) -> tuple[FlawFigure, ...]:
    """What a dose of a fault does to a joint; empty where nothing is computed."""
    found = _FIGURES.get(flaw)
    return () if found is None else found(shape, dose)


def _short(shape: JointShape, dose: float) -> tuple[FlawFigure, ...]:
    left = max(1 - dose, 0.0)
    engaged = FlawFigure("Pipe inside the other part", left * shape.depth, "takeoff", "drawn dimensions")
    if shape.method != "solvent weld":
        return (engaged,)
    return (engaged, _share(left), _weld(shape, left))


def _channel(shape: JointShape, dose: float) -> tuple[FlawFigure, ...]:
    left = max(1 - dose, 0.0)
    return (_share(left), _weld(shape, left))


def _share(left: float) -> FlawFigure:
    return FlawFigure("Share of the weld that was made", left, "humidity", "drawn dimensions")


def _weld(shape: JointShape, share: float) -> FlawFigure:
    """The pressure at which the end thrust equals the shear strength of the weld that is left, two hours old. It leaks
    at far less where water finds a way through.
    """
    area = pi * shape.outside * shape.depth * share
    pressure = BOND * area / (pi * shape.outside**2 / 4)
    source = "250 psi after 2 h, the least of ASTM D2564, from memory; thrust on a dead end by p·A"
    return FlawFigure("Pushed apart, two hours old, if it does not leak before", pressure, "pressure", source)


def _narrowed(shape: JointShape, dose: float) -> tuple[FlawFigure, ...]:
    left = shape.bore * (1 - dose)
    k = insert_loss_coefficient(shape.bore, left)
    source = "contraction after Crane TP-410 and Borda-Carnot; f = 0.02"
    return (
        FlawFigure("Bore left", left, "diameter", "drawn dimensions"),
        FlawFigure("Straight pipe that loses as much", k * shape.bore / _FRICTION, "length", source),
    )


def _burr(shape: JointShape, dose: float) -> tuple[FlawFigure, ...]:
    return _narrowed(shape, 2 * dose / shape.bore)


def _angle(_: JointShape, dose: float) -> tuple[FlawFigure, ...]:
    return (FlawFigure("Off the line one metre (3.3 ft) on", tan(dose), "takeoff", "tangent of the angle"),)


def _oval(_: JointShape, dose: float) -> tuple[FlawFigure, ...]:
    left = ((1 - dose) / (1 + dose) ** 2) ** 3
    return (FlawFigure("Strength against outside load that is left", left, "humidity", "ovality factor of ASTM F1216"),)


def _off(shape: JointShape, dose: float) -> tuple[FlawFigure, ...]:
    return (FlawFigure("Pipe inside on the short side", (0.9 - dose) * shape.depth, "takeoff", "drawn dimensions"),)


def _crossed(shape: JointShape, dose: float) -> tuple[FlawFigure, ...]:
    return (
        FlawFigure("One side deeper than the other", shape.outside * tan(dose), "diameter", "tangent of the angle"),
    )


def _clamp(shape: JointShape, dose: float) -> tuple[FlawFigure, ...]:
    held = CLAMP_BAND * shape.depth * max(1 - dose, 0.0)
    return (FlawFigure("Band that still presses on the pipe", held, "takeoff", "drawn dimensions"),)


_FIGURES: Mapping[str, Callable[[JointShape, float], tuple[FlawFigure, ...]]] = {
    "not-home": _short,
    "dry-channel": _channel,
    "closed-bore": _narrowed,
    "burr": _burr,
    "wrong-angle": _angle,
    "oval": _oval,
    "off-mark": _off,
    "crossed": _crossed,
    "clamp-off": _clamp,
}
