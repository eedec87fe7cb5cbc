"""The hole and its water: levels, what a pumping test says, and the vessel beside it."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from math import ceil

from hydrarch.core.base.errors import HydrarchError
from hydrarch.core.base.messages import tell
from hydrarch.core.base.problems import Problem, declare
from hydrarch.core.base.units import check_range
from hydrarch.core.components.equipment import Vessel
from hydrarch.core.components.sources import Lifter
from hydrarch.core.hydraulics.flow import Flow
from hydrarch.core.hydraulics.pumps import air_pressure
from hydrarch.core.hydraulics.static import static_pressure
from hydrarch.core.plan.document import Plan
from hydrarch.core.site.layout import Layout
from hydrarch.core.sizing.standby import filling

__all__ = ["Hole", "VesselSizes", "vessel_problems", "vessel_size"]

declare("size", "vessel-unreached", "vessel-small", "vessel-off-curve")

BELOW_CUT_IN = 13.8e3
"""How much lower than the cut-in a vessel is charged with air: 2 psi, common practice (Pa)."""
BEYOND_TEST = 1.5
"""Share of the tested flow to which a drawdown in proportion is believed; cautious, from memory."""
LEAST_RUN = 60.0
"""Least time (s) a small pump should run at each start: one minute, common practice."""


@dataclass(frozen=True, slots=True)
class Hole:
    """A drilled well. Depths in m below ground: bottom, static level, pump; `casing` is its inside diameter (m).

    A test that took `test_flow` (m³/s) drew the level down by `test_drawdown` (m): at other flows the drawdown is taken
    in proportion, which is right for a deep bed and hopeful beyond the test: it is not carried on past half as much
    again.
    """

    depth: float
    casing: float
    static: float
    pump: float
    test_flow: float
    test_drawdown: float

    def __post_init__(self) -> None:
        """Refuse a hole that cannot be."""
        check_range("the well's depth", self.depth, 1, 1500, "length")
        check_range("the casing", self.casing, 0.03, 1.5, "diameter")
        check_range("the static level", self.static, -5, 1500, "length")
        check_range("the pump's depth", self.pump, 0.5, 1500, "length")
        check_range("the test's flow", self.test_flow, 1e-6, 1, "flow")
        check_range("the drawdown", self.test_drawdown, 0, 1000, "length")
        if self.pump > self.depth:
            raise HydrarchError("the pump hangs below the bottom of the well: raise it, or say how deep the well is")
        if self.static >= self.pump:
            raise HydrarchError("the pump hangs above the water at rest: set it deeper")

    def level(self, flow: float) -> float:
        """Depth (m) of the water while `flow` (m³/s) is pumped."""
        return self.static + self.test_drawdown * flow / self.test_flow

    def most(self) -> float:
        """The flow (m³/s) at which the level comes down to two metres above the pump, or half as much again as was
        tested.
        """
        room = self.pump - 2.0 - self.static
        shown = BEYOND_TEST * self.test_flow
        if self.test_drawdown <= 0:
            return shown
        return min(shown, max(0.0, room / self.test_drawdown * self.test_flow))

    @property
    def limited_by_test(self) -> bool:
        """Whether the test, and not the water's level, says where the flow ends."""
        return self.most() >= BEYOND_TEST * self.test_flow * (1 - 1e-9)


@dataclass(frozen=True, slots=True)
class VesselSizes:
    """A pressure vessel: water drawn between the pump's stop and start (m³), the volume it takes (m³), its air charge
    (Pa).
    """

    drawdown: float
    volume: float
    charge: float
    says: str


def vessel_size(
    flow: float, cut_in: float, cut_out: float, volume: float | None = None, altitude: float = 0.0
) -> VesselSizes:
    """The vessel that lets a pump of `flow` (m³/s) run a minute between `cut_in` and `cut_out` (Pa, gauge).

    Boyle: of a volume V charged to p₀, drawdown = V·p₀·(1/p_in − 1/p_out), absolute pressures. With `volume` (m³)
    given, its drawdown is worked out instead. Raises `HydrarchError` where the pump would stop below where it starts.

    >>> round(vessel_size(5e-4, 200e3, 340e3).drawdown * 1e3)
    30
    """
    if not 0 < cut_in < cut_out:
        raise HydrarchError("the pump must stop at a higher pressure than it starts at")
    air = air_pressure(altitude)
    charge = max(cut_in - BELOW_CUT_IN, 0.0)
    share = (charge + air) * (1 / (cut_in + air) - 1 / (cut_out + air))
    wanted = flow * LEAST_RUN
    if volume is None:
        return VesselSizes(wanted, ceil(wanted / share * 1e3) / 1e3, charge, "as much as the pump gives in a minute")
    drawn = volume * share
    runs = drawn / flow if flow > 0 else 0.0
    says = f"the pump runs {runs:.0f} s at the least" + (
        "" if runs >= LEAST_RUN else ": too short, it wears the motor; take a larger vessel"
    )
    return VesselSizes(drawn, volume, charge, says)


def vessel_problems(plan: Plan, lay: Layout, flows: Mapping[str, Flow]) -> tuple[Problem, ...]:
    """Vessels whose pump cannot reach the pressure it should stop at, or that let it start too often."""
    found = []
    shut = static_pressure(plan, lay)
    for p in plan.points:
        what = p.what
        if not isinstance(what, Vessel) or p.id not in shut:
            continue
        if shut[p.id] < what.cut_out:
            found.append(tell("vessel-unreached", p.id, plan.units, vessel=p.label, top=shut[p.id], stop=what.cut_out))
        for name in lay.systems.found[lay.systems.of[lay.at[p.id][0]]].points if lay.at[p.id] else ():
            if isinstance(plan.by_id[name].what, Lifter) and filling(plan, plan.by_id[name], p) is None:
                found.append(
                    tell("vessel-off-curve", p.id, plan.units, pump=plan.names[name], vessel=p.label, start=what.cut_in)
                )
        drawn = max((sum(o.flow for o in f.outlets.values()) for f in flows.values()), default=0.0)
        size = vessel_size(drawn, what.cut_in, what.cut_out, what.volume, plan.conditions.altitude)
        if drawn > 0 and size.drawdown / drawn < LEAST_RUN:
            found.append(
                tell(
                    "vessel-small",
                    p.id,
                    plan.units,
                    vessel=p.label,
                    gives=size.drawdown,
                    run=size.drawdown / drawn,
                    least=LEAST_RUN,
                )
            )
    return tuple(found)
