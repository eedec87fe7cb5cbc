"""The shortest honest ways from one open end to another.

A state is an open end; a step mates a straight fitting's port to it and leaves another port open. Ways are ranked by
joints (a plastic female thread over a metal male counts as two more, since it splits), then by how little
sizes stray on the way, then by length.
"""

from __future__ import annotations

import itertools
from collections import defaultdict, deque
from dataclasses import dataclass
from functools import cache

from hydrarch.core.catalogue.fittings import End, Fitting, end, ends, fittings, mating_method
from hydrarch.core.units import size_value

__all__ = ["Stack", "Step", "find_stacks"]

_STRAIGHT = ("coupling", "bushing", "adapter", "nipple", "stub")
_PLASTIC = ("pvc", "insert")
_SPLITS = 2  # joints a crew would rather make than thread a plastic female over a metal male
_DETOUR = 3  # how many more it may take when methods are barred
_SLACK = 1  # how many fittings longer than the shortest way an alternative may be


@dataclass(frozen=True, slots=True)
class Step:
    """One fitting of a stack, entered by port `into` and left by port `out`."""

    fitting: Fitting
    into: int
    out: int

    @property
    def length(self) -> float:
        """What it adds to the line between stops (m)."""
        return self.fitting.ports[self.into].stop + self.fitting.ports[self.out].stop


@dataclass(frozen=True, slots=True)
class Stack:
    """A chain of fittings from one end to another; no steps means that the ends mate as they are."""

    start: End
    stop: End
    steps: tuple[Step, ...]

    @property
    def joints(self) -> int:
        """How many joints it takes."""
        return len(self.steps) + 1

    @property
    def length(self) -> float:
        """Laid length between the two outer stops (m)."""
        return sum(s.length for s in self.steps)

    def ends(self) -> tuple[tuple[End, End], ...]:
        """The pair of ends of every joint, from start to stop."""
        open_end, pairs = self.start, []
        for s in self.steps:
            pairs.append((open_end, s.fitting.ports[s.into].end))
            open_end = s.fitting.ports[s.out].end
        return (*pairs, (open_end, self.stop))

    def cost(self) -> tuple[int, float, float]:
        """What ranks it: joints with their penalties, detours in size, then length (m)."""
        return _cost(self)

    def detour(self) -> float:
        """How far sizes stray on the way beyond what the two ends ask: 0 where they change one way only."""
        sizes = [size_value(a.size) for a, _ in self.ends()] + [size_value(self.stop.size)]
        walked = sum(abs(b - a) for a, b in itertools.pairwise(sizes))
        return walked - abs(sizes[-1] - sizes[0])

    def splits(self) -> int:
        """How many plastic female threads go over metal males inside the stack."""
        found = 0
        for one, two in zip(self.steps, self.steps[1:], strict=False):
            pair = (
                (one.fitting.ports[one.out].end, one.fitting.material),
                (
                    two.fitting.ports[two.into].end,
                    two.fitting.material,
                ),
            )
            female = next((m for e, m in pair if e.gender == "female"), None)
            male = next((m for e, m in pair if e.gender == "male"), None)
            found += female in _PLASTIC and male not in (None, *_PLASTIC)
        return found


@cache
def _cost(stack: Stack) -> tuple[int, float, float]:
    return stack.joints + _SPLITS * stack.splits(), stack.detour(), stack.length


@cache
def _steps_from() -> dict[str, tuple[Step, ...]]:
    """For every end name, the steps a straight fitting offers whose entry port is that end."""
    found: dict[str, list[Step]] = defaultdict(list)
    for part in fittings().values():
        if part.family in _STRAIGHT and len(part.ports) == 2:
            for into, out in ((0, 1), (1, 0)):
                found[part.ports[into].end.name].append(Step(part, into, out))
    return {name: tuple(steps) for name, steps in found.items()}


@cache
def _mates(name: str) -> tuple[str, ...]:
    mine = end(name)
    return tuple(other for other in ends() if mating_method(mine, end(other)))


@cache
def _fittings_to(target: str) -> dict[str, int]:
    """Least number of fittings from every open end to one that mates with `target`."""
    goal = end(target)
    best = {n: 0 for n in ends() if mating_method(end(n), goal)}
    queue = deque(best)
    while queue:
        here = queue.popleft()  # an open end from which best[here] more fittings are needed
        for step in _steps_from().get(here, ()):  # leave by `here`: entered from any end that mates the other port
            for before in _mates(step.fitting.ports[step.out].end.name):
                if before not in best:
                    best[before] = best[here] + 1
                    queue.append(before)
    return best


@cache
def find_stacks(
    start: str, stop: str, most: int = 5, barred: frozenset[str] = frozenset(), at_hand: frozenset[str] | None = None
) -> tuple[Stack, ...]:
    """The `most` best stacks between two ends by name, best first; empty where no honest way exists.

    `barred` methods are not used; with `at_hand` only those fittings (by id) are. Raises `Unknown` for an end that is
    not in the catalogue.
    """
    first, last = end(start), end(stop)
    needed = _fittings_to(stop)
    if start not in needed:
        return ()

    def joins(a: End, b: End) -> bool:
        method = mating_method(a, b)
        return method is not None and method not in barred

    def walk(here: str, steps: tuple[Step, ...], seen: frozenset[str], limit: int) -> None:
        if joins(end(here), last):
            found.append(Stack(first, last, steps))
        for entry in _mates(here):
            if not joins(end(here), end(entry)):
                continue
            for step in _steps_from().get(entry, ()):
                leave = step.fitting.ports[step.out].end.name
                if leave in seen or len(steps) + 1 + needed.get(leave, 99) > limit:
                    continue
                if at_hand is None or step.fitting.id in at_hand:
                    walk(leave, (*steps, step), seen | {leave}, limit)

    found: list[Stack] = []
    shortest = needed[start]
    for limit in range(shortest + _SLACK, shortest + _DETOUR + 1):
        found.clear()
        walk(start, (), frozenset({start}), limit)
        if found:
            break
        if not barred and at_hand is None:
            break
    found.sort(key=lambda s: (*s.cost(), [x.fitting.id for x in s.steps]))
    return tuple(_distinct(found)[:most])


def _distinct(stacks: list[Stack]) -> list[Stack]:
    """Leave out a stack that another of the same methods beats by length alone."""
    kept: list[Stack] = []
    seen: set[tuple[tuple[str, str], ...]] = set()
    for stack in stacks:
        shape = tuple((a.system, a.size) for a, _ in stack.ends())
        if shape not in seen:
            seen.add(shape)
            kept.append(stack)
    return kept
