"""All that is reported about water that goes round: of the drawing, and of what flows."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass

from hydrarch.core.base.messages import tell
from hydrarch.core.base.problems import Problem, declare
from hydrarch.core.base.units import show
from hydrarch.core.catalogue.pipes import Pipe
from hydrarch.core.circulation.airside import air_side_problems
from hydrarch.core.circulation.bodies import WaterBody, body_at, comes_in
from hydrarch.core.circulation.overflow import overflow_problems
from hydrarch.core.circulation.safety import entrapment_problems, flowing_entrapment, warmth_problems
from hydrarch.core.components.basins import Basin, Heater, InWall, Jet, Skimmer
from hydrarch.core.hydraulics.flow import Flow
from hydrarch.core.hydraulics.round_flow import loops, suction_side
from hydrarch.core.plan.document import Plan
from hydrarch.core.site.layout import Layout
from hydrarch.core.site.systems import System

__all__ = ["Jets", "drawn_rounds", "flowing_rounds", "jets_of"]

declare("survey", "in-no-water", "outline-crosses", "no-water-in", holds=True)
declare("survey", "skimmer-level")
declare("size", "round-fast", "heater-flow", "jets-uneven", "jets-weak")

_UNEVEN = 0.10
"""Share of the mean by which jets of one ring may differ before it is reported: from memory."""
_WEAK = 0.1
"""Share of what its jets are made for that a loop may fall short of before it is reported: from memory."""


def drawn_rounds(plan: Plan, lay: Layout) -> tuple[Problem, ...]:
    """What is wrong with bodies of water and what is let into them, before anything flows."""
    if not any(
        isinstance(p.what, (Basin, InWall)) or p.kind.role == "body" or p.what.kind in ("top_up", "blower")
        for p in plan.points
    ):
        return ()
    return (
        *_shapes(plan),
        *_let_in(plan),
        *entrapment_problems(plan, lay),
        *warmth_problems(plan),
        *air_side_problems(plan, lay),
    )


def _shapes(plan: Plan) -> Iterator[Problem]:
    for p in plan.points:
        if not isinstance(p.what, Basin):
            continue
        body = body_at(plan, p.id)
        if p.what.shape == "outline" and len(p.what.outline) < 3:
            yield tell("outline-crosses/open", p.id, place=p.label, count=len(p.what.outline))
        elif body.shape.crosses:
            yield tell("outline-crosses", p.id, place=p.label)
        elif body.water <= 0:
            yield tell("no-water-in", p.id, plan.units, place=p.label, below=p.what.below_rim, deep=p.what.depth)


def _let_in(plan: Plan) -> Iterator[Problem]:
    for p in plan.points:
        if not isinstance(p.what, InWall):
            continue
        waters = p.what.waters
        if waters is None:
            yield tell("in-no-water", p.id, place=p.label)
        elif isinstance(p.what, Skimmer) and abs(p.level - waters.level) > 0.1 + 1e-9:
            yield tell(
                "skimmer-level/above" if p.level > waters.level else "skimmer-level",
                p.id,
                plan.units,
                place=p.label,
                off=abs(p.level - waters.level),
                level=waters.level,
            )


@dataclass(frozen=True, slots=True)
class Jets:
    """The jets of one loop in one scenario: flow (m³/s) of each by its point, and how far the weakest is below the
    mean.
    """

    system: str
    flows: dict[str, float]
    short: float
    says: str


def jets_of(plan: Plan, lay: Layout, flows: Mapping[str, Flow]) -> tuple[Jets, ...]:
    """The jets of each loop, in the scenario in which it runs fullest."""
    found = []
    for system in loops(plan, lay):
        jets = [p for n in system.points if isinstance((p := plan.by_id[n]).what, Jet)]
        best: dict[str, float] = {}
        for flow in flows.values():
            mine = {j.id: comes_in(plan, flow, j) for j in jets}
            if sum(mine.values()) > sum(best.values()):
                best = mine
        if not best:
            continue
        mean = sum(best.values()) / len(best)
        weak, strong = min(best, key=lambda p: (best[p], p)), max(best, key=lambda p: (best[p], p))
        short = 1 - best[weak] / mean if mean > 0 else 0.0
        says = (
            f"{len(best)} jets, {show(mean, 'flow', plan.units)} each in the mean: the least "
            f"{show(best[weak], 'flow', plan.units)} at {plan.names[weak]}, "
            f"the most {show(best[strong], 'flow', plan.units)} at {plan.names[strong]}."
        )
        found.append(Jets(system.id, best, short, says))
    return tuple(found)


def flowing_rounds(
    plan: Plan, lay: Layout, pipes: Mapping[str, Pipe], flows: Mapping[str, Flow]
) -> tuple[Problem, ...]:
    """What is wrong with loops once their flows are known."""
    if not any(isinstance(p.what, (InWall, Heater)) for p in plan.points):
        return ()
    return (
        *flowing_entrapment(plan, lay, pipes, flows),
        *overflow_problems(plan, lay, pipes, flows),
        *_speeds(plan, lay, flows),
        *_heaters(plan, lay, flows),
        *_jets(plan, lay, flows),
    )


def _bodies(plan: Plan, system: System) -> list[WaterBody]:
    homes = {w.basin for p in system.points if isinstance(what := plan.by_id[p].what, InWall) and (w := what.waters)}
    return [body_at(plan, h) for h in sorted(homes)]


def _speeds(plan: Plan, lay: Layout, flows: Mapping[str, Flow]) -> Iterator[Problem]:
    """Suction and return faster than the use of the water allows: told where the job's own limit does not tell it."""
    for system in loops(plan, lay):
        bodies = _bodies(plan, system)
        if not bodies:
            continue
        before = {r for runs in suction_side(plan, system).values() for r in runs}
        for run in system.runs:
            speed = max((f.runs[run].velocity for f in flows.values() if run in f.runs), default=0.0)
            limit = min(b.use.suction if run in before else b.use.returning for b in bodies)
            if limit < speed <= plan.conditions.max_velocity:
                a, b = (plan.names[p] for p in plan.run_by_id[run].points)
                yield tell(
                    "round-fast",
                    run,
                    plan.units,
                    speed=speed,
                    limit=limit,
                    a=a,
                    b=b,
                    side="suction" if run in before else "return",
                    use=bodies[0].what.use,
                )


def _heaters(plan: Plan, lay: Layout, flows: Mapping[str, Flow]) -> Iterator[Problem]:
    """Heaters of what goes round; what a tap draws through one is as it is."""
    round_ = {p for s in lay.systems.found if s.sort == "circulation" for p in s.points}
    for p in plan.of_kind(Heater):
        assert isinstance(p.what, Heater)
        if p.id not in round_:
            continue
        through = [abs(comes_in(plan, f, p)) for f in flows.values()]
        for flow in sorted(set(through))[-1:]:
            word = {"heats": "heater", "chills": "chiller", "disinfects": "disinfection"}[p.what.does]
            if flow > p.what.largest * (1 + 1e-6):
                yield tell(
                    "heater-flow/much", p.id, plan.units, place=p.label, what=word, flow=flow, limit=p.what.largest
                )
            elif flow < p.what.least * (1 - 1e-6):
                yield tell("heater-flow", p.id, plan.units, place=p.label, what=word, flow=flow, limit=p.what.least)


def _jets(plan: Plan, lay: Layout, flows: Mapping[str, Flow]) -> Iterator[Problem]:
    for jets in jets_of(plan, lay, flows):
        made_for = {p: what.flow for p in jets.flows if isinstance(what := plan.by_id[p].what, Jet)}
        wanted, got = sum(made_for.values()), sum(jets.flows.values())
        if got < wanted * (1 - _WEAK):
            weak = min(jets.flows, key=lambda p: (jets.flows[p] / made_for[p], p))
            yield tell(
                "jets-weak",
                weak,
                plan.units,
                who=f"{len(jets.flows)} jets get" if len(jets.flows) > 1 else f"{plan.names[weak]} gets",
                got=got,
                wanted=wanted,
                weak=plan.names[weak],
                share=jets.flows[weak] / made_for[weak],
            )
        if len(jets.flows) > 1 and jets.short > _UNEVEN:
            weak = min(jets.flows, key=lambda p: (jets.flows[p], p))
            yield tell("jets-uneven", weak, weak=plan.names[weak], short=jets.short, spread=jets.says)
