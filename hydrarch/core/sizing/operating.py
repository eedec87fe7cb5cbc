"""A pump against its system: both curves and where they cross, in each scenario."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace

import numpy as np

from hydrarch.core.base.errors import HydrarchError
from hydrarch.core.base.units import show
from hydrarch.core.catalogue.curves import Curve
from hydrarch.core.catalogue.waters import use_of
from hydrarch.core.components.basins import Basin, InWall
from hydrarch.core.components.sources import Lifter
from hydrarch.core.hydraulics.flow import FlowModel, models
from hydrarch.core.hydraulics.friction import Friction
from hydrarch.core.hydraulics.network import Network
from hydrarch.core.hydraulics.regulated import solve_network
from hydrarch.core.hydraulics.round_flow import loops
from hydrarch.core.hydraulics.water import Water, water
from hydrarch.core.plan.document import Plan
from hydrarch.core.site.layout import Layout
from hydrarch.core.site.systems import System
from hydrarch.core.sizing.select import Sizes

__all__ = ["Operating", "SystemCurve", "operating"]

_POINTS = 9
_COLD, _SUMMER = 277.15, 298.15


@dataclass(frozen=True, slots=True)
class SystemCurve:
    """One scenario, or one season of it where water goes round: head (m) the system asks at flows (m³/s), and the flow
    and head the pump settles to.
    """

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

    The system's curve is found by making the pump stronger and weaker and reading where it settles each time. The
    seasons of water that goes round are told by Darcy and Weisbach's friction, the one that knows how thick cold water
    is.
    """
    what = plan.by_id[point].what
    if not isinstance(what, Lifter):
        raise HydrarchError(f"{plan.by_id[point].label} is no pump: choose one")
    pipes = sizes.pipes()
    systems = []
    mine = next((s for s in loops(plan, lay) if point in s.points), None)
    for model in models(plan, lay):
        model.try_pipes(pipes, dict(minor))
        sized = model.sized(pipes, minor)
        waters: list[tuple[str, Water, Friction]] = [("", model.wet, plan.conditions.friction)]
        if mine is not None:
            waters += [
                (f", water at {show(t, 'temperature', plan.units)}", water(t), "darcy-weisbach")
                for t in _seasons(plan, mine)
            ]
        for season, wet, friction in waters:
            now = _settles(model, sized, point, 1.0, wet, friction)
            if now is None:
                continue
            found = [_settles(model, sized, point, k, wet, friction) for k in np.linspace(0.35, 1.35, _POINTS)]
            points = sorted({(round(f[0], 9), f[1]) for f in found if f is not None and f[0] >= 0})
            systems.append(SystemCurve(f"{model.scenario.name}{season}", tuple(points), *now))
    return Operating(plan.by_id[point].label, what.running(), tuple(systems))


def _seasons(plan: Plan, system: System) -> tuple[float, float]:
    """The coldest and warmest (K) that water goes round in a loop: near freezing, and as warm as its use has it or a
    pond in summer.
    """
    homes = {
        p.waters.basin for n in system.points if isinstance(p := plan.by_id[n].what, InWall) and p.waters is not None
    }
    uses = [use_of(what.use) for h in homes if isinstance(what := plan.by_id[h].what, Basin)]
    return _COLD, max((u.most_warm or _SUMMER for u in uses), default=_SUMMER)


def _settles(
    model: FlowModel, network: Network, point: str, strength: float, wet: Water, friction: Friction
) -> tuple[float, float] | None:
    """Flow and head the pump settles to when all its heads are `strength` times what they are; None where it
    does not.
    """
    pumps = tuple(
        replace(p, curve=tuple((q, h * strength) for q, h in p.curve)) if model.acting.pump_at.get(p.id) == point else p
        for p in network.pumps
    )
    try:
        found = solve_network(replace(network, pumps=pumps), wet, friction)
    except HydrarchError:
        return None
    pump = next((p for p in pumps if model.acting.pump_at.get(p.id) == point), None)
    if pump is None:
        return None
    return found.flows[pump.id], found.heads[pump.stop] - found.heads[pump.start]
