"""A bed filled with rows of emitters: tubing along its first side, and a row of it from there to the far side every so
far.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from math import atan2, cos, hypot, pi, sin

from hydrarch.core.base.errors import HydrarchError
from hydrarch.core.base.units import show
from hydrarch.core.catalogue.markets import market
from hydrarch.core.catalogue.pipes import series, series_list
from hydrarch.core.components.base import kind_named
from hydrarch.core.editing.draft import Body, Draft
from hydrarch.core.editing.fill_area import Spot, inside, round_about
from hydrarch.core.editing.groups import Edited
from hydrarch.core.editing.measures import taped
from hydrarch.core.plan.document import MAX_POINTS, Plan

__all__ = ["RINGS", "bedded", "ringed", "tubing_of"]

RINGS = "drip-170"
"""Of what a ring round a pot is: quarter-inch tubing."""
_CORNERS = 8
_STEP = 0.02
_LEAST = 0.3  # m of row that is worth a plug
_MOST = 100


def tubing_of(plan: Plan) -> str:
    """Which tubing a bed is laid with: the job's usual pipe where it is such, else what most runs are of already, else
    what the market usually sells.
    """
    wide = {
        s.id
        for s in series_list()
        if s.kind == "drip" and s.sizes and s.sizes[0].outside > series(RINGS).sizes[0].outside
    }
    if plan.conditions.series in wide:
        return plan.conditions.series
    laid = Counter(r.series for r in plan.runs if r.series in wide)
    return min(laid, key=lambda s: (-laid[s], s)) if laid else market(plan.conditions.market).tubing


def bedded(plan: Plan, outline: Sequence[str], row: float, spacing: float, each: float | None = None) -> Edited:
    """Lay rows `row` (m) apart into the area round chosen points, an emitter every `spacing` (m) of them, each passing
    `each` (m³/s).

    The tubing that feeds them runs along the first side, the first and the last row half a row inside its ends. Raises
    `HydrarchError` for fewer than three points, points in a line, or more rows than are allowed.
    """
    chosen = set(outline)
    edge = [p for p in plan.points if p.id in chosen]
    corners = round_about([(p.x, p.y) for p in edge])
    if len(corners) < 3:
        raise HydrarchError("choose the corners of the bed: three points or more that do not lie in a line")
    for what, long, low, high in (("rows lie", row, 0.05, 20.0), ("emitters sit", spacing, 0.02, 20.0)):
        if not low <= long <= high:
            told = f"{show(low, 'length', plan.units)} and {show(high, 'length', plan.units)}"
            raise HydrarchError(f"{what} between {told} apart: say another distance")
    rows = _rows(corners, (edge[1].x, edge[1].y), row)
    if not rows:
        raise HydrarchError("no row has room in that bed: set them nearer")
    if len(rows) > _MOST or len(plan.points) + 2 * len(rows) > MAX_POINTS:
        raise HydrarchError(f"that takes {len(rows)} rows: set them wider apart, or fill a part of it")
    place = {"ground": edge[0].ground, "depth": 0.0}
    what_ends = kind_named("drip_row").start.model_dump(mode="json") | {"spacing": spacing}
    if each is not None:
        what_ends["each"] = each
    draft, made, before, of = Draft(plan), list[str](), "", tubing_of(plan)

    for foot, end in rows:
        here = draft.add_point(
            "J", x=foot[0], y=foot[1], **place, what={"kind": "junction"}
        )  # where the row begins, its header ends
        there = draft.add_point("E", x=end[0], y=end[1], **place, what=what_ends)
        draft.spots[there]["name"] = draft.name_for("Row")
        for a, b in ([(before, here)] if before else []) + [(here, there)]:
            _tubing(draft, draft.add_run(a, b), of)
        made += [here, there]
        before = here
    for scenario in draft.body["scenarios"][:1]:
        scenario["open"] += made[1::2]
    long = round(sum(hypot(e[0] - f[0], e[1] - f[1]) for f, e in rows), 2)
    drops = f", {show(each, 'emitter', plan.units)} each" if each is not None else ""
    says = (
        f"{len(rows)} rows, {taped(row, plan.units)} apart, {taped(long, plan.units)} in all, an emitter every "
        f"{taped(spacing, plan.units)}{drops}."
    )
    return Edited(draft.plan(), tuple(made), says)


def ringed(plan: Plan, pots: Sequence[str], radius: float, spacing: float) -> Edited:
    """Lay a ring of quarter-inch tubing `radius` (m) round each pot, its emitters `spacing` (m) apart; its first place
    is drawn to.

    A ring goes round once and ends in a plug beside where it began. Raises `HydrarchError` where nothing is chosen that
    it could go round.
    """
    middles = [plan.by_id[p] for p in dict.fromkeys(pots) if p in plan.by_id]
    if not middles:
        raise HydrarchError("choose the pots first: a mark at the middle of each")
    for told_of, long, low, high in (("a ring lies", radius, 0.05, 3.0), ("emitters sit", spacing, 0.02, 3.0)):
        if not low <= long <= high:
            told = f"{show(low, 'length', plan.units)} to {show(high, 'length', plan.units)}"
            raise HydrarchError(
                f"{told_of} {told} {'from the middle' if told_of == 'a ring lies' else 'apart'}: say another distance"
            )
    if len(plan.points) + len(middles) * (_CORNERS + 1) > MAX_POINTS:
        raise HydrarchError("that is more than a drawing takes: ring fewer pots")
    draft, made = Draft(plan), list[str]()
    for pot in middles:
        before = ""
        for n in range(_CORNERS + 1):
            way = 2 * pi * min(n, _CORNERS - 0.25) / _CORNERS
            spot = {
                "x": round(pot.x + radius * cos(way), 4),
                "y": round(pot.y + radius * sin(way), 4),
                "ground": pot.ground,
                "depth": 0.0,
            }
            last = n == _CORNERS
            what = (
                kind_named("drip_row").start.model_dump(mode="json") | {"spacing": spacing}
                if last
                else {"kind": "bend" if n else "junction"}
            )
            here = draft.add_point("E" if last else "B" if n else "J", **spot, what=what)
            if last:
                draft.spots[here]["name"] = f"Ring at {pot.label}"[:80]
            if before:
                _tubing(draft, draft.add_run(before, here), RINGS)
            made.append(here)
            before = here
        for scenario in draft.body["scenarios"][:1]:
            scenario["open"].append(before)
    rings = "1 ring" if len(middles) == 1 else f"{len(middles)} rings"
    return Edited(
        draft.plan(),
        tuple(made),
        f"{rings}, {taped(radius, plan.units)} from the middle, an emitter every "
        f"{taped(spacing, plan.units)}: draw the tubing to where each begins.",
    )


def _tubing(draft: Draft, run: str, of: str) -> None:
    body: Body = next(r for r in reversed(draft.body["runs"]) if r["id"] == run)
    body |= {"series": of, "size": None, "situation": "on surface"}


def _rows(corners: Sequence[Spot], second: Spot, row: float) -> list[tuple[Spot, Spot]]:
    """Where each row begins and ends: square to the side from the first corner to the `second` that was drawn, half a
    row inside its ends.
    """
    turned = (
        corners[-1] == second and len(corners) > 2
    )  # it was drawn the other way round: the bed lies on the right of its first side
    (ox, oy), (px, py) = corners[0], corners[-1] if turned else corners[1]
    way = atan2(py - oy, px - ox)
    ux, uy = cos(way), sin(way)
    vx, vy = (uy, -ux) if turned else (-uy, ux)
    side, deep = hypot(px - ox, py - oy), max((x - ox) * vx + (y - oy) * vy for x, y in corners)
    found: list[tuple[Spot, Spot]] = []
    for n in range(int((side - row) / row + 1e-9) + 1 if side >= row else 0):
        at, far = (n + 0.5) * row, 0.0
        x, y = ox + at * ux, oy + at * uy
        while far + _STEP <= deep + 1e-9 and inside((x + (far + _STEP) * vx, y + (far + _STEP) * vy), corners):
            far += _STEP
        if far >= _LEAST:
            foot, end = ((round(x + d * vx, 4), round(y + d * vy, 4)) for d in (0.0, far))
            found.append((foot, end))
    return found
