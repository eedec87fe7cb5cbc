"""Parts and pipes as bodies that joints make one of: what can still be turned, and what has a direction.

A union is two bodies, so that what is threaded beyond it stays free; pipe from a coil gives, so what it joins stays
two.
"""

from __future__ import annotations

from collections.abc import Mapping
from math import radians

from hydrarch.core.base.cache import remembered
from hydrarch.core.catalogue.fittings import fitting
from hydrarch.core.catalogue.pipes import Pipe, series
from hydrarch.core.components.equipment import Equipment
from hydrarch.core.joining.assembled import Assembly, Joint, Side
from hydrarch.core.plan.document import Plan
from hydrarch.core.site.layout import Layout

__all__ = ["Bodies"]

_AXIAL = ("coupling", "bushing", "adapter", "nipple", "stub", "cap", "union", "air vent", "flush valve")
_UNIONS = ("union", "union valve")
_STRAIGHT = radians(1)

Pair = tuple[int, int]


@remembered()
def _moves(name: str) -> tuple[bool, bool]:
    """Whether a fitting has a direction of its own, and whether it is of two halves that turn apart."""
    item = fitting(name)
    axial = item.family in _AXIAL and len(item.ports) <= 2 and item.angle < _STRAIGHT
    return not axial, item.family in _UNIONS


class Bodies:
    """Which bodies are one by now; each whole goes by the number of one of its bodies.

    Of each whole is known how many runs of pipe are in it, whether any of it has a direction, and whether it is fixed
    in place.
    """

    def __init__(self, plan: Plan, lay: Layout, pipes: Mapping[str, Pipe], assembly: Assembly) -> None:
        self._kinds = {p.id: p.kind for p in plan.points}
        self._hang = {p.id for p in plan.points if isinstance(p.what, Equipment) and p.what.hangs}
        self._run_of = lay.run_of
        self._beyond = {e: x.other(lay.point_of[e]) for x in lay.lines.values() if x.coupled for e in x.ends}
        self._pipe = {run: x.start for x in assembly.lengths for run in x.runs}
        self._soft = {r for r, p in pipes.items() if series(p.series).stick is None}
        self._parts = {p.id: p for p in assembly.parts}
        self._numbers: dict[str, int] = {}
        self._above: list[int] = []
        self._runs: list[int] = []
        self._directed: list[bool] = []
        self._ground: list[bool] = []
        self._gives: list[bool] = []
        self._sides = {j.id: (self._body(j, j.a, True), self._body(j, j.b, False)) for j in assembly.joints}

    def _body(self, joint: Joint, side: Side, first: bool) -> int:
        """The number of the body on one side of a joint."""
        if side.part is not None:
            if joint.role == "length":
                return self._number(f"pipe {self._pipe[joint.run or '']}", runs=1, gives=joint.run in self._soft)
            part, name = self._parts[side.part], str(side.part)
            directed, parted = _moves(part.fitting)
            if parted:
                name = f"{name} {joint.end if part.end is None else 'out' if first else 'in'}"
            return self._numbers[name] if name in self._numbers else self._new(name, directed=directed)
        if side.pipe is None:
            # of two things screwed to each other without pipe the first is the one that stands beyond
            point = self._beyond.get(joint.end or "", joint.point) if first else joint.point
            kind, name = self._kinds[point or ""], f"{point} thing"
            return (
                self._numbers[name]
                if name in self._numbers
                else self._new(name, directed=not kind.turns, ground=kind.bears and point not in self._hang)
            )
        run = self._run_of.get(side.of or "")
        if run is None:
            return self._number(f"riser {side.of}")
        return self._number(f"pipe {self._pipe.get(run, run)}", runs=1, gives=run in self._soft)

    def _number(self, name: str, runs: int = 0, gives: bool = False) -> int:
        return self._numbers[name] if name in self._numbers else self._new(name, runs=runs, gives=gives)

    def _new(self, name: str, runs: int = 0, directed: bool = False, ground: bool = False, gives: bool = False) -> int:
        number = self._numbers[name] = len(self._above)
        self._above.append(number)
        self._runs.append(runs)
        self._directed.append(directed)
        self._ground.append(ground)
        self._gives.append(gives)
        return number

    def _whole(self, body: int) -> int:
        above = self._above
        while above[body] != body:
            above[body] = above[above[body]]
            body = above[body]
        return body

    def pair(self, joint: Joint) -> Pair:
        """The wholes on the two sides of a joint by now."""
        a, b = self._sides[joint.id]
        return self._whole(a), self._whole(b)

    def sets_angle(self, pair: Pair) -> bool:
        """Whether a joint made now would turn two things with a direction against each other."""
        a, b = pair
        return a != b and self._directed[a] and self._directed[b]

    def loose(self, pair: Pair) -> bool:
        """Whether both are parts that lie loose: of no direction, held by no pipe and nowhere fixed, so that made one
        they still turn.
        """
        return pair[0] != pair[1] and not any(self._directed[x] or self._runs[x] or self._ground[x] for x in pair)

    def stuck(self, pair: Pair) -> bool:
        """Whether a thread made now has nothing left to turn: hands turn what is nowhere fixed and holds one pipe at
        the most.
        """
        a, b = pair
        return a == b or not any(not self._ground[x] and self._runs[x] <= 1 for x in pair)

    def make(self, pair: Pair) -> None:
        """Make one of both sides. Pipe from a coil gives, so what it joins stays two."""
        a, b = pair
        if a == b or self._gives[a] or self._gives[b]:
            return
        self._above[b] = a
        self._runs[a] += self._runs[b]
        self._directed[a] = self._directed[a] or self._directed[b]
        self._ground[a] = self._ground[a] or self._ground[b]
