"""Backflow: what waters ground and hangs on a drinking-water mains with no preventer on its way, judged branch by
branch.
"""

from __future__ import annotations

from collections.abc import Sequence

from hydrarch.core.base.graph import Edge, Graph
from hydrarch.core.base.problems import Problem, declare
from hydrarch.core.components.devices import BackflowPreventer
from hydrarch.core.components.outlets import Hydrant, Tap
from hydrarch.core.components.sources import Mains, WellPump
from hydrarch.core.plan.document import Plan, Point
from hydrarch.core.site.layout import Layout

__all__ = ["backflow_problems"]

declare("survey", "no-backflow", "hose-tap")


def backflow_problems(plan: Plan, lay: Layout) -> tuple[Problem, ...]:
    """What could run back into drinking water: from irrigation that no preventer parts from it, and from hoses.

    A mains is always drinking water; a well is where taps hang on it, too. A preventer on another branch guards nothing
    here.
    """
    guards = {p.id for p in plan.of_kind(BackflowPreventer)}
    open_way = Graph[str](Edge(x.run, x.a, x.b, x.length) for x in lay.lines.values() if not guards & {x.a, x.b})
    taps, waters = tuple(plan.of_kind(Tap)), tuple(plan.with_trait("waters"))
    found = []
    for source in plan.of_kind(Mains, WellPump):
        reached = open_way.from_nodes([source.id]).distance
        bare = [p for p in waters if p.id in reached]
        mains = isinstance(source.what, Mains)
        drunk = [p for p in taps if p.id in reached]
        if bare and (mains or drunk):
            line = "a drinking-water mains" if mains else f"a well that {_listed(drunk)} may be drunk from"
            found.append(
                Problem(
                    code="no-backflow",
                    severity="warn",
                    where=min(p.id for p in bare),
                    says=f"Irrigation hangs on {line} with no backflow preventer between: {_listed(bare)}.",
                    mend="Put the kind the local code names where the irrigation leaves the drinking-water line.",
                )
            )
        hoses = [p for p in (*taps, *plan.of_kind(Hydrant)) if p.id in reached]
        if mains and hoses:
            found.append(
                Problem(
                    code="hose-tap",
                    severity="note",
                    where=min(p.id for p in hoses),
                    says=f"A hose on {_listed(hoses)} can draw back whatever it lies in.",
                    mend="Give each tap that takes a hose a vacuum breaker of its own, as the local code says.",
                )
            )
    return tuple(found)


def _listed(points: Sequence[Point]) -> str:
    return ", ".join(sorted(p.label for p in points)[:4]) + (" …" if len(points) > 4 else "")
