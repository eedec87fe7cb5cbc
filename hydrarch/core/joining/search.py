"""The shortest honest ways from one open end to another.

A state is an open end; a step mates a straight fitting's port to it and leaves another port open. Ways are ranked by
joints (a plastic female thread over a metal male counts as two more, since it splits), then by how little sizes stray
on the way, then by price, then by length. All four add up along a way, so the cost still to go from every state is known
exactly before the search begins (Dijkstra from the target) and the best ways come out in order (A*).
"""

from __future__ import annotations

import heapq
import itertools
from collections import defaultdict
from dataclasses import dataclass, replace

from hydrarch.core.catalogue.fittings import End, Fitting, end, ends, fittings, mating_method
from hydrarch.core.catalogue.methods import methods_where
from hydrarch.core.catalogue.prices import fitting_price
from hydrarch.core.remember import remembered
from hydrarch.core.units import size_value

__all__ = [
    "FOREIGN",
    "FREE",
    "PLASTIC",
    "SPLITS",
    "Limits",
    "Stack",
    "Step",
    "find_stacks",
    "is_foreign",
    "splits_over",
    "best_stack",
]

PLASTIC = ("pvc", "pvc80", "insert", "pp", "pe100", "drip")
"""Materials whose female threads split over a metal male."""

_STRAIGHT = ("coupling", "bushing", "adapter", "nipple", "stub", "bulkhead", "saddle")
SPLITS = 2  # joints a crew would rather make than thread a plastic female over a metal male
FOREIGN = 3  # joints a crew would rather make than send for a fitting its shop does not sell
_SLACK = 2  # how many joints more than the best an alternative may cost
_MOST_TRIED = 4000  # partial ways looked at before what was found is taken


@dataclass(frozen=True, slots=True)
class Limits:
    """What a way may use: `barred` methods are out; with `at_hand` only those fittings (by id) are in.

    `service` asks for a way that comes apart again: a joint that can be undone, or a union. `drink` asks for fittings that
    may carry drinking water. `foreign` are the systems the shop does not sell: a fitting with such an end is taken last.
    """

    barred: frozenset[str] = frozenset()
    at_hand: frozenset[str] | None = None
    service: bool = False
    drink: bool = False
    foreign: frozenset[str] = frozenset()


FREE = Limits()
"""No limits."""


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
    """A chain of fittings from one end to another; no steps means that the ends mate as they are.

    `metal` names those of the two outer ends that are known to be metal, `foreign` the systems the shop does not sell. An `open`
    one is no way at all: the port is left for what is screwed into it from beyond.
    """

    start: End
    stop: End
    steps: tuple[Step, ...]
    metal: frozenset[str] = frozenset()
    foreign: frozenset[str] = frozenset()
    open: bool = False

    @property
    def joints(self) -> int:
        """How many joints it takes."""
        return 0 if self.open else len(self.steps) + 1

    @property
    def length(self) -> float:
        """Laid length between the two outer stops (m)."""
        return sum(s.length for s in self.steps)

    @property
    def price(self) -> float:
        """What its fittings cost at starting prices."""
        return sum(fitting_price(s.fitting.id) for s in self.steps)

    def ids(self) -> tuple[str, ...]:
        """Its fittings by id, from start to stop."""
        return tuple(s.fitting.id for s in self.steps)

    def ends(self) -> tuple[tuple[End, End], ...]:
        """The pair of ends of every joint, from start to stop."""
        if self.open:
            return ()
        open_end, pairs = self.start, []
        for s in self.steps:
            pairs.append((open_end, s.fitting.ports[s.into].end))
            open_end = s.fitting.ports[s.out].end
        return (*pairs, (open_end, self.stop))

    def cost(self) -> tuple[int, float, float, float]:
        """What ranks it: joints with their penalties, detours in size, price, then length (m)."""
        return _cost(self)

    def detour(self) -> float:
        """How far sizes stray on the way beyond what the two ends ask: 0 where they change one way only."""
        sizes = [size_value(e.size) for pair in self.ends() for e in pair]
        if not sizes:
            return 0.0
        walked = sum(abs(b - a) for a, b in itertools.pairwise(sizes))
        return walked - abs(sizes[-1] - sizes[0])

    def splits(self) -> int:
        """How many plastic female threads go over metal males inside the stack."""
        if self.open:
            return 0
        outer = ["steel" if e.name in self.metal else None for e in (self.start, self.stop)]
        materials = [outer[0], *(s.fitting.material for s in self.steps), outer[1]]
        return sum(
            a is not None and b is not None and _splits(one, a, two, b)
            for (one, two), (a, b) in zip(self.ends(), itertools.pairwise(materials), strict=True)
        )

    def sent_for(self) -> int:
        """How many of its fittings the shop does not sell."""
        return sum(is_foreign(s.fitting, self.foreign) for s in self.steps)

    def turned(self) -> Stack:
        """The same way, walked from the other end."""
        back = tuple(Step(s.fitting, s.out, s.into) for s in reversed(self.steps))
        return Stack(self.stop, self.start, back, self.metal, self.foreign)


@remembered()
def _cost(stack: Stack) -> tuple[int, float, float, float]:
    slips = sum(slips_off(a, b) for a, b in stack.ends())
    joints = stack.joints + SPLITS * stack.splits() + FOREIGN * stack.sent_for() + SLIPS * slips
    return joints, stack.detour(), stack.price, stack.length


def slips_off(a: End, b: End) -> bool:
    """Whether two ends join in a way that water under pressure drives apart: it counts as one joint more, so what grips comes first."""
    return mating_method(a, b) in methods_where("grips", False) and not {a.system, b.system} & _NO_PRESSURE


def is_foreign(part: Fitting, foreign: frozenset[str]) -> bool:
    """Whether a fitting has an end of a system that is not sold; a piece of the crew's own pipe never has."""
    return bool(foreign) and part.material != "pipe" and any(p.end.system in foreign for p in part.ports)


def _splits(a: End, a_material: str, b: End, b_material: str) -> bool:
    """Whether a plastic female thread goes over a metal male here."""
    female, male = (a_material, b_material) if a.gender == "female" else (b_material, a_material)
    return {a.gender, b.gender} == {"female", "male"} and female in PLASTIC and male not in PLASTIC


def splits_over(stack: Stack, port: End, material: str) -> bool:
    """Whether the last joint of a stack puts a plastic female `port` of a body over a metal male."""
    if stack.steps:
        last = stack.steps[-1]
        return _splits(last.fitting.ports[last.out].end, last.fitting.material, port, material)
    return stack.start.name in stack.metal and _splits(stack.start, "steel", port, material)


@dataclass(frozen=True, slots=True)
class _Place:
    """A state: an open end by name, whether the part that offers it is plastic (None for the start), and whether it comes apart."""

    end: str
    plastic: bool | None
    served: bool


def _weigh(joints: int, walked: float, price: float, length: float) -> int:
    """The four costs as one whole number that adds up and keeps their order."""
    return (joints << 48) + (round(walked * 1024) << 32) + (round(price * 10) << 16) + round(abs(length) * 1e4)


_JOINT = 1 << 48
SLIPS = 1  # joints that one which is driven apart by pressure counts more
_NO_PRESSURE = frozenset({"gasket", "sewer", "dwv"})
_DIRTY = ("drain", "drip", "band", "body")  # bodies that are not made for drinking water


@dataclass(frozen=True, slots=True)
class _Edge:
    """One way on from a state: the step taken, its weight, and whether its joint or part comes apart."""

    step: Step
    into: str
    leave: str
    weight: int
    plastic: bool
    served: bool


@remembered()
def _steps_into(service: bool, drink: bool) -> dict[str, tuple[Step, ...]]:
    """For every end name, the steps a straight fitting offers whose entry port is that end."""
    found: dict[str, list[Step]] = defaultdict(list)
    for part in fittings().values():
        if len(part.ports) != 2 or not (part.family in _STRAIGHT or (service and part.family == "union")):
            continue
        if drink and part.material in _DIRTY:
            continue
        for into, out in ((0, 1), (1, 0)):
            found[part.ports[into].end.name].append(Step(part, into, out))
    return {name: tuple(steps) for name, steps in found.items()}


@remembered()
def _mates(name: str) -> tuple[tuple[str, str], ...]:
    """The ends a sound joint can be made with, and its method."""
    mine = end(name)
    return tuple((o.name, m) for o in ends().values() if (m := mating_method(mine, o)) is not None)


@remembered()
def _edges(limits: Limits) -> dict[str, tuple[_Edge, ...]]:
    """Every way on from every end under `limits`: the cheapest step for each pair of ends it enters and leaves by."""
    undo = methods_where("undo", True)
    found: dict[str, tuple[_Edge, ...]] = {}
    steps = _steps_into(limits.service, limits.drink)
    for here in ends():
        best: dict[tuple[str, str, bool, bool], _Edge] = {}
        for entry, method in _mates(here):
            if method in limits.barred:
                continue
            for step in steps.get(entry, ()):
                if limits.at_hand is not None and step.fitting.id not in limits.at_hand:
                    continue
                leave = step.fitting.ports[step.out].end
                between = size_value(end(entry).size)
                walked = abs(between - size_value(end(here).size)) + abs(size_value(leave.size) - between)
                joints = 1 + FOREIGN * is_foreign(step.fitting, limits.foreign) + SLIPS * slips_off(end(here), end(entry))
                weight = _weigh(joints, walked, fitting_price(step.fitting.id), step.length)
                plastic = step.fitting.material in PLASTIC
                edge = _Edge(step, entry, leave.name, weight, plastic, method in undo or step.fitting.family == "union")
                key = (entry, leave.name, plastic, edge.served)
                if key not in best or (weight, step.fitting.id) < (best[key].weight, best[key].step.fitting.id):
                    best[key] = edge
        found[here] = tuple(best.values())
    return found


def _fee(place: _Place, into: str, plastic: bool | None) -> int:
    """What a plastic female thread over a metal male costs, where `place` is joined to an end of that kind."""
    if place.plastic is None or plastic is None or place.plastic == plastic:
        return 0
    here = end(place.end)
    plastic_end = here if place.plastic else end(into)
    return SPLITS * _JOINT if plastic_end.gender == "female" and here.threads_per_inch is not None else 0


def _onward(place: _Place, edge: _Edge) -> _Place:
    return _Place(edge.leave, edge.plastic, place.served or edge.served)


@remembered()
def _arrivals(limits: Limits) -> dict[_Place, tuple[tuple[_Place, int], ...]]:
    """The graph backwards: from every state, the states one step before it and the weight of that step."""
    before: dict[_Place, list[tuple[_Place, int]]] = defaultdict(list)
    flags = (False, True) if limits.service else (True,)
    for here, edges in _edges(limits).items():
        for plastic, served in itertools.product((None, False, True), flags):
            place = _Place(here, plastic, served)
            for edge in edges:
                before[_onward(place, edge)].append((place, edge.weight + _fee(place, edge.into, edge.plastic)))
    return {place: tuple(sorted(came, key=lambda c: c[1])) for place, came in before.items()}


@remembered()
def _to_go(target: str, limits: Limits, metal: bool) -> dict[_Place, int]:
    """The least weight from every state to `target` (of metal or not known), its last joint included."""
    arrivals = _arrivals(limits)
    best: dict[_Place, int] = {}
    queue: list[tuple[int, int, _Place]] = []
    tie = itertools.count()
    for name, method in _mates(target):
        if method in limits.barred:
            continue
        walked = abs(size_value(end(name).size) - size_value(end(target).size))
        apart = method in methods_where("undo", True)
        for plastic, served in itertools.product((None, False, True), (False, True)):
            if served or apart or not limits.service:
                place = _Place(name, plastic, served)
                fee = _fee(place, target, False if metal else None)
                last = 1 + SLIPS * slips_off(end(name), end(target))
                heapq.heappush(queue, (_weigh(last, walked, 0, 0) + fee, next(tie), place))
    while queue:
        weight, _, place = heapq.heappop(queue)
        if place in best:
            continue
        best[place] = weight
        for before, step in arrivals.get(place, ()):
            if before not in best:
                heapq.heappush(queue, (weight + step, next(tie), before))
    return best


@remembered()
def find_stacks(
    start: str, stop: str, most: int = 5, limits: Limits = FREE, metal: frozenset[str] = frozenset()
) -> tuple[Stack, ...]:
    """The `most` best stacks between two ends by name, best first; empty where no honest way exists.

    `metal` names those of the two that are metal. Asked from the other end, it gives the same stacks turned round. Raises `Unknown` for an end that is not in the catalogue.
    """
    end(start), end(stop)
    if start > stop:
        return tuple(s.turned() for s in find_stacks(stop, start, most, limits, metal))
    to_go, edges = _to_go(stop, limits, stop in metal), _edges(limits)
    first = _Place(start, False if start in metal else None, not limits.service)
    if first not in to_go:
        return ()
    found: list[Stack] = []
    ceiling = to_go[first] + _SLACK * _JOINT
    tie = itertools.count()
    queue: list[tuple[int, int, int, _Place, tuple[_Edge, ...], tuple[str, ...]]] = []
    heapq.heappush(queue, (to_go[first], next(tie), 0, first, (), ()))
    expanded: set[tuple[_Place, tuple[str, ...]]] = set()
    shapes: set[tuple[str, ...]] = set()
    goals = {n: m for n, m in _mates(stop) if m not in limits.barred}
    undo = methods_where("undo", True)
    for _ in range(_MOST_TRIED):
        if not queue or len(found) == most:
            break
        whole, _, spent, place, way, shape = heapq.heappop(queue)
        if whole > ceiling or (place, shape) in expanded:
            continue
        if place.end == "":  # the last joint was made
            if shape not in shapes:
                shapes |= {shape, shape[::-1]} if start == stop else {shape}
                found.append(Stack(end(start), end(stop), tuple(e.step for e in way), metal & {start, stop}, limits.foreign))
            continue
        expanded.add((place, shape))
        if place.end in goals and (place.served or goals[place.end] in undo):
            walked = abs(size_value(end(place.end).size) - size_value(end(stop).size))
            last = 1 + SLIPS * slips_off(end(place.end), end(stop))
            made = spent + _weigh(last, walked, 0, 0) + _fee(place, stop, False if stop in metal else None)
            heapq.heappush(queue, (made, next(tie), made, replace(place, end=""), way, shape))
        left, entered = {start, *(e.leave for e in way)}, {stop, *(e.into for e in way)}
        for edge in edges[place.end]:
            onward = _onward(place, edge)
            if edge.leave in left or edge.into in entered or onward not in to_go:
                continue
            then = spent + edge.weight + _fee(place, edge.into, edge.plastic)
            heapq.heappush(
                queue,
                (then + to_go[onward], next(tie), then, onward, (*way, edge), (*shape, _kind(edge.into), _kind(edge.leave))),
            )
    return tuple(found)


@remembered()
def _kind(name: str) -> str:
    """What tells two ways apart in a real way: the system and size of an opening."""
    e = end(name)
    return f"{e.system} {e.size}"


def best_stack(start: str, stop: str, metal: frozenset[str] = frozenset(), limits: Limits = FREE) -> Stack | None:
    """The best way from one end to another, both by name; None where there is none."""
    found = find_stacks(start, stop, 1, limits, metal)
    return found[0] if found else None
