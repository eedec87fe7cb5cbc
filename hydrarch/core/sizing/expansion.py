"""The tank that takes up what a heater's water grows by: how large it must be, and the air in it."""

from __future__ import annotations

from collections.abc import Iterator

from hydrarch.core.base.messages import tell
from hydrarch.core.base.problems import Problem, declare
from hydrarch.core.components.basins import Heater
from hydrarch.core.components.protection import ExpansionTank
from hydrarch.core.hydraulics.pumps import air_pressure
from hydrarch.core.hydraulics.static import static_pressure
from hydrarch.core.hydraulics.water import density_kell
from hydrarch.core.plan.document import Plan
from hydrarch.core.site.hot import lowest_relief, tanks_of
from hydrarch.core.site.layout import Layout
from hydrarch.core.site.warmth import heats

__all__ = ["expansion_problems", "grows_by", "tank_needed"]

declare("size", "expansion-small", "expansion-unsized", "precharge-off", "precharge-unset")

BELOW_RELIEF = 0.9
"""The share of the relief valve's pressure that the line may reach: a tenth below it, so that the valve stays shut;
common practice."""
_OFF = 20e3  # Pa: within that the air is as it should be; a tyre gauge reads to half of it
_COLD = 283.15  # K: what comes in, where the job's own is warmer


def grows_by(stored: float, cold: float, warm: float) -> float:
    """By how much (m³) so much stored water (m³, when cold) grows from `cold` to `warm` (K): by its density."""
    return stored * (density_kell(cold) / density_kell(warm) - 1)


def tank_needed(growth: float, rest: float, highest: float, air: float = 101325.0) -> float:
    """Volume (m³) of a tank with a membrane that takes up `growth` (m³) between a line's pressure at `rest`, which its
    air has too, and the `highest` it may reach (Pa, gauge); infinite where that is no higher.

    Boyle's law at one temperature: growth / (1 − (rest + air) / (highest + air)).

    >>> round(tank_needed(3.2e-3, 4.0e5, 9.3e5), 4)
    0.0062
    """
    return float("inf") if highest <= rest else growth / (1 - (rest + air) / (highest + air))


def expansion_problems(plan: Plan, lay: Layout) -> Iterator[Problem]:
    """Tanks that are too small for their heater, cannot be checked, or have the wrong air in them."""
    rests = static_pressure(plan, lay)
    air = air_pressure(plan.conditions.altitude)
    for system in lay.systems.found:
        for heater in (plan.by_id[p] for p in system.points if system.sort == "supply"):
            what = heater.what
            if not isinstance(what, Heater) or not heats(heater):
                continue
            tanks = tanks_of(plan, system, heater)
            opens = lowest_relief(plan, system, heater)
            for tank in tanks:
                yield from _air_in(plan, tank.id, rests)
            if not tanks:
                continue
            first = tanks[0]
            if what.stores is None:
                yield tell("expansion-unsized", first.id, tank=first.label, heater=heater.label)
            elif opens is not None:
                cold = min(_COLD, plan.conditions.water_temperature)
                growth = grows_by(what.stores, cold, what.gives)
                needs = tank_needed(growth, rests.get(first.id, 0.0), BELOW_RELIEF * opens, air)
                has = sum(t.what.volume for t in tanks if isinstance(t.what, ExpansionTank))
                if has < needs:
                    yield tell(
                        "expansion-small" if needs < float("inf") else "expansion-small/none",
                        first.id,
                        plan.units,
                        tank=first.label,
                        heater=heater.label,
                        has=has,
                        needs=needs,
                        grows=growth,
                        cold=cold,
                        warm=what.gives,
                        rest=rests.get(first.id, 0.0),
                        opens=opens,
                    )


def _air_in(plan: Plan, tank: str, rests: dict[str, float]) -> Iterator[Problem]:
    what = plan.by_id[tank].what
    assert isinstance(what, ExpansionTank)
    rest = rests.get(tank, 0.0)
    if what.precharge is None:
        yield tell("precharge-unset", tank, plan.units, tank=plan.names[tank], rest=rest)
    elif abs(what.precharge - rest) > _OFF:
        yield tell("precharge-off", tank, plan.units, tank=plan.names[tank], has=what.precharge, rest=rest)
