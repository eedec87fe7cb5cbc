"""A job at a glance: its lines, where the work waits, and what waits there, in words."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

from hydrarch.core.base.problems import Problem, Stage
from hydrarch.core.commissioning.readiness import Readiness
from hydrarch.core.plan.document import Plan

__all__ = ["Glance", "Wait", "glance"]

_DRAWN: tuple[Stage, ...] = ("survey", "size", "join", "cut")


@dataclass(frozen=True, slots=True)
class Wait:
    """One thing that waits, in words; `pressing` where it is what stops the drawing, a leak, or joints that stand dry."""

    says: str
    pressing: bool = False


@dataclass(frozen=True, slots=True)
class Glance:
    """`lines` are the runs: x, y and level of both ends (m); `stage` is where the work waits, `waits` what waits, most
    urgent first.
    """

    lines: tuple[tuple[float, float, float, float, float, float], ...]
    stage: Stage
    waits: tuple[Wait, ...]


def glance(plan: Plan, problems: Iterable[Problem], ready: Readiness) -> Glance:
    """What a list of jobs tells of one: nothing is said to be finished but by the counts of the hand-over."""
    at = {p.id: (p.x, p.y, p.level) for p in plan.points}
    lines = tuple((*at[r.a.point], *at[r.b.point]) for r in plan.runs)
    counts = ready.hand_over
    told = [p for p in problems if p.severity != "note" and not p.follows]
    said = []
    if told:
        held = sum(p.holds for p in told)
        said.append(Wait(_problems(len(told)) + (f", {held} to fix before the drawing is done" if held else "")))
    if ready.held:
        said.append(Wait(f"{len(ready.held)} to fit between pipes made already"))
    if counts.joints and counts.unmade == counts.joints:
        said.append(Wait(f"{counts.joints} joints, none made yet"))
    elif counts.joints:
        said += [Wait(words, n < counts.pressing) for n, words in enumerate(counts.says)]
    elif not plan.runs:
        said.append(Wait("no pipe drawn yet"))
    return Glance(lines, _stage(ready), tuple(said))


def _stage(ready: Readiness) -> Stage:
    """The first stage that is not done; once anything is made or dry-fitted it is at the joints that the work waits."""
    counts = ready.hand_over
    begun = counts.joints and counts.unmade < counts.joints
    if not begun:
        return next((s for s in _DRAWN if ready.stages[s] < 1), "cut")
    if counts.unmade or counts.left or counts.dry or counts.leaking or counts.changed:
        return "make"
    return "keep" if counts.done else "prove"


def _problems(count: int) -> str:
    return f"{count} problem{'' if count == 1 else 's'}"
