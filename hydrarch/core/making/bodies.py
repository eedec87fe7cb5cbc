"""Parts and pipes as bodies that joints make one of: what can still be turned, and what has a direction.

A union is two bodies, so that what is threaded beyond it stays free; pipe from a coil gives, so what it joins stays two.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from math import radians

from hydrarch.core.catalogue.fittings import fitting
from hydrarch.core.catalogue.pipes import Pipe, series
from hydrarch.core.joining.place import RISER
from hydrarch.core.joining.records import Assembly, Joint, Part, Side
from hydrarch.core.layout import Layout
from hydrarch.core.plan import Plan

__all__ = ["Bodies"]

_AXIAL = ("coupling", "bushing", "adapter", "nipple", "stub", "cap", "union")
_UNIONS = ("union", "union valve")
_GROUND = ("well_pump", "mains", "tank", "pump", "vessel")

Body = tuple[str, ...]


@dataclass(slots=True)
class _Whole:
    """Bodies joined to one: how many runs of pipe are in it, whether any has a direction, and whether it is fixed in place."""

    runs: int = 0
    directed: bool = False
    ground: bool = False

    @property
    def turns(self) -> bool:
        """Whether hands can still turn it: it is nowhere fixed, and no more than one pipe hangs on it."""
        return not self.ground and self.runs <= 1


class Bodies:
    """Which bodies are one by now."""

    def __init__(self, plan: Plan, lay: Layout, pipes: Mapping[str, Pipe], assembly: Assembly) -> None:
        self.lay = lay
        self.soft = {r for r, p in pipes.items() if series(p.series).stick is None}
        self.parts: dict[str, Part] = {p.id: p for p in assembly.parts}
        self.kinds = {p.id: p.what.kind for p in plan.points}
        self._above: dict[Body, Body] = {}
        self._wholes: dict[Body, _Whole] = {}

    def body(self, joint: Joint, side: Side, first: bool) -> Body:
        """The body on one side of a joint; a union is two, so that what is threaded beyond it stays free."""
        if joint.point is None:
            return ("run", joint.run or "")
        if side.part is not None:
            part = self.parts[side.part]
            if fitting(part.fitting).family not in _UNIONS:
                return ("part", part.id)
            return ("part", part.id, (joint.run or "") if part.run is None else ("out" if first else "in"))
        if first:
            return ("riser", joint.point) if joint.run == RISER else ("run", joint.run or "")
        if side.what == joint.place:
            return ("device", joint.point)
        return ("run", next((r for r in self.lay.at[joint.point] if r != joint.run), ""))

    def _new(self, body: Body) -> _Whole:
        match body[0]:
            case "run":
                return _Whole(runs=1)
            case "device":
                kind = self.kinds[body[1]]
                return _Whole(directed=kind not in ("sprinkler", "drip"), ground=kind in _GROUND)
            case "part":
                item = fitting(self.parts[body[1]].fitting)
                axial = item.family in _AXIAL and len(item.ports) <= 2 and item.angle < radians(1)
                return _Whole(directed=not axial)
        return _Whole()

    def root(self, body: Body) -> Body:
        """The body that stands for all it is one with."""
        if body not in self._above:
            self._above[body] = body
            self._wholes[body] = self._new(body)
        while (above := self._above[body]) != body:
            self._above[body] = body = self._above[above]
        return body

    def pair(self, joint: Joint) -> tuple[Body, Body]:
        """What stands on the two sides of a joint by now."""
        return self.root(self.body(joint, joint.a, True)), self.root(self.body(joint, joint.b, False))

    def sets_angle(self, joint: Joint) -> bool:
        """Whether a joint made now would turn two things with a direction against each other."""
        a, b = self.pair(joint)
        return a != b and self._wholes[a].directed and self._wholes[b].directed

    def stuck(self, joint: Joint) -> bool:
        """Whether a thread made now has nothing left to turn."""
        a, b = self.pair(joint)
        return a == b or not (self._wholes[a].turns or self._wholes[b].turns)

    def closes(self, joint: Joint) -> bool:
        """Whether both sides are held by the same thing already: a ring closes."""
        a, b = self.pair(joint)
        return a == b and joint.point is not None

    def _gives(self, body: Body) -> bool:
        return body[0] == "run" and body[1] in self.soft

    def make(self, joint: Joint) -> None:
        """Make one of both sides. Pipe from a coil gives, so what it joins stays two."""
        a, b = self.pair(joint)
        if a == b or self._gives(a) or self._gives(b):
            return
        one, two = self._wholes[a], self._wholes[b]
        self._above[b] = a
        self._wholes[a] = _Whole(one.runs + two.runs, one.directed or two.directed, one.ground or two.ground)
