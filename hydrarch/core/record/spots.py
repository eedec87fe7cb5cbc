"""Where a joint lay when it was made: kept with the record, so that a drawing changed later does not move what is in
the ground.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import replace
from math import hypot

from hydrarch.core.base.units import System, show
from hydrarch.core.joining.assembled import Joint
from hydrarch.core.plan.document import Plan
from hydrarch.core.record.events import JointMark, JointSpot

__all__ = ["drawn_since", "drawn_spot", "with_spots"]

_TOLD = 0.005
"""m between where a joint was made and where it is drawn, below which nothing is said: no tape shows it."""


def drawn_spot(plan: Plan, joint: Joint) -> JointSpot:
    """Where the drawing has a joint: at its point, or at its share of its run."""
    if joint.point is not None:
        p = plan.by_id[joint.point]
        return JointSpot(p.x, p.y, p.level, p.depth)
    run = plan.run_by_id[joint.run or ""]
    a, b = plan.by_id[run.a.point], plan.by_id[run.b.point]
    share = 0.5 if joint.share is None else joint.share
    x, y, level, depth = (
        u + (v - u) * share for u, v in ((a.x, b.x), (a.y, b.y), (a.level, b.level), (a.depth, b.depth))
    )
    return JointSpot(x, y, level, depth)


def with_spots(plan: Plan, joints: Iterable[Joint], marks: Mapping[str, JointMark]) -> dict[str, JointMark]:
    """What an event says of joints, with where each is drawn as it is said; a lost joint has none."""
    known: dict[str, Joint] = {j.id: j for j in joints}
    return {
        name: replace(mark, spot=drawn_spot(plan, known[name])) if name in known else mark
        for name, mark in marks.items()
    }


def drawn_since(was: JointSpot, now: JointSpot, units: System) -> str:
    """How the drawing has a joint elsewhere than where it was made, in words; "" where it has not.

    >>> drawn_since(JointSpot(0, 0, 1.0, 0.5), JointSpot(0, 0, 1.05, 0.45), "metric")
    'drawn 50 mm higher since'
    """
    aside, up = hypot(now.x - was.x, now.y - was.y), now.level - was.level
    told = []
    if aside >= _TOLD:
        told.append(f"{show(aside, 'depth', units)} aside")
    if abs(up) >= _TOLD:
        told.append(f"{show(abs(up), 'depth', units)} {'higher' if up > 0 else 'lower'}")
    return f"drawn {' and '.join(told)} since" if told else ""
