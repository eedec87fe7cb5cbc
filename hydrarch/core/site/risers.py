"""Risers: the upright pipe from a line to an outlet that stands above it."""

from __future__ import annotations

from hydrarch.core.base.errors import Unknown
from hydrarch.core.base.units import nominal_diameter
from hydrarch.core.catalogue.fittings import End, end
from hydrarch.core.catalogue.markets import market
from hydrarch.core.catalogue.pipes import Pipe, pipe
from hydrarch.core.components.base import PortSpec
from hydrarch.core.components.outlets import Hydrant, Outlet
from hydrarch.core.plan.document import Plan, Point

__all__ = ["inlet_end", "mouth_level", "riser_length", "riser_pipe", "riser_thread"]

_SIZES = {15: "1/2", 20: "3/4", 25: "1", 32: "1-1/4", 40: "1-1/2", 50: "2"}
_THREADS = ("npt", "bsp")
_USUAL = "3/4"


def riser_length(point: Point) -> float:
    """Length (m) of the upright pipe from a buried line to an outlet; 0 where the outlet sits on the line."""
    return max(0.0, point.depth + point.what.height) if isinstance(point.what, Outlet) and point.kind.stands else 0.0


def mouth_level(point: Point) -> float:
    """Elevation (m) at which an outlet's water leaves: on its riser, or on the line it ends."""
    return point.ground + point.what.height if isinstance(point.what, Outlet) and point.kind.stands else point.level


def inlet_end(plan: Plan, point: Point) -> str | None:
    """The end (by name) of an outlet's inlet; None where it is left to Hydrarch."""
    return plan.end_at(point, _inlet(point))


def _inlet(point: Point) -> PortSpec:
    if not isinstance(point.what, Outlet):
        raise TypeError(f"{point.id} is not an outlet")
    return point.kind.ports_of(point.what)[0]


def riser_thread(plan: Plan, point: Point) -> End:
    """The male thread both ends of a riser have: of the inlet's own size, in its own thread or the shop's."""
    name = inlet_end(plan, point)
    inlet = end(name) if name else None
    size = _USUAL if inlet is None else _SIZES.get(nominal_diameter(inlet.size), _USUAL)
    system = inlet.system if inlet is not None and inlet.system in _THREADS else market(plan.conditions.market).thread
    return end(f"{system}:male:{size}")


def riser_pipe(plan: Plan, point: Point) -> Pipe:
    """The pipe risers are made of, of the size of the outlet's inlet: threaded schedule 80, or galvanized steel where a
    hydrant is pulled at.
    """
    made = "galv40" if isinstance(point.what, Hydrant) else "pvc80"
    try:
        return pipe(made, riser_thread(plan, point).size)
    except Unknown:
        return pipe(made, _USUAL)
