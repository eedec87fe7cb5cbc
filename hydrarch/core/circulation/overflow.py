"""What runs over and what runs back: standpipes and their drains, and the sump that must hold what comes when the pump
stops.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from math import pi

from hydrarch.core.base.messages import tell
from hydrarch.core.base.problems import Problem, declare
from hydrarch.core.base.units import show
from hydrarch.core.catalogue.pipes import Pipe
from hydrarch.core.circulation.bodies import WaterBody, body_at, goes_round
from hydrarch.core.circulation.laws import standpipe, standpipe_head
from hydrarch.core.components.basins import Basin, InWall, Returns, Standpipe
from hydrarch.core.components.devices import CheckValve, Pump, Valve
from hydrarch.core.hydraulics.flow import Flow
from hydrarch.core.hydraulics.round_flow import loops, overflows
from hydrarch.core.plan.document import Plan, Point
from hydrarch.core.site.layout import Layout
from hydrarch.core.site.systems import System

__all__ = ["Overflowing", "RunsBack", "links_of", "overflow_problems", "overflowing", "runs_back", "stands_open"]

declare("size", "drain-too-small", "sump-cannot-hold", holds=True)
declare("size", "one-drain", "intake-height", "no-way-back")

_BELOW_RIM = (0.025, 0.15)
"""m below the rim at which a standpipe's open end is at home, a few inches: too low chokes the drain, too high makes
noise; common practice."""


def stands_open(point: Point) -> float:
    """The level (m) of a standpipe's open end."""
    assert isinstance(point.what, Standpipe)
    return point.level + point.what.up


def links_of(plan: Plan, lay: Layout) -> dict[str, set[str]]:
    """To which bodies of water each sends its own, by pump or by fall; "" for out of the job."""
    found: dict[str, set[str]] = {p.id: set() for p in plan.points if isinstance(p.what, Basin)}
    for system in lay.systems.found:
        if not system.sources:
            continue
        things = [plan.by_id[p] for p in system.points]
        start = {
            w.basin for p in things if p.kind.role == "source" and isinstance(p.what, InWall) and (w := p.what.waters)
        }
        stop = {
            w.basin for p in things if p.kind.role != "source" and isinstance(p.what, InWall) and (w := p.what.waters)
        }
        if any(any(x.falls for x in p.kind.ports_of(p.what)) or p.kind.role == "outlet" for p in things):
            stop.add("")
        for home in start:
            found[home] |= stop - {home}
    return found


def _reached(links: Mapping[str, set[str]], start: str) -> set[str]:
    seen, left = set[str](), [start]
    while left:
        for n in links.get(left.pop(), ()):
            if n not in seen:
                seen.add(n)
                left.append(n)
    return seen


@dataclass(frozen=True, slots=True)
class RunsBack:
    """What comes to a sump when its pump stops: from bodies above down to where their drains or the air stop it, and
    out of the pipe (m³).

    `room` is what it has between its running level and its rim. `holds` is whether that is enough with no check valve
    trusted: one grain in it lets all of it by. `says` is the line for it.
    """

    sump: str
    from_bodies: float
    from_pipe: float
    room: float
    holds: bool
    says: str


def runs_back(plan: Plan, lay: Layout, pipes: Mapping[str, Pipe], flows: Mapping[str, Flow]) -> tuple[RunsBack, ...]:
    """For each body that a pump draws from and sends into others: whether it holds what runs back when the pump stops.

    A body above stands as high as its drains need it to, where that is more than what it was said to stand at.
    """
    running = _running(plan, lay, flows)
    back, open_below = _drained_by_fall(plan, lay), _open_below(plan, lay)
    found = []
    for system in loops(plan, lay):
        things = [plan.by_id[p] for p in system.points]
        sumps = {
            w.basin for p in things if p.kind.role == "source" and isinstance(p.what, InWall) and (w := p.what.waters)
        }
        above = {
            w.basin for p in things if p.kind.role != "source" and isinstance(p.what, InWall) and (w := p.what.waters)
        } - sumps
        checks = [p.label for p in things if isinstance(p.what, CheckValve)]
        for sump in sorted(sumps) if above else ():
            low = body_at(plan, sump)
            told, whole = [], 0.0
            for name in sorted(above):
                body = body_at(plan, name)
                stands = max(body.level, running.get(name, body.level))
                ends = _stops_at(plan, body, low, system, back.get(name, set()), open_below.get(name, ()))
                more = max(body.shape.volume(stands) - body.shape.volume(min(ends, stands)), 0.0)
                whole += more
                told.append(
                    f"{show(more, 'volume', plan.units)} from {body.point.label}, down "
                    f"{show(max(stands - ends, 0.0), 'cut', plan.units)}"
                )
            pipe = _in_pipe(plan, lay, pipes, system, low.level)
            room = low.shape.holds - low.water
            fits = whole + pipe <= room
            if pipe > 1e-6:
                told.append(f"{show(pipe, 'volume', plan.units)} out of the pipe")
            says = (
                f"When the pump stops {', '.join(told)} comes to {low.point.label}, which has room for "
                f"{show(room, 'volume', plan.units)}: "
                + ("it holds." if fits else f"{show(whole + pipe - room, 'volume', plan.units)} runs over.")
            )
            if checks:
                says += (
                    f" {' and '.join(checks)} may keep some of it back, and is not counted: a grain in it lets "
                    "all of it by."
                )
            found.append(RunsBack(sump, whole, pipe, room, fits, says))
    return tuple(found)


def _running(plan: Plan, lay: Layout, flows: Mapping[str, Flow]) -> dict[str, float]:
    """The level (m) at which the standpipes of each body take together all that comes, by body."""
    found: dict[str, float] = {}
    for name, drains in _drained_by_fall(plan, lay).items():
        comes = max((goes_round(plan, f, body_at(plan, name)) for f in flows.values()), default=0.0)
        ends = [
            (stands_open(p), p.what.bore) for p in map(plan.by_id.__getitem__, drains) if isinstance(p.what, Standpipe)
        ]
        low = min(opens for opens, _ in ends)
        high = min(opens + standpipe_head(comes, bore) for opens, bore in ends)  # one alone takes it there
        for _ in range(60 if comes > 0 else 0):
            level = (low + high) / 2
            takes = sum(standpipe(level - opens, bore) for opens, bore in ends)
            low, high = (level, high) if takes < comes else (low, level)
        found[name] = min(high if comes > 0 else low, body_at(plan, name).shape.rim)  # beyond that it runs over
    return found


def _drained_by_fall(plan: Plan, lay: Layout) -> dict[str, set[str]]:
    """By body, the standpipes that drain it."""
    found: dict[str, set[str]] = {}
    for p in plan.points:
        if isinstance(p.what, Standpipe) and p.what.waters is not None and lay.at[p.id]:
            found.setdefault(p.what.waters.basin, set()).add(p.id)
    return found


def _open_below(plan: Plan, lay: Layout) -> dict[str, list[float]]:
    """By body, the levels (m) of what lets its water out by its own fall, standpipes apart: it falls to those once
    nothing comes.
    """
    found: dict[str, list[float]] = {}
    for system in lay.systems.found:
        things = [plan.by_id[p] for p in system.points]
        shut = any(isinstance(p.what, Valve) and p.what.opening <= 0 for p in things)
        if shut or any(isinstance(p.what, Pump) for p in things):
            continue
        for p in things:
            if (
                p.kind.role == "source"
                and isinstance(p.what, InWall)
                and not isinstance(p.what, Standpipe)
                and p.what.waters is not None
            ):
                found.setdefault(p.what.waters.basin, []).append(p.level - p.what.draws_below)
    return found


def _stops_at(
    plan: Plan, body: WaterBody, low: WaterBody, system: System, drains: set[str], below: Sequence[float]
) -> float:
    """The level (m) to which a body falls by itself once the pump stops."""
    ends = [body.level, *(max(level, low.level) for level in below)]
    ends += [stands_open(plan.by_id[d]) for d in drains]
    for name in system.points:
        p = plan.by_id[name]
        if (
            isinstance(p.what, InWall)
            and p.kind.role != "source"
            and p.what.waters is not None
            and p.what.waters.basin == body.point.id
        ):
            air = p.level + (p.what.hole if isinstance(p.what, Returns) else 0.0)
            ends.append(max(air, low.level))  # a siphon runs until its end takes air, or both stand level
    return min(ends)


def _in_pipe(plan: Plan, lay: Layout, pipes: Mapping[str, Pipe], system: System, level: float) -> float:
    """The water (m³) in the runs of a loop above a level, that runs back through a pump that stands."""
    whole = 0.0
    for run in system.runs:
        line = lay.lines[run]
        if line.coupled or run not in pipes:
            continue
        a, b = lay.spots[line.ends[0]][2], lay.spots[line.ends[1]][2]
        high, deep = max(a, b), min(a, b)
        share = 1.0 if deep >= level else 0.0 if high <= level else (high - level) / (high - deep)
        whole += share * line.length * pi * pipes[run].bore ** 2 / 4
    return whole


@dataclass(frozen=True, slots=True)
class Overflowing:
    """A standpipe at work: the flow it is made for (m³/s), how high (m) water stands over its end then and how far
    below the rim, and the line.
    """

    point: str
    flow: float
    over: float
    below_rim: float
    says: str


def overflowing(plan: Plan, lay: Layout, flows: Mapping[str, Flow]) -> tuple[Overflowing, ...]:
    """Every standpipe with what comes: at what level it takes all of it alone."""
    found = []
    for name, drains in _drained_by_fall(plan, lay).items():
        body = body_at(plan, name)
        comes = max((goes_round(plan, f, body) for f in flows.values()), default=0.0)
        for drain in sorted(drains, key=lambda d: (stands_open(plan.by_id[d]), d)):
            p = plan.by_id[drain]
            assert isinstance(p.what, Standpipe)
            flow = p.what.flow or comes
            over = standpipe_head(flow, p.what.bore)
            left = body.shape.rim - stands_open(p) - over
            says = (
                f"{p.label} begins {show(abs(stands_open(p) - body.level), 'cut', plan.units)} "
                f"{'below' if stands_open(p) <= body.level else 'above'} "
                f"the water and takes {show(flow, 'flow', plan.units)} by itself with "
                f"{show(over, 'cut', plan.units)} over its end, "
                f"{show(abs(left), 'cut', plan.units)} {'below' if left >= 0 else 'over'} the rim of "
                f"{body.point.label}."
            )
            if flow > 0:
                found.append(Overflowing(drain, flow, over, left, says))
    return tuple(found)


def overflow_problems(
    plan: Plan, lay: Layout, pipes: Mapping[str, Pipe], flows: Mapping[str, Flow]
) -> Iterator[Problem]:
    """Drains that cannot take what comes, a tank with one drain alone, an open end too high or too low, a sump that
    runs over.
    """
    units, asked = plan.units, overflows(plan, lay)
    for name, drains in _drained_by_fall(plan, lay).items():
        body = body_at(plan, name)
        comes = max((goes_round(plan, f, body) for f in flows.values()), default=0.0)
        if len(drains) == 1 and comes > 0:
            yield tell("one-drain", min(drains), body=body.point.label)
        for drain in sorted(drains):
            p = plan.by_id[drain]
            assert isinstance(p.what, Standpipe)
            flow, rim = max(p.what.flow or comes, 0.0) or asked.get(drain, 0.0), body.shape.rim
            opens = stands_open(p)
            over = standpipe_head(flow, p.what.bore)
            if not _BELOW_RIM[0] - 1e-9 <= rim - opens <= _BELOW_RIM[1] + 1e-9:
                high = rim - opens < _BELOW_RIM[0]
                yield tell(
                    "intake-height/high" if high else "intake-height",
                    drain,
                    units,
                    place=p.label,
                    off=abs(rim - opens),
                    side="above" if opens > rim else "below",
                    least=_BELOW_RIM[0],
                    most=_BELOW_RIM[1],
                )
            needed = max((f.points[drain].head for f in flows.values() if drain in f.points), default=opens)
            if flow > 0 and max(opens + over, needed) > rim:
                yield tell(
                    "drain-too-small",
                    drain,
                    units,
                    place=p.label,
                    body=body.point.label,
                    flow=flow,
                    over=max(opens + over, needed) - rim,
                )
    for found in runs_back(plan, lay, pipes, flows):
        if not found.holds:
            yield tell("sump-cannot-hold", found.sump, sump=plan.names[found.sump], why=found.says)
    links = links_of(plan, lay)
    for system in loops(plan, lay):
        things = [plan.by_id[p] for p in system.points]
        pump = next(p for p in things if isinstance(p.what, Pump))
        start = {
            w.basin for p in things if p.kind.role == "source" and isinstance(p.what, InWall) and (w := p.what.waters)
        }
        stop = {
            w.basin for p in things if p.kind.role != "source" and isinstance(p.what, InWall) and (w := p.what.waters)
        }
        for one in sorted(stop - start):
            if not start & _reached(links, one):
                yield tell(
                    "no-way-back",
                    pump.id,
                    pump=pump.label,
                    place=plan.names[one],
                    other=plan.names[min(start)] if start else "what it draws from",
                )
