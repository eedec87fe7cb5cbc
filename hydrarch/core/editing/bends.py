"""A bend of its own set beside a thing that a line turns at: what is straight stands straight in it."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from math import dist

from hydrarch.core.editing.draft import Body, Draft
from hydrarch.core.plan.document import Plan

__all__ = ["bend_beside", "lead_in", "may_bend_beside", "may_lead_in"]

_BESIDE = 0.5  # m from the thing at which the bend is set, or half-way where that is nearer
_STRAIGHT, _SQUARE = -0.98, 0.17  # cosines of what is straight and what is square, within 10°
_LEAST = 0.4  # m of pipe that has room for it

Place = tuple[float, float, float]
Leg = tuple[str, str, bool]
"""A run by its id, the point it leads to from the thing, and whether a bend may be set into it."""


def _bend(places: Mapping[str, Place], where: str, legs: Sequence[Leg]) -> tuple[str, float, Place] | None:
    """The run a bend is set into, how far (m) from the thing, and its place in line with the other run; None where
    there is no room.
    """
    free = [leg for leg in legs if leg[2]]
    if len(legs) != 2 or not free:
        return None
    here = places[where]
    turned = max(free, key=lambda leg: (dist(here, places[leg[1]]), leg[0]))
    far, beyond = places[turned[1]], places[next(leg for leg in legs if leg is not turned)[1]]
    long, along = dist(here, far), dist(here, beyond)
    if long < _LEAST or along <= 0:
        return None
    back = min(_BESIDE, long / 2)
    x, y, z = (h - (f - h) / along * back for h, f in zip(here, beyond, strict=True))
    return (turned[0], back / long, (x, y, z)) if dist((x, y, z), far) >= _LEAST / 2 else None


def bend_beside(body: Body, where: str) -> bool:
    """Set a bend into the longer of the two runs that lead through a thing, in line with the other; False where there
    is no such pair with room.
    """
    draft = Draft(body)
    if where not in draft.spots:
        return False
    runs = draft.runs_at(where)
    legs = [
        (
            r["id"],
            r["b" if r["a"]["point"] == where else "a"]["point"],
            not r.get("coupled") and r.get("existing") is None and r["measured_length"] is None,
        )
        for r in runs
    ]
    places = {
        p: (float(s["x"]), float(s["y"]), float(s["ground"] - s["depth"]))
        for p in (where, *(leg[1] for leg in legs))
        for s in [draft.spots[p]]
    }
    found = _bend(places, where, legs)
    if found is None:
        return False
    name, share, (x, y, z) = found
    turned = next(r for r in runs if r["id"] == name)
    new = draft.split(name, share if turned["a"]["point"] == where else 1 - share, "B", {"kind": "bend"})
    spot = draft.spots[new]
    spot["x"], spot["y"], spot["depth"] = round(x, 4), round(y, 4), round(spot["ground"] - z, 4)
    return True


def _led_in(places: Mapping[str, Place], where: str, far: Mapping[str, str]) -> tuple[str, Place, Place] | None:
    """Of three drains that meet square, the run that comes in from the side, where it is turned, and where it comes in
    then, at 45° the way the water runs; None where they do not meet so, or there is no room.
    """
    here = places[where]
    if any(dist(here, places[p]) < _LEAST / 2 for p in far.values()):
        return None  # two things in one place: no way leads from one to the other
    ways = {
        r: tuple((f - h) / dist(here, places[p]) for f, h in zip(places[p], here, strict=True)) for r, p in far.items()
    }
    if len(ways) != 3:
        return None

    def across(one: str, two: str) -> float:
        return sum(x * y for x, y in zip(ways[one], ways[two], strict=True))

    pairs = [(across(a, b), a, b) for a in ways for b in ways if a < b]
    straight, one, two = min(pairs)
    side = next(r for r in ways if r not in (one, two))
    if straight > _STRAIGHT or abs(across(side, one)) > _SQUARE:
        return None
    down = min((one, two), key=lambda r: places[far[r]][2])
    back = min(_BESIDE, *(dist(here, places[far[r]]) / 2 for r in (side, down)))
    if back < _LEAST / 2 or places[far[down]][2] >= here[2]:
        return None

    def along(run: str) -> Place:
        x, y, z = (h + w * back for h, w in zip(here, ways[run], strict=True))
        return x, y, z

    return side, along(side), along(down)


def lead_in(body: Body, where: str) -> bool:
    """Bring a drain that comes into another square in at 45° the way the water runs, with a bend further back; False
    where no three meet so with room.
    """
    draft = Draft(body)
    if where not in draft.spots:
        return False
    runs = [r for r in draft.runs_at(where) if not r.get("coupled")]
    far = {r["id"]: r["b" if r["a"]["point"] == where else "a"]["point"] for r in runs}
    places = {p: (s["x"], s["y"], s["ground"] - s["depth"]) for p, s in draft.spots.items()}
    found = _led_in(places, where, far)
    if found is None:
        return False
    name, bend, into = found
    turned = next(r for r in runs if r["id"] == name)
    new = draft.split(name, 0.5, "B", {"kind": "bend"}, comes="a" if turned["b"]["point"] == where else "b")
    for point, (x, y, z) in ((new, bend), (where, into)):
        spot = draft.spots[point]
        spot["x"], spot["y"], spot["depth"] = round(x, 4), round(y, 4), round(spot["ground"] - z, 4)
    for run in draft.runs_at(where):
        run["measured_length"] = None
    return True


def may_lead_in(plan: Plan, where: str) -> bool:
    """Whether `lead_in` finds what it wants there."""
    far = {r.id: next(p for p in (*r.points, where) if p != where) for r in plan.runs if where in r.points}
    places = {p.id: (p.x, p.y, p.level) for p in plan.points}
    return where in places and _led_in(places, where, far) is not None


def may_bend_beside(plan: Plan, where: str) -> bool:
    """Whether `bend_beside` finds room there."""
    legs = [
        (
            r.id,
            next(p for p in (*r.points, where) if p != where),
            not r.coupled and r.existing is None and r.measured_length is None,
        )
        for r in plan.runs
        if where in r.points
    ]
    places = {
        p: (plan.by_id[p].x, plan.by_id[p].y, plan.by_id[p].level)
        for p in (where, *(leg[1] for leg in legs))
        if p in plan.by_id
    }
    return where in places and _bend(places, where, legs) is not None
