"""Control wire from the controller to the zones' valves, laid in the trench: how long, how many cores, how thick, and
the voltage that is left.
"""

from __future__ import annotations

from dataclasses import dataclass
from math import hypot, pi

from hydrarch.core.base.messages import tell
from hydrarch.core.base.problems import Problem, declare
from hydrarch.core.base.units import show
from hydrarch.core.components.marks import Mark
from hydrarch.core.plan.document import Plan
from hydrarch.core.site.layout import Layout, path_between

__all__ = ["AREAS", "GIVEN", "LEAST", "OPENING", "Wire", "WireTo", "resistance", "wire", "wire_problems"]

declare("survey", "wire-too-long")

GIVEN, LEAST = 24.0, 20.0
"""V that a controller gives, and what a valve opens with at the least; from memory, the maker's figures win."""
OPENING = 0.4
"""A that a valve draws as it opens; from memory, the maker's figure wins."""
AREAS = {18: 0.82, 16: 1.31, 14: 2.08, 12: 3.31}
"""mm² by gauge, for those who buy by area; rounded from the gauge's own diameter."""
_RESISTIVITY = 1.7241e-8  # ohm·m, annealed copper at 20 °C (IEC 60028)


@dataclass(frozen=True, slots=True)
class WireTo:
    """The wire to one zone's valve: how long (m), and the voltage (V) left there as it opens."""

    zone: str
    name: str
    valve: str
    length: float
    volts: float


@dataclass(frozen=True, slots=True)
class Wire:
    """The cable: its gauge, its cores (one common), how much of it lies in the trench (m), to whom, and it in words."""

    gauge: int
    cores: int
    cable: float
    to: tuple[WireTo, ...]
    holds: bool
    says: str


def resistance(gauge: int) -> float:
    """Ohms in each m of copper of a gauge: diameter 0.127 mm · 92^((36 − n)/39); ASTM B258."""
    across = 0.127e-3 * 92 ** ((36 - gauge) / 39)
    return float(_RESISTIVITY / (pi * across**2 / 4))


def wire(plan: Plan, lay: Layout) -> Wire | None:
    """The thinnest cable that opens every valve; the thickest where none does.

    None without a controller on the drawing or a valve to open.

    It lies in the trench from the point of the line that is nearest to the controller, and straight across where no
    trench leads on.
    """
    hangs = next((p for p in plan.of_kind(Mark) if isinstance(p.what, Mark) and p.what.what == "controller"), None)
    zones = [(z, plan.by_id[z.valve]) for z in plan.zones if z.valve in plan.by_id]
    line = [p for p in plan.points if p.kind.joined and lay.at[p.id]]
    if hangs is None or not zones or not line:
        return None
    near = min(line, key=lambda p: hypot(p.x - hangs.x, p.y - hangs.y))
    first = hypot(near.x - hangs.x, near.y - hangs.y)
    dug, across, found = set[str](), 0.0, []
    for zone, valve in zones:
        way = path_between(lay, near.id, valve.id)
        straight = 0.0 if way or valve.id == near.id else hypot(valve.x - near.x, valve.y - near.y)
        dug.update(way)
        across += straight
        found.append((zone, valve, first + straight + sum(lay.lines[r].length for r in way)))
    longest = max(long for *_, long in found)
    gauge = next((g for g in AREAS if _left(g, longest) >= LEAST), min(AREAS))
    cable = first + across + sum(lay.lines[r].length for r in dug)
    to = tuple(WireTo(z.id, z.name, v.id, long, _left(gauge, long)) for z, v, long in found)
    holds = _left(gauge, longest) >= LEAST
    return Wire(
        gauge,
        len(zones) + 1,
        cable,
        to,
        holds,
        _says(plan, gauge, len(zones) + 1, cable, max(to, key=lambda t: t.length)),
    )


def _left(gauge: int, long: float) -> float:
    """V left at a valve at the end of so much wire (m), there and back."""
    return GIVEN - 2 * long * resistance(gauge) * OPENING


def _says(plan: Plan, gauge: int, cores: int, cable: float, far: WireTo) -> str:
    long = show(far.length, "length", plan.units)
    return (
        f"Control wire: {show(cable, 'length', plan.units)} of cable in the trench, {cores} cores of {gauge} "
        f"AWG ({AREAS[gauge]:g} mm²). "
        f"The farthest, {far.name}, is {long} away and has {far.volts:.1f} of {GIVEN:g} V as it opens; it "
        f"wants {LEAST:g}. "
        "Such wire is usually 24 V: take any that you dig up for mains until it is shown not to be."
    )


def wire_problems(plan: Plan, found: Wire | None) -> tuple[Problem, ...]:
    """A valve that no gauge of the list opens."""
    if found is None or found.holds:
        return ()
    far = max(found.to, key=lambda t: t.length)
    return (
        tell(
            "wire-too-long",
            far.valve,
            plan.units,
            valve=far.name,
            volts=far.volts,
            least=LEAST,
            long=far.length,
            gauge=found.gauge,
        ),
    )
