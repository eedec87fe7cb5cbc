"""A clean-out set into a drain: a wye, an eighth bend, and a riser to a cap just above the ground."""

from __future__ import annotations

from math import hypot

from hydrarch.core.editing.draft import Body, Draft
from hydrarch.core.plan.document import Plan, Run

__all__ = ["clean_out", "may_clean_out"]

_BRANCH = 0.6  # m from the wye to the foot of the riser, along the branch
_FALLS = 1 / 50  # of the branch
_ABOVE = 0.02  # m that the cap stands above the ground: in sight, and out of the mower's way by its lid
_ROOM = 1.0  # m of pipe and more that a wye is set into
_DEEP = 0.25  # m of depth and more, so that the riser has a length


def may_clean_out(plan: Plan, where: str) -> bool:
    """Whether there is a new run in the ground at `where` with room for it."""
    return _run(plan, where) is not None


def clean_out(body: Body, where: str) -> bool:
    """Set a clean-out into the middle of a drain's run, or a metre down from the thing it begins at, its branch coming
    in at 45° the way the water runs; False where there is no room.
    """
    plan = Plan.model_validate(body)
    run = _run(plan, where)
    if run is None:
        return False
    a, b = (plan.by_id[p] for p in run.points)
    upper, lower, begins = (a, b, "a") if (a.level, a.id) >= (b.level, b.id) else (b, a, "b")
    long = hypot(lower.x - upper.x, lower.y - upper.y)
    down = 0.5 if where == run.id else min(1.0 / long, 0.5)  # the share from the upper end
    east, north = (lower.x - upper.x) / long, (lower.y - upper.y) / long
    draft = Draft(body)
    wye = draft.split(run.id, down if begins == "a" else 1 - down, "J", {"kind": "junction"}, comes=begins)
    at = draft.spots[wye]
    aside = _BRANCH / 2**0.5
    spot = {
        "x": round(at["x"] - aside * (east + north), 4),
        "y": round(at["y"] - aside * (north - east), 4),
        "ground": at["ground"],
    }
    foot = draft.add_point("B", **spot, depth=round(at["depth"] - _BRANCH * _FALLS, 4), what={"kind": "bend"})
    cap = draft.add_point("C", **spot, depth=-_ABOVE, what={"kind": "cap"}, name=draft.name_for("Clean-out"))
    draft.add_run(foot, wye)
    draft.add_run(cap, foot)
    return True


def _run(plan: Plan, where: str) -> Run | None:
    """The run a wye is set into: the one that is named, or the first that leads from a thing."""
    runs = [plan.run_by_id[where]] if where in plan.run_by_id else [r for r in plan.runs if where in r.points]
    for run in runs:
        a, b = (plan.by_id[p] for p in run.points)
        deep = min(a.depth, b.depth)
        level = hypot(a.x - b.x, a.y - b.y)
        if run.existing is None and not run.coupled and level >= _ROOM and deep >= _DEEP and run.situation == "buried":
            return run
    return None
