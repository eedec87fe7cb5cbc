"""How a derived number came about: formula, inputs and source, for anyone who hovers over it."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from hydrarch.core.base.errors import Unknown
from hydrarch.core.base.units import INCH, show
from hydrarch.core.building.together import all_scenarios
from hydrarch.core.catalogue.pipes import pipe, rating_from_wall, series
from hydrarch.core.components.outlets import Sprinkler
from hydrarch.core.derivation.chain import Derived
from hydrarch.core.hydraulics.friction import METHODS
from hydrarch.core.hydraulics.spread import spread
from hydrarch.core.hydraulics.water import water
from hydrarch.core.making.steps import joint_cure, words_for_time
from hydrarch.core.plan.document import Plan
from hydrarch.core.sizing.hammer import all_surges

__all__ = ["WORKINGS", "Working", "working"]


@dataclass(frozen=True, slots=True)
class Working:
    """A derived number laid open: `inputs` are pairs of name and value in the job's units."""

    title: str
    result: str
    formula: str
    inputs: tuple[tuple[str, str], ...]
    source: str


def working(plan: Plan, derived: Derived, kind: str, name: str, scenario: str | None = None) -> Working:
    """The working of one number: `kind` from `WORKINGS`, `name` the run, point, piece, joint or section.

    Raises `Unknown` for a kind, name or scenario that is not there.
    """
    if kind not in WORKINGS:
        raise Unknown("working", kind, WORKINGS)
    try:
        return WORKINGS[kind](plan, derived, name, scenario or all_scenarios(plan)[0].id)
    except (KeyError, StopIteration):
        raise Unknown(f"{kind} to show", f"{name} in {scenario}") from None


def _velocity(plan: Plan, d: Derived, run: str, scenario: str) -> Working:
    f, c = d.sizes.flows[scenario].runs[run], d.sizes.choices[run]
    item = pipe(c.series, c.size)
    return Working(
        "Mean velocity",
        str(show(f.velocity, "velocity", plan.units)),
        "v = Q / (π d² / 4)",
        (
            ("Q", str(show(abs(f.flow), "flow", plan.units))),
            ("d, average bore", str(show(item.bore, "diameter", plan.units))),
        ),
        item.source,
    )


def _flow(plan: Plan, d: Derived, run: str, scenario: str) -> Working:
    flow = d.sizes.flows[scenario]
    return Working(
        "Flow in the run",
        str(show(abs(flow.runs[run].flow), "flow", plan.units)),
        "what enters each point leaves it; around each loop the losses add to nothing",
        (
            ("scenario", flow.name),
            ("steps taken", str(flow.steps)),
            ("worst energy imbalance", f"{flow.residual:.1e} m"),
        ),
        "global gradient method, Todini and Pilati 1988",
    )


def _loss(plan: Plan, d: Derived, run: str, scenario: str) -> Working:
    f, c = d.sizes.flows[scenario].runs[run], d.sizes.choices[run]
    item, family = pipe(c.series, c.size), series(c.series)
    shared: tuple[tuple[str, str], ...] = (
        ("L", str(show(d.layout.lines[run].length, "length", plan.units))),
        ("d, average bore", str(show(item.bore, "diameter", plan.units))),
        ("Q", str(show(abs(f.flow), "flow", plan.units))),
        ("K of its fittings", f"{d.assembly.minor.get(run, 0.0) + plan.run_by_id[run].closed:.2f}"),
        ("Reynolds number", f"{f.reynolds:,.0f}"),
    )
    thinner = spread(plan, d.layout, d.sizes.flows[scenario].outlets).get(run)
    if thinner is not None:  # water leaves it all along
        shared = (
            *shared,
            (
                "L is calculated as, since emitters take Q on the way and sit in it",
                str(show(d.layout.lines[run].length * thinner, "length", plan.units)),
            ),
        )
    method = METHODS[plan.conditions.friction]
    rough = f"{family.roughness * 1e3:.2g} mm" if plan.units == "metric" else f"{family.roughness / INCH:.2g} in"
    lining = ("C", f"{family.hazen_williams_c:g}") if method.power_law is not None else ("ε", rough)
    formula = f"{method.formula}; and K v²/2g, SI"
    source = f"{method.source}; K = (L/D)·f_T, Crane TP-410"
    return Working("Head lost in the run", str(show(f.loss, "head", plan.units)), formula, (lining, *shared), source)


def _size(plan: Plan, d: Derived, run: str, scenario: str) -> Working:
    c = d.sizes.choices[run]
    item, family = pipe(c.series, c.size), series(c.series)
    return Working(
        "Size",
        f"{family.short} {c.size}",
        f"the smallest that holds: {c.says}",
        (
            ("outside", str(show(item.outside, "diameter", plan.units))),
            ("wall", str(show(item.wall, "diameter", plan.units))),
            ("average bore", str(show(item.bore, "diameter", plan.units))),
            (f"rating at {show(296.15, 'temperature', plan.units)}", str(show(item.rating, "pressure", plan.units))),
            ("2·S·t/(D − t)", str(show(rating_from_wall(item), "pressure", plan.units))),
            ("velocity limit", str(show(plan.conditions.max_velocity, "velocity", plan.units))),
        ),
        item.source,
    )


def _pressure(plan: Plan, d: Derived, point: str, scenario: str) -> Working:
    flow = d.sizes.flows[scenario]
    state, p = flow.points[point], plan.by_id[point]
    weight = water(plan.conditions.water_temperature).weight
    inputs = [
        ("head of the water", str(show(state.head, "head", plan.units))),
        ("level of the pipe", str(show(p.level, "level", plan.units))),
        ("weight of water", f"{weight:.0f} N/m³"),
    ]
    result = str(show(state.pressure, "pressure", plan.units))
    if point in flow.outlets:
        out = flow.outlets[point]
        result = str(show(out.pressure, "pressure", plan.units))
        inputs.append(("wanted", str(show(out.needs, "pressure", plan.units))))
        if isinstance(p.what, Sprinkler):
            inputs.append(("passes", f"{show(out.flow, 'flow', plan.units)}, q = k·p^{p.what.exponent:g}"))
    title = "Pressure at the outlet, above its riser" if point in flow.outlets else "Pressure in the pipe"
    return Working(title, result, "p = γ (H − z)", tuple(inputs), "hydrostatics; density of water by Kell 1975")


def _surge(plan: Plan, d: Derived, run: str, scenario: str) -> Working:
    c = d.sizes.choices[run]
    found = all_surges(plan, d.layout, {run: pipe(c.series, c.size)}, d.sizes.flows).get(run)
    if found is None:
        return Working("Pressure when the water stops at once", "none", "no water goes through this run", (), "")
    inputs = [
        ("wave speed a", str(show(found.speed, "velocity", plan.units))),
        ("rise ρ·a·v", str(show(found.rise, "pressure", plan.units))),
        ("day after day", str(show(found.limit, "pressure", plan.units))),
        ("now and then", str(show(found.occasional, "pressure", plan.units))),
        ("wave there and back", f"{found.return_time:.2f} s"),
    ]
    if 0 < found.closing < 600:
        inputs.append(("close over", f"{found.closing:.1f} s"))
    title = "Pressure when the water stops at once"
    return Working(
        title, str(show(found.peak, "pressure", plan.units)), f"Δp = ρ·a·Δv; {found.says}", tuple(inputs), found.source
    )


def _piece(plan: Plan, d: Derived, name: str, scenario: str) -> Working:
    piece = next(p for p in d.cuts.pieces if p.id == name)
    inputs = [("between centres", str(show(piece.centres, "cut", plan.units)))]
    for side in (piece.a, piece.b):
        inputs.append((f"taken up at {side.name}", str(show(side.offset, "cut", plan.units))))
    if piece.saved:
        inputs.append(("saved by bending", str(show(piece.saved, "cut", plan.units))))
    return Working(
        "Cut length, socket stop to socket stop",
        str(show(piece.length, "cut", plan.units)),
        "centre to centre, less what the fittings take up at each end",
        tuple(inputs),
        "take-offs of the catalogue, or the crew's own measure",
    )


def _cure(plan: Plan, d: Derived, name: str, scenario: str) -> Working:
    joint = next(j for j in d.assembly.joints if j.id == name)
    section = next((s for s in d.sections if name in s.joints), None)
    clock = joint_cure(plan, joint, section.test if section else 0.0)
    if clock is None:
        return Working("Wait before pressure", "none", "this joint does not cure", (), "common practice")
    inputs = (
        ("size", joint.size),
        ("lowest air temperature", str(show(plan.conditions.air_temperature, "temperature", plan.units))),
        ("relative humidity", str(show(plan.conditions.humidity, "humidity", plan.units))),
        ("test pressure", str(show(section.test, "pressure", plan.units)) if section else ""),
        ("handle after", words_for_time(clock.set)),
    )
    return Working("Wait before pressure", words_for_time(clock.cure), clock.says, inputs, clock.source)


def _test(plan: Plan, d: Derived, name: str, scenario: str) -> Working:
    s = next(s for s in d.sections if s.id == name)
    inputs = (
        ("highest pressure at rest", str(show(s.working, "pressure", plan.units))),
        ("weakest pipe's rating", str(show(s.limit, "pressure", plan.units))),
    )
    return Working("Test pressure", str(show(s.test, "pressure", plan.units)), s.says, inputs, "common practice")


WORKINGS: dict[str, Callable[[Plan, Derived, str, str], Working]] = {
    "flow": _flow,
    "velocity": _velocity,
    "loss": _loss,
    "size": _size,
    "pressure": _pressure,
    "surge": _surge,
    "piece": _piece,
    "cure": _cure,
    "test": _test,
}
"""Every kind of number that can be laid open."""
