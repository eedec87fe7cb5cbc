"""The parts of a line that can be tested alone, and how: what lies between valves, which shut, and unions and
regulators, which open.

A section is never tested below what it sees at work: where a part forbids that, the part is wrong, and there is no
test.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, replace
from math import pi
from typing import Literal

from hydrarch.core.base.graph import Edge, Graph
from hydrarch.core.base.identity import PartId, node_part
from hydrarch.core.catalogue.pipes import HUNG, Pipe
from hydrarch.core.commissioning.asides import Aside, bridged, set_aside
from hydrarch.core.commissioning.hung import below_the_check, down_the_well, on_its_string, string_check
from hydrarch.core.commissioning.limits import SUCTION_TEST, suction_test, test_pressure, weakest_of
from hydrarch.core.commissioning.reach import connected, shut_ports
from hydrarch.core.commissioning.stiffness import LEAST_HOLD, Stiffness, least_hold, stiffness
from hydrarch.core.components.basins import InWall
from hydrarch.core.components.devices import Regulator
from hydrarch.core.components.drains import DrainPump
from hydrarch.core.components.equipment import Vessel
from hydrarch.core.components.inlets import Washer
from hydrarch.core.components.lines import Cap
from hydrarch.core.components.outlets import DripRow, Outlet
from hydrarch.core.components.protection import ExpansionTank
from hydrarch.core.components.sources import Mains, WellPump
from hydrarch.core.hydraulics.round_flow import loops, suction_side
from hydrarch.core.hydraulics.static import static_pressure, suction_runs
from hydrarch.core.hydraulics.water import water
from hydrarch.core.joining.assembled import Assembly, Joint
from hydrarch.core.plan.document import Plan, Point, RunEnd
from hydrarch.core.site.layout import Layout
from hydrarch.core.site.systems import is_exercise, water_at

__all__ = ["Section", "SectionSpots", "section_letter", "sections"]

OLD_TEST = "its working pressure and no more: it holds what exists already, and nobody knows what that still carries"
DRIP_TEST = (
    "it drips all along, so no pressure stays in it: run it from its own source, and look at every joint while it runs"
)
SCREWED_TEST = (
    "nothing but things joined to one another, in sight: run it from its own source, and look at every joint "
    "while it runs"
)
LIFTED_TEST = "what the pump of a pit lifts: fill the pit, let the pump start, and look at every joint while it runs"
WASHER_TEST = (
    "what a washer pumps: run it empty, let it pump out both ways of its valve, and look at every joint while it does"
)
LIVE_TEST = (
    "it is fed by a main that nobody parts for a test: turn the water on slowly, let the air out at a low tap, and look and "
    "feel under every joint at the main's own pressure"
)
NO_WAY_BACK = "it passes water one way, and would keep the test pressure from what lies before it"
UNFED_TEST = "the job's test pressure; what it works at is not known, since no source is drawn"
NO_SOURCE = (
    "no source is drawn for it, so nobody knows what pressure it works at: ask for the pressure where it is "
    "connected, and draw the mains or tank there with it, or set the job's test pressure"
)
EXERCISE = (
    "it is a piece of work by itself, without water: look every joint over; to test it, draw a source, or set the job's "
    "test pressure"
)
DRAIN_HOLD = 1800.0
"""s that a drain in the ground is watched; EN 1610, its test with water, from memory."""
_TAKES_UP = 0.15e-3
"""m³ for each m² of wetted surface that a drain in the ground may take up in that time; EN 1610, from memory."""
_STRING = Aside()
"""A pump in a well stays on its string: the test goes down to the check valve on it."""
_RUN = 600.0
"""s that what is run instead of tested had best run, since a slow leak shows late; common practice."""
DRAIN_TEST = "a drain is plugged at its low end, filled to its highest inlet and watched there; never pumped up"

_CLOSED = ("buried", "in wall")

Sort = Literal["pressure", "drain", "run"]


@dataclass(frozen=True, slots=True)
class SectionSpots:
    """Where hands go for a test, by the ids of points: the test pump and where air is let out ("" where a tapping is
    wanted), the outlets that are capped, and what is shut, or opened and plugged, at its ends.
    """

    pump: str = ""
    air: str = ""
    caps: tuple[str, ...] = ()
    shut: tuple[str, ...] = ()
    plugs: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True)
class Section:
    """A part of the line between valves, unions and regulators: its runs and joints, and the pressures (Pa) it works
    and is tested at, both as the gauge at its test pump shows them.

    `isolate` says what to shut, to open and plug, or to take off before a test, `caps` which outlets, open ends for
    water, to cap; `later` are the joints that are made after the test and looked at: heads after flushing, and those
    `parted` for it, as a pump's that is taken out, and those `below` the check valve of a well's string, which no test
    from above reaches. What cannot be held under pressure, or needs not, is of the sort "run". `pump_at` is where the
    test pump goes, `air_at` where air is let out. `limit` is the rating of its weakest part or pipe, named by
    `weakest`, at the water's temperature; the test never goes above it. Where `fault` says why, it cannot be tested at
    all. `full` is how it answers to water and warmth, `hold` (s) how long it is held. `pushed` is whether a pump pushes
    water round in it, `hides` whether any of it is buried or closed into a wall. `allowance` (m³) is what a drain in
    the ground may lose in its hold, 0 where none; `letter` is what it is called for short; `live` says that it stays on
    a main, or is opened to it again, and is looked over at the main's own pressure. `spots` are the same places by
    their ids, for what is drawn.
    """

    id: str
    name: str
    runs: tuple[str, ...]
    joints: tuple[str, ...]
    working: float
    test: float
    limit: float
    says: str
    weakest: str
    isolate: tuple[str, ...]
    caps: tuple[str, ...]
    sort: Sort
    later: tuple[str, ...]
    parted: tuple[str, ...]
    pump_at: str
    air_at: str
    fault: str
    full: Stiffness
    hold: float
    pushed: bool = False
    hides: bool = True
    allowance: float = 0.0
    below: tuple[str, ...] = ()
    letter: str = ""
    live: bool = False
    spots: SectionSpots = SectionSpots()


def sections(plan: Plan, lay: Layout, pipes: Mapping[str, Pipe], assembly: Assembly) -> tuple[Section, ...]:
    """Divide a plan at its valves and unions.

    A section's id is that of its first run, so that edits elsewhere leave it alone.
    """
    points = plan.by_id
    found = []
    pressures, weight = static_pressure(plan, lay), water(plan.conditions.water_temperature).weight
    by_end: dict[str, list[str]] = {}
    by_run: dict[str, list[str]] = {}
    by_point: dict[str, list[str]] = {}
    for j in assembly.joints:
        home = by_run if j.run is not None else by_end if j.end in lay.run_of else by_point
        home.setdefault(j.run or (j.end if j.end in lay.run_of else j.point) or "", []).append(j.id)
    place: dict[str, int] = {j.id: n for n, j in enumerate(assembly.joints)}
    heads = {j.id for j in assembly.joints if j.role == "head"}
    drawn = suction_runs(plan, lay)
    pushed = {r for s in loops(plan, lay) for r in s.runs} - {
        r for s in loops(plan, lay) for before in suction_side(plan, s).values() for r in before
    }
    for runs, edge in _parted(plan, lay):
        order = sorted(edge, key=lambda p: (lay.distance.get(p, 0.0), p))
        spots = dict.fromkeys(p for r in runs for p in (lay.lines[r].a, lay.lines[r].b))
        source = [p.label for p in plan.sources if p.id in spots]
        drain = lay.systems.drain(runs[0])
        levels = [lay.places[p][2] for p in spots]
        down = down_the_well(plan, lay, runs, spots)  # the gauge stands at the top, and reads what that sees
        working = (
            (max(levels) - min(levels)) * weight
            if drain
            else max((pressures.get(p, 0.0) for p in spots if p not in edge and p not in down), default=0.0)
        )
        if lay.systems.sort(runs[0]) == "air":
            working = _under_water(plan, spots, min(levels)) * weight
        elif not drain and not drawn.issuperset(
            runs
        ):  # beyond the valve that ends a suction line pressure may be locked in
            working = max(working, *(_beside(plan, pressures, p, set(runs)) for p in edge), 0.0)
        mine = [
            *(j for r in runs for j in by_run.get(r, ())),
            *(j for p in spots if p not in edge for j in by_point.get(p, ())),
        ]
        joints = tuple(sorted(mine, key=place.__getitem__))
        old = any(plan.run_by_id[r].existing is not None for r in runs) or any(
            points[p].existing is not None for p in spots
        )
        drips = not drain and any(isinstance(points[p].what, DripRow) for p in spots if p not in edge)
        inner = [points[p] for p in spots if p not in edge]
        sunk = [
            p for p in inner if isinstance(p.what, WellPump) and any(plan.run_by_id[r].situation == HUNG for r in runs)
        ]
        ways = Counter(p for r in runs for p in plan.run_by_id[r].points)
        asides = {p.id: _STRING if p in sunk else set_aside(p.what, p.label, ways[p.id]) for p in inner}
        off = {p for p, aside in asides.items() if aside.parted}
        off |= {p for p in order if isinstance(points[p].what, Regulator)}
        opens = [] if drain else _opens([p for p in inner if p not in sunk], [points[p] for p in order], lay)
        plugged = {p for p, aside in asides.items() if not aside.passes}
        firm = {p.id for p in inner if p.kind.one_way} - off - plugged
        ends_at = string_check(plan, lay, runs, sunk)
        reached = [r for r in runs if r not in ends_at]
        joined = connected(plan, reached, edge, opens, plugged, firm.difference(ends_at.values()))
        gauge = lay.places[joined.pump][2] if joined.pump is not None else min(levels)
        first_to_go = weakest_of(
            plan, lay, pipes, [r for r in runs if not lay.lines[r].coupled], assembly, set(joints), gauge
        )
        limit, weakest = first_to_go.limit, first_to_go.name
        rests = {p: pressures[p] for p in spots if p in pressures and p not in edge and p not in down}
        if not drain and not drawn.issuperset(runs):
            rests |= {p: _beside(plan, pressures, p, set(runs)) for p in edge}
        at_gauge = max((rest - (gauge - lay.places[p][2]) * weight for p, rest in rests.items()), default=working)
        still = drain or lay.systems.sort(runs[0]) == "air"  # no water stands in it at a pressure of its own
        highest, working = working, working if still else at_gauge  # what the gauge shows at rest
        test, says, fault = (working, DRAIN_TEST, "") if drain else test_pressure(plan, highest, working, first_to_go)
        if (
            not drain
            and not fault
            and plan.conditions.test_pressure is None
            and test < SUCTION_TEST
            and drawn.issuperset(runs)
        ):
            test, says = suction_test(plan, working, limit, weakest)
        if old and not drain and not fault and test > working:
            test, says = working, OLD_TEST
        as_it_is = still or drips
        against = () if as_it_is else joined.against
        own_parts = {node_part(p, n) for p in against for n in (1, 2)}
        parted = () if as_it_is else tuple(j for j in joints if _on_any(assembly.named[j], off, own_parts, lay))
        below = below_the_check(plan, assembly, lay, joints, ends_at) if not as_it_is else ()
        loose = not as_it_is and (
            all(lay.lines[r].coupled for r in runs) or 0 < len(joints) == len({*parted, *heads}.intersection(joints))
        )
        lifted = _lifted(plan, lay, runs[0], inner)
        live = not drain and _on_a_main(plan, lay, inner, set(runs))
        runs_only = drips or loose or lifted or live
        if runs_only:
            parted, below = (), ()
        if runs_only and not fault:
            test, says = working, DRIP_TEST if drips else lifted or (LIVE_TEST if live else SCREWED_TEST)
        caps = [] if drain or runs_only else [p for p in inner if isinstance(p.what, Outlet) and p.id != joined.pump]
        held = [on_its_string(plan, p, ends_at) for p in sunk]
        aside = (
            _plugged(inner, lay)
            if drain
            else [
                *held,
                *(asides[p.id].says for p in inner if asides[p.id].says),
                *(f"{bridged(points[p].label, NO_WAY_BACK).says}" for p in against),
                *shut_ports(inner),
            ]
        )
        unfed = (
            not drain
            and not runs_only
            and lay.systems.sort(runs[0]) != "air"
            and not any(p in pressures for p in spots)
        )
        if unfed and not fault:
            own = plan.conditions.test_pressure
            test, says = min(own or 0.0, limit), UNFED_TEST
            fault = "" if own else EXERCISE if plan.about == "exercise" and is_exercise(plan) else NO_SOURCE
        if not (drain or runs_only or fault or joined.whole):
            fault = "no one place for a test pump reaches all of it: put a tee with a cap into it"
        shut = [] if runs_only else [*(_shut(points[p]) for p in order), *aside]  # it runs as it is
        full = stiffness(lay, pipes, runs, plan.conditions.water_temperature)
        allowance = 0.0
        if drain:
            full, allowance = _standing(plan, lay, pipes, runs, weight), _may_take(plan, lay, pipes, runs)
        first = plan.run_by_id[runs[0]]
        pump, air = _pump_and_air(joined.pump, opens, [p for p in inner if p not in sunk], lay)
        ends = () if runs_only else tuple(order)
        found.append(
            Section(
                f"sec-{runs[0]}",
                " to ".join([*dict.fromkeys(source), *(points[p].label for p in order)]) or points[first.a.point].label,
                runs,
                joints,
                working,
                test,
                limit,
                says,
                weakest,
                tuple(shut),
                tuple(p.label for p in caps),
                "drain" if drain else "run" if runs_only else "pressure",
                tuple(j for j in joints if j in heads or j in parted or j in below),
                parted,
                "a tapping at its low end" if pump is None else pump.label,
                "its high end" if air is None else air.label,
                fault,
                full,
                _RUN if runs_only else (DRAIN_HOLD if allowance else LEAST_HOLD) if drain else least_hold(full, test),
                not pushed.isdisjoint(runs),
                any(plan.run_by_id[r].situation in _CLOSED for r in runs),
                allowance,
                below,
                live=live,
                spots=SectionSpots(
                    pump="" if pump is None else pump.id,
                    air="" if air is None else air.id,
                    caps=tuple(p.id for p in caps),
                    shut=tuple(p for p in ends if points[p].kind.parting == "shuts"),
                    plugs=tuple(p for p in ends if points[p].kind.parting != "shuts"),
                ),
            )
        )
    return tuple(replace(s, letter=section_letter(n)) for n, s in enumerate(found))


def section_letter(number: int) -> str:
    """A, B … Z, AA, AB: what the section so far down the list is called."""
    return (section_letter(number // 26 - 1) if number >= 26 else "") + chr(65 + number % 26)


def _lifted(plan: Plan, lay: Layout, run: str, inner: list[Point]) -> str:
    """How a run's line is looked over where all of its water is lifted from pits or by washers, and this part of it is
    not one that only a pump that stands by fills: that is tested. "" for any other.
    """
    if any(isinstance(p.what, DrainPump) and p.what.stands_by for p in inner):
        return ""
    sources = [plan.by_id[p].what for p in lay.systems.found[lay.systems.of[run]].sources]
    if not sources or not all(isinstance(w, DrainPump) for w in sources):
        return ""
    return WASHER_TEST if all(isinstance(w, Washer) for w in sources) else LIFTED_TEST


def _on_a_main(plan: Plan, lay: Layout, inner: list[Point], runs: set[str]) -> bool:
    """Whether a part begins at a tapping of the mains by pipe that is there already: it stays under the main's
    pressure, or is opened again to that.
    """
    return any(
        isinstance(p.what, Mains) and any(plan.run_by_id[r].existing is not None for r in lay.at[p.id] if r in runs)
        for p in inner
    )


def _on_any(joint: Joint, off: set[str], own_parts: set[PartId], lay: Layout) -> bool:
    """Whether a joint is on one of those very things or parts, not on a fitting before it; of two things joined to one
    another it is on both.
    """
    if any(s.part in own_parts for s in (joint.a, joint.b)):
        return True
    at, line = {joint.point}, lay.lines.get(joint.run or lay.run_of.get(joint.end or "", ""))
    if line is not None and line.coupled:
        at |= {line.a, line.b}
    return not at.isdisjoint(off) and any(s.part is None and s.pipe is None for s in (joint.a, joint.b))


def _beside(plan: Plan, pressures: Mapping[str, float], point: str, runs: set[str]) -> float:
    """What a section sees at rest at a point where it ends: a regulator holds back what comes to it."""
    what = plan.by_id[point].what
    if not isinstance(what, Regulator):
        return pressures.get(point, 0.0)
    comes = any(e.point == point and plan.port_name(e) == "in" for r in runs for e in plan.run_by_id[r].ends)
    return pressures.get(point, 0.0) if comes else what.pressure


def _plugged(inner: list[Point], lay: Layout) -> list[str]:
    """Where a drain is plugged before it is filled: at its low end."""
    low = min(inner, key=lambda p: (lay.places[p.id][2], p.id), default=None)
    return [f"plug it at {low.label}"] if low is not None else []


def _standing(plan: Plan, lay: Layout, pipes: Mapping[str, Pipe], runs: Iterable[str], weight: float) -> Stiffness:
    """How a drain that stands full answers: its level falls in its highest pipe, so a pascal is worth that pipe's
    water.

    Warmth does nothing to it that counts: its top is open.
    """
    piped = [r for r in runs if not lay.lines[r].coupled and r in pipes]
    if not piped:
        return Stiffness(0.0, 0.0, 0.0)
    volume = sum(pi / 4 * pipes[r].bore ** 2 * lay.lines[r].length for r in piped)
    top = max(piped, key=lambda r: max(lay.places[p][2] for p in (lay.lines[r].a, lay.lines[r].b)))
    return Stiffness(volume, pi / 4 * pipes[top].bore ** 2 / weight, 0.0)


def _may_take(plan: Plan, lay: Layout, pipes: Mapping[str, Pipe], runs: Iterable[str]) -> float:
    """What the wetted surface of a drain in the ground may take up (m³) in its hold; 0 where any of it is in a building
    or in sight.
    """
    mine = [r for r in runs if not lay.lines[r].coupled and r in pipes]
    if not mine or any(plan.run_by_id[r].situation != "buried" for r in mine):
        return 0.0
    return _TAKES_UP * sum(pi * pipes[r].bore * lay.lines[r].length for r in mine)


def _opens(inner: list[Point], edge: list[Point], lay: Layout) -> list[Point]:
    """Where a test pump may be connected: ends that open, the lowest first."""
    found = [
        p
        for p in (*inner, *edge)
        if isinstance(p.what, (Outlet, Cap)) or p.kind.role == "source" or p.kind.parting == "opens"
    ]
    found = found or [
        p for p in inner if isinstance(p.what, (Vessel, ExpansionTank))
    ]  # it is taken off, and leaves its branch open
    return sorted(found, key=lambda p: (lay.places[p.id][2], p.id))


def _pump_and_air(
    pump: str | None, opens: list[Point], inner: list[Point], lay: Layout
) -> tuple[Point | None, Point | None]:
    """Where the test pump goes and where the air is let out, the highest place; drains are filled there. None where no
    point is.
    """
    at = next((p for p in opens if p.id == pump), None)
    open_here = {p.id for p in opens}
    high = max(
        (p for p in (*opens, *inner) if p is not at),
        key=lambda p: (lay.places[p.id][2], p.id in open_here),
        default=None,
    )
    return at, high


def _under_water(plan: Plan, spots: Iterable[str], low: float) -> float:
    """How deep (m) the lowest place of an air line lies under the water of its jets: all that ever stands in it."""
    levels = [
        w.level for p in spots if isinstance(what := plan.by_id[p].what, InWall) and (w := what.waters) is not None
    ]
    return max(max(levels, default=low) - low, 0.0)


def _shut(point: Point) -> str:
    if isinstance(point.what, Regulator):
        return f"take {point.label} out and plug both sides"
    return f"shut {point.label}" if point.kind.parting == "shuts" else f"open {point.label} and plug it"


def _parted(plan: Plan, lay: Layout) -> list[tuple[tuple[str, ...], set[str]]]:
    """The runs of each section in drawing order, and the points it is isolated at; sections in the order of their first
    runs.
    """
    stops = {p.id for p in plan.points if p.kind.parting != "through"}
    order = {r.id: n for n, r in enumerate(plan.runs)}

    def at(end: RunEnd) -> tuple[str, str]:
        return (end.point, end.id) if end.point in stops else water_at(plan, end)

    graph = Graph(Edge(r.id, at(r.a), at(r.b)) for r in plan.runs)
    parts = [tuple(sorted((e.name for e in edges), key=order.__getitem__)) for _, edges in graph.parts() if edges]
    parts.sort(key=lambda runs: order[runs[0]])
    return [(runs, {p for r in runs for p in plan.run_by_id[r].points if p in stops}) for runs in parts]
