"""The shop drawing: every fitting as the body it is, in its place and to scale, and where two bodies meet.

A body is made of straight barrels with a radius, one to each of its openings: as near as catalogue dimensions come to
the part in the hand.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from itertools import product
from math import dist

import numpy as np
from numpy.typing import NDArray
from scipy.spatial import cKDTree

from hydrarch.core.base.identity import node_part, riser_end
from hydrarch.core.base.messages import tell
from hydrarch.core.base.problems import Problem, declare
from hydrarch.core.catalogue.fittings import End, end, fitting
from hydrarch.core.joining.assembled import Assembly, Joint, Part
from hydrarch.core.plan.document import Plan
from hydrarch.core.site.layout import Layout

__all__ = [
    "Barrel",
    "FittingBody",
    "PlacedFitting",
    "PlacedOpening",
    "Vector",
    "WALL_SHARE",
    "between",
    "bodies",
    "joint_places",
    "meeting_problems",
    "placed_fittings",
]

declare("cut", "bodies-meet")

Place = tuple[float, float, float]
Vector = NDArray[np.float64]
WALL_SHARE = 0.22
"""How much wider a socket is than what goes into it, as a share of its radius; estimate, from memory."""
_NEAR = 1.0  # m within which bodies of two points are looked at
_TOUCH = 1e-3  # m that bodies may share before they are said to meet


@dataclass(frozen=True, slots=True)
class Barrel:
    """A straight part of a body from `a` to `b` (m, east, north, up) of outer `radius` (m)."""

    a: Place
    b: Place
    radius: float


@dataclass(frozen=True, slots=True)
class FittingBody:
    """A fitting in its place: the part, its name and family, the point it is at, and what it is made of."""

    part: str
    name: str
    family: str
    material: str
    point: str
    barrels: tuple[Barrel, ...]


@dataclass(frozen=True, slots=True)
class PlacedOpening:
    """An opening of a fitting in its place: its end, where its stop is (m), and the way out of it."""

    end: End
    stop: Place
    way: Place


@dataclass(frozen=True, slots=True)
class PlacedFitting:
    """A fitting in its place. `centre` (m) is where the axes of its openings meet, for one in a stack its front stop;
    `stacked` is whether it lies along one axis between the pipe and what stands at the point.
    """

    part: Part
    centre: Place
    openings: tuple[PlacedOpening, ...]
    stacked: bool


def placed_fittings(plan: Plan, lay: Layout, assembly: Assembly) -> tuple[PlacedFitting, ...]:
    """Every fitting at a point in its place; what joins lengths along a run, and pairs of elbows, are left out."""
    legs: dict[str, list[Part]] = defaultdict(list)
    hubs: dict[str, list[Part]] = defaultdict(list)
    facing: dict[str, list[End]] = defaultdict(list)  # by part, its openings as its joints come, from the pipe inward
    openings: dict[tuple[str, str], End] = {}  # by part and leg, the opening of what stands at the point
    for part in assembly.parts:
        if part.point is not None and part.end is not None:
            legs[part.end].append(part)
        elif part.point is not None:
            hubs[part.point].append(part)
    for joint in assembly.joints:
        for side in (joint.a, joint.b):
            if joint.end is not None and side.part is not None:
                facing[side.part].append(end(side.end))
                openings[side.part, joint.end] = end(side.end)
    found: list[PlacedFitting] = []
    for p in plan.points:
        here = lay.places[p.id]
        ways = dict(_ways(plan, lay, p.id))
        hub = hubs.get(p.id, [])
        left: dict[str, float] = {}
        for name, way in ways.items():
            taken = assembly.taken.get(name)  # type: ignore[call-overload]
            at = taken.offset if taken is not None else 0.0
            for part in legs.get(name, ()):
                if facing[part.id]:
                    made, at = _stacked(part, facing[part.id], here, way, at)
                    found.append(made)
            left[name] = at
        if len(hub) == 1 and hub[0].id == node_part(p.id):
            reached = (
                PlacedOpening(o, _along(here, ways[name], left[name]), ways[name])
                for name in ways
                if (o := openings.get((hub[0].id, name))) is not None and left[name] + _reach(o) > 0
            )
            found.append(PlacedFitting(hub[0], here, tuple(reached), stacked=False))
    return tuple(f for f in found if f.openings)


def bodies(placed: tuple[PlacedFitting, ...]) -> tuple[FittingBody, ...]:
    """Every placed fitting as a body of barrels."""
    return tuple(_body(f) for f in placed)


def _body(placed: PlacedFitting) -> FittingBody:
    """A stack's part is one barrel from mouth to mouth, what stands at a point a barrel to each of its openings."""
    part, made = placed.part, fitting(placed.part.fitting)
    mouths = [(_along(o.stop, o.way, _reach(o.end)), _outer(o.end)) for o in placed.openings]
    if placed.stacked:
        barrels: tuple[Barrel, ...] = (Barrel(mouths[0][0], mouths[-1][0], max(r for _, r in mouths)),)
    else:
        barrels = tuple(Barrel(placed.centre, mouth, radius) for mouth, radius in mouths)
    return FittingBody(part.id, part.name, made.family, made.material, part.point or "", barrels)


def joint_places(plan: Plan, lay: Layout, assembly: Assembly) -> dict[str, Place]:
    """Where each joint at a point is (m, east, north, up): in the middle of what its socket, thread or barb takes."""
    by_end: dict[str, list[Joint]] = defaultdict(list)
    for joint in assembly.joints:
        if joint.end is not None and joint.point is not None:
            by_end[joint.end].append(joint)
    parts: dict[str, list[Part]] = defaultdict(list)
    for part in assembly.parts:
        if part.point is not None and part.end is not None:
            parts[part.end].append(part)
    found: dict[str, Place] = {}
    for p in plan.points:
        for name, way in _ways(plan, lay, p.id):
            if name not in by_end:
                continue
            taken = assembly.taken.get(name)  # type: ignore[call-overload]
            stops = [taken.offset if taken is not None else 0.0]
            for part in parts.get(name, ()):
                stops.append(stops[-1] - sum(q.stop for q in fitting(part.fitting).ports))
            for joint in by_end[name]:
                stop = stops[min(max(joint.number, 1), len(stops)) - 1]
                found[joint.id] = _along(lay.places[p.id], way, max(stop, 0.0) + joint.depth / 2)
    return found


def _ways(plan: Plan, lay: Layout, point: str) -> Iterator[tuple[str, Place]]:
    """The ends that come to a point, each with the way it goes from there; a riser goes up."""
    here = lay.places[point]
    for run in lay.at[point]:
        line = lay.lines[run]
        there = lay.places[line.other(point)]
        long = dist(here, there)
        if long > 0 and not line.coupled:
            yield (
                line.end_at(point),
                ((there[0] - here[0]) / long, (there[1] - here[1]) / long, (there[2] - here[2]) / long),
            )
    yield riser_end(point), (0.0, 0.0, 1.0)


def _along(here: Place, way: Place, far: float) -> Place:
    return here[0] + far * way[0], here[1] + far * way[1], here[2] + far * way[2]


def _reach(opening: End) -> float:
    """How far (m) a body reaches beyond its stop at an opening: over what goes into it, and not at all where it goes in
    itself.
    """
    return 0.0 if opening.enters else opening.engagement


def _outer(opening: End) -> float:
    """The radius (m) of a barrel about an opening."""
    return opening.diameter / 2 * (1.0 if opening.enters else 1 + WALL_SHARE)


def _stacked(part: Part, facing: Sequence[End], here: Place, way: Place, at: float) -> tuple[PlacedFitting, float]:
    """A fitting between the pipe, whose stop is `at` (m) from the point, and the point: where it leaves off is the next
    one's stop.

    `facing` are its openings, that towards the pipe first.
    """
    to = at - sum(p.stop for p in fitting(part.fitting).ports)
    back = (-way[0], -way[1], -way[2])
    front = PlacedOpening(facing[0], _along(here, way, at), way)
    behind = PlacedOpening(facing[-1], _along(here, way, to), back)
    return PlacedFitting(part, front.stop, (front, behind), stacked=True), to


def meeting_problems(plan: Plan, lay: Layout, found: tuple[FittingBody, ...]) -> Iterator[Problem]:
    """A `Problem` for each two bodies of points that no run joins whose barrels run into each other."""
    at: dict[str, list[FittingBody]] = defaultdict(list)
    for body in found:
        at[body.point].append(body)
    spots = sorted(at)  # told at the same one of two, however the plan is drawn
    if len(spots) < 2:
        return
    joined = {frozenset((x.a, x.b)) for x in lay.lines.values()}
    near = cKDTree(np.array([lay.places[p] for p in spots])).query_pairs(_NEAR)
    for i, j in sorted(near):
        one, two = spots[i], spots[j]
        if frozenset((one, two)) in joined:
            continue  # what is too close along a run is told where it is cut
        deep, a, b = max(((_shared(a, b), a, b) for a, b in product(at[one], at[two])), key=lambda m: m[0])
        if deep > _TOUCH:
            yield tell(
                "bodies-meet",
                one,
                plan.units,
                a=a.name,
                b=b.name,
                place=plan.names[one],
                other=plan.names[two],
                deep=deep,
            )


def _shared(a: FittingBody, b: FittingBody) -> float:
    """How far (m) two bodies run into each other; below zero where they stand clear."""
    return max(x.radius + y.radius - _apart(x, y) for x, y in product(a.barrels, b.barrels))


def _apart(one: Barrel, two: Barrel) -> float:
    """The least distance (m) between the axes of two barrels."""
    return between(np.array(one.a), np.array(one.b), np.array(two.a), np.array(two.b))


def between(p: Vector, p2: Vector, q: Vector, q2: Vector) -> float:
    """The least distance (m) between two straight lines that end."""
    u, v, w = p2 - p, q2 - q, p - q
    a, b, c, d, e = u @ u, u @ v, v @ v, u @ w, v @ w
    flat = a * c - b * b
    s = float(np.clip((b * e - c * d) / flat, 0, 1)) if flat > 1e-12 else 0.0
    t = float(np.clip((b * s + e) / c, 0, 1)) if c > 1e-12 else 0.0
    s = float(np.clip((b * t - d) / a, 0, 1)) if a > 1e-12 else 0.0
    return float(np.linalg.norm(w + s * u - t * v))
