"""A bend of its own set beside a thing that a line turns at: what is straight stands straight in it."""

from __future__ import annotations

from math import dist, hypot

from hydrarch.core.draft import Body, Draft
from hydrarch.core.plan import Plan

__all__ = ["bend_beside", "may_bend_beside"]

_BESIDE = 0.5  # m from the thing at which the bend is set, or half-way where that is nearer
_LEAST = 0.4  # m of pipe that has room for it

Place = tuple[float, float, float]


def _place(spot: Body) -> Place:
    return float(spot["x"]), float(spot["y"]), float(spot["ground"] - spot["depth"])


def bend_beside(body: Body, where: str) -> bool:
    """Set a bend into the longer of the two runs that lead through a thing, in line with the other; False where there is no such pair with room."""
    draft = Draft(body)
    runs = [r for r in draft.runs_at(where)] if where in draft.spots else []
    here = _place(draft.spots[where]) if runs else (0.0, 0.0, 0.0)

    def far(run: Body) -> Place:
        other = run["b"]["point"] if run["a"]["point"] == where else run["a"]["point"]
        return _place(draft.spots[other])

    free = [r for r in runs if not r.get("coupled") and r.get("existing") is None and r["measured_length"] is None]
    if len(runs) != 2 or not free:
        return False
    turned = max(free, key=lambda r: (dist(here, far(r)), r["id"]))
    kept = next(r for r in runs if r is not turned)
    long, along = dist(here, far(turned)), dist(here, far(kept))
    if long < _LEAST or along <= 0:
        return False
    back = min(_BESIDE, long / 2)
    x, y, z = (h - (f - h) / along * back for h, f in zip(here, far(kept), strict=True))
    if hypot(x - far(turned)[0], y - far(turned)[1], z - far(turned)[2]) < _LEAST / 2:
        return False
    share = back / long if turned["a"]["point"] == where else 1 - back / long
    new = draft.split(turned["id"], share, "B", {"kind": "bend"})
    spot = draft.spots[new]
    spot["x"], spot["y"], spot["depth"] = round(x, 4), round(y, 4), round(spot["ground"] - z, 4)
    return True


def may_bend_beside(plan: Plan, where: str) -> bool:
    """Whether two runs lead through a thing, one of them with room for a bend: quick, and `bend_beside` looks closer."""
    mine = [r for r in plan.runs if where in r.points]
    return len(mine) == 2 and any(not r.coupled and r.existing is None and r.measured_length is None for r in mine)
