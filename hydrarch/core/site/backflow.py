"""Backflow: what waters ground and hangs on a drinking-water mains with no preventer on its way, judged branch by
branch.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from hydrarch.core.base.graph import Edge, Graph
from hydrarch.core.base.messages import tell
from hydrarch.core.base.problems import Problem, declare
from hydrarch.core.components.devices import BackflowPreventer
from hydrarch.core.components.fixtures import DRINKING
from hydrarch.core.components.outlets import Hydrant
from hydrarch.core.components.protection import Injector
from hydrarch.core.components.sources import Mains, WellPump
from hydrarch.core.plan.document import Plan, Point
from hydrarch.core.site.layout import Layout

__all__ = ["backflow_problems"]

declare("survey", "no-backflow", "hose-tap")
declare("survey", "chemical-backflow", "chemical-tap", holds=True, danger=True)


def backflow_problems(plan: Plan, lay: Layout) -> tuple[Problem, ...]:
    """What could run back into drinking water: from irrigation that no preventer parts from it, and from hoses.

    A mains is always drinking water; a well is where taps hang on it, too. A preventer on another branch guards nothing
    here.
    """
    guards = {p.id for p in plan.of_kind(BackflowPreventer)}
    open_way = Graph[str](Edge(x.run, x.a, x.b, x.length) for x in lay.lines.values() if not guards & {x.a, x.b})
    taps, waters = tuple(plan.of_kind(*DRINKING)), tuple(plan.with_trait("waters"))
    found = []
    for source in plan.of_kind(Mains, WellPump):
        reached = open_way.from_nodes([source.id]).distance
        bare = [p for p in waters if p.id in reached]
        mains = isinstance(source.what, Mains)
        drunk = [p for p in taps if p.id in reached]
        if bare and (mains or drunk):
            line = "the drinking-water mains" if mains else f"a well that {_listed(drunk)} may be drunk from"
            found.append(tell("no-backflow", min(p.id for p in bare), outlets=_listed(bare), line=line))
        walled = {e for r in plan.runs if r.situation == "in wall" for e in r.points}  # a tap of a room takes no hose
        hoses = [
            p
            for p in (*taps, *plan.of_kind(Hydrant))
            if p.id in reached
            and (p.kind.name == "garden_tap" or (p.id not in walled and "fixture" not in p.kind.traits))
        ]
        if mains and hoses:
            found.append(tell("hose-tap", min(p.id for p in hoses), taps=_listed(hoses)))
    return (*found, *_chemicals(plan, lay))


def _chemicals(plan: Plan, lay: Layout) -> Iterator[Problem]:
    """Injectors that no reduced-pressure preventer parts from drinking water, and taps that give what they add.

    A preventer whose type is not said guards nothing here.
    """
    injectors = plan.of_kind(Injector)
    if not injectors:
        return
    guards = {p.id for p in plan.points if isinstance(p.what, BackflowPreventer) and p.what.makes == "reduced pressure"}
    lines = list(lay.lines.values())
    open_way = Graph[str](Edge(x.run, x.a, x.b, x.length) for x in lines if not guards & {x.a, x.b})
    stopped = {p.id for p in plan.points if p.kind.one_way}
    for point in injectors:
        reached = open_way.from_nodes([point.id]).distance
        drunk = [p for p in plan.of_kind(Mains, WellPump) if p.id in reached]
        if drunk:
            yield tell("chemical-backflow", point.id, injector=point.label, sources=_listed(drunk))
        out = {x.run for x in lines if _leaves(plan, x.run, point.id)}
        beyond = (
            Graph[str](
                Edge(x.run, x.a, x.b, x.length)
                for x in lines
                if x.run in out or (point.id not in (x.a, x.b) and not stopped & {x.a, x.b})
            )
            .from_nodes([point.id])
            .distance
        )
        taps = [p for p in plan.of_kind(*DRINKING, Hydrant) if p.id in beyond]
        if taps:
            yield tell("chemical-tap", point.id, taps=_listed(taps), injector=point.label)


def _leaves(plan: Plan, run: str, point: str) -> bool:
    return any(e.point == point and plan.port_name(e) == "out" for e in plan.run_by_id[run].ends)


def _listed(points: Sequence[Point]) -> str:
    return ", ".join(sorted(p.label for p in points)[:4]) + (" …" if len(points) > 4 else "")
