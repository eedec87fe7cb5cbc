"""The head of a drip line laid out at one press: preventer, filter, regulator screwed to one another behind what water
comes from.
"""

from __future__ import annotations

from math import cos, hypot, pi, sin

from hydrarch.core.base.errors import HydrarchError
from hydrarch.core.catalogue.markets import market
from hydrarch.core.components.base import kind_named
from hydrarch.core.components.sources import Mains
from hydrarch.core.editing.draft import Body, Draft
from hydrarch.core.editing.drip_beds import tubing_of
from hydrarch.core.editing.groups import Edited
from hydrarch.core.plan.document import Plan

__all__ = ["drip_head"]

_APART = 0.15
"""m from the middle of one thing to that of the next; estimate, from memory."""
_ROOM = 0.4  # m about it in which nothing else stands
_PIECE = 0.5
"""m of tubing behind the last of them, to draw on from."""
_ORDER = (("backflow", "BP", "Preventer"), ("filter", "F", "Filter"), ("regulator", "PR", "Regulator"))


def drip_head(plan: Plan, at: str, timer: bool = False) -> Edited:
    """Set preventer, filter and regulator down behind a mains, tank, pump or valve, in that order, and a piece of
    tubing to draw on from.

    Behind a mains they are those of a hose bib: hose threads with washers, no tape; a `timer` comes before them. Raises
    `HydrarchError` where nothing leaves that thing, or a pipe leaves it already.
    """
    point = plan.by_id.get(at)
    if point is None:
        raise HydrarchError("that is not on the drawing any more: choose what the water comes from again")
    out = next((s for s in point.kind.ports_of(point.what) if s.way == "out"), None)
    if out is None:
        raise HydrarchError(
            f"no water leaves {point.label} by a port of its own: choose a mains, a tank, a pump or a valve"
        )
    if any(e.point == at and plan.port_name(e) == out.name for r in plan.runs for e in r.ends):
        raise HydrarchError(f"pipe leaves {point.label} already: take it away, or set the things into it one by one")
    hose, here = isinstance(point.what, Mains), market(plan.conditions.market)
    at_tap = {"in": f"{here.hose}:female:3/4", "out": f"{here.hose}:male:3/4"}
    draft, made = Draft(plan), list[str]()
    if hose:
        draft.spots[at]["ports"] = {**draft.spots[at].get("ports", {}), out.name: at_tap["out"]}
    way = _free(plan, at)
    before = at
    order = ((("equipment", "TM", "Timer"),) if timer else ()) + _ORDER
    for n, (kind, stem, title) in enumerate(order, 1):
        what = kind_named(kind).start.model_dump(mode="json")
        if kind == "equipment":
            ends = at_tap if hose else {"in": f"{here.thread}:female:3/4", "out": f"{here.thread}:male:3/4"}
            what |= {
                "what": "Hose timer",
                "loss": 15e3,
                "at_flow": 3e-4,
                "own_ports": [{"name": p, "role": p, "end": e} for p, e in ends.items()],
            }
        ports = dict(at_tap) if hose and kind != "equipment" else {}
        new = draft.add_point(stem, **_spot(draft, at, way, n * _APART), what=what, ports=ports)
        if all(p.name != title for p in plan.points):
            draft.spots[new]["name"] = title
        _run(draft, before, new)["coupled"] = True
        made.append(new)
        before = new
    last = draft.add_point(
        "J", **_spot(draft, at, way, len(order) * _APART + _PIECE), what={"kind": "junction"}
    )  # a row begins there
    _run(draft, before, last).update({"series": tubing_of(plan), "size": None, "situation": "on surface"})
    joined = "with hose threads and washers, no tape" if hose else "one screwed to the next"
    says = (
        f"{'Timer, preventer' if timer else 'Preventer'}, filter, regulator behind {point.label}, {joined}; draw "
        "on from the end of the tubing."
    )
    return Edited(draft.plan(), (*made, last), says)


def _run(draft: Draft, start: str, stop: str) -> Body:
    run = draft.add_run(start, stop)
    body: Body = next(r for r in reversed(draft.body["runs"]) if r["id"] == run)
    body["measured_length"] = None
    return body


def _spot(draft: Draft, at: str, way: float, far: float) -> Body:
    here = draft.spots[at]
    x, y = round(here["x"] + far * cos(way), 4), round(here["y"] + far * sin(way), 4)
    return {"x": x, "y": y, "ground": here["ground"], "depth": min(here["depth"], 0.0)}


def _free(plan: Plan, at: str) -> float:
    """The way (rad from east) in which there is room for it: the first of east, north, west and south, or the one with
    most.
    """
    here = plan.by_id[at]

    def room(way: float) -> float:
        spots = [(here.x + far * cos(way), here.y + far * sin(way)) for far in (0.3, 0.6, 1.0)]
        return min((hypot(p.x - x, p.y - y) for p in plan.points if p.id != at for x, y in spots), default=_ROOM)

    ways = [n * pi / 2 for n in range(4)]
    return next((w for w in ways if room(w) >= _ROOM), max(ways, key=lambda w: round(room(w), 6)))
