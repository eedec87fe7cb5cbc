"""Pits that pumps lift from: what each pump gives by itself against what comes, its check valve, and how long a battery
keeps it going.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from itertools import pairwise

from hydrarch.core.base.messages import tell
from hydrarch.core.base.problems import Problem, declare
from hydrarch.core.base.units import nominal_diameter, show
from hydrarch.core.building.together import all_scenarios
from hydrarch.core.catalogue.fittings import end
from hydrarch.core.catalogue.pipes import Pipe, series
from hydrarch.core.components.devices import CheckValve, Union
from hydrarch.core.components.drains import Sump
from hydrarch.core.hydraulics.drain_flow import comes_to_pit
from hydrarch.core.hydraulics.flow import Flow, FlowModel
from hydrarch.core.plan.document import Plan, Point
from hydrarch.core.site.layout import Layout

__all__ = ["Pit", "battery_lasts", "most_starts", "pits", "riser_of"]

declare("size", "pit-fills", "pit-check", "pit-turn", "pit-apart", "pit-starts", "pit-power", "pit-floats", "pit-riser")

_WATER = 1000.0  # kg/m³
_STARTS = 15.0  # an hour that a small submersible pump may be started, from memory; its maker's figure wins
_RATE = 20 * 3600.0  # s over which a battery is rated
_PEUKERT = 1.2
"""By how much more a lead-acid battery loses to a fast draw (Peukert): 1.1 to 1.3, from memory; its maker's table wins.
"""


@dataclass(frozen=True, slots=True)
class Pit:
    """A pump of a pit by itself: what it gives (m³/s), what comes (0: not told), and how long (s) its battery lasts,
    None where it has none.
    """

    point: str
    gives: float
    comes: float
    lasts: float | None
    holds: bool
    says: str


def battery_lasts(charge: float, current: float) -> float:
    """How long (s) a battery of that charge (C, at its 20-hour rate) gives a current (A): Peukert's law.

    >>> round(battery_lasts(75 * 3600.0, 3.75) / 3600, 2), round(battery_lasts(75 * 3600.0, 15.0) / 3600, 2)
    (20.0, 3.79)
    """
    return float(_RATE * (charge / (current * _RATE)) ** _PEUKERT)


def most_starts(gives: float, comes: float, stores: float) -> float:
    """Starts in an hour of a pump that `gives` (m³/s) and lifts `stores` (m³) each time, at the worst inflow up to
    `comes` (m³/s): 3600 q (Q − q) / (Q V), greatest where half of what it gives comes.

    Source: pump cycling of wet wells, 4 V / Q the shortest cycle, common practice.

    >>> round(most_starts(0.002, 0.01, 0.05), 1), round(most_starts(0.002, 0.0005, 0.05), 1)
    (36.0, 27.0)
    """
    worst = min(comes, gives / 2)
    return 3600 * worst * (gives - worst) / (gives * stores) if gives > 0 else 0.0


def pits(
    plan: Plan, lay: Layout, pipes: Mapping[str, Pipe], minor: Mapping[str, float], flows: Mapping[str, Flow]
) -> tuple[tuple[Pit, ...], tuple[Problem, ...]]:
    """Each pump of a pit that is drawn, and what is wrong with it."""
    found, told = list[Pit](), list[Problem]()
    for system in lay.systems.found:
        pumps = [p for s in system.sources if isinstance((p := plan.by_id[s]).what, Sump)]
        for pump in pumps:
            pit = _pit(plan, lay, pump, pumps, _gives(plan, lay, pump, pumps, pipes, minor, flows))
            found.append(pit)
            told += _wrong(plan, lay, pump, pumps, pit, pipes)
    return tuple(found), tuple(told)


def _gives(
    plan: Plan,
    lay: Layout,
    pump: Point,
    pumps: list[Point],
    pipes: Mapping[str, Pipe],
    minor: Mapping[str, float],
    flows: Mapping[str, Flow],
) -> float:
    """What a pump lifts while the others of its line rest."""
    out = next(
        (
            r
            for r in lay.at[pump.id]
            for e in plan.run_by_id[r].ends
            if e.point == pump.id and plan.port_name(e) == "out"
        ),
        None,
    )
    if out is None:
        return 0.0
    turns = {p.id: "runs first" if p.id == pump.id else "stands by" for p in pumps}
    if all(isinstance(p.what, Sump) and p.what.turn == turns[p.id] for p in pumps):
        return max((abs(f.runs[out].flow) for f in flows.values() if out in f.runs), default=0.0)
    points = tuple(
        p.model_copy(update={"what": p.what.model_copy(update={"turn": turns[p.id]})}) if p.id in turns else p
        for p in plan.points
    )
    scenario = all_scenarios(plan)[0]
    alone = FlowModel(plan.model_copy(update={"points": points}), lay, scenario).solve(dict(pipes), dict(minor))
    return abs(alone.runs[out].flow) if out in alone.runs else 0.0


def _pit(plan: Plan, lay: Layout, pump: Point, pumps: list[Point], gives: float) -> Pit:
    what, units = pump.what, plan.units
    assert isinstance(what, Sump)
    comes = max(comes_to_pit(plan, lay, p) for p in pumps)  # they stand in one pit
    alone = " alone" if what.turn == "stands by" else ""
    says = f"{pump.label} lifts {show(gives, 'flow', units)}{alone}."
    holds = not comes or gives > comes
    if comes and holds:
        says += f" {show(comes, 'flow', units)} comes at the most: it runs {comes / gives:.0%} of the time then."
    elif comes:
        says += (
            f" {show(comes, 'flow', units)} comes at the most: the pit fills by "
            f"{show(comes - gives, 'flow', units)} all the while."
        )
    if what.lifts_each > 0 and gives > 0:
        often = most_starts(gives, comes or gives, what.lifts_each)
        says += f" Between its floats it lifts {show(what.lifts_each, 'volume', units)}: {often:.0f} starts an hour at the most."
    says += _filling(plan, pump, comes)
    lasts = battery_lasts(what.battery, what.draws) if what.battery > 0 and what.draws > 0 else None
    if lasts is not None:
        says += f" Its battery keeps it going for {show(lasts, 'hours', units)} without a pause"
        if comes and holds:
            says += f", {show(lasts * gives / comes, 'hours', units)} with that coming in"
        says += "; new and warm: old or cold it is half of that (from memory)."
    return Pit(pump.id, gives, comes, lasts, holds, says)


def _filling(plan: Plan, pump: Point, comes: float) -> str:
    """How long a pit takes to fill when its pumps stand, and what lifts it while it is empty; "" where it was not
    measured.
    """
    what, units = pump.what, plan.units
    assert isinstance(what, Sump)
    if not what.across or what.turn == "stands by":
        return ""
    says = ""
    if comes and what.inlet is not None and what.inlet > what.level:
        wait = (what.inlet - what.level) * what.across / comes
        says = f" With no power it is full to the drain that comes in {show(wait, 'duration', units)} after its pump would start."
    if what.floor is not None and pump.ground > what.floor:
        lift = (pump.ground - what.floor) * what.across * _WATER
        says += (
            f" Empty, with water in the ground up to its rim, it is lifted by {show(lift, 'mass', units)}: it must "
            "weigh more than that, or be tied down."
        )
    return says


def _floats(plan: Plan, lay: Layout, pump: Point, what: Sump, pipes: Mapping[str, Pipe]) -> Iterator[Problem]:
    """Floats that stand in the wrong order, and a riser that is narrower than its pump's outlet."""
    order = [
        ("the floor", what.floor),
        ("the float that stops it", what.off),
        ("the float that starts it", what.level),
        ("its alarm", what.alarm),
        ("the drain that comes in", what.inlet),
    ]
    known = [(name, level) for name, level in order if level is not None]
    for (low, a), (high, b) in pairwise(known):
        if b <= a:
            yield tell("pit-floats", pump.id, plan.units, pump=pump.label, high=high, low=low, a=b, b=a)
    for r in lay.at[pump.id]:
        for e in plan.run_by_id[r].ends:
            port = plan.port(e)
            if e.point != pump.id or port is None or port.name != "out" or r not in pipes:
                continue
            name = plan.end_at(pump, port)
            if name is not None and nominal_diameter(pipes[r].size) < nominal_diameter(end(name).size):
                yield tell("pit-riser", pump.id, pump=pump.label, outlet=end(name).size, riser=pipes[r].size)


def _wrong(
    plan: Plan, lay: Layout, pump: Point, pumps: list[Point], pit: Pit, pipes: Mapping[str, Pipe]
) -> Iterator[Problem]:
    assert isinstance(pump.what, Sump)
    others = [p for p in pumps if p.id != pump.id]
    what = pump.what
    yield from _floats(plan, lay, pump, what, pipes)
    if what.lifts_each > 0 and pit.gives > 0:
        # where what comes is not told, any inflow may
        often = most_starts(pit.gives, pit.comes or pit.gives, what.lifts_each)
        allowed = what.starts or _STARTS
        if often > allowed * 1.02:
            yield tell(
                "pit-starts" if what.starts else "pit-starts/usual",
                pump.id,
                plan.units,
                pump=pump.label,
                often=often,
                allowed=allowed,
                need=what.lifts_each * often / allowed,
            )
    riser, things = riser_of(plan, lay, pump.id)
    if pump is pumps[0] and not any(isinstance(p.what, Sump) and p.what.battery > 0 for p in pumps):
        comes = f", by {show(pit.comes, 'flow', plan.units)} at the most" if pit.comes else ""
        yield tell("pit-power", pump.id, pump=pump.label, comes=comes)
    if not pit.holds:
        yield tell("pit-fills", pump.id, pump=pump.label, why=pit.says)
    if not any(isinstance(p.what, CheckValve) for p in things):
        other = others[0].label if others else ""
        yield tell("pit-check/shared" if others else "pit-check", pump.id, pump=pump.label, other=other)
    glued = all(series(pipes[r].series).material == "pvc" for r in riser if r in pipes)
    if riser and glued and not any(isinstance(p.what, Union) for p in things):
        yield tell("pit-apart", pump.id, pump=pump.label)
    if pump.what.turn == "stands by":
        for first in others:
            if (
                isinstance(first.what, Sump)
                and first.what.turn == "runs first"
                and pump.what.level <= first.what.level + 1e-9
            ):
                yield tell("pit-turn", pump.id, plan.units, pump=pump.label, level=pump.what.level, other=first.label)


def riser_of(plan: Plan, lay: Layout, pump: str) -> tuple[list[str], list[Point]]:
    """The runs from a pump to the first place where its line meets another, or to its end; and what stands in them."""
    out = [r for r in lay.at[pump] for e in plan.run_by_id[r].ends if e.point == pump and plan.port_name(e) == "out"]
    runs, things, here = list[str](), list[Point](), pump
    while out and out[0] not in runs:
        runs.append(out[0])
        here = lay.lines[out[0]].other(here)
        nexts = [r for r in lay.at[here] if r != out[0]]
        if len(nexts) != 1:
            break
        things.append(plan.by_id[here])
        out = nexts
    return runs, things
