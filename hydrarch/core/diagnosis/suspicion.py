"""How much each run is suspected before anything is read: by its joints and what is known of them, and by its age."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Mapping
from dataclasses import dataclass

from hydrarch.core.catalogue.guidance import practices
from hydrarch.core.catalogue.methods import method
from hydrarch.core.joining.assembled import Joint
from hydrarch.core.making.steps import joint_cure
from hydrarch.core.plan.document import Plan
from hydrarch.core.record.places import runs_of_joint
from hydrarch.core.record.states import JointState
from hydrarch.core.site.layout import Layout

__all__ = ["Suspicion", "suspicions"]

_PROVED = 1.0
_SUSPECT: Mapping[str, float] = {
    "leaking by the record": 30.0,
    "dry": 10.0,
    "left to cure shorter than its table": 4.0,
    "mended before": 3.0,
    "not tested": 3.0,
    "made more than once": 2.0,
    "passed with a reason": 2.0,
    "of a way that comes apart again": 1.5,
    "given the shorter of two schools of waiting": 1.5,
}
"""How many times likelier than a sound one a joint leaks of which that is so; what is so together is multiplied. From
memory, for want of a survey.
"""
_PIPE, _OLD = 0.5, 4.0
"""What a run counts for by itself, without a joint, and what one does that was there already: age and roots have had
their time with it. From memory.
"""


@dataclass(frozen=True, slots=True)
class Suspicion:
    """How many sound joints a run counts for, and why it counts for more: what is so of how many of its joints."""

    weight: float
    why: tuple[tuple[str, int], ...]


def suspicions(
    plan: Plan, joints: Iterable[Joint], states: Mapping[str, JointState], lay: Layout
) -> dict[str, Suspicion]:
    """Each run's suspicion, by what was done to the joints on it; a joint at a point counts half for each run there."""
    weights = {r: _OLD if r in plan.run_by_id and plan.run_by_id[r].existing else _PIPE for r in lay.lines}
    why: dict[str, Counter[str]] = {r: Counter() for r in lay.lines}
    short = _by_the_usual_school(plan)
    for j in joints:
        told = tuple(_told(plan, short, j, states.get(j.id)))
        weight = _PROVED
        for words in told:
            weight *= _SUSPECT[words]
        runs = runs_of_joint(j, lay)
        for r in runs:
            weights[r] += weight / len(runs)
            why[r].update(told)
    order = list(_SUSPECT)
    return {r: Suspicion(w, tuple(sorted(why[r].items(), key=lambda x: order.index(x[0])))) for r, w in weights.items()}


def _by_the_usual_school(plan: Plan) -> Plan:
    """The plan with joints cured by the school that is usual."""
    usual = {**plan.practices, "cure": practices()["cure"].default}
    return plan.model_copy(
        update={
            "practices": usual,
            "points": tuple(p.model_copy(update={"practices": {**p.practices, **usual}}) for p in plan.points),
        }
    )


def _told(plan: Plan, usual: Plan, joint: Joint, state: JointState | None) -> Iterable[str]:
    """What is so of a joint that makes it likelier to leak."""
    if state is None or not state.proved:
        if state is not None and state.leak is not None:
            yield "leaking by the record"
        else:
            yield "dry" if state is not None and state.state == "dry" else "not tested"
    if state is not None:
        if state.rushed:
            yield "left to cure shorter than its table"
        if state.mend is not None:
            yield "mended before"
        if state.times > 1:
            yield "made more than once"
        if state.overrides:
            yield "passed with a reason"
    if method(joint.method).spoils == "none":
        yield "of a way that comes apart again"
    mine, theirs = joint_cure(plan, joint, 0.0), joint_cure(usual, joint, 0.0)
    if mine is not None and theirs is not None and mine.cure < theirs.cure:
        yield "given the shorter of two schools of waiting"
