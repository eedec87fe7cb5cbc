"""From a plan to a network and back: what flows, how fast, at what pressure, in each scenario."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, replace
from math import expm1, floor, log1p

import numpy as np
from numpy.typing import NDArray

from hydrarch.core.catalogue.curves import Curve
from hydrarch.core.catalogue.pipes import Pipe, pipe, pressure_rating, series
from hydrarch.core.errors import HydrarchError
from hydrarch.core.hydraulics.friction import reynolds_number, velocity
from hydrarch.core.hydraulics.network import Emitter, Network, PipeLink, PumpLink, Solution, Solver
from hydrarch.core.hydraulics.network import Regulator as ValveLink
from hydrarch.core.hydraulics.suction import pump_suction
from hydrarch.core.hydraulics.supply import EXPONENT
from hydrarch.core.hydraulics.water import Water, water
from hydrarch.core.layout import Layout
from hydrarch.core.plan import (
    BackflowPreventer,
    CheckValve,
    Drip,
    Filter,
    Mains,
    Outlet,
    Plan,
    Point,
    Pump,
    Regulator,
    Scenario,
    Sprinkler,
    Tank,
    Tap,
    ThreeWay,
    Valve,
    WellPump,
    What,
)
from hydrarch.core.problems import Problem
from hydrarch.core.units import show

__all__ = [
    "Flow",
    "Model",
    "Trial",
    "draws",
    "OutletFlow",
    "PointState",
    "RunFlow",
    "models",
    "riser_length",
    "riser_pipe",
    "shut_off_head",
    "solve",
    "static_pressure",
    "rating_problems",
]


@dataclass(frozen=True, slots=True)
class RunFlow:
    """A run in one scenario: flow (m³/s, positive from a to b), velocity (m/s), head loss (m), Reynolds number."""

    run: str
    flow: float
    velocity: float
    loss: float
    reynolds: float


@dataclass(frozen=True, slots=True)
class PointState:
    """A point in one scenario: total head (m) and gauge pressure (Pa) at the pipe's axis."""

    point: str
    head: float
    pressure: float


@dataclass(frozen=True, slots=True)
class OutletFlow:
    """An open outlet: flow (m³/s), gauge pressure at its own height (Pa), what it needs (Pa) and what is over."""

    point: str
    flow: float
    pressure: float
    needs: float
    margin: float


@dataclass(frozen=True, slots=True)
class Flow:
    """One scenario solved. `worst` is the outlet with the least margin; `residual` (m) the energy imbalance."""

    scenario: str
    name: str
    runs: dict[str, RunFlow]
    points: dict[str, PointState]
    outlets: dict[str, OutletFlow]
    worst: str | None
    steps: int
    residual: float
    problems: tuple[Problem, ...]


def riser_length(point: Point) -> float:
    """Length (m) of the upright pipe from a buried line to an outlet; 0 where the outlet sits on the line."""
    return max(0.0, point.depth + point.what.height) if isinstance(point.what, Outlet) else 0.0


def riser_pipe(point: Point) -> Pipe:
    """The pipe risers are made of: threaded schedule 80 of the outlet's own thread size."""
    if not isinstance(point.what, Outlet):
        raise TypeError(f"{point.id} is not an outlet")
    return pipe("pvc80", point.what.thread)


def solve(plan: Plan, lay: Layout, pipes: dict[str, Pipe], minor: dict[str, float], scenario: Scenario) -> Flow:
    """Solve one scenario. `pipes` gives each run its pipe, `minor` the sum of loss coefficients K of each run.

    Points no source reaches are left out. A plan that does not settle gives a `Problem`, not an error.
    """
    return Model(plan, lay, scenario).solve(pipes, minor)


class Model:
    """One scenario of a plan made ready, to be solved for many choices of pipe."""

    def __init__(self, plan: Plan, lay: Layout, scenario: Scenario) -> None:
        self.plan, self.lay, self.scenario = plan, lay, scenario
        self.points = {p.id: p for p in plan.points if p.id in lay.fed}
        self.wet = water(plan.conditions.water_temperature)
        self.open = tuple(p for p in scenario.open if p in self.points)
        self.runs = tuple(r for r in plan.runs if r.a in self.points)
        self.network = self._network()
        self.links = self.network.pipes
        self.forward = [p.id not in lay.lines or p.start.split("@")[0] == lay.lines[p.id].a for p in self.links]
        self.taps = [self._tap(self.points[p]) for p in self.open]
        self._extra = np.array([p.minor for p in self.links])
        self._solver = Solver(self.network, self.wet, plan.conditions.friction)

    @staticmethod
    def _tap(point: Point) -> tuple[str, str, float, float]:
        """An open outlet: its id, node, own height (m) and the pressure it needs (Pa)."""
        assert isinstance(point.what, Outlet)
        node = f"{point.id}.out" if riser_length(point) > 0 else point.id
        return point.id, node, point.ground + point.what.height, point.what.needs

    def _network(self) -> Network:
        heads: dict[str, float] = {}
        pumps, regulators = [], []
        for p in self.points.values():
            match p.what:
                case WellPump():
                    heads[f"{p.id}.water"] = p.what.water_level
                    pumps.append(PumpLink(f"{p.id}.pump", f"{p.id}.water", p.id, p.what.running()))
                case Mains() if p.what.flowing > 0:
                    heads[f"{p.id}.water"] = p.level
                    pumps.append(PumpLink(f"{p.id}.pump", f"{p.id}.water", p.id, mains_curve(p.what, self.wet)))
                case Mains():
                    heads[p.id] = p.level + p.what.pressure / self.wet.weight
                case Tank():
                    heads[p.id] = p.what.water_level
                case Pump() if len(self.lay.at[p.id]) == 2:
                    pumps.append(PumpLink(f"{p.id}.pump", p.id, f"{p.id}@out", p.what.running()))
                case Regulator() if len(self.lay.at[p.id]) == 2:
                    held = p.level + p.what.pressure / self.wet.weight
                    regulators.append(ValveLink(f"{p.id}.regulator", p.id, f"{p.id}@out", held))
        fixed, extra, one_way = self._devices()
        links = []
        for run in self.runs:
            line = self.lay.lines[run.id]
            start, stop = one_way.get(run.id, (run.a, run.b))
            start, stop = (self._node(p, run.id) for p in (start, stop))
            links.append(PipeLink(
                run.id, start, stop, line.length, 0.02, minor=extra.get(run.id, 0.0), fixed=fixed.get(run.id, 0.0),
                one_way=run.id in one_way,
            ))  # fmt: skip
        demands: dict[str, float] = {}
        emitters = []
        for name in self.open:
            p = self.points[name]
            if riser_length(p) > 0:
                links.append(PipeLink(f"{name}.riser", name, f"{name}.out", riser_length(p), riser_pipe(p).bore))
            out = f"{name}.out" if riser_length(p) > 0 else name
            at = emitting(p.what)
            if at is not None:
                flow, pressure, exponent = at
                k = flow / (pressure / self.wet.weight) ** exponent
                emitters.append(Emitter(f"{name}.head", out, p.ground + _height(p), k, exponent))
            elif isinstance(p.what, Tap | Drip):
                demands[out] = p.what.flow
        return Network(heads, demands, tuple(links), tuple(pumps), tuple(emitters), tuple(regulators))

    def _node(self, point: str, run: str) -> str:
        """The node of a run's end: beyond a pump or regulator it is the far side."""
        what = self.points[point].what
        if isinstance(what, Pump | Regulator) and len(self.lay.at[point]) == 2 and self._beyond(point) == run:
            return f"{point}@out"
        return point

    def _beyond(self, point: str) -> str:
        """Of the runs at a point, the one that leads away from the source."""
        return max(self.lay.at[point], key=lambda r: self.lay.distance[self.lay.lines[r].other(point)])

    def _devices(self) -> tuple[dict[str, float], dict[str, float], dict[str, tuple[str, str]]]:
        """What devices lay on the run beyond them: losses as flow squared, coefficients K, and one way only."""
        fixed: dict[str, float] = {}
        extra: dict[str, float] = {}
        one_way: dict[str, tuple[str, str]] = {}
        for p in self.points.values():
            if isinstance(p.what, ThreeWay) and p.what.shut in self.lay.at[p.id]:
                extra[p.what.shut] = SHUT_COEFFICIENT
            if isinstance(p.what, Tank) and p.what.intake == "foot valve" and len(self.lay.at[p.id]) == 1:
                (run,) = self.lay.at[p.id]
                one_way[run] = (p.id, self.lay.lines[run].other(p.id))
            if len(self.lay.at[p.id]) != 2:
                continue
            match p.what:
                case Valve() if p.what.opening < 1:
                    beyond = self._beyond(p.id)
                    extra[beyond] = extra.get(beyond, 0.0) + throttled_coefficient(p.what.opening)
                case Filter() | BackflowPreventer() | CheckValve():
                    beyond = self._beyond(p.id)
                    lost = p.what.loss_now() if isinstance(p.what, Filter) else getattr(p.what, "loss", 0.0)
                    if not isinstance(p.what, CheckValve):
                        fixed[beyond] = fixed.get(beyond, 0.0) + lost / self.wet.weight / p.what.at_flow**2
                    if not isinstance(p.what, Filter):
                        one_way[beyond] = (p.id, self.lay.lines[beyond].other(p.id))
        return fixed, extra, one_way

    def sized(self, pipes: Mapping[str, Pipe], minor: Mapping[str, float]) -> Network:
        """The network with these pipes and losses written into it."""
        links = []
        for p in self.links:
            item = pipes[p.id] if p.id in pipes else riser_pipe(self.points[p.id.removesuffix(".riser")])
            family = series(item.series)
            links.append(replace(
                p, bore=item.bore, hazen_williams_c=family.hazen_williams_c, roughness=family.roughness,
                minor=p.minor + minor.get(p.id, 0.0),
            ))  # fmt: skip
        return replace(self.network, pipes=tuple(links))

    def solve(self, pipes: dict[str, Pipe], minor: dict[str, float]) -> Flow:
        """Flows and pressures with these pipes and losses, in full."""
        return self.try_pipes(pipes, minor).flow()

    def try_pipes(self, pipes: dict[str, Pipe], minor: dict[str, float]) -> Trial:
        """The same, of which only what is asked for is worked out."""
        items = [pipes[p.id] if p.id in pipes else riser_pipe(self.points[p.id.removesuffix(".riser")]) for p in self.links]
        families = [series(i.series) for i in items]
        bore = np.array([i.bore for i in items])
        self._solver.resize(
            bore, np.array([f.hazen_williams_c for f in families]), np.array([f.roughness for f in families]),
            np.array([minor.get(p.id, 0.0) for p in self.links]) + self._extra,
        )  # fmt: skip
        try:
            return Trial(self, bore, self._solver.solve(), None)
        except HydrarchError as error:
            says = f"{self.scenario.name}: {error}."
            problem = Problem("not-settled", "stop", "", says, "Look at that place: its numbers contradict.")
            return Trial(self, bore, Solution({}, {}, 0, 0.0, ()), problem)


@dataclass(frozen=True, slots=True)
class Trial:
    """One solve of a scenario. `fault` tells why it did not settle; then there are no flows."""

    model: Model
    bore: NDArray[np.float64]
    found: Solution
    fault: Problem | None

    def through(self, run: str) -> float:
        """Flow (m³/s) in a run, either way; 0 where no water comes."""
        return abs(self.found.flows.get(run, 0.0))

    def losses(self) -> dict[str, float]:
        """Head lost (m) in every run that can carry water."""
        heads = self.found.heads
        if self.fault is not None:
            return {}
        runs = self.model.links[: len(self.model.runs)]
        return {p.id: abs(heads[p.start] - heads[p.stop]) for p in runs}

    def margins(self) -> dict[str, float]:
        """What each open outlet has over what it needs (Pa)."""
        if self.fault is not None:
            return {}
        heads, weight = self.found.heads, self.model.wet.weight
        return {name: (heads[node] - level) * weight - needs for name, node, level, needs in self.model.taps}

    def flow(self) -> Flow:
        """Everything about it."""
        model, scenario = self.model, self.model.scenario
        if self.fault is not None:
            return Flow(scenario.id, scenario.name, {}, {}, {}, None, 0, 0.0, (self.fault,))
        heads, flows = self.found.heads, self.found.flows
        wet, points = model.wet, model.points
        q = np.array([flows[p.id] for p in model.links])
        speeds = np.asarray(velocity(np.abs(q), self.bore)).tolist()
        reynolds = np.asarray(reynolds_number(q, self.bore, wet.density, wet.viscosity)).tolist()
        runs = {
            p.id: RunFlow(p.id, flows[p.id] if forward else -flows[p.id], v, abs(heads[p.start] - heads[p.stop]), re)
            for p, forward, v, re in zip(model.links, model.forward, speeds, reynolds, strict=True)
            if p.id in model.lay.lines
        }
        states = {
            p: PointState(p, h, (h - points[p].level) * wet.weight)
            for p in points if (h := heads.get(f"{p}@out", heads.get(p))) is not None
        }  # fmt: skip
        outlets = {p: _outlet_flow(points[p], heads, flows, wet) for p in model.open}
        worst = min(outlets, key=lambda p: outlets[p].margin, default=None)
        problems = tuple(_limits(model, heads, flows, outlets))
        found = self.found
        return Flow(scenario.id, scenario.name, runs, states, outlets, worst, found.steps, found.residual, problems)


SHUT_COEFFICIENT = 1e9
"""Loss coefficient of a shut valve: a trickle passes, so that what lies beyond keeps a pressure to be told of."""
_THROTTLED = ((0.0, SHUT_COEFFICIENT), (0.05, 800.0), (0.25, 24.0), (0.5, 5.6), (0.75, 1.2), (1.0, 0.0))
"""Loss coefficient added by a gate valve that far open: handbook table, from memory; straight on a log scale between."""


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


def emitting(what: What) -> tuple[float, float, float] | None:
    """Flow, the pressure it is at, and the exponent of an outlet that draws by pressure; None for one that draws its flow."""
    match what:
        case Sprinkler():
            return what.flow, what.at_pressure, what.exponent
        case Drip() if what.exponent > 0:
            return what.flow, max(what.needs, 1.0), what.exponent
    return None


def draws(what: What) -> float:
    """What an open outlet draws (m³/s) at the pressure it needs."""
    assert isinstance(what, Outlet)
    at = emitting(what)
    return at[0] * (max(what.needs, 1.0) / at[1]) ** at[2] if at else what.flow


def _height(point: Point) -> float:
    assert isinstance(point.what, Outlet)
    return point.what.height


def _outlet_flow(point: Point, heads: dict[str, float], flows: dict[str, float], wet: Water) -> OutletFlow:
    what = point.what
    assert isinstance(what, Outlet)
    head = heads[f"{point.id}.out"] if riser_length(point) > 0 else heads[point.id]
    pressure = (head - point.ground - what.height) * wet.weight
    flow = flows.get(f"{point.id}.head", what.flow)
    return OutletFlow(point.id, flow, pressure, what.needs, pressure - what.needs)


def _limits(model: Model, heads: dict[str, float], flows: dict[str, float], outlets: dict[str, OutletFlow]) -> Iterable[Problem]:
    points, name = model.points, model.scenario.name
    for o in outlets.values():
        if o.pressure < 0:
            yield Problem(
                "no-pressure", "stop", o.point, f"{name}: the source cannot feed {points[o.point].label}; no water reaches it.",
                "Open fewer outlets at once, raise the source, or take larger pipe.",
            )  # fmt: skip
        elif o.margin < -1.0:
            share = floor(o.pressure / o.needs * 1000) / 1000  # never rounded up to all of it
            yield Problem(
                "outlet-starved", "warn", o.point,
                f"{name}: {points[o.point].label} gets {share:.{0 if share < 0.99 else 1}%} of the pressure it wants.",
                "Take larger pipe on the way to it, open fewer at once, or raise the source.",
            )  # fmt: skip
    for pump in model.network.pumps:
        p = points[pump.id.removesuffix(".pump")]
        if flows[pump.id] > pump.curve[-1][0]:
            yield Problem(
                "pump-off-curve", "warn", p.id,
                f"{name}: {p.label} runs beyond the end of its curve.", "Open fewer outlets, or take a larger pump.",
            )  # fmt: skip
        if isinstance(p.what, Pump):
            inlet = (heads[p.id] - p.level) * model.wet.weight
            yield from pump_suction(model.plan, model.scenario.name, p, inlet)
    for r in model.network.regulators:
        p = points[r.id.removesuffix(".regulator")]
        if model.open and heads[r.start] < r.head - 0.01 and flows.get(r.id, 0.0) > 1e-7:
            short = show((r.head - heads[r.start]) * model.wet.weight, "pressure", model.plan.units)
            yield Problem(
                "regulator-starved", "warn", p.id, f"{name}: {p.label} stands wide open, {short} short of what it should hold.",
                "Set it lower, or bring more pressure to it.",
            )  # fmt: skip


def shut_off_head(plan: Plan, lay: Layout) -> float:
    """The highest head (m) the line can see with everything closed: pump shut-off, mains, tank level, boosters; 0 with no source."""
    wet = water(plan.conditions.water_temperature)
    top = 0.0
    for p in plan.sources:
        match p.what:
            case WellPump():
                top = max(top, p.what.water_level + p.what.running()[0][1])
            case Mains():
                top = max(top, p.level + p.what.pressure / wet.weight)
            case Tank():
                top = max(top, p.what.water_level)
    return top + sum(p.what.running()[0][1] for p in plan.points if isinstance(p.what, Pump) and p.id in lay.fed)


def models(plan: Plan, lay: Layout) -> tuple[Model, ...]:
    """Every scenario of a plan made ready; none where there is no source."""
    return tuple(Model(plan, lay, s) for s in plan.all_scenarios()) if plan.sources else ()


def static_pressure(plan: Plan, lay: Layout) -> dict[str, float]:
    """Gauge pressure (Pa) at every fed point with everything closed, at the source's highest head."""
    wet = water(plan.conditions.water_temperature)
    top = shut_off_head(plan, lay)
    return {p.id: (top - p.level) * wet.weight for p in plan.points if p.id in lay.fed}


def rating_problems(plan: Plan, lay: Layout, pipes: dict[str, Pipe]) -> tuple[Problem, ...]:
    """Runs whose pipe is rated below the pressure it sees at shut-off, at the water's temperature."""
    found = []
    pressures = static_pressure(plan, lay)
    names = plan.names
    for run in plan.runs:
        if run.a not in pressures:
            continue
        worst = max(pressures[run.a], pressures[run.b])
        rated = pressure_rating(pipes[run.id], plan.conditions.water_temperature)
        if worst > rated:
            found.append(Problem(
                "over-rating", "stop", run.id,
                f"The run from {names[run.a]} to {names[run.b]} sees {show(worst, 'pressure', plan.units)} at shut-off; "
                f"its pipe is rated {show(rated, 'pressure', plan.units)} at this temperature.",
                "Take a heavier series, or lower the pressure at the source.",
            ))  # fmt: skip
    return tuple(found)
