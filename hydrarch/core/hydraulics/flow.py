"""From a plan to a network and back: what flows, how fast, at what pressure, in each scenario."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field, replace
from functools import cached_property
from math import floor

import numpy as np
from numpy.typing import NDArray

from hydrarch.core.base.errors import HydrarchError
from hydrarch.core.base.identity import riser_end
from hydrarch.core.base.messages import tell
from hydrarch.core.base.problems import Problem, declare
from hydrarch.core.building.together import all_scenarios
from hydrarch.core.catalogue.pipes import Pipe, series
from hydrarch.core.components.base import What
from hydrarch.core.components.devices import Pump, Vent
from hydrarch.core.components.equipment import Vessel
from hydrarch.core.components.fixtures import Fixture
from hydrarch.core.components.outlets import DripRow, Hydrant, Outlet, Tap
from hydrarch.core.components.sources import Lifter
from hydrarch.core.hydraulics.acting import Acting, emitting, node
from hydrarch.core.hydraulics.friction import reynolds_number, velocity
from hydrarch.core.hydraulics.links import Emitter, PipeLink, Sizes
from hydrarch.core.hydraulics.network import NO_WATER, Network, Solution
from hydrarch.core.hydraulics.regulated import make_solver
from hydrarch.core.hydraulics.round_flow import overflows
from hydrarch.core.hydraulics.spread import RowEnds, Rows, row_runs, spread
from hydrarch.core.hydraulics.suction import parted, pump_suction
from hydrarch.core.hydraulics.water import Water, water
from hydrarch.core.plan.document import Plan, Point, Scenario
from hydrarch.core.site.layout import Layout
from hydrarch.core.site.risers import mouth_level, riser_length, riser_pipe

__all__ = [
    "ENOUGH",
    "Flow",
    "KEEPS",
    "FlowModel",
    "OutletFlow",
    "PointState",
    "RunFlow",
    "Trial",
    "draws",
    "models",
    "solve",
]

ENOUGH = 1.0
"""How much (Pa) may be wanting at an outlet that has what it needs: rounding, not shortage."""
KEEPS = 1 + 1e-6
"""How far over the velocity limit a run that keeps it may come out: rounding."""

_BARELY = 0.01
"""The share of what an outlet wants below which no water comes, for the crew."""
_LEAST_DRIVE = 5e3
"""Pressure (Pa) that drives what an outlet wants through it where it asks for none: half a metre of water."""

declare("size", "no-pressure", "outlet-starved", "not-settled", "pump-off-curve", holds=True)
declare("size", "regulator-starved")


@dataclass(frozen=True, slots=True)
class RunFlow:
    """A run in one scenario: flow (m³/s, positive from a to b), velocity (m/s), head loss (m), Reynolds number, and
    whether it is too fast.
    """

    run: str
    flow: float
    velocity: float
    loss: float
    reynolds: float
    fast: bool


@dataclass(frozen=True, slots=True)
class PointState:
    """A point in one scenario: total head (m) and gauge pressure (Pa) at the pipe's axis."""

    point: str
    head: float
    pressure: float


@dataclass(frozen=True, slots=True)
class OutletFlow:
    """An open outlet: flow (m³/s), gauge pressure at its own height (Pa), what it needs (Pa), what is over, and whether
    it is short.
    """

    point: str
    flow: float
    pressure: float
    needs: float
    margin: float
    short: bool


@dataclass(frozen=True, slots=True)
class Flow:
    """One scenario solved. `worst` is the outlet with the least margin; `residual` (m) the energy imbalance.

    `lifts` are flow (m³/s) and lift (m) of each pump that runs, by its point.
    """

    scenario: str
    name: str
    runs: dict[str, RunFlow]
    points: dict[str, PointState]
    outlets: dict[str, OutletFlow]
    worst: str | None
    steps: int
    residual: float
    problems: tuple[Problem, ...]
    lifts: dict[str, tuple[float, float]] = field(default_factory=dict)


def solve(plan: Plan, lay: Layout, pipes: Mapping[str, Pipe], minor: Mapping[str, float], scenario: Scenario) -> Flow:
    """Solve one scenario. `pipes` gives each run its pipe, `minor` the sum of loss coefficients K of each run.

    Points no source reaches are left out. A plan that does not settle gives a `Problem`, not an error.
    """
    return FlowModel(plan, lay, scenario).solve(pipes, minor)


class FlowModel:
    """One scenario of a plan made ready, to be solved for many choices of pipe.

    Taps and hydrants draw what they want; with `yields` they give what the pressure there drives through them, as an
    opening of their size does (flow as the root of pressure): what comes where the source cannot feed them.
    """

    def __init__(self, plan: Plan, lay: Layout, scenario: Scenario, *, yields: bool = False) -> None:
        plan = plan.as_in(scenario)
        self.plan, self.lay, self.scenario, self.yields = plan, lay, scenario, yields
        self.points = {p.id: p for p in plan.points if p.id in lay.fed}
        self.wet = water(plan.conditions.water_temperature)
        self.open = tuple(
            dict.fromkeys(p for p in scenario.open if p in self.points and isinstance(self.points[p].what, Outlet))
        )
        fed = {r for s in lay.systems.found if s.sources and s.sort != "gravity drain" for r in s.runs}
        self.runs = tuple(r for r in plan.runs if r.id in fed)
        self.acting = Acting(plan, self.points, self.wet, self._switched())
        self.riser_of: dict[str, Point] = {}
        self.forward: list[bool] = []
        self._ends: list[RowEnds] = []
        self.network = self._network()
        self.rows = Rows(plan, lay, self._ends, len(self.network.emitters))
        self.links = self.network.pipes
        self.taps = [self._tap(self.points[p]) for p in self.open]
        self._extra = np.array([p.minor for p in self.links])
        self.solver = make_solver(self.network, self.wet, plan.conditions.friction)
        self.link_of = {p.id: i for i, p in enumerate(self.links)}
        self._places = np.array([self.solver.place(n) for _, n, _, _ in self.taps], dtype=np.int64)
        self._known = np.array([self.network.heads.get(n, 0.0) for _, n, _, _ in self.taps])
        self._levels = np.array([level for _, _, level, _ in self.taps])
        self._needs = np.array([needs for _, _, _, needs in self.taps])

    def _switched(self) -> dict[str, float]:
        """The head (m) at which the switch of its vessel starts each pump, which is all that outlets can count on."""
        found: dict[str, float] = {}
        for system in self.lay.systems.found:
            here = [self.plan.by_id[p] for p in system.points]
            starts = [p.level + p.what.cut_in / self.wet.weight for p in here if isinstance(p.what, Vessel)]
            if starts:
                found |= {p.id: max(starts) for p in here if isinstance(p.what, Lifter)}
        return found

    @staticmethod
    def _tap(point: Point) -> tuple[str, str, float, float]:
        """An open outlet: its id, node, own height (m) and the pressure it needs (Pa)."""
        assert isinstance(point.what, Outlet)
        return point.id, _mouth(point), mouth_level(point), point.what.needs

    def _network(self) -> Network:
        acting, links = self.acting, list[PipeLink]()
        thinner = spread(self.plan, self.lay, self.open)
        for run in self.runs:
            line, only = self.lay.lines[run.id], acting.only_from[run.id]
            ends = [node(self.points[e.point], _port(self.plan, e)) for e in run.ends]
            backwards = only == {run.b.id}
            start, stop = reversed(ends) if backwards else ends
            shut = 1e9 if len(only) == 2 else 0.0
            links.append(
                PipeLink(
                    id=run.id,
                    start=start,
                    stop=stop,
                    length=line.length * thinner.get(run.id, 1.0),
                    bore=0.02,
                    minor=acting.coefficient[run.id] + shut + run.closed,
                    fixed=acting.fixed[run.id],
                    one_way=bool(only),
                )
            )
            self.forward.append(not backwards)
        falling = overflows(self.plan, self.lay)
        demands = {node(self.points[p], "out"): -q for p, q in falling.items() if q > 0 and p in self.points}
        emitters = list(acting.emitters)
        for name in self.open:
            p = self.points[name]
            if riser_length(p) > 0:
                riser = riser_end(name)
                self.riser_of[riser] = p
                links.append(
                    PipeLink(
                        id=riser, start=name, stop=_mouth(p), length=riser_length(p), bore=riser_pipe(self.plan, p).bore
                    )
                )
                self.forward.append(True)
            at = emitting(p.what)
            if at is not None:
                flow, pressure, exponent = at
                k = flow / (pressure / self.wet.weight) ** exponent
                if isinstance(p.what, DripRow):
                    self._ends.append((name, len(emitters), self._begins(name), _mouth(p)))
                emitters.append(Emitter(f"{name}~head", _mouth(p), mouth_level(p), k, exponent))
            elif self.yields and isinstance(p.what, Outlet):
                k = p.what.flow / (max(p.what.needs, _LEAST_DRIVE) / self.wet.weight) ** 0.5
                emitters.append(Emitter(f"{name}~head", _mouth(p), mouth_level(p), k, 0.5))
            else:
                demands[_mouth(p)] = draws(p.what)
        self.pipes = len(links)
        links += acting.falls
        self.forward += [True] * len(acting.falls)
        return Network(
            acting.heads, demands, tuple(links), tuple(acting.pumps), tuple(emitters), tuple(acting.regulators)
        )

    def _begins(self, row: str) -> str:
        """The node where the row that ends at a point begins."""
        start, way = row_runs(self.plan, row)
        return next(
            (node(self.points[start], _port(self.plan, e)) for r in way[:1] for e in r.ends if e.point == start), row
        )

    def items(self, pipes: Mapping[str, Pipe]) -> list[Pipe]:
        """The pipe of each link that is one of the plan's, or a riser."""
        return [
            pipes[p.id] if p.id in pipes else riser_pipe(self.plan, self.riser_of[p.id])
            for p in self.links[: self.pipes]
        ]

    def sizes_of(self, items: Iterable[Pipe], minor: Mapping[str, float]) -> Sizes:
        """The sizes of all links if the first of them were these pipes, with the sum of loss coefficients K of each
        run.
        """
        given = [(p.bore, *_surface(p.series)) for p in items]
        given += [(p.bore, p.hazen_williams_c, p.roughness) for p in self.links[len(given) :]]
        bore, c, roughness = np.array(given, dtype=np.float64).reshape(-1, 3).T
        return bore, c, roughness, self._extra + np.array([minor.get(p.id, 0.0) for p in self.links])

    def sized(self, pipes: Mapping[str, Pipe], minor: Mapping[str, float]) -> Network:
        """The network with these pipes and losses written into it."""
        links = []
        for p, item in zip(self.links, self.items(pipes), strict=False):
            c, roughness = _surface(item.series)
            links.append(
                replace(
                    p, bore=item.bore, hazen_williams_c=c, roughness=roughness, minor=p.minor + minor.get(p.id, 0.0)
                )
            )
        return replace(self.network, pipes=(*links, *self.links[self.pipes :]))

    def margins(self, heads: NDArray[np.float64]) -> NDArray[np.float64]:
        """What each open outlet has over what it needs (Pa), where the free nodes have these heads (m)."""
        at = np.where(self._places >= 0, heads[np.maximum(self._places, 0)] if len(heads) else 0.0, self._known)
        return np.asarray((at - self._levels) * self.wet.weight - self._needs, dtype=np.float64)

    def margin_change(self, heads: NDArray[np.float64]) -> NDArray[np.float64]:
        """By how much the margins (Pa) change where the free nodes' heads change so (m)."""
        return np.asarray(np.where(self._places >= 0, heads[np.maximum(self._places, 0)], 0.0) * self.wet.weight)

    def solve(self, pipes: Mapping[str, Pipe], minor: Mapping[str, float]) -> Flow:
        """Flows and pressures with these pipes and losses, in full."""
        return self.try_pipes(pipes, minor).flow()

    def try_pipes(self, pipes: Mapping[str, Pipe], minor: Mapping[str, float]) -> Trial:
        """The same, of which only what is asked for is worked out."""
        return self.try_sizes(self.sizes_of(self.items(pipes), minor))

    def try_sizes(self, sizes: Sizes) -> Trial:
        """The same again, with the sizes of all links."""
        self.solver.resize(sizes)
        try:
            return Trial(self, sizes, self.rows.settle(self.solver), None)
        except HydrarchError as error:
            problem = tell("not-settled", "", self.plan.units, scenario=self.scenario, error=str(error))
            return Trial(self, sizes, NO_WATER, problem)

    @cached_property
    def state_node(self) -> dict[str, str]:
        """The node whose head is a point's own: at its outlet where its ports are parted."""
        known = {n for link in self.links for n in (link.start, link.stop)} | set(self.network.heads)
        found = {}
        for name, p in self.points.items():
            sides = (node(p, "out"), node(p, "in"), *(node(p, s.name) for s in p.kind.ports_of(p.what)))
            found[name] = next((n for n in sides if n in known), name)
        return found


def _port(plan: Plan, end: object) -> str:
    port = plan.port(end)  # type: ignore[arg-type]
    return "" if port is None else port.name


def _mouth(point: Point) -> str:
    """The node where an outlet's water leaves: above its riser."""
    return f"{point.id}~mouth" if riser_length(point) > 0 else point.id


def _surface(name: str) -> tuple[float, float]:
    """The Hazen-Williams constant and the roughness (m) of a series."""
    family = series(name)
    return family.hazen_williams_c, family.roughness


@dataclass(frozen=True, slots=True)
class Trial:
    """One solve of a scenario. `fault` tells why it did not settle; then there are no flows."""

    model: FlowModel
    sizes: Sizes
    found: Solution
    fault: Problem | None

    def through(self, run: str) -> float:
        """Flow (m³/s) in a run, either way; 0 where no water comes."""
        link = self.model.link_of.get(run)
        return 0.0 if link is None or self.fault is not None else abs(float(self.found.q[link]))

    @property
    def margins(self) -> NDArray[np.float64]:
        """What each open outlet has over what it needs (Pa), in the order of the model's `taps`; empty where nothing
        settled.
        """
        return np.zeros(0) if self.fault is not None else self.model.margins(self.found.h)

    def worst(self) -> tuple[float, str] | None:
        """The least of them (Pa), and whose it is; of equals the first by name. None where there is none."""
        margins = self.margins
        if not len(margins):
            return None
        least = float(margins.min())
        return least, min(self.model.taps[i][0] for i in np.flatnonzero(margins == least))

    def flow(self) -> Flow:
        """Everything about it."""
        model, scenario = self.model, self.model.scenario
        if self.fault is not None:
            return Flow(
                scenario=scenario.id,
                name=scenario.name,
                runs={},
                points={},
                outlets={},
                worst=None,
                steps=0,
                residual=0.0,
                problems=(self.fault,),
            )
        found = self.found
        heads, flows = found.heads, found.flows
        wet, points = model.wet, model.points
        q = found.q[: len(model.links)]
        speeds = np.asarray(velocity(np.abs(q), self.sizes[0])).tolist()
        reynolds = np.asarray(reynolds_number(q, self.sizes[0], wet.density, wet.viscosity)).tolist()
        limit = model.plan.conditions.max_velocity * KEEPS
        runs = {
            p.id: RunFlow(
                p.id, flows[p.id] if forward else -flows[p.id], v, abs(heads[p.start] - heads[p.stop]), re, v > limit
            )
            for p, forward, v, re in zip(model.links, model.forward, speeds, reynolds, strict=True)
            if p.id in model.lay.lines
        }
        states = {
            p: PointState(p, h, (h - points[p].level) * wet.weight)
            for p, at in model.state_node.items()
            if (h := heads.get(at)) is not None
        }
        outlets = {p: _outlet_flow(points[p], heads, flows, wet) for p in model.open}
        if not model.yields and any(o.pressure < 0 for o in outlets.values()):
            less = FlowModel(model.plan, model.lay, scenario, yields=True).try_sizes(self.sizes)
            if less.fault is None:  # nothing flows as it was asked: told is what does
                return less.flow()
        worst = min(outlets, key=lambda p: outlets[p].margin, default=None)
        told = list(_limits(model, heads, flows, outlets))
        if all(o.pressure >= 0 for o in outlets.values()):  # else the source is too weak, and that is told
            told += parted(model.plan, model.lay, scenario, {p: s.pressure for p, s in states.items()})
        lifts = {
            model.acting.pump_at[p.id]: (flows[p.id], heads[p.stop] - heads[p.start])
            for p in model.network.pumps
            if p.start in heads and p.stop in heads  # at a port that no run comes to there is no water
        }
        return Flow(
            scenario=scenario.id,
            name=scenario.name,
            runs=runs,
            points=states,
            outlets=outlets,
            worst=worst,
            steps=found.steps,
            residual=found.residual,
            problems=tuple(told),
            lifts=lifts,
        )


def draws(what: What) -> float:
    """What an open outlet draws (m³/s) at the pressure it needs."""
    assert isinstance(what, Outlet)
    at = emitting(what)
    return at[0] * (max(what.needs, 1.0) / at[1]) ** at[2] if at else what.flow


def _outlet_flow(point: Point, heads: dict[str, float], flows: dict[str, float], wet: Water) -> OutletFlow:
    what = point.what
    assert isinstance(what, Outlet)
    head = heads[_mouth(point)]
    pressure = (head - mouth_level(point)) * wet.weight
    flow = flows.get(f"{point.id}~head", what.flow)
    over = pressure - what.needs
    return OutletFlow(point.id, flow, pressure, what.needs, over, over < -ENOUGH)


def _limits(
    model: FlowModel, heads: dict[str, float], flows: dict[str, float], outlets: dict[str, OutletFlow]
) -> Iterable[Problem]:
    points, scenario, units = model.points, model.scenario, model.plan.units
    for o in outlets.values():
        wanted = draws(points[o.point].what)
        if o.pressure < 0 or o.flow < _BARELY * wanted:
            yield tell("no-pressure", o.point, units, scenario=scenario, outlet=points[o.point].label)
        elif o.short:
            # never rounded up to all of it; it needs more than zero
            share = floor(o.pressure / o.needs * 1000) / 1000
            gives = model.yields and isinstance(points[o.point].what, (Tap, Hydrant, Fixture))
            yield tell(
                "outlet-starved/gives" if gives else "outlet-starved",
                o.point,
                units,
                scenario=scenario,
                outlet=points[o.point].label,
                share=f"{share:.{0 if share < 0.99 else 1}%}",
                have=o.flow,
                want=wanted,
            )
    for pump in model.network.pumps:
        p = points[model.acting.pump_at[pump.id]]
        if flows[pump.id] > pump.curve[-1][0] and not _siphon_broken(model, p):
            yield tell(
                "pump-off-curve" if model.open else "pump-off-curve/rounds",
                p.id,
                units,
                scenario=scenario,
                pump=p.label,
            )
        if isinstance(p.what, Pump) and pump.start in heads:
            inlet = (heads[pump.start] - p.level) * model.wet.weight
            yield from pump_suction(model.plan, model.lay, model.scenario, p, inlet)
    for r in model.network.regulators:
        p = points[model.acting.regulator_at[r.id]]
        if model.open and flows.get(r.id, 0.0) > 1e-7 and heads[r.start] < r.head - 0.01:
            yield tell(
                "regulator-starved",
                p.id,
                units,
                scenario=scenario,
                regulator=p.label,
                short=(r.head - heads[r.start]) * model.wet.weight,
            )


def _siphon_broken(model: FlowModel, pump: Point) -> bool:
    """Whether a vent in a drain pump's line lets air in where the line runs downhill: the pull of that on its pump,
    which these sums have, is not there.
    """
    system = next((s for s in model.lay.systems.found if pump.id in s.sources), None)
    if system is None or system.sort != "pumped drain":
        return False
    return any(isinstance(model.points[p].what, Vent) for p in system.points if p in model.points)


def models(plan: Plan, lay: Layout) -> tuple[FlowModel, ...]:
    """Every scenario of a plan made ready; none where there is no source."""
    if not any(s.sources and s.sort != "gravity drain" for s in lay.systems.found):
        return ()
    return tuple(FlowModel(plan, lay, s) for s in all_scenarios(plan))
