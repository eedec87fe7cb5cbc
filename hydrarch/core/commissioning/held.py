"""What is put between two stiff pipes that are made already: neither moves, so the last joint must be one that
closes.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterator, Mapping

from hydrarch.core.base.identity import stack_joint
from hydrarch.core.base.messages import tell
from hydrarch.core.base.problems import Problem, declare
from hydrarch.core.catalogue.fittings import fitting
from hydrarch.core.catalogue.methods import methods_where
from hydrarch.core.catalogue.pipes import pipe_called, series
from hydrarch.core.joining.assembled import Assembly, Joint
from hydrarch.core.joining.stacks import SLIP, UNIONS
from hydrarch.core.plan.document import Plan
from hydrarch.core.record.states import MADE, JointState

__all__ = ["held_ends"]

declare("make", "made-both-sides")


def held_ends(plan: Plan, assembly: Assembly, states: Mapping[str, JointState]) -> tuple[Problem, ...]:
    """A `Problem` at each point where something not made yet stands between two stiff pipes whose far ends are made."""
    if not any(s.state in MADE for s in states.values()):
        return ()
    found: dict[str, list[str]] = defaultdict(list)
    at_end: dict[str, list[Joint]] = defaultdict(list)
    for joint in assembly.joints:
        if joint.end is not None:
            at_end[joint.end].append(joint)
    for point, near in _held(assembly, at_end, states):
        found[point].append(near)
    return tuple(
        tell("made-both-sides", point, place=plan.names[point])
        for point, ends in found.items()
        if len(ends) > 1 and not any(_closes(j) for e in ends for j in at_end[e])
    )


def _held(
    assembly: Assembly, at_end: Mapping[str, list[Joint]], states: Mapping[str, JointState]
) -> Iterator[tuple[str, str]]:
    """Each point and pipe end whose first joint is not made, while the one at the pipe's other end is; of stiff pipe
    only.
    """
    for length in assembly.lengths:
        for near, far in ((length.start, length.stop), (length.stop, length.start)):
            mine = next((j for j in at_end[near] if stack_joint(near, 1) in j.names), None)
            theirs = next((j for j in at_end[far] if stack_joint(far, 1) in j.names), None)
            if mine is None or theirs is None or mine.point is None or mine.a.pipe is None:
                continue
            stiff = series(pipe_called(mine.a.pipe).series).stick is not None
            if stiff and not _made(mine, states) and _made(theirs, states):
                yield mine.point, near


def _made(joint: Joint, states: Mapping[str, JointState]) -> bool:
    return joint.id in states and states[joint.id].state in MADE


def _closes(joint: Joint) -> bool:
    """Whether a joint, or a fitting it is of, can be the last between two held ends."""
    families = {fitting(s.fitting).family for s in (joint.a, joint.b) if s.fitting}
    return joint.method in methods_where("closes", True) or bool(families & {*UNIONS, SLIP})
