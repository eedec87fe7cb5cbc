"""From a plan to a network and back: what flows, how fast, at what pressure, in each scenario."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

from hydrarch.core.catalogue.pipes import Pipe, pipe, pressure_rating, series
from hydrarch.core.errors import HydrarchError
from hydrarch.core.hydraulics.friction import reynolds_number, velocity
from hydrarch.core.hydraulics.network import Emitter, Network, PipeLink, PumpLink, solve_network
from hydrarch.core.hydraulics.water import Water, water
from hydrarch.core.layout import Layout, label
from hydrarch.core.plan import (
    BackflowPreventer,
    CheckValve,
    Drip,
    Filter,
    Mains,
    Outlet,
    Plan,
    Point,
    Scenario,
    Sprinkler,
    Tank,
    Tap,
    WellPump,
)
from hydrarch.core.problems import Problem
from hydrarch.core.units import show

__all__ = [
    "Flow",
    "OutletFlow",
    "PointState",
    "RunFlow",
    "riser_length",
    "riser_pipe",
    "shut_off_heads",
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
    points = {p.id: p for p in plan.points if p.id in lay.fed}
    wet = water(plan.conditions.water_temperature)
    network = _network(plan, lay, points, pipes, minor, scenario, wet)
    try:
        found = solve_network(network, wet, plan.conditions.friction)
    except HydrarchError as error:
        problem = Problem("not-settled", "stop", "", f"{scenario.name}: {error}.", "Look at that place: its numbers contradict.")
        return Flow(scenario.id, scenario.name, {}, {}, {}, None, 0, 0.0, (problem,))
    runs = {}
    for link in network.pipes:
        if link.id in lay.lines:
            q = found.flows[link.id]
            drawn = q if link.start == lay.lines[link.id].a else -q
            loss = found.heads[link.start] - found.heads[link.stop]
            re = float(reynolds_number(q, link.bore, wet.density, wet.viscosity))
            runs[link.id] = RunFlow(link.id, drawn, float(velocity(abs(q), link.bore)), abs(loss), re)
    states = {
        p: PointState(p, found.heads[p], (found.heads[p] - points[p].level) * wet.weight)
        for p in points if p in found.heads
    }  # fmt: skip
    outlets = {}
    for p in scenario.open:
        if p in points:
            outlets[p] = _outlet_flow(points[p], found.heads, found.flows, wet)
    worst = min(outlets, key=lambda p: outlets[p].margin, default=None)
    problems = tuple(_limits(plan, points, network, found.flows, outlets, scenario))
    return Flow(scenario.id, scenario.name, runs, states, outlets, worst, found.steps, found.residual, problems)


def _network(
    plan: Plan, lay: Layout, points: dict[str, Point], pipes: dict[str, Pipe],
    minor: dict[str, float], scenario: Scenario, wet: Water,
) -> Network:  # fmt: skip
    heads: dict[str, float] = {}
    pumps = []
    for p in points.values():
        match p.what:
            case WellPump():
                heads[f"{p.id}.water"] = p.what.water_level
                curve = tuple((c.flow, c.head) for c in p.what.curve)
                pumps.append(PumpLink(f"{p.id}.pump", f"{p.id}.water", p.id, curve))
            case Mains():
                heads[p.id] = p.level + p.what.pressure / wet.weight
            case Tank():
                heads[p.id] = p.what.water_level
    fixed, one_way = _devices(lay, points, wet)
    links = []
    for run in plan.runs:
        if run.a not in points:
            continue
        line, item = lay.lines[run.id], pipes[run.id]
        family = series(item.series)
        start, stop = one_way.get(run.id, (run.a, run.b))
        links.append(PipeLink(
            run.id, start, stop, line.length, item.bore, family.hazen_williams_c, family.roughness,
            minor.get(run.id, 0.0), fixed.get(run.id, 0.0), run.id in one_way,
        ))  # fmt: skip
    demands, emitters = {}, []
    for name in scenario.open:
        if name not in points:
            continue
        p = points[name]
        if riser_length(p) > 0:
            up = riser_pipe(p)
            family = series(up.series)
            links.append(PipeLink(
                f"{name}.riser", name, f"{name}.out", riser_length(p), up.bore, family.hazen_williams_c, family.roughness,
                minor.get(f"{name}.riser", 0.0),
            ))  # fmt: skip
        out = f"{name}.out" if riser_length(p) > 0 else name
        match p.what:
            case Sprinkler():
                k = p.what.flow / (p.what.at_pressure / wet.weight) ** p.what.exponent
                emitters.append(Emitter(f"{name}.head", out, p.ground + p.what.height, k, p.what.exponent))
            case Tap() | Drip():
                demands[out] = p.what.flow
    return Network(heads, demands, tuple(links), tuple(pumps), tuple(emitters))


def _devices(lay: Layout, points: dict[str, Point], wet: Water) -> tuple[dict[str, float], dict[str, tuple[str, str]]]:
    """Losses and one-way runs that devices lay on the run beyond them, away from the source."""
    fixed: dict[str, float] = {}
    one_way: dict[str, tuple[str, str]] = {}
    for p in points.values():
        if not isinstance(p.what, Filter | BackflowPreventer | CheckValve) or len(lay.at[p.id]) != 2:
            continue
        beyond = max(lay.at[p.id], key=lambda r: lay.distance[lay.lines[r].other(p.id)])
        if not isinstance(p.what, CheckValve):
            fixed[beyond] = fixed.get(beyond, 0.0) + p.what.loss / wet.weight / p.what.at_flow**2
        if not isinstance(p.what, Filter):
            one_way[beyond] = (p.id, lay.lines[beyond].other(p.id))
    return fixed, one_way


def _outlet_flow(point: Point, heads: dict[str, float], flows: dict[str, float], wet: Water) -> OutletFlow:
    what = point.what
    assert isinstance(what, Outlet)
    head = heads[f"{point.id}.out"] if riser_length(point) > 0 else heads[point.id]
    pressure = (head - point.ground - what.height) * wet.weight
    flow = flows[f"{point.id}.head"] if isinstance(what, Sprinkler) else what.flow
    return OutletFlow(point.id, flow, pressure, what.needs, pressure - what.needs)


def _limits(
    plan: Plan, points: dict[str, Point], network: Network, flows: dict[str, float],
    outlets: dict[str, OutletFlow], scenario: Scenario,
) -> Iterable[Problem]:  # fmt: skip
    for o in outlets.values():
        if o.pressure < 0:
            yield Problem(
                "no-pressure", "stop", o.point, f"{scenario.name}: the source cannot feed {label(points[o.point])}; no water reaches it.",
                "Open fewer outlets at once, raise the source, or take larger pipe.",
            )  # fmt: skip
        elif o.margin < -1.0:
            share = o.pressure / o.needs
            yield Problem(
                "outlet-starved", "warn", o.point,
                f"{scenario.name}: {label(points[o.point])} gets {share:.0%} of the pressure it wants.",
                "Take larger pipe on the way to it, open fewer at once, or raise the source.",
            )  # fmt: skip
    for pump in network.pumps:
        if flows[pump.id] > pump.curve[-1][0]:
            p = points[pump.stop]
            yield Problem(
                "pump-off-curve", "warn", p.id,
                f"{scenario.name}: {label(p)} runs beyond the end of its curve.", "Open fewer outlets, or take a larger pump.",
            )  # fmt: skip


def shut_off_heads(plan: Plan, lay: Layout) -> dict[str, float]:
    """The highest head (m) each fed point can see with everything closed: pump shut-off, mains, tank level."""
    wet = water(plan.conditions.water_temperature)
    top = 0.0
    for p in plan.sources():
        match p.what:
            case WellPump():
                top = max(top, p.what.water_level + p.what.curve[0].head)
            case Mains():
                top = max(top, p.level + p.what.pressure / wet.weight)
            case Tank():
                top = max(top, p.what.water_level)
    return {p.id: top for p in plan.points if p.id in lay.fed}


def static_pressure(plan: Plan, lay: Layout) -> dict[str, float]:
    """Gauge pressure (Pa) at every fed point with everything closed, at the source's highest head."""
    wet = water(plan.conditions.water_temperature)
    heads = shut_off_heads(plan, lay)
    return {p.id: (heads[p.id] - p.level) * wet.weight for p in plan.points if p.id in heads}


def rating_problems(plan: Plan, lay: Layout, pipes: dict[str, Pipe]) -> tuple[Problem, ...]:
    """Runs whose pipe is rated below the pressure it sees at shut-off, at the water's temperature."""
    found = []
    pressures = static_pressure(plan, lay)
    names = {p.id: label(p) for p in plan.points}
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
