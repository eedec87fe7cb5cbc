"""The suction side: head at a pump's inlet, priming, and how deep an intake must lie."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from math import sqrt

from hydrarch.core.base.messages import tell
from hydrarch.core.base.problems import Problem, declare
from hydrarch.core.base.units import STANDARD_GRAVITY
from hydrarch.core.catalogue.pipes import Pipe
from hydrarch.core.components.basins import Bulkhead, InWall, SuctionCover
from hydrarch.core.components.devices import Pump
from hydrarch.core.components.sources import Tank
from hydrarch.core.hydraulics.friction import velocity
from hydrarch.core.hydraulics.pumps import air_pressure, npsh_available, vapour_pressure
from hydrarch.core.plan.document import Plan, Point, Scenario
from hydrarch.core.site.layout import Layout

__all__ = ["NPSH_MARGIN", "intake_problems", "least_submergence", "parted", "pump_suction"]

declare("size", "water-parts", "cavitation", "intake-dry", holds=True)
declare("size", "suction-margin", "priming", "intake-shallow")

NPSH_MARGIN = 0.6
"""Suction head (m) to have beyond what a pump asks: 2 ft, common practice."""


def pump_suction(plan: Plan, lay: Layout, scenario: Scenario, point: Point, inlet: float) -> Iterable[Problem]:
    """Whether a pump in the line gets enough at its inlet (Pa, gauge), and whether it fills by itself."""
    assert isinstance(point.what, Pump)
    units, name = plan.units, point.label
    have = npsh_available(inlet, lay.warmth(point.id), plan.conditions.altitude)
    if have <= 0:
        yield tell("water-parts/pump", point.id, units, scenario=scenario, pump=name, beyond=-have)
    elif have < point.what.npsh + NPSH_MARGIN:
        least = point.what.npsh
        yield tell(
            "cavitation" if have < least else "suction-margin",
            point.id,
            units,
            scenario=scenario,
            pump=name,
            have=have,
            least=least,
            margin=NPSH_MARGIN,
        )
    open_water = [p.what for p in plan.sources if isinstance(p.what, (Tank, InWall))]
    levels = [w.water_level for w in open_water if w.water_level is not None]
    top = max(levels, default=0.0)
    if not open_water or len(levels) < len(plan.sources) or point.level <= top + 1e-6:
        return
    above = point.level - top
    if all(isinstance(w, Tank) and w.intake == "foot valve" for w in open_water):
        yield tell("priming/foot valve", point.id, units, pump=name, above=above)
    else:
        yield tell(
            "priming/tank" if any(isinstance(w, Tank) for w in open_water) else "priming/wall",
            point.id,
            units,
            pump=name,
            above=above,
        )


def parted(plan: Plan, lay: Layout, scenario: Scenario, pressures: Mapping[str, float]) -> Iterable[Problem]:
    """Where the pressure calculated (Pa, gauge, by point) is lower than water bears: there it parts into steam, and
    nothing flows so.

    The lowest place is told, and how many more there are.
    """
    bears_at = {t: vapour_pressure(t) - air_pressure(plan.conditions.altitude) for t in set(lay.warm.values())}
    low = sorted((p, name) for name, p in pressures.items() if lay.at[name] and p < bears_at[lay.warmth(name)])
    if low:
        pressure, name = low[0]
        least = bears_at[lay.warmth(name)]
        more = f" The same at {len(low) - 1} more places." if len(low) > 1 else ""
        yield tell(
            "water-parts/line",
            name,
            plan.units,
            scenario=scenario,
            place=plan.names[name],
            have=pressure,
            bears=least,
            more=more,
        )


def least_submergence(bore: float, speed: float) -> float:
    """Depth (m) of an intake of `bore` (m) below open water at which no air is drawn in: D (1 + 2.3 v/√(g D)).

    Source: ANSI/HI 9.8, pump intake design, from memory.

    >>> round(least_submergence(0.1, 1.0), 3)
    0.332
    """
    return bore * (1 + 2.3 * speed / sqrt(STANDARD_GRAVITY * bore))


def intake_problems(
    plan: Plan, lay: Layout, pipes: Mapping[str, Pipe], flows: Mapping[str, Mapping[str, float]]
) -> tuple[Problem, ...]:
    """Intakes above the water of their tank or pond, or so near its surface that they draw air; `flows` (m³/s) by
    scenario and run.
    """
    found = []
    for p in plan.points:
        if not isinstance(p.what, (Tank, SuctionCover, Bulkhead)) or p.what.water_level is None:
            continue
        runs = [r for r in lay.at[p.id] if _drawn_from(plan, r, p.id) and r in pipes]
        if not runs:
            continue
        below = p.what.water_level - p.level
        drawn = {r: max((abs(f.get(r, 0.0)) for f in flows.values()), default=0.0) for r in runs}
        most = max(drawn.values())
        wanted = max(least_submergence(pipes[r].bore, float(velocity(q, pipes[r].bore))) for r, q in drawn.items())
        if below <= 0:
            found.append(tell("intake-dry", p.id, plan.units, place=p.label, above=-below))
        elif most > 0 and below < wanted:
            found.append(tell("intake-shallow", p.id, plan.units, place=p.label, deep=below, need=wanted))
    return tuple(found)


def _drawn_from(plan: Plan, run: str, tank: str) -> bool:
    """Whether a run draws from a tank, and does not come back to it."""
    return any(
        e.point == tank and (port := plan.port(e)) is not None and port.role == "suction"
        for e in plan.run_by_id[run].ends
    )
