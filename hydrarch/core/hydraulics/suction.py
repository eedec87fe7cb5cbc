"""The suction side: head at a pump's inlet, priming, and how deep an intake must lie."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from math import sqrt

from hydrarch.core.base.problems import Problem, declare
from hydrarch.core.base.units import STANDARD_GRAVITY, show
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
        yield Problem(
            code="water-parts",
            severity="stop",
            where=point.id,
            says=f"{scenario.name}: at the inlet of {name} the water would part: it is "
            f"{show(-have, 'head', units)} beyond what air can lift. Nothing flows so.",
            mend="Bring the pump nearer to the water, or push from below: no suction lifts it so high.",
            scenario=scenario.id,
        )
    elif have < point.what.npsh + NPSH_MARGIN:
        least = point.what.npsh
        yield Problem(
            code="cavitation" if have < least else "suction-margin",
            severity="stop" if have < least else "warn",
            where=point.id,
            says=f"{scenario.name}: {name} has {show(have, 'head', units)} of suction head and asks for "
            + (
                f"{show(least, 'head', units)}: water boils in it, it wears away and gives less than is reckoned here."
                if have < least
                else f"{show(least, 'head', units)}, with {show(NPSH_MARGIN, 'head', units)} to spare."
            ),
            mend="Set it lower or nearer the water, take a larger suction pipe, or run it slower.",
            scenario=scenario.id,
        )
    open_water = [p.what for p in plan.sources if isinstance(p.what, (Tank, InWall))]
    levels = [w.water_level for w in open_water if w.water_level is not None]
    top = max(levels, default=0.0)
    if not open_water or len(levels) < len(plan.sources) or point.level <= top + 1e-6:
        return
    above = show(point.level - top, "head", units)
    if all(isinstance(w, Tank) and w.intake == "foot valve" for w in open_water):
        yield Problem(
            code="priming",
            severity="note",
            where=point.id,
            says=f"{name} stands {above} above the water; the foot valve keeps its suction line full.",
            mend="Fill the line before the first start, let no air in, and look at the foot valve when it loses "
            "its prime.",
        )
    else:
        yield Problem(
            code="priming",
            severity="note",
            where=point.id,
            says=f"{name} stands {above} above the water, so it does not fill by itself.",
            mend="Put a foot valve at the intake, fill the suction line before the first start, and let no air in."
            if any(isinstance(w, Tank) for w in open_water)
            else "Set it below the water, or take one that primes itself with a check valve before it and a loop "
            "of pipe above its inlet.",
        )


def parted(plan: Plan, lay: Layout, scenario: Scenario, pressures: Mapping[str, float]) -> Iterable[Problem]:
    """Where the pressure reckoned (Pa, gauge, by point) is lower than water bears: there it parts into steam, and
    nothing flows so.

    The lowest place is told, and how many more there are.
    """
    bears_at = {t: vapour_pressure(t) - air_pressure(plan.conditions.altitude) for t in set(lay.warm.values())}
    low = sorted((p, name) for name, p in pressures.items() if lay.at[name] and p < bears_at[lay.warmth(name)])
    if low:
        pressure, name = low[0]
        least = bears_at[lay.warmth(name)]
        have, bears = (show(x, "pressure", plan.units) for x in (pressure, least))
        more = f" So do {len(low) - 1} places more." if len(low) > 1 else ""
        yield Problem(
            code="water-parts",
            severity="stop",
            where=name,
            says=f"{scenario.name}: {plan.names[name]} would be at {have}, below the {bears} at which water parts: "
            f"it does not flow so.{more}",
            mend="Lay the line lower there, bring the pump nearer to the water, or take a larger pipe on the "
            "suction side.",
            scenario=scenario.id,
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
            found.append(
                Problem(
                    code="intake-dry",
                    severity="stop",
                    where=p.id,
                    says=f"The pipe leaves {p.label} {show(-below, 'level', plan.units)} above its water: none "
                    "comes in.",
                    mend="Lower the pipe there, or raise the water level.",
                )
            )
        elif most > 0 and below < wanted:
            deep, need = (show(x, "cut", plan.units) for x in (below, wanted))
            found.append(
                Problem(
                    code="intake-shallow",
                    severity="note",
                    where=p.id,
                    says=f"The pipe leaves {p.label} {deep} below its water; less than {need} draws air in.",
                    mend="Set the intake deeper, or widen it.",
                )
            )
    return tuple(found)


def _drawn_from(plan: Plan, run: str, tank: str) -> bool:
    """Whether a run draws from a tank, and does not come back to it."""
    return any(
        e.point == tank and (port := plan.port(e)) is not None and port.role == "suction"
        for e in plan.run_by_id[run].ends
    )
