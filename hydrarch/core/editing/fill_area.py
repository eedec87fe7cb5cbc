"""Heads set into an area head to head, square or triangular, with arcs that keep inside it."""

from __future__ import annotations

from collections.abc import Sequence
from math import atan2, cos, floor, hypot, pi, radians, sin, sqrt
from typing import Literal

from hydrarch.core.base.errors import HydrarchError
from hydrarch.core.components.base import kind_named
from hydrarch.core.editing.draft import Draft
from hydrarch.core.editing.groups import Edited
from hydrarch.core.editing.measures import taped
from hydrarch.core.plan.document import MAX_POINTS, Plan

__all__ = ["Pattern", "Spot", "filled", "inside", "round_about"]

Pattern = Literal["square", "triangular"]
Spot = tuple[float, float]
_STEP = radians(5)
_EDGE = 0.35
"""Share of a throw at which it is looked whether water still lands inside: arcs follow the edge, not its last corner.
"""
_MOST = 500


def filled(plan: Plan, outline: Sequence[str], spacing: float, pattern: Pattern = "square") -> Edited:
    """Set heads `spacing` (m) apart into the area round chosen points, from the corner that was drawn first, along its
    first side.

    Each head throws as far as the next stands, and waters what of its circle lies in the area. Raises `HydrarchError`
    for fewer than three points, points in a line, or more heads than are allowed.
    """
    chosen = set(outline)
    edge = [p for p in plan.points if p.id in chosen]
    corners = round_about([(p.x, p.y) for p in edge])
    if len(corners) < 3:
        raise HydrarchError("choose the corners of the area: three points or more that do not lie in a line")
    if not 0.2 <= spacing <= 100:
        raise HydrarchError("heads stand between 0.2 m and 100 m apart: say another spacing")
    spots = [s for s in _lattice(corners, spacing, pattern) if inside(s, corners)]
    if not spots:
        raise HydrarchError("no head has room in that area at that spacing: set them nearer")
    if len(spots) > _MOST or len(plan.points) + len(spots) > MAX_POINTS:
        raise HydrarchError(f"that takes {len(spots)} heads: set them wider apart, or fill a part of it")
    first = edge[0]
    lines = [p for p in plan.points if p.kind.joined]
    depth = min(lines, key=lambda p: hypot(p.x - first.x, p.y - first.y)).depth if lines else 0.3
    draft, made = Draft(plan), []
    for x, y in spots:
        begins, arc = _arc((x, y), corners, spacing)
        what = kind_named("sprinkler").start.model_dump(mode="json") | {"radius": spacing, "begins": begins, "arc": arc}
        new = draft.add_point("S", x=round(x, 4), y=round(y, 4), ground=first.ground, depth=depth, what=what)
        draft.spots[new]["name"] = draft.name_for("Head")
        made.append(new)
    for scenario in draft.body["scenarios"][:1]:
        scenario["open"] += made
    part = sum(draft.spots[p]["what"]["arc"] < 2 * pi - 1e-9 for p in made)
    says = (
        f"{len(made)} heads, {pattern}, {taped(spacing, plan.units)} apart, {part} of them over a part of the circle."
    )
    return Edited(draft.plan(), tuple(made), says)


def round_about(spots: Sequence[Spot]) -> list[Spot]:
    """Corners in their order round the middle, the first drawn first; those that lie in a line with others of an edge
    are left in.
    """
    kept = list(dict.fromkeys(spots))
    if len(kept) < 3:
        return kept
    cx, cy = sum(x for x, _ in kept) / len(kept), sum(y for _, y in kept) / len(kept)
    turned = sorted(kept, key=lambda s: atan2(s[1] - cy, s[0] - cx))
    at = turned.index(kept[0])
    turned = turned[at:] + turned[:at]
    area = sum(a[0] * b[1] - b[0] * a[1] for a, b in zip(turned, turned[1:] + turned[:1], strict=True)) / 2
    return turned if abs(area) > 1e-6 else []


def _lattice(corners: Sequence[Spot], spacing: float, pattern: Pattern) -> list[Spot]:
    """Places of the pattern over all that the corners span, from the first corner along the first side."""
    (ox, oy), (px, py) = corners[0], corners[1]
    way = atan2(py - oy, px - ox)
    ux, uy = cos(way), sin(way)
    locals_ = [((x - ox) * ux + (y - oy) * uy, -(x - ox) * uy + (y - oy) * ux) for x, y in corners]
    row = spacing if pattern == "square" else spacing * sqrt(3) / 2
    low = [floor(min(v[k] for v in locals_) / s) - 1 for k, s in ((0, spacing), (1, row))]
    high = [floor(max(v[k] for v in locals_) / s) + 1 for k, s in ((0, spacing), (1, row))]
    if (high[0] - low[0]) * (high[1] - low[1]) > 100 * _MOST:
        raise HydrarchError("that is more heads than a drawing takes: set them wider apart, or fill a part of it")
    found = []
    for j in range(low[1], high[1] + 1):
        shift = spacing / 2 if pattern == "triangular" and j % 2 else 0.0
        for i in range(low[0], high[0] + 1):
            u, v = i * spacing + shift, j * row
            found.append((ox + u * ux - v * uy, oy + u * uy + v * ux))
    return found


def inside(spot: Spot, corners: Sequence[Spot], slack: float = 1e-3) -> bool:
    """Whether a place lies in the area, or on its edge."""
    x, y = spot
    within = False
    for (ax, ay), (bx, by) in zip(corners, [*corners[1:], corners[0]], strict=True):
        long = hypot(bx - ax, by - ay)
        if (
            long
            and abs((bx - ax) * (y - ay) - (by - ay) * (x - ax)) / long <= slack
            and -slack <= ((x - ax) * (bx - ax) + (y - ay) * (by - ay)) / long <= long + slack
        ):
            return True
        if (ay > y) != (by > y) and x < (bx - ax) * (y - ay) / (by - ay) + ax:
            within = not within
    return within


def _arc(spot: Spot, corners: Sequence[Spot], throw: float) -> tuple[float, float]:
    """Where the arc of a head begins and how far it goes (rad), so that it waters what of its circle lies inside."""
    many = round(2 * pi / _STEP)
    wet = [
        inside((spot[0] + _EDGE * throw * cos(n * _STEP), spot[1] + _EDGE * throw * sin(n * _STEP)), corners)
        for n in range(many)
    ]
    if all(wet) or not any(wet):
        return 0.0, 2 * pi
    runs: list[tuple[int, int]] = []
    for n in range(many):
        if wet[n] and not wet[n - 1]:
            long = next(k for k in range(1, many + 1) if not wet[(n + k) % many])
            runs.append((long, n))
    long, begins = max(runs)
    return begins * _STEP, max((long - 1) * _STEP, pi / 36)
