"""Backflow: what waters ground and hangs on a drinking-water mains with no preventer on its way, judged branch by branch."""

from __future__ import annotations

from hydrarch.core.graph import Edge, Graph
from hydrarch.core.kinds.devices import BackflowPreventer
from hydrarch.core.kinds.outlets import Drip, Sprinkler
from hydrarch.core.kinds.sources import Mains
from hydrarch.core.layout import Layout
from hydrarch.core.plan import Plan
from hydrarch.core.problems import Problem, declare

__all__ = ["backflow_problems"]

declare("survey", "no-backflow")


def backflow_problems(plan: Plan, lay: Layout) -> tuple[Problem, ...]:
    """Irrigation that a mains reaches without passing a preventer; one on another branch guards nothing here."""
    mains = [p.id for p in plan.of_kind(Mains)]
    if not mains:
        return ()
    guards = {p.id for p in plan.of_kind(BackflowPreventer)}
    open_way = Graph[str](Edge(x.run, x.a, x.b, x.length) for x in lay.lines.values() if not guards & {x.a, x.b})
    reached = open_way.from_nodes(mains).distance
    bare = [p for p in plan.of_kind(Sprinkler, Drip) if p.id in reached]
    if not bare:
        return ()
    told = ", ".join(p.label for p in bare[:4]) + (" …" if len(bare) > 4 else "")
    return (
        Problem(
            "no-backflow", "warn", bare[0].id, f"Irrigation hangs on a drinking-water mains with no backflow preventer on its way: {told}.",
            "Put the kind the local code names where the irrigation leaves the drinking-water line.",
        ),
    )  # fmt: skip
