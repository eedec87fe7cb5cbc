"""Room for hands and tools about a joint: a nut, a wrench, a fusion iron, the handle of a valve.

Told against bodies and pipe of other points only: what stands at the same point is put on before or after, as the order
of work has it.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from math import cos, dist, pi, sin

import numpy as np
from scipy.spatial import cKDTree

from hydrarch.core.base.messages import tell
from hydrarch.core.base.problems import Problem, declare
from hydrarch.core.catalogue.pipes import Pipe
from hydrarch.core.cutting.shop import Barrel, FittingBody, Vector, between
from hydrarch.core.joining.assembled import Assembly, Joint
from hydrarch.core.plan.document import Plan
from hydrarch.core.site.layout import Layout

__all__ = ["NEEDS", "NUT", "RoomNeed", "room_problems"]

declare("cut", "no-room")

_WAYS = 24
"""Directions about an axis that are tried, 15° apart."""
_SWING = 5
"""Directions next to one another that make a sixth of a turn."""
_FAR = 0.6
"""m beyond which nothing stands in the way of a hand or a tool."""
_QUARTER_TURN = ("valve", "union valve", "three-way valve", "valve with waste")


@dataclass(frozen=True, slots=True)
class RoomNeed:
    """Room a joint needs: `reach` (m) beyond its own surface, `thick` (m) of what swings there, `free` directions next
    to one another.
    """

    reach: float
    thick: float
    free: int
    what: str


NEEDS: Mapping[str, RoomNeed] = {
    "thread": RoomNeed(0.20, 0.03, _SWING, "a wrench to swing"),
    "compression": RoomNeed(0.20, 0.04, _SWING, "a strap wrench to swing"),
    "gripping compression": RoomNeed(0.25, 0.04, _SWING, "a strap wrench to swing"),
    "universal compression": RoomNeed(0.25, 0.04, _SWING, "a strap wrench to swing"),
    "repair compression": RoomNeed(0.25, 0.04, _SWING, "a strap wrench to swing"),
    "washer thread": RoomNeed(0.02, 0.02, _WAYS, "fingers about its nut"),
    "socket fusion": RoomNeed(0.04, 0.02, _WAYS, "the fusion iron about it"),
}
"""By method. A 20 cm wrench swung through a sixth of a turn and set over; a finger's breadth about a nut; an iron's
plate beyond its socket: from memory."""
NUT = RoomNeed(0.025, 0.02, _WAYS, "fingers about its nut")
"""What the nut of a union wants."""
_PIECE, _PIECES = 2.0, 20_000
"""m of a line about which spots are looked up together, and the most such pieces (longer ones then)."""
_HANDLE = 2.2
"""Length of a ball valve's handle in outer diameters of its body, from memory."""


def room_problems(
    plan: Plan, lay: Layout, found: Sequence[FittingBody], assembly: Assembly, pipes: Mapping[str, Pipe]
) -> Iterator[Problem]:
    """A `Problem` for each joint about which its tool has no room, and for each valve whose handle cannot swing; one a
    thing and a tool.
    """
    if not found:
        return
    about = _Surroundings(plan, lay, found, pipes)
    named = {b.part: b for b in found}
    told: set[tuple[str, str]] = set()
    for joint in assembly.joints:
        need = NEEDS.get(joint.method)
        held = _held(joint, named)
        if need is None or held is None or joint.point is None or (joint.point, need.what) in told:
            continue
        near = about.near(held.point)  # of things that are coupled a joint is held at either
        if near and not _room(held.barrels[0], need, near):
            told.add((joint.point, need.what))
            place = plan.names[joint.point]
            yield tell("no-room", joint.point, method=joint.method, place=place, need=need.what)
    for body in found:
        near = about.near(body.point)
        if near and "union" in body.family and not _room(body.barrels[0], NUT, near):
            yield tell("no-room/nut", body.point, body=body.name, place=plan.names[body.point], need=NUT.what)
        if body.family in _QUARTER_TURN and near and not _swings(body, near):
            yield tell("no-room/handle", body.point, body=body.name, place=plan.names[body.point])


class _Surroundings:
    """What stands near each point and does not belong to it."""

    def __init__(self, plan: Plan, lay: Layout, found: Sequence[FittingBody], pipes: Mapping[str, Pipe]) -> None:
        self.lay = lay
        self.mine: dict[str, list[Barrel]] = defaultdict(list)
        for body in found:
            self.mine[body.point] += body.barrels
        lines = [line for line in lay.lines.values() if not line.coupled]
        self.ends = [(line.a, line.b) for line in lines]
        self.starts = np.array([lay.places[line.a] for line in lines]).reshape(-1, 3)
        self.ways = np.array([lay.places[line.b] for line in lines]).reshape(-1, 3) - self.starts
        self.long = np.maximum((self.ways**2).sum(axis=1), 1e-12)
        self.radii = [pipes[line.run].outside / 2 if line.run in pipes else 0.02 for line in lines]
        self.joined: dict[str, set[str]] = defaultdict(set)
        for line in lay.lines.values():
            if line.coupled:  # two things that are screwed together are put together, not in each other's way
                self.joined[line.a].add(line.b)
                self.joined[line.b].add(line.a)
        self.spots = list(self.mine)
        self.places = np.array([lay.places[p] for p in self.spots]).reshape(-1, 3)
        self.tree = cKDTree(self.places)
        self.passing = self._passing()
        self.known: dict[str, list[Barrel]] = {}

    def _passing(self) -> dict[str, list[int]]:
        """The lines within reach of each spot, by number, in the order of the drawing: spots are looked up about short
        pieces of each line, and those found measured against the whole of it.
        """
        found: dict[str, list[int]] = defaultdict(list)
        length = np.sqrt(self.long)
        piece = max(_PIECE, float(length.sum()) / _PIECES)
        parts = np.maximum(np.ceil(length / piece), 1).astype(int)
        lines = np.repeat(np.arange(len(parts)), parts)
        number = np.arange(len(lines)) - np.repeat(np.cumsum(parts) - parts, parts)
        middles = self.starts[lines] + self.ways[lines] * ((number + 0.5) / parts[lines])[:, None]
        beside = self.tree.query_ball_point(middles, piece / 2 + _FAR) if len(middles) else []
        pairs = np.array(
            sorted({(s, n) for n, spots in zip(lines.tolist(), beside, strict=True) for s in spots}), dtype=int
        ).reshape(-1, 2)
        here, near = self.places[pairs[:, 0]], pairs[:, 1]
        share = np.clip(((here - self.starts[near]) * self.ways[near]).sum(axis=1) / self.long[near], 0, 1)
        away = ((self.starts[near] + share[:, None] * self.ways[near] - here) ** 2).sum(axis=1)
        for spot, line in pairs[away < _FAR**2].tolist():
            found[self.spots[spot]].append(line)
        return found

    def near(self, point: str) -> list[Barrel]:
        """Barrels within reach of a point's hands: of other points, and of pipe that does not come to it."""
        if point not in self.known:
            found = [
                b
                for i in sorted(self.tree.query_ball_point(self.lay.places[point], _FAR))
                if self.spots[i] != point and self.spots[i] not in self.joined[point]
                for b in self.mine[self.spots[i]]
            ]
            for i in self.passing[point]:
                a, b = self.ends[i]
                if point not in (a, b):
                    found.append(Barrel(self.lay.places[a], self.lay.places[b], self.radii[i]))
            self.known[point] = found
        return self.known[point]


def _held(joint: Joint, named: Mapping[str, FittingBody]) -> FittingBody | None:
    """The part a tool is put on, of one barrel: what leads to the thing before what stands at its point."""
    parts = [named[s.part] for s in (joint.a, joint.b) if s.part is not None and s.part in named]
    return next((b for b in parts if len(b.barrels) == 1), None)


def _frame(axis: Vector) -> tuple[Vector, Vector]:
    """Two directions square to an axis and to each other."""
    other = np.array([0.0, 0.0, 1.0]) if abs(axis[2]) < 0.9 else np.array([1.0, 0.0, 0.0])
    one = np.cross(axis, other)
    one /= np.linalg.norm(one)
    return one, np.cross(axis, one)


def _axis(barrel: Barrel) -> tuple[Vector, Vector]:
    """The middle of a barrel and the way it goes."""
    a, b = np.array(barrel.a), np.array(barrel.b)
    long = dist(barrel.a, barrel.b)
    return (a + b) / 2, (b - a) / long if long > 0 else np.array([1.0, 0.0, 0.0])


def _room(barrel: Barrel, need: RoomNeed, near: Iterable[Barrel]) -> bool:
    """Whether enough directions next to one another are free about a barrel."""
    middle, axis = _axis(barrel)
    one, two = _frame(axis)
    free = []
    for n in range(_WAYS):
        out = cos(2 * pi * n / _WAYS) * one + sin(2 * pi * n / _WAYS) * two
        free.append(
            _clear(middle + out * barrel.radius, middle + out * (barrel.radius + need.reach), need.thick / 2, near)
        )
    if need.free >= _WAYS:
        return all(free)
    round_again = free + free[: need.free - 1]
    return any(all(round_again[n : n + need.free]) for n in range(_WAYS))


def _swings(body: FittingBody, near: Sequence[Barrel]) -> bool:
    """Whether a handle on some side of a valve goes from along its pipe to across it."""
    barrel = body.barrels[0]
    middle, axis = np.array(barrel.a), _axis(barrel)[1]
    one, two = _frame(axis)
    long, high = _HANDLE * 2 * barrel.radius, 1.4 * barrel.radius
    for n in range(0, _WAYS, 2):
        out = cos(2 * pi * n / _WAYS) * one + sin(2 * pi * n / _WAYS) * two
        foot, across = middle + out * high, np.cross(axis, out)
        for along in (axis, -axis):
            for aside in (across, -across):
                swept = [(along * cos(t) + aside * sin(t)) * long for t in (0.0, pi / 6, pi / 3, pi / 2)]
                if all(_clear(foot, foot + way, 0.01, near) for way in swept):
                    return True
    return False


def _clear(a: Vector, b: Vector, half: float, near: Iterable[Barrel]) -> bool:
    """Whether a straight thing of that half thickness meets none of the barrels."""
    return all(between(a, b, np.array(n.a), np.array(n.b)) >= n.radius + half for n in near)
