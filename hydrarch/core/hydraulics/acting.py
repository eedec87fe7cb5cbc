"""What each kind of thing does to the water: known heads, lifts, losses and one way only, put into a network.

A kind says what it does by registering here (`acts.register`); one that registers nothing lets water pass through all
its ports alike. A thing that lifts or holds pressure has a node at each port; the loss of any other lies on the run at
its outlet.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Mapping
from functools import singledispatch
from math import expm1, log1p

import numpy as np

from hydrarch.core.catalogue.curves import Curve
from hydrarch.core.components.base import What
from hydrarch.core.components.basins import Heater, InWall, Jet, Standpipe
from hydrarch.core.components.devices import BackflowPreventer, CheckValve, Filter, Pump, Regulator, ThreeWay, Valve
from hydrarch.core.components.drains import DrainEnd, DrainPump, Inlet
from hydrarch.core.components.equipment import Equipment
from hydrarch.core.components.outlets import Bubbler, Drip, DripRow, Sprinkler
from hydrarch.core.components.protection import Injector
from hydrarch.core.components.sources import Mains, Tank, WellPump
from hydrarch.core.hydraulics.links import Emitter, PipeLink, PumpLink, RegulatorLink
from hydrarch.core.hydraulics.static import fed_at_rest
from hydrarch.core.hydraulics.supply import EXPONENT
from hydrarch.core.hydraulics.water import Water
from hydrarch.core.plan.document import Plan, Point, RunEnd

__all__ = [
    "SHUT_COEFFICIENT",
    "Acting",
    "acts",
    "emitting",
    "mains_curve",
    "node",
    "node_a_port",
    "throttled_coefficient",
]

SHUT_COEFFICIENT = 1e9
"""Loss coefficient of a shut valve: a trickle passes, so that what lies beyond keeps a pressure to be told of."""
_THROTTLED = ((0.0, SHUT_COEFFICIENT), (0.05, 800.0), (0.25, 24.0), (0.5, 5.6), (0.75, 1.2), (1.0, 0.0))
"""Loss coefficient added by a gate valve that far open: handbook table, from memory; straight on a log scale between.
"""
_LEAST_LIFT, _SLOPE = 0.05, 1e-3  # m a switched pump lifts at the least, and how much a held curve still falls
_FREE_FALL = (0.3, 0.1)
"""Length and bore (m) of the last of a pipe that ends in the open: it loses next to nothing."""


def node(point: Point, port: str = "") -> str:
    """The node of a network at a port of a thing: one for all its ports, unless it parts them."""
    return f"{point.id}~{port}" if point.kind.apart or node_a_port(point.what) else point.id


@singledispatch
def node_a_port(what: What) -> bool:
    """Whether a thing has a node at each of its ports, as what lifts or holds pressure has."""
    return False


@node_a_port.register
def _(what: Pump) -> bool:
    return True


@node_a_port.register
def _(what: Regulator) -> bool:
    return True


class Acting:
    """A network in the making: what things have put into it so far, and the run ends at each of their ports."""

    def __init__(self, plan: Plan, points: dict[str, Point], wet: Water, switched: Mapping[str, float]) -> None:
        """`switched` is the head (m) at which a vessel's switch starts the pump at a point: no outlet is
        promised more.
        """
        self.switched = switched
        self.plan, self.points, self.wet = plan, points, wet
        self.heads: dict[str, float] = {}
        self.pumps: list[PumpLink] = []
        self.pump_at: dict[str, str] = {}
        self.regulators: list[RegulatorLink] = []
        self.regulator_at: dict[str, str] = {}
        self.falls: list[PipeLink] = []
        self.emitters: list[Emitter] = []
        self.fixed: dict[str, float] = defaultdict(float)
        self.coefficient: dict[str, float] = defaultdict(float)
        self.only_from: dict[str, set[str]] = defaultdict(set)
        self._ends: dict[tuple[str, str], list[tuple[str, RunEnd]]] = defaultdict(list)
        for run in plan.runs:
            for end in run.ends:
                port = plan.port(end)
                if end.point in points and port is not None:
                    self._ends[end.point, port.name].append((run.id, end))
        for p in points.values():
            acts(p.what, p, self)

    def runs_at(self, point: Point, port: str) -> list[str]:
        """The runs at a port."""
        return [run for run, _ in self._ends[point.id, port]]

    def known(self, point: Point, head: float, port: str = "") -> None:
        """Water of a known head (m) at a port."""
        self.heads[node(point, port)] = head

    def lifts(self, point: Point, curve: Curve, water: float | None = None) -> None:
        """A pump at a thing: from open water at that head (m), or from its inlet, to its outlet."""
        out = node(point, "out")
        if water is None:
            start = node(point, "in")
            before = fed_at_rest(self.plan)
        else:
            start = f"{point.id}~water"
            before = self.heads[start] = water
        if point.id in self.switched:
            curve = held_down(curve, self.switched[point.id] - before)
        pump = PumpLink(f"{point.id}~pump", start, out, curve)
        self.pumps.append(pump)
        self.pump_at[pump.id] = point.id

    def holds(self, point: Point, head: float) -> None:
        """A regulator at a thing that holds a head (m) at its outlet."""
        link = RegulatorLink(f"{point.id}~regulator", node(point, "in"), node(point, "out"), head)
        self.regulators.append(link)
        self.regulator_at[link.id] = point.id

    def loses(self, point: Point, port: str, fixed: float = 0.0, coefficient: float = 0.0) -> None:
        """A loss on the runs at a port: h = fixed·q² (s²/m⁵), or K."""
        for run in self.runs_at(point, port):
            self.fixed[run] += fixed
            self.coefficient[run] += coefficient

    def one_way(self, point: Point, port: str) -> None:
        """Let water only away from a thing by the runs at a port."""
        for run, end in self._ends[point.id, port]:
            self.only_from[run].add(end.id)

    def falls_out(self, point: Point, port: str, head: float) -> None:
        """Let a pipe end in the open at a port, at that head (m): nothing comes back by it."""
        if self.runs_at(point, port):
            air = f"{point.id}~{port}~open"
            self.heads[air] = head
            length, bore = _FREE_FALL
            self.falls.append(
                PipeLink(
                    id=f"{point.id}~{port}~falls",
                    start=node(point, port),
                    stop=air,
                    length=length,
                    bore=bore,
                    one_way=True,
                )
            )


def held_down(curve: Curve, most: float) -> Curve:
    """A pump's curve where its switch lets it make no more than a head (m) at any flow: what a vessel gives at the
    least.
    """
    if curve[0][1] <= most:
        return curve
    most = max(most, _LEAST_LIFT)
    flows, heads = np.array(curve).T
    meets = float(np.interp(-most, -heads, flows)) if heads[-1] < most else float(flows[-1])
    beyond = tuple((q, h) for q, h in curve if q > meets * (1 + 1e-6) and h < most)
    return ((0.0, most * (1 + _SLOPE)), (max(meets, 1e-9), most), *beyond)


@singledispatch
def acts(what: What, point: Point, net: Acting) -> None:
    """Put what stands at a point into a network; any kind that is not registered lets water pass."""


@acts.register
def _(what: WellPump, point: Point, net: Acting) -> None:
    net.lifts(point, what.running(), what.water_level)


@acts.register
def _(what: DrainPump, point: Point, net: Acting) -> None:
    if not net.runs_at(point, "out"):
        return
    if what.stands_by:
        net.one_way(point, "out")  # it is off: its check holds what the other one lifts
    else:
        net.lifts(point, what.running(), what.level)


@acts.register
def _(what: Mains, point: Point, net: Acting) -> None:
    if what.flowing > 0:
        net.lifts(point, mains_curve(what, net.wet), point.level)
    else:
        net.known(point, point.level + what.pressure / net.wet.weight)


@acts.register
def _(what: Tank, point: Point, net: Acting) -> None:
    net.known(point, what.water_level, "out")
    if what.intake == "foot valve":
        net.one_way(point, "out")
    if point.level > what.water_level:
        net.falls_out(point, "in", point.level)
    else:
        net.known(point, what.water_level, "in")


@acts.register
def _(what: InWall, point: Point, net: Acting) -> None:
    level = point.level if what.water_level is None else what.water_level
    for port in point.kind.ports_of(what):
        if port.role == "suction" and level > point.level - what.draws_below:
            net.known(point, level, port.name)
        elif port.role == "suction":
            net.falls_out(point, port.name, point.level)  # it lies bare: nothing is drawn
        elif port.role == "in" and point.level > level:
            net.falls_out(point, port.name, point.level)
        elif port.role == "in":
            net.known(point, level, port.name)


@acts.register
def _(what: Standpipe, point: Point, net: Acting) -> None:
    """What falls into it is not drawn by it: it is put in where the pumps' flows are known."""


@acts.register
def _(what: Jet, point: Point, net: Acting) -> None:
    level = point.level if what.water_level is None else what.water_level
    net.known(point, max(level, point.level), "water")
    net.loses(point, "water", fixed=what.at_pressure / net.wet.weight / what.flow**2)


@acts.register(Inlet)
@acts.register(DrainEnd)
def _(what: What, point: Point, net: Acting) -> None:
    net.falls_out(point, "in", point.level)


@acts.register
def _(what: Pump, point: Point, net: Acting) -> None:
    net.lifts(point, what.running())


@acts.register
def _(what: Regulator, point: Point, net: Acting) -> None:
    net.holds(point, point.level + what.pressure / net.wet.weight)


@acts.register
def _(what: Valve, point: Point, net: Acting) -> None:
    if what.opening < 1:
        net.loses(point, "out", coefficient=throttled_coefficient(what.opening))


@acts.register
def _(what: CheckValve, point: Point, net: Acting) -> None:
    net.one_way(point, "out")


@acts.register
def _(what: BackflowPreventer, point: Point, net: Acting) -> None:
    net.one_way(point, "out")
    net.loses(point, "out", fixed=what.loss / net.wet.weight / what.at_flow**2)


@acts.register
def _(what: Injector, point: Point, net: Acting) -> None:
    net.loses(point, "out", fixed=what.loss / net.wet.weight / what.at_flow**2)


@acts.register
def _(what: Filter, point: Point, net: Acting) -> None:
    net.loses(point, "out", fixed=what.loss_now() / net.wet.weight / what.at_flow**2)


@acts.register
def _(what: Heater, point: Point, net: Acting) -> None:
    net.loses(point, "out", fixed=what.loss / net.wet.weight / what.largest**2)


@acts.register
def _(what: ThreeWay, point: Point, net: Acting) -> None:
    if what.shut:
        net.loses(point, what.shut, coefficient=SHUT_COEFFICIENT)


@acts.register
def _(what: Equipment, point: Point, net: Acting) -> None:
    for port in what.own_ports:
        if port.role == "out":
            net.loses(point, port.name, fixed=what.loss / net.wet.weight / what.at_flow**2)


@singledispatch
def emitting(what: What) -> tuple[float, float, float] | None:
    """Flow, the pressure it is at, and the exponent of an outlet that draws by pressure; None for one that draws its
    flow.
    """
    return None


@emitting.register
def _(what: Sprinkler) -> tuple[float, float, float] | None:
    return what.flow, what.at_pressure, what.exponent


@emitting.register
def _(what: Drip) -> tuple[float, float, float] | None:
    return (what.flow, max(what.needs, 1.0), what.exponent) if what.exponent > 0 else None


@emitting.register
def _(what: Bubbler) -> tuple[float, float, float] | None:
    return (what.flow, what.at_pressure, what.exponent) if what.exponent > 0 else None


@emitting.register
def _(what: DripRow) -> tuple[float, float, float] | None:
    return (what.flow, what.at_pressure, what.exponent) if what.exponent > 0 else None


def throttled_coefficient(opening: float) -> float:
    """Loss coefficient K that throttling adds to a valve, `opening` from 0 (shut) to 1 (wide open)."""
    x = [o for o, _ in _THROTTLED]
    y = [log1p(k) for _, k in _THROTTLED]
    return float(expm1(np.interp(opening, x, y)))


def mains_curve(what: Mains, wet: Water) -> Curve:
    """A mains that falls as water runs, as points of flow (m³/s) and head (m): p = p0 − k·q^1.85."""
    k = (what.pressure - what.flowing_pressure) / what.flowing**EXPONENT
    most = (what.pressure / k) ** (1 / EXPONENT)
    return tuple((float(q), float((what.pressure - k * q**EXPONENT) / wet.weight)) for q in np.linspace(0, most, 9))
