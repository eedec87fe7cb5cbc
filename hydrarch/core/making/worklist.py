"""A workable order: away from the source point by point, threads before welds, heads last of all."""

from __future__ import annotations

from dataclasses import dataclass

from hydrarch.core.joining.records import Assembly, Joint
from hydrarch.core.layout import Layout

__all__ = ["Task", "worklist"]

_FIRST = {"thread": 0, "barb and clamp": 1, "solvent weld": 2}


@dataclass(frozen=True, slots=True)
class Task:
    """One joint in its turn; `group` is the point or run it belongs to, `why` the reason for its place."""

    joint: str
    group: str
    why: str


def worklist(lay: Layout, assembly: Assembly) -> tuple[Task, ...]:
    """Every joint in the order to make it."""
    return tuple(Task(j.id, j.place, _why(j)) for j in sorted(assembly.joints, key=lambda j: _key(lay, j)))


def _key(lay: Layout, joint: Joint) -> tuple[bool, float, str, int, str, str]:
    if joint.point is not None:
        along = lay.distance.get(joint.point, float("inf"))
        where = joint.point
    else:
        line = lay.lines[joint.run or ""]
        along = min(lay.distance.get(line.a, float("inf")), lay.distance.get(line.b, float("inf"))) + 1e-3
        where = line.run
    return is_head(joint), along, where, _FIRST.get(joint.method, 1), joint.run or "", joint.id


def is_head(joint: Joint) -> bool:
    """Whether a joint puts a tap or head on its riser: the line is flushed before these."""
    return joint.id.endswith(".riser.99")


def _why(joint: Joint) -> str:
    if is_head(joint):
        return "after flushing, so that nothing lodges in it"
    reasons = {
        "thread": "threads first: what is threaded must still be free to turn",
        "barb and clamp": "barbs while the pipe is still free to push",
        "solvent weld": "welds last at each place: nothing glued needs turning",
    }
    return reasons.get(joint.method, "before anything is welded beside it")
