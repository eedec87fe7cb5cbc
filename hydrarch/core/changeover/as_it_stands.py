"""The drawing as it stands between two steps of a changeover, and what the taps of the house give then."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass

from hydrarch.core.base.errors import HydrarchError
from hydrarch.core.catalogue.pipes import Pipe, pipe
from hydrarch.core.changeover.waterway import Stand, Waterway
from hydrarch.core.components.sources import Mains
from hydrarch.core.hydraulics.flow import FlowModel
from hydrarch.core.plan.document import Existing, Plan, Point, Run, RunEnd, Scenario
from hydrarch.core.plan.leaving import Leaving
from hydrarch.core.site.layout import Layout, layout

__all__ = ["HouseTap", "house_taps"]

_SOLVED = 8
"""Taps that are solved after each step."""


@dataclass(frozen=True, slots=True)
class HouseTap:
    """What a tap of the house gives by itself after a step (m³/s), and what it wants; None where a size or pressure on
    its way is not known.
    """

    point: str
    gives: float | None
    wants: float


def house_taps(plan: Plan, ways: Waterway, pipes: Mapping[str, Pipe], stand: Stand) -> Iterator[HouseTap]:
    """What each tap of the house gives by itself as it stands then, solved on the drawing: of many the highest, which
    run dry first.
    """
    as_it_is = _drawn(plan, ways, pipes, stand)
    lay: Layout | None = None
    dry = ways.dry(stand)
    for name in sorted(ways.kept, key=lambda p: (-plan.by_id[p].level, p))[:_SOLVED]:
        wants = getattr(plan.by_id[name].what, "flow", 0.0)
        if name in dry:
            yield HouseTap(name, 0.0, wants)
            continue
        if as_it_is is None:
            yield HouseTap(name, None, wants)
            continue
        drawn, mine = as_it_is
        lay = lay or layout(drawn)
        try:
            model = FlowModel(drawn, lay, Scenario(id="tap", name="One tap", open=(name,)), yields=True)
            found = model.solve(mine, {})
            settled = all(p.code != "not-settled" for p in found.problems)
            gives = (max(found.outlets[name].flow, 0.0) if name in found.outlets else 0.0) if settled else None
        except (HydrarchError, KeyError):
            gives = None
        yield HouseTap(name, gives, wants)


def _drawn(plan: Plan, ways: Waterway, pipes: Mapping[str, Pipe], stand: Stand) -> tuple[Plan, dict[str, Pipe]] | None:
    """The drawing as it stands after a step, and its pipes; None where what carries water then has no size said, or a
    supply no pressure.
    """
    off = {e.pipe for e in ways.ends.values() if e.id not in stand.on}
    runs = [r for r in plan.runs if r.id not in off]
    mine, points = dict(pipes), list(plan.points)
    for x in plan.leaving:
        shut = x.id in stand.shut or any(e.point in ways.mouths and e.point in stand.shut for e in x.ends)
        if x.id in off or shut:
            continue
        if x.series is None or x.size is None or (x.b is None and x.pressure == 0):
            return None
        b = RunEnd(id=f"{x.id}-b", point=x.b.point if x.b else f"{x.id}-s", port=x.b.port if x.b else "")
        at = plan.by_id[x.a.point]
        if x.b is None:
            supply = Mains(pressure=x.pressure)
            points.append(Point(id=f"{x.id}-s", x=at.x + 0.1, y=at.y, ground=at.ground, depth=at.depth, what=supply))
        runs.append(
            Run(
                id=x.id,
                a=RunEnd(id=x.a.id, point=x.a.point, port=x.a.port),
                b=b,
                series=x.series,
                size=x.size,
                situation="on surface",
                existing=Existing(),
                measured_length=_long(plan, x),
            )
        )
        mine[x.id] = pipe(x.series, x.size)
    for gate in stand.shut & {p.id for p in plan.points}:
        if gate not in ways.mouths:
            runs = [r for r in runs if not any(e.point == gate and e.port == "out" for e in r.ends)]
    if any(r.id not in mine for r in runs if not r.coupled):
        return None
    changed = plan.model_copy(update={"runs": tuple(runs), "points": tuple(points), "leaving": (), "changeover": ()})
    return changed, mine


def _long(plan: Plan, x: Leaving) -> float | None:
    return x.length or (10.0 if x.b is None else None)
