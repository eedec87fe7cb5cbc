"""What comes to drains and where they end, as far as a crew has looked: what it has not is reported as unknown."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

from hydrarch.core.base.graph import Edge, Graph
from hydrarch.core.base.messages import tell
from hydrarch.core.base.problems import Problem, declare
from hydrarch.core.base.units import show
from hydrarch.core.components.drains import DrainEnd, Inlet, Outfall
from hydrarch.core.components.inlets import (
    Downpipe,
    FloorDrain,
    LaundryStandpipe,
    PopUp,
    SewerConnection,
    Soakaway,
    Waste,
    stub_of,
)
from hydrarch.core.components.lines import Cap
from hydrarch.core.drainage.greywater import greywater_problems
from hydrarch.core.drainage.rainwater import HALF_EMPTY, downpipe_carries, soakaway_state
from hydrarch.core.hydraulics.drain_flow import DrainRun, inlet_comes, inlets_above, pumped_in_a_storm
from hydrarch.core.plan.document import Plan, Point
from hydrarch.core.site.layout import Layout

__all__ = ["AtDrain", "Drainage", "drain_ends"]

declare("survey", "waste-unknown", "waste-outdoors", "connection-invert", holds=True)
declare(
    "survey",
    "waste-unmeasured",
    "waste-cleanout",
    "waste-no-band",
    "downpipe-narrow",
    "downpipe-leaves",
    "trap-missing",
    "rain-in-tank",
    "connection-unread",
    "soakaway-untold",
    "soakaway-small",
    "soakaway-slow",
    "pop-up-stands",
)

_CLEANS = 3.0
"""m from what comes through a wall within which its clean-out stands; from memory, codes say where."""
_TOUCHES = 5e-4  # m: less is not read at a staff
_FOUL = ("sewer", "septic tank")


@dataclass(frozen=True, slots=True)
class AtDrain:
    """What can be said of one thing that a drain begins or ends at."""

    point: str
    says: str


@dataclass(frozen=True, slots=True)
class Drainage:
    """What is said of where drains begin and end, and what is wrong there."""

    notes: tuple[AtDrain, ...]
    problems: tuple[Problem, ...]


def drain_ends(plan: Plan, lay: Layout, drains: Sequence[DrainRun]) -> Drainage:
    """What there is to say of the inlets and ends of a job's drains."""
    notes, told = list[AtDrain](), list[Problem]()
    reached = _reached(plan, lay)
    for point in plan.of_kind(Inlet):
        told += _inlet(plan, lay, point, reached.get(point.id, ()))
        if isinstance(point.what, Downpipe) and point.what.across > 0:
            carries, comes = downpipe_carries(point.what.across), inlet_comes(plan, point)
            says = f"{point.label} brings {show(comes, 'flow', plan.units)}; it carries "
            notes.append(AtDrain(point.id, f"{says}{show(carries, 'flow', plan.units)}, a third full."))
            if comes > carries:
                told.append(tell("downpipe-narrow", point.id, plan.units, pipe=point.label, comes=comes, most=carries))
    pumped = pumped_in_a_storm(plan, lay)
    for point in plan.of_kind(DrainEnd):
        into = [r for r in lay.at[point.id] if lay.systems.drain(r)]
        if isinstance(point.what, SewerConnection):
            told += _connection(plan, point, point.what, [d for d in drains if d.lower == point.id])
        if isinstance(point.what, PopUp) and point.what.weep != "yes":
            told.append(tell("pop-up-stands", point.id, end=point.label))
        if isinstance(point.what, Soakaway):
            above = inlets_above(plan, lay, into)
            area = sum(p.what.area * p.what.runs_off for p in above if isinstance(p.what, Inlet))
            other = sum(inlet_comes(plan, p) for p in above if isinstance(p.what, Inlet) and not p.what.area)
            other += sum(pumped.get(p.id, 0.0) for p in above)
            note, wrong = _soakaway(plan, point, point.what, area, other)
            notes.append(note)
            told += wrong
    return Drainage(tuple(notes), (*told, *greywater_problems(plan, lay)))


def _reached(plan: Plan, lay: Layout) -> dict[str, tuple[Point, ...]]:
    """The ends that what comes to each inlet may run to, by whatever way is drawn; through no pit."""
    found: dict[str, list[Point]] = {}
    for end in plan.of_kind(DrainEnd):
        for inlet in inlets_above(plan, lay, (r for r in lay.at[end.id] if lay.systems.drain(r))):
            found.setdefault(inlet.id, []).append(end)
    return {p: tuple(ends) for p, ends in found.items()}


def _inlet(plan: Plan, lay: Layout, point: Point, ends: Sequence[Point]) -> Iterator[Problem]:
    what = point.what
    foul = [e for e in ends if isinstance(e.what, SewerConnection) and e.what.into in _FOUL]
    if isinstance(what, Downpipe) and what.leaf_trap != "yes":
        yield tell("downpipe-leaves", point.id, pipe=point.label)
    if isinstance(what, Inlet) and what.area > 0:
        for end in (e for e in ends if isinstance(e.what, SewerConnection) and e.what.into == "septic tank"):
            yield tell("rain-in-tank", point.id, inlet=point.label, end=end.label)
    if isinstance(what, (FloorDrain, LaundryStandpipe)) and what.trap != "yes" and foul:
        code = "trap-missing" if what.trap == "no" else "trap-missing/unknown"
        yield tell(code, point.id, inlet=point.label, end=foul[0].label)
    if isinstance(what, Waste):
        if what.drains == "not known":
            yield tell("waste-unknown", point.id, waste=point.label)
        if what.across <= 0 or what.made_of == "not known":
            yield tell("waste-unmeasured", point.id, waste=point.label)
        elif not stub_of(what):
            yield tell("waste-no-band", point.id, plan.units, waste=point.label, made=what.made_of, across=what.across)
        if what.cleanout != "yes" and not _cleaned(plan, lay, point):
            yield tell("waste-cleanout", point.id, plan.units, waste=point.label, reach=_CLEANS)
    if isinstance(what, (Waste, LaundryStandpipe)):
        for end in ends:
            open_air = isinstance(end.what, (Outfall, PopUp, Soakaway))
            if open_air or (isinstance(end.what, SewerConnection) and end.what.into not in _FOUL):
                yield tell("waste-outdoors", point.id, waste=point.label, end=end.label)


def _cleaned(plan: Plan, lay: Layout, point: Point) -> bool:
    """Whether a clean-out (a cap) stands near on its own drain."""
    runs = [lay.lines[r] for r in lay.at[point.id] if lay.systems.drain(r)]
    if not runs:
        return False
    system = lay.systems.found[lay.systems.of[runs[0].run]]
    lines = [lay.lines[r] for r in system.runs]
    near = Graph[str](Edge(x.run, x.a, x.b, x.length) for x in lines).from_nodes([point.id]).distance
    return any(isinstance(plan.by_id[p].what, Cap) and far <= _CLEANS for p, far in near.items())


def _connection(plan: Plan, point: Point, what: SewerConnection, drains: Sequence[DrainRun]) -> Iterator[Problem]:
    if what.invert is None:
        yield tell("connection-unread", point.id, end=point.label, into=what.into)
        return
    for d in drains:
        if d.inverts[1] < what.invert - _TOUCHES:
            yield tell(
                "connection-invert",
                point.id,
                plan.units,
                end=point.label,
                comes=d.inverts[1],
                fixed=what.invert,
                low=what.invert - d.inverts[1],
            )


def _soakaway(
    plan: Plan, point: Point, what: Soakaway, area: float, other: float
) -> tuple[AtDrain, tuple[Problem, ...]]:
    state, units = soakaway_state(what, area, other), plan.units
    says = f"{point.label} has room for {show(state.holds, 'volume', units)}"
    if state.needs is None or state.half_empty is None:
        missing = " and ".join(
            x
            for x in (
                "how fast the ground takes water" if what.soaks <= 0 else "",
                "" if what.storm_rain else "its storm's rain",
            )
            if x
        )
        told = tell("soakaway-untold", point.id, end=point.label, missing=missing)
        return AtDrain(point.id, f"{says}; what it needs is not known: {missing} is not entered."), (told,)
    wrong = []
    if state.needs > state.holds:
        wrong.append(tell("soakaway-small", point.id, units, end=point.label, needs=state.needs, room=state.holds))
    if state.half_empty > HALF_EMPTY:
        wrong.append(tell("soakaway-slow", point.id, units, end=point.label, takes=state.half_empty, limit=HALF_EMPTY))
    says += (
        f"; its storm needs {show(state.needs, 'volume', units)}, and it is half empty after "
        f"{show(state.half_empty, 'hours', units)}. The test of the ground is a day's: wet ground takes less."
    )
    return AtDrain(point.id, says), tuple(wrong)
