"""A line that closes a loop beside the same outlets on a tree: what each takes of pipe and money, and what each
gives.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from hydrarch.core.base.errors import HydrarchError
from hydrarch.core.base.graph import Edge, Graph
from hydrarch.core.base.progress import Report, unheard
from hydrarch.core.base.units import show
from hydrarch.core.building.together import all_scenarios
from hydrarch.core.derivation.chain import Derivation, derive
from hydrarch.core.hydraulics.flow import Flow
from hydrarch.core.plan.document import Plan

__all__ = ["Loops", "LoopShape", "as_tree", "closes_a_loop", "loop_beside_tree"]


@dataclass(frozen=True, slots=True)
class LoopShape:
    """One of the two: pipe (m), joints, price of what has one, and by scenario its worst outlet with what that has over
    its need (Pa).

    `evenness` is the distribution uniformity of its heads by scenario, where they stand round any ground.
    """

    pipe: float
    joints: int
    price: float
    worst: dict[str, tuple[str, float]]
    evenness: dict[str, float]


@dataclass(frozen=True, slots=True)
class Loops:
    """The line as it is and as a tree, the runs a tree leaves out, and it in words."""

    loop: LoopShape
    tree: LoopShape
    left_out: tuple[str, ...]
    says: tuple[str, ...]


def closes_a_loop(plan: Plan) -> bool:
    """Whether water can come to some place by two ways."""
    graph = Graph(Edge(r.id, r.a.point, r.b.point, 1.0) for r in plan.runs)
    parts = list(graph.parts())
    return any(len(edges) >= len(nodes) for nodes, edges in parts if edges)


def as_tree(plan: Plan, flows: Mapping[str, Flow]) -> tuple[Plan, tuple[str, ...]]:
    """The plan with each loop opened where least flows, and what then leads to nothing taken away; and the runs that
    are left out.
    """
    most = {
        r.id: max((abs(f.runs[r.id].flow) for f in flows.values() if r.id in f.runs), default=0.0) for r in plan.runs
    }
    kept = {r.id for r in plan.runs}
    for run in sorted(plan.runs, key=lambda r: (most[r.id], r.id)):
        if _joined(plan, kept - {run.id}, run.a.point, run.b.point):
            kept.discard(run.id)
    body = plan.model_dump(mode="json")
    changed = True
    while changed:  # a corner that leads to nothing any more
        count = {p.id: sum(p.id in r.points for r in plan.runs if r.id in kept) for p in plan.points}
        stubs = {
            r.id
            for r in plan.runs
            if r.id in kept and any(count[p] == 1 and plan.by_id[p].what.kind == "bend" for p in r.points)
        }
        changed = bool(stubs)
        kept -= stubs
    body["runs"] = [r for r in body["runs"] if r["id"] in kept]
    on = {p for r in plan.runs if r.id in kept for p in r.points}
    was_on = {p for r in plan.runs for p in r.points}
    gone = {p.id for p in plan.points if p.id in was_on - on}
    body["points"] = [p for p in body["points"] if p["id"] not in gone]
    ends = {e.id for r in plan.runs if r.id not in kept for e in r.ends}
    body["ways"] = [w for w in body["ways"] if w["end"] not in ends | gone]
    body["nodes"] = []
    for scenario in body["scenarios"]:
        scenario["open"] = [p for p in scenario["open"] if p not in gone]
    return Plan.model_validate(body), tuple(r.id for r in plan.runs if r.id not in kept)


def _joined(plan: Plan, runs: set[str], one: str, two: str) -> bool:
    """Whether a way leads between two points by some of the runs."""
    graph = Graph([Edge(r.id, r.a.point, r.b.point, 1.0) for r in plan.runs if r.id in runs], plan.by_id)
    return bool(graph.from_nodes([one]).way(two)) if one != two else True


def loop_beside_tree(plan: Plan, report: Report = unheard) -> Loops:
    """Both worked out in full, each with the sizes that do for it.

    Raises `HydrarchError` where no loop is closed or nothing flows.
    """
    if not closes_a_loop(plan):
        raise HydrarchError("no loop is closed on this drawing: there is nothing to set beside a tree")
    report("the loop")
    loop = derive(plan)
    if not loop.sizes.flows:
        raise HydrarchError("nothing flows yet: give the line a source and something to open")
    opened, left = as_tree(plan, loop.sizes.flows)
    report("the same outlets on a tree")
    tree = derive(opened)
    one, two = _shape(loop), _shape(tree)
    return Loops(one, two, left, tuple(_says(plan, one, two)))


def _shape(d: Derivation) -> LoopShape:
    worst = {}
    for name, flow in d.sizes.flows.items():
        if flow.worst is not None:
            worst[name] = flow.worst, flow.outlets[flow.worst].margin
    even = {name: c.distribution for name, c in d.watered.items() if c.distribution is not None}
    price = sum(r.price or 0.0 for r in d.bill)
    return LoopShape(sum(p.length for p in d.cuts.pieces), len(d.assembly.joints), price, worst, even)


def _says(plan: Plan, loop: LoopShape, tree: LoopShape) -> list[str]:
    units, names = plan.units, plan.names
    scenarios = {s.id: s.name for s in all_scenarios(plan)}
    more = loop.price - tree.price
    dearer = f"{abs(more):.2f} {'more' if more >= 0 else 'less'}"
    lines = [
        f"The loop takes {show(loop.pipe, 'length', units)} of pipe and {loop.joints} joints, a tree "
        f"{show(tree.pipe, 'length', units)} and {tree.joints}: "
        f"{dearer} for the priced parts."
    ]
    for name, (point, margin) in loop.worst.items():
        if name not in tree.worst:
            continue
        other, less = tree.worst[name]
        line = (
            f"{scenarios.get(name, name)}: the worst placed, {names[point]}, has {_spare(margin, units)} on the loop; "
            f"on a tree it is {names[other]} with {_spare(less, units)}"
        )
        if name in loop.evenness and name in tree.evenness:
            line += f". Distribution uniformity {loop.evenness[name]:.0%} against {tree.evenness[name]:.0%}"
        lines.append(line + ".")
    return lines


def _spare(margin: float, units: str) -> str:
    told = show(abs(margin), "pressure", "us" if units == "us" else "metric")
    return f"{told} to spare" if margin >= 0 else f"{told} too little"
