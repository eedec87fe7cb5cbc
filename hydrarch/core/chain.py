"""The chain: from a plan to everything that follows from it, and from events to where the job stands."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

from hydrarch.core.catalogue.guidance import Caution, cautions_for
from hydrarch.core.cutting.bill import BillRow, bill
from hydrarch.core.cutting.cuts import CutList, cut
from hydrarch.core.hydraulics.air import air_problems
from hydrarch.core.hydraulics.drains import DrainRun, drain_problems, drain_runs
from hydrarch.core.hydraulics.flow import models
from hydrarch.core.hydraulics.suction import intake_problems
from hydrarch.core.joining.assembly import assemble
from hydrarch.core.joining.records import Assembly
from hydrarch.core.layout import Layout, layout
from hydrarch.core.making.state import Event
from hydrarch.core.making.worklist import Glueup, Task, worklist
from hydrarch.core.plan import Plan
from hydrarch.core.problems import Problem
from hydrarch.core.proving.readiness import Readiness, readiness
from hydrarch.core.proving.sections import Section, part_rating_problems, sections
from hydrarch.core.sizing.hammer import Stopped, all_surges, hammer_problems
from hydrarch.core.sizing.select import Sizes, pick_sizes
from hydrarch.core.wells.hole import vessel_problems

__all__ = ["Derived", "derive", "where_it_stands"]

_FREELY, _ROUNDS = 3, 10
"""Rounds in which sizes may become smaller again, and rounds in all."""


@dataclass(frozen=True, slots=True)
class Derived:
    """All that follows from one plan. `rounds` is how often sizes and fittings were settled against each other."""

    layout: Layout
    sizes: Sizes
    drains: tuple[DrainRun, ...]
    surges: dict[str, Stopped]
    assembly: Assembly
    cuts: CutList
    bill: tuple[BillRow, ...]
    work: tuple[Task, ...]
    glueups: tuple[Glueup, ...]
    sections: tuple[Section, ...]
    cautions: tuple[Caution, ...]
    problems: tuple[Problem, ...]
    rounds: int


def derive(plan: Plan) -> Derived:
    """Run the whole chain on a plan. Sizes feed fittings, fittings feed losses, losses feed sizes, until they agree."""
    lay = layout(plan)
    ready, drains = models(plan, lay), drain_runs(plan, lay)
    picked = pick_sizes(plan, lay, {}, ready, drains)
    assembly = assemble(plan, lay, picked.pipes())
    settled: list[Problem] = []
    rounds = 1
    while rounds < _ROUNDS:
        rounds += 1
        before = picked.pipes()
        picked = picked.again(assembly.minor, firm=rounds > _FREELY)
        if picked.pipes() == before:
            break
        assembly = assemble(plan, lay, picked.pipes())
    else:
        settled.append(Problem(
            "sizes-not-settled", "note", "", f"Sizes and fittings still changed each other after {_ROUNDS} rounds.",
            "Fix the size of one of the runs that keep changing.",
        ))  # fmt: skip
    sizes, pipes = picked.sizes(), picked.pipes()
    cuts = cut(plan, pipes, assembly)
    places = {p.what.kind for p in plan.points} | {r.situation for r in plan.runs} | {j.method for j in assembly.joints}
    surges = all_surges(plan, lay, pipes, sizes.flows)
    pressed = (
        *hammer_problems(plan, lay, pipes, surges),
        *vessel_problems(plan, lay, sizes.flows),
        *part_rating_problems(plan, lay, assembly),
        *air_problems(plan, lay),
        *intake_problems(plan, lay, pipes, sizes.through()),
    )
    order = worklist(plan, lay, pipes, assembly)
    problems = (
        *lay.problems,
        *drain_problems(plan, lay, drains),
        *sizes.problems,
        *pressed,
        *assembly.problems,
        *cuts.problems,
        *order.problems,
        *settled,
    )
    return Derived(
        layout=lay,
        sizes=sizes,
        drains=tuple(drains.values()),
        surges={run: Stopped(s.peak, s.limit) for run, s in surges.items()},
        assembly=assembly,
        cuts=cuts,
        bill=bill(plan, assembly, cuts),
        work=order.tasks,
        glueups=order.groups,
        sections=sections(plan, lay, pipes, assembly),
        cautions=cautions_for(*sorted(places)),
        problems=problems,
        rounds=rounds,
    )


def where_it_stands(plan: Plan, derived: Derived, events: Iterable[Event], now: float) -> Readiness:
    """The state of every joint and section of a derived plan at `now` (s since 1970)."""
    return readiness(plan, derived.assembly, derived.sections, events, now, derived.problems)
