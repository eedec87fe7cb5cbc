"""All that is told about water that goes round: of the drawing, and of what flows."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass

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
"""Share of the mean by which jets of one ring may differ before it is told: from memory."""
_WEAK = 0.1
"""Share of what its jets are made for that a loop may fall short of before it is told: from memory."""


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
            yield Problem(
                code="outline-crosses",
                severity="stop",
                where=p.id,
                says=f"{p.label} has no outline yet: {len(p.what.outline)} corners are drawn, and it takes three.",
                mend="Give it its corners, or make it round or oblong.",
            )
        elif body.shape.crosses:
            yield Problem(
                code="outline-crosses",
                severity="stop",
                where=p.id,
                says=f"The outline of {p.label} crosses itself: what is in it cannot be told.",
                mend="Put its corners in order, round the water one way.",
            )
        elif body.water <= 0:
            yield Problem(
                code="no-water-in",
                severity="stop",
                where=p.id,
                says=f"{p.label} holds no water: it is said to stand "
                f"{show(p.what.below_rim, 'length', plan.units)} below the rim, and it is "
                f"{show(p.what.depth, 'length', plan.units)} deep.",
                mend="Let it stand higher, or make it deeper.",
            )


def _let_in(plan: Plan) -> Iterator[Problem]:
    for p in plan.points:
        if not isinstance(p.what, InWall):
            continue
        waters = p.what.waters
        if waters is None:
            yield Problem(
                code="in-no-water",
                severity="stop",
                where=p.id,
                says=f"{p.label} stands in no body of water.",
                mend="Move it to the wall of one, at its height, or draw the body there.",
            )
        elif isinstance(p.what, Skimmer) and abs(p.level - waters.level) > 0.1 + 1e-9:
            yield Problem(
                code="skimmer-level",
                severity="warn",
                where=p.id,
                says=f"{p.label} is {show(abs(p.level - waters.level), 'cut', plan.units)} "
                f"{'above' if p.level > waters.level else 'below'} the water: a skimmer draws at its level.",
                mend=f"Set it to {show(waters.level, 'level', plan.units)}, or say how far the water stands below "
                "the rim.",
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
                yield Problem(
                    code="round-fast",
                    severity="warn",
                    where=run,
                    says=f"{show(speed, 'velocity', plan.units)} from {a} to {b}: "
                    f"{show(limit, 'velocity', plan.units)} is the most in "
                    f"{'suction' if run in before else 'return'} where {bodies[0].what.use} water goes round.",
                    mend="Take a larger pipe there.",
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
                yield Problem(
                    code="heater-flow",
                    severity="warn",
                    where=p.id,
                    says=f"{show(flow, 'flow', plan.units)} goes through {p.label}; the {word} takes "
                    f"{show(p.what.largest, 'flow', plan.units)} at the most.",
                    mend="Lead a bypass with a valve round it, and set that until the rest goes through.",
                )
            elif flow < p.what.least * (1 - 1e-6):
                yield Problem(
                    code="heater-flow",
                    severity="warn",
                    where=p.id,
                    says=f"{show(flow, 'flow', plan.units)} goes through {p.label}; the {word} wants "
                    f"{show(p.what.least, 'flow', plan.units)} at the least, or it runs hot and switches off.",
                    mend="Shut its bypass further, or give the loop more flow.",
                )


def _jets(plan: Plan, lay: Layout, flows: Mapping[str, Flow]) -> Iterator[Problem]:
    for jets in jets_of(plan, lay, flows):
        made_for = {p: what.flow for p in jets.flows if isinstance(what := plan.by_id[p].what, Jet)}
        wanted, got = sum(made_for.values()), sum(jets.flows.values())
        if got < wanted * (1 - _WEAK):
            weak = min(jets.flows, key=lambda p: (jets.flows[p] / made_for[p], p))
            all_, made = (
                (f"{len(jets.flows)} jets together get", "they are")
                if len(jets.flows) > 1
                else (f"{plan.names[weak]} gets", "it is")
            )
            yield Problem(
                code="jets-weak",
                severity="warn",
                where=weak,
                says=f"{all_} {show(got, 'flow', plan.units)} of the {show(wanted, 'flow', plan.units)} {made} "
                f"made for: {plan.names[weak]} has {jets.flows[weak] / made_for[weak]:.0%} of its own.",
                mend="Take a pump that gives as much against what filter, heater and line lose, lead the jets "
                "past the filter, or set fewer jets.",
            )
        if len(jets.flows) > 1 and jets.short > _UNEVEN:
            weak = min(jets.flows, key=lambda p: (jets.flows[p], p))
            yield Problem(
                code="jets-uneven",
                severity="note",
                where=weak,
                says=f"{plan.names[weak]} gets {jets.short:.0%} less than the mean. {jets.says}",
                mend="Close the jets' line to a ring, or take it a size larger.",
            )
