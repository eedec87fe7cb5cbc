"""How far a job is, stage by stage."""

from __future__ import annotations

from collections.abc import Collection, Iterable, Mapping

from hydrarch.core.base.problems import Problem, Stage
from hydrarch.core.plan.document import Plan
from hydrarch.core.record.states import MADE, JointState
from hydrarch.core.site.systems import is_exercise

__all__ = ["stage_shares"]


def stage_shares(
    plan: Plan, problems: Iterable[Problem], joints: Collection[object], states: Mapping[str, JointState], seen: int
) -> dict[Stage, float]:
    """How far each stage is, from 0 to 1: drawing stages by what still holds them back, the others by the joints'
    states.

    A stage is not done before the drawing is, nor the cutting before the joining; `states` are of the joints touched,
    `seen` how many are proved, or were made after the test and seen dry at work.
    """
    held = {p.stage for p in problems if p.holds}
    ends = any(p.kind.role in ("outlet", "drain") for p in plan.points) or is_exercise(plan)
    drawn = ends and bool(plan.runs) and "survey" not in held
    joined = drawn and "join" not in held

    def share(count: int) -> float:
        return count / len(joints) if joints else 0.0

    return {
        "survey": 1.0 if drawn else 0.5 if plan.points else 0.0,
        "size": float(drawn and "size" not in held),
        "join": float(joined),
        "cut": float(joined and "cut" not in held),
        "make": share(sum(s.state in MADE for s in states.values())),
        "prove": share(seen),
        "keep": share(sum(s.covered for s in states.values())),
    }
