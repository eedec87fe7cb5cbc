"""Drains drawn in a plan: what each run carries to the outfall, its fall, how full it runs, and whether it keeps itself
clean.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass
from graphlib import CycleError, TopologicalSorter

from hydrarch.core.base.graph import Edge, Graph
from hydrarch.core.base.messages import tell
from hydrarch.core.base.problems import Problem, declare
from hydrarch.core.base.units import FOOT, System, nominal_diameter, show
from hydrarch.core.catalogue.guidance import choose_practice, practices
from hydrarch.core.catalogue.markets import market
from hydrarch.core.catalogue.pipes import Pipe, pipe, series
from hydrarch.core.components.devices import ThreeWay
from hydrarch.core.components.drains import DrainPump, Inlet, Sump
from hydrarch.core.components.lines import Cap
from hydrarch.core.hydraulics.gravity import SELF_CLEANSING, PartFull, part_full
from hydrarch.core.hydraulics.pumps import flow_at
from hydrarch.core.plan.document import DRAIN_SERIES, Plan, Point
from hydrarch.core.site.layout import Layout, Line

__all__ = [
    "DrainRun",
    "comes_to_pit",
    "drain_problems",
    "drain_runs",
    "fall_words",
    "inlet_comes",
    "inlets_above",
    "pumped_in_a_storm",
    "pumped_into",
]

declare("survey", "inlet-without-outfall", holds=True)
declare("size", "no-fall", "drain-full", holds=True)
declare("size", "drain-slow", "drain-narrows", "drain-not-sold", "no-cleanout")

FULLEST = 0.75
"""Depth of water over bore that a drain is laid for, so that air goes on above it; from memory, half to three quarters.
"""


CLEANED = 100 * FOOT
"""m of buried drain that is rodded from one clean-out: plumbing codes, from memory, the local one wins."""
LEAST_BURIED, LEAST_DRAIN = 0.080, 0.047
"""Outside diameters (m) below which a drain is not laid: 3 in buried, 1-1/2 in elsewhere; plumbing codes, from memory,
the local one wins."""


@dataclass(frozen=True, slots=True)
class DrainRun:
    """One run of a drain: flow (m³/s), `fall` (m/m, negative where it rises) and the same as a crew says it, and how
    it runs.

    `says` is why it has its size, `after` the larger pipe that comes into it, "" where none does; `inverts` and
    `covers` (m) are those of its upper and its lower end; `state` is None where it does not fall or carries nothing;
    `cleans_out` says that it only leads up to a clean-out.
    """

    run: str
    upper: str
    lower: str
    flow: float
    fall: float
    falls: str
    series: str
    size: str
    says: str
    after: str
    inverts: tuple[float, float]
    covers: tuple[float, float]
    state: PartFull | None
    cleans_out: bool = False


def drain_runs(plan: Plan, lay: Layout) -> dict[str, DrainRun]:
    """Every drain run with the size it takes: the smallest made that carries its flow three quarters full, never less
    than above it.

    Water goes the shortest way to an outfall. A crew's own size stays.
    """
    drains = [lay.lines[r.id] for r in plan.runs if lay.systems.drain(r.id)]
    lines = [line for line in drains if line.a in lay.outfall and line.b in lay.outfall]
    exits = _exits(plan, lay)
    order = _downhill(lay, exits)
    place = {p: n for n, p in enumerate(order)}
    rods = _clean_outs(plan, lay)
    lines.sort(key=lambda line: (place[_ends(lay, line, exits)[0]], line.run))
    flows, above = _carried(plan, lay, exits, order), dict[str, Pipe]()
    pumped = pumped_into(plan, lay)
    runs, found = plan.run_by_id, {}
    for line in lines:
        upper, lower = _ends(lay, line, exits)
        levels = (lay.places[upper][2], lay.places[lower][2])
        fall, flow = (levels[0] - levels[1]) / line.length, flows.get(line.run, 0.0)
        name = lay.systems.series_of(plan, runs[line.run])
        own = runs[line.run].size
        item, says = (
            (pipe(name, own), "chosen by the crew")
            if own
            else _size(name, flow, fall, above.get(upper), runs[line.run].situation == "buried", plan.units)
        )
        before = above.get(upper)
        after = _named(before) if before is not None and not _no_smaller(item, before) else ""
        above[lower] = max(above.get(lower, item), item, key=_called)
        if caught := _caught(plan, plan.by_id[upper]):
            says = f"{says}; {caught}"
        if upper in pumped:
            says = f"{says}; {show(pumped[upper], 'flow', plan.units)} is pumped into it"
        state = part_full(item, flow, fall, plan.units) if flow > 0 and fall > 0 else None
        found[line.run] = DrainRun(
            run=line.run,
            upper=upper,
            lower=lower,
            flow=flow,
            fall=fall,
            falls=fall_words(fall, plan.units),
            series=name,
            size=item.size,
            says=says,
            after=after,
            inverts=(levels[0] - item.bore / 2, levels[1] - item.bore / 2),
            covers=(plan.by_id[upper].depth - item.outside / 2, plan.by_id[lower].depth - item.outside / 2),
            state=state,
            cleans_out=line.run in rods,
        )
    return found


def _clean_outs(plan: Plan, lay: Layout) -> set[str]:
    """The runs of drains that only lead up to a clean-out (a cap): no water comes by them, and none is missing."""
    found = set[str]()
    for cap in plan.of_kind(Cap):
        here, runs = cap.id, [r for r in lay.at[cap.id] if lay.systems.drain(r)]
        while len(runs) == 1 and not isinstance(plan.by_id[here].what, Inlet):
            found.add(runs[0])
            here = lay.lines[runs[0]].other(here)
            runs = [r for r in lay.at[here] if r not in found]
    return found


def inlet_comes(plan: Plan, point: Point) -> float:
    """The most (m³/s) that comes to a drain inlet: of its area, the rational method, rain by area by the share that
    runs off; or the crew's figure. What other drains and pits bring to it is not in it.

    An inch an hour on a square foot is 0.0104 gal/min: plumbing codes.
    """
    what = point.what
    assert isinstance(what, Inlet)
    return plan.conditions.rain * what.area * what.runs_off if what.area > 0 else what.flow


def _caught(plan: Plan, point: Point) -> str:
    """What rain brings to an inlet, in words; "" where it is not calculated by area."""
    what, units = point.what, plan.units
    if not isinstance(what, Inlet) or what.area <= 0:
        return ""
    share = "" if what.runs_off == 1 else f", {what.runs_off:.0%} of it"
    return f"{show(what.area, 'area', units)} of {what.surface} in {show(plan.conditions.rain, 'rain', units)}{share}"


def fall_words(fall: float, units: System) -> str:
    """A fall (m/m) as a crew says it: "1 in 60", or inches in a foot.

    >>> fall_words(1 / 60, "metric"), fall_words(1 / 48, "us")
    ('1 in 60', '0.25 in/ft')
    """
    if fall <= 0:
        return "none"
    return f"1 in {1 / fall:.0f}" if units == "metric" else f"{12 * fall:.2f} in/ft"


def _exits(plan: Plan, lay: Layout) -> dict[str, tuple[str, ...]]:
    """The runs by which water leaves each point of a drain: the shortest way to an outfall, and of a three-way valve
    each of its outlets.
    """
    found = {}
    for here, far in lay.outfall.items():
        runs = [r for r in lay.at[here] if lay.systems.drain(r) and lay.lines[r].other(here) in lay.outfall]
        if isinstance(plan.by_id[here].what, ThreeWay):
            found[here] = tuple(sorted(r for r in runs if _port_at(plan, r, here) != "in"))
        elif far > 0 and (down := [r for r in runs if not _into_outlet(plan, r, lay.lines[r].other(here))]):
            found[here] = (min(down, key=lambda r: (lay.outfall[lay.lines[r].other(here)] + lay.lines[r].length, r)),)
    return found


def pumped_into(plan: Plan, lay: Layout) -> dict[str, float]:
    """The most (m³/s) that pits' pumps lift into each drain inlet, losses left out: all that run first together, or the
    one that stands by alone.
    """
    found: dict[str, float] = {}
    for system in lay.systems.found:
        pumps = [w for s in system.sources if isinstance(w := plan.by_id[s].what, DrainPump)]
        for p in system.points if pumps else ():
            if isinstance(plan.by_id[p].what, Inlet):
                lifts = [(w.stands_by, flow_at(w.running(), plan.by_id[p].level - w.level)) for w in pumps]
                first = sum(x for waits, x in lifts if not waits)
                found[p] = found.get(p, 0.0) + max(first, *(x for _, x in lifts))
    return found


def inlets_above(plan: Plan, lay: Layout, into: Iterable[str]) -> tuple[Point, ...]:
    """All inlets from which water may come by those runs, whichever way else it might go, and those of drains that fall
    into them in the open.
    """
    left = {lay.systems.of[r] for r in into}
    seen, found = set[int](), list[Point]()
    while left:
        number = left.pop()
        seen.add(number)
        for name in lay.systems.found[number].points:
            if not isinstance(plan.by_id[name].what, Inlet):
                continue
            ports = {r: plan.port_name(e) for r in lay.at[name] for e in plan.run_by_id[r].ends if e.point == name}
            if not any(port == "out" and lay.systems.of[r] == number for r, port in ports.items()):
                continue  # it is what falls into that one
            found.append(plan.by_id[name])
            above = {lay.systems.of[r] for r, port in ports.items() if port == "in"}
            left |= {n for n in above if lay.systems.found[n].sort == "gravity drain"} - seen
    return tuple(found)


def comes_to_pit(plan: Plan, lay: Layout, pump: Point) -> float:
    """The most (m³/s) that comes to a pump's pit: what the crew says, or what all inlets of its drains take, and what
    falls or is pumped into those, whichever way else it might go.
    """
    assert isinstance(pump.what, Sump)
    into = {r.id for r in plan.runs for e in r.ends if e.point == pump.id and plan.port_name(e) == "in"}
    if pump.what.comes or not into:
        return pump.what.comes
    pumped = pumped_into(plan, lay)
    return sum(inlet_comes(plan, p) + pumped.get(p.id, 0.0) for p in inlets_above(plan, lay, into))


def pumped_in_a_storm(plan: Plan, lay: Layout) -> dict[str, float]:
    """What pits' pumps bring to each drain inlet on the mean of a long storm (m³/s): no more than comes to their pits,
    where that is known; else what they lift without a rest.
    """
    found = pumped_into(plan, lay)
    for system in lay.systems.found:
        pits = [p for s in system.sources if isinstance((p := plan.by_id[s]).what, Sump)]
        comes = max((comes_to_pit(plan, lay, p) for p in pits), default=0.0)
        for name in system.points if comes else ():
            if name in found:
                found[name] = min(found[name], comes)
    return found


def _port_at(plan: Plan, run: str, point: str) -> str:
    return next(plan.port_name(e) for e in plan.run_by_id[run].ends if e.point == point)


def _into_outlet(plan: Plan, run: str, point: str) -> bool:
    """Whether a run comes to a three-way valve at one of its outlets: water comes from there, and does not go there."""
    return isinstance(plan.by_id[point].what, ThreeWay) and _port_at(plan, run, point) != "in"


def _downhill(lay: Layout, exits: Mapping[str, tuple[str, ...]]) -> list[str]:
    """The points of all drains, each after those whose water comes to it."""
    far_first = sorted(lay.outfall, key=lambda p: (-lay.outfall[p], p))
    order = TopologicalSorter[str]({p: () for p in far_first})
    for here in far_first:
        for run in exits.get(here, ()):
            order.add(lay.lines[run].other(here), here)
    try:
        return list(order.static_order())
    except CycleError:
        return far_first


def _ends(lay: Layout, line: Line, exits: Mapping[str, tuple[str, ...]]) -> tuple[str, str]:
    """A drain's upper end, by which water comes to it, or the further from an outfall, or the higher of two as far; and
    its lower end.
    """
    for upper in (line.a, line.b):
        if line.run in exits.get(upper, ()):
            return upper, line.other(upper)
    upper = max(line.a, line.b, key=lambda p: (lay.outfall[p], lay.places[p][2], p))
    return upper, line.other(upper)


def _carried(plan: Plan, lay: Layout, exits: Mapping[str, tuple[str, ...]], order: list[str]) -> dict[str, float]:
    """What all inlets together send through each run; a three-way valve sends all of it one way, and may be set to the
    other.
    """
    found: dict[str, float] = {}
    pumped = pumped_into(plan, lay)
    comes = {p.id: inlet_comes(plan, p) + pumped.get(p.id, 0.0) for p in plan.of_kind(Inlet)}
    for here in order:
        flow = comes.get(here, 0.0)
        for down in exits.get(here, ()) if flow > 0 else ():
            found[down] = found.get(down, 0.0) + flow
            there = lay.lines[down].other(here)
            comes[there] = comes.get(there, 0.0) + flow
    return found


def _called(item: Pipe) -> tuple[int, float]:
    return nominal_diameter(item.size), item.bore


def _named(item: Pipe) -> str:
    return f"{series(item.series).short} {item.size}"


def _no_smaller(item: Pipe, before: Pipe) -> bool:
    """Whether a drain pipe is no smaller than the one before it: by what they are called, whatever their walls leave
    of it; by bore where one has no nominal size.
    """
    here, there = nominal_diameter(item.size), nominal_diameter(before.size)
    return here >= there if here and there else item.bore >= before.bore - 1e-9


def _size(name: str, flow: float, fall: float, above: Pipe | None, buried: bool, units: System) -> tuple[Pipe, str]:
    made = series(name).sizes
    allowed = [s for s in made if s.outside >= (LEAST_BURIED if buried else LEAST_DRAIN)] or [made[-1]]
    sizes = [s for s in allowed if above is None or _no_smaller(s, above)] or [made[-1]]
    if flow <= 0 or fall <= 0:
        return sizes[0], "the smallest that codes let lie here, as nothing can be computed"
    for item in sizes:
        state = part_full(item, flow, fall, units)
        if state.fits and state.depth <= FULLEST:
            if item is sizes[0] and above is not None:
                why = "no smaller than what comes into it"
            elif item is allowed[0] and item is not made[0]:
                why = "the smallest that codes let lie here"
            else:
                why = "the smallest that runs three quarters full or less"
            return item, why
    return sizes[-1], "the largest made"


def drain_problems(plan: Plan, lay: Layout, drains: Mapping[str, DrainRun]) -> tuple[Problem, ...]:
    """Drains that do not fall, run too full, or too slowly to carry their dirt, and inlets that lead nowhere."""
    names, units = plan.names, plan.units
    found = [
        tell("inlet-without-outfall", p.id, inlet=p.label)
        for p in plan.points
        if isinstance(p.what, Inlet) and p.id not in lay.outfall
    ]
    for d in drains.values():
        a, b = names[d.upper], names[d.lower]
        if d.after:
            found.append(tell("drain-narrows", d.run, a=a, b=b, size=_named(pipe(d.series, d.size)), before=d.after))
        if d.fall <= 0:
            rise = lay.places[d.lower][2] - lay.places[d.upper][2]
            level = abs(rise) < 5e-4  # less is not shown
            found.append(tell("no-fall/level" if level else "no-fall", d.run, units, a=a, b=b, rise=rise))
        elif d.state is not None and (not d.state.fits or d.state.depth > FULLEST):
            found.append(
                tell("drain-full" if d.state.fits else "drain-full/over", d.run, units, a=a, b=b, full=d.state.depth)
            )
        elif d.state is not None and not d.state.cleans:
            found.append(tell("drain-slow", d.run, units, a=a, b=b, speed=d.state.velocity, least=SELF_CLEANSING))
    return (*found, *_not_sold(plan, drains), *_uncleaned(plan, lay))


def _not_sold(plan: Plan, drains: Mapping[str, DrainRun]) -> Iterator[Problem]:
    """What the crew standard asks drains to be made of, where this market has it not: said once, at the first."""
    wanted = DRAIN_SERIES[choose_practice(plan.practices, "drain")]
    taken = market(plan.conditions.market).drain_pipe(wanted)
    if taken == wanted or wanted == DRAIN_SERIES[practices()["drain"].default]:
        return  # the usual one is the same kind of pipe under the market's own name
    for d in drains.values():
        if plan.run_by_id[d.run].series is None:
            yield tell("drain-not-sold", d.run, wanted=series(wanted).short, taken=series(taken).short)
            return


def _falls_there(plan: Plan, point: str, runs: Iterable[str]) -> bool:
    """Whether one of those runs ends at a point in the open."""
    ends = (e for r in runs for e in plan.run_by_id[r].ends if e.point == point)
    return any((port := plan.port(e)) is not None and port.falls for e in ends)


def _uncleaned(plan: Plan, lay: Layout) -> Iterator[Problem]:
    """Buried drains that no rod reaches: from each place of them to a clean-out (a cap), or to the open outfall, it is
    too far.
    """
    for system in lay.systems.found:
        if system.sort != "gravity drain" or not any(plan.run_by_id[r].situation == "buried" for r in system.runs):
            continue
        opens = [p for p in system.points if isinstance(plan.by_id[p].what, Cap) or _falls_there(plan, p, system.runs)]
        lines = [lay.lines[r] for r in system.runs]
        near = Graph[str](Edge(x.run, x.a, x.b, x.length) for x in lines).from_nodes(opens).distance
        ways = [((near[x.a] + near[x.b] + x.length) / 2, x.run) for x in lines if x.a in near and x.b in near]
        long, far = max(ways, default=(0.0, ""))
        if long > CLEANED * (1 + 1e-9):
            a, b = (plan.names[p] for p in plan.run_by_id[far].points)
            yield tell("no-cleanout", far, plan.units, a=a, b=b, long=long, reach=CLEANED)
