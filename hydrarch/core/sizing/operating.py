"""A pump against its system: both curves and where they cross, in each scenario."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace

import numpy as np

from hydrarch.core.catalogue.curves import Curve
from hydrarch.core.errors import HydrarchError
from hydrarch.core.hydraulics.flow import Model, models
from hydrarch.core.hydraulics.network import Network
from hydrarch.core.hydraulics.regulated import solve_network
from hydrarch.core.kinds.sources import Lifter
from hydrarch.core.layout import Layout
from hydrarch.core.plan import Plan
from hydrarch.core.sizing.select import Sizes

__all__ = ["Operating", "SystemCurve", "operating"]

_POINTS = 9


@dataclass(frozen=True, slots=True)
class SystemCurve:
    """One scenario: head (m) the system asks at flows (m³/s), and the flow and head the pump settles to."""

    scenario: str
    curve: Curve
    flow: float
    head: float


@dataclass(frozen=True, slots=True)
class Operating:
    """A pump's curve and the systems it works against."""

    name: str
    pump: Curve
    systems: tuple[SystemCurve, ...]


def operating(plan: Plan, lay: Layout, sizes: Sizes, minor: Mapping[str, float], point: str) -> Operating:
    """The curves of the pump at `point`. Raises `HydrarchError` where no pump stands there.

    The system's curve is found by making the pump stronger and weaker and reading where it settles each time.
    """
    what = plan.point(point).what
    if not isinstance(what, Lifter):
        raise HydrarchError(f"{plan.point(point).label} is no pump: choose one")
    pipes = sizes.pipes()
    systems = []
    for model in models(plan, lay):
        model.try_pipes(pipes, dict(minor))
        sized = model.sized(pipes, minor)
        found = [_settles(model, sized, point, k) for k in np.linspace(0.35, 1.35, _POINTS)]
        now = _settles(model, sized, point, 1.0)
        points = sorted({(round(f[0], 9), f[1]) for f in found if f is not None and f[0] >= 0})
        if now is not None:
            systems.append(SystemCurve(model.scenario.name, tuple(points), *now))
    return Operating(plan.point(point).label, what.running(), tuple(systems))


def _settles(model: Model, network: Network, point: str, strength: float) -> tuple[float, float] | None:
    """Flow and head the pump settles to when all its heads are `strength` times what they are; None where it does not."""
    pumps = tuple(
        replace(p, curve=tuple((q, h * strength) for q, h in p.curve)) if model.acting.pump_at.get(p.id) == point else p
        for p in network.pumps
    )
    try:
        found = solve_network(replace(network, pumps=pumps), model.wet, model.plan.conditions.friction)
    except HydrarchError:
        return None
    pump = next((p for p in pumps if model.acting.pump_at.get(p.id) == point), None)
    if pump is None:
        return None
    return found.flows[pump.id], found.heads[pump.stop] - found.heads[pump.start]
