"""Greywater: a washer's water to the garden or to the sewer, with what must stand on the way."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence

from hydrarch.core.base.messages import tell
from hydrarch.core.base.problems import Problem, declare
from hydrarch.core.components.devices import ThreeWay, Vent
from hydrarch.core.components.drains import Inlet, Outfall
from hydrarch.core.components.inlets import LaundryStandpipe, PopUp, SewerConnection, Soakaway, Washer
from hydrarch.core.hydraulics.flow import Flow
from hydrarch.core.plan.document import Plan, Point
from hydrarch.core.site.layout import Layout
from hydrarch.core.site.systems import System

__all__ = ["greywater_problems", "uneven_problems"]

declare("survey", "vent-low", "no-air-gap", "washer-lift", holds=True)
declare("survey", "no-siphon-break", "no-diverter", "no-sewer-way", "hose-untried", "diverter-way")
declare("size", "garden-uneven")

_GARDEN = (Outfall, PopUp, Soakaway)
_EVEN = 0.25
"""Share of the mean by which outlets of a garden may differ before it is reported; from memory."""
_LEVEL = 1e-6
_RUNS = 1e-5  # m³/s: less is what a shut valve lets by in the sums


def greywater_problems(plan: Plan, lay: Layout) -> Iterator[Problem]:
    """What is missing or wrong between each washer and where its water goes; and pumped lines joined to a sewer with no
    air between.
    """
    for system in lay.systems.found:
        if system.sort == "pumped drain":
            for end in _of(plan, system.points, SewerConnection):
                if isinstance(end.what, SewerConnection) and end.what.into in ("sewer", "septic tank"):
                    yield tell("no-air-gap", end.id, end=end.label, into=end.what.into)
        for washer in _of(plan, system.sources, Washer):
            yield from _washer(plan, lay, system, washer)


def _of(plan: Plan, points: Iterable[str], *models: type) -> list[Point]:
    return [p for name in points if isinstance((p := plan.by_id[name]).what, models)]


def _washer(plan: Plan, lay: Layout, system: System, washer: Point) -> Iterator[Problem]:
    what = washer.what
    assert isinstance(what, Washer)
    if what.hose != "yes":
        yield tell("hose-untried", washer.id, washer=washer.label)
    top = max((lay.places[p][2], p) for p in system.points)
    reach = what.level + what.running()[0][1]
    if top[0] >= reach:
        yield tell(
            "washer-lift", washer.id, plan.units, washer=washer.label, place=plan.names[top[1]], at=top[0], reach=reach
        )
    diverters = _of(plan, system.points, ThreeWay)
    for d in diverters:
        if isinstance(d.what, ThreeWay) and d.what.shut not in ("left", "right"):
            yield tell("diverter-way", d.id, valve=d.label)
    sides = [side for d in diverters for side in _sides(plan, lay, d)] or [list(system.points)]
    garden = [s for s in sides if _of(plan, s, *_GARDEN)]
    if garden and not diverters:
        yield tell("no-diverter", washer.id, washer=washer.label)
    elif garden and not any(_of(plan, s, LaundryStandpipe, Inlet) for s in sides):
        yield tell("no-sewer-way", washer.id, washer=washer.label)
    for side in garden:
        vents = [lay.places[p.id][2] for p in _of(plan, side, Vent)]
        high = max((lay.places[p][2], p) for p in side)
        first = _of(plan, side, *_GARDEN)[0]
        if not vents:
            yield tell("no-siphon-break", first.id, end=first.label)
        elif max(vents) < high[0] - _LEVEL:
            yield tell(
                "vent-low", high[1], plan.units, place=plan.names[high[1]], vent=max(vents), high=high[0] - max(vents)
            )


def _sides(plan: Plan, lay: Layout, diverter: Point) -> Iterator[list[str]]:
    """The points beyond each outlet of a three-way valve, without it."""
    for run in lay.at[diverter.id]:
        port = next(plan.port_name(e) for e in plan.run_by_id[run].ends if e.point == diverter.id)
        if port == "in" or run not in lay.lines:
            continue
        seen, left = {diverter.id}, [lay.lines[run].other(diverter.id)]
        while left:
            here = left.pop()
            if here not in seen:
                seen.add(here)
                left += [lay.lines[r].other(here) for r in lay.at[here] if r in lay.lines]
        yield sorted(seen - {diverter.id})


def uneven_problems(plan: Plan, lay: Layout, flows: Sequence[Flow]) -> Iterator[Problem]:
    """Gardens whose outlets share a washer's water unevenly: each that one way of a three-way valve serves."""
    for system in lay.systems.found:
        if not _of(plan, system.sources, Washer):
            continue
        diverters = _of(plan, system.points, ThreeWay)
        for side in [s for d in diverters for s in _sides(plan, lay, d)] or [list(system.points)]:
            ends = [p.id for p in _of(plan, side, *_GARDEN)]
            shares = [{p: _arrives(lay, flow, p) for p in ends} for flow in flows]
            got = max(shares, key=lambda share: sum(share.values()), default={})
            mean = sum(got.values()) / len(ends) if ends else 0.0
            least = min(got, key=lambda p: (got[p], p), default="")
            if len(ends) > 1 and mean > _RUNS and got[least] < (1 - _EVEN) * mean:
                yield tell("garden-uneven", least, plan.units, end=plan.names[least], got=got[least], mean=mean)


def _arrives(lay: Layout, flow: Flow, point: str) -> float:
    return sum(abs(flow.runs[r].flow) for r in lay.at[point] if r in flow.runs)
