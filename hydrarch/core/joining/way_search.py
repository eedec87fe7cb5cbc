"""The shortest ways to join from one open end to another.

A state is an open end; a step mates a straight fitting's port to it and leaves another port open. Ways are ranked by
joints (a plastic female thread over a metal male counts as two more, since it splits), then by how little sizes stray
on the way, then by price, then by length. All four add up along a way, so the cost still to go from every state is
known exactly before the search begins (Dijkstra from the target) and the best ways come out in order (A*).
"""

from __future__ import annotations

import heapq
import itertools
from collections import defaultdict
from dataclasses import dataclass
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray
from scipy.sparse import csr_array
from scipy.sparse.csgraph import dijkstra

from hydrarch.core.base.cache import remembered
from hydrarch.core.base.units import size_value
from hydrarch.core.catalogue.fittings import end, ends, fittings, mates_of
from hydrarch.core.joining.stacks import (
    FOREIGN,
    FREE,
    PLASTIC,
    SLIP,
    SPLITS,
    Limits,
    Stack,
    StackStep,
    is_foreign,
    is_soft,
    ranked_price,
    stopgap,
)

__all__ = ["best_stack", "find_stacks"]


class _Place(NamedTuple):
    """A state: an open end by name, whether the part that offers it is plastic (None for the start), and whether it
    comes apart.
    """

    end: str
    plastic: bool | None
    served: bool


def _weigh(joints: float, walked: float, price: float, length: float) -> int:
    """The four costs as one whole number that adds up and keeps their order."""
    return (
        (round(2 * joints) << 47) + (round(walked * 1024) << 32) + (round(price * 10) << 16) + round(abs(length) * 1e4)
    )


_JOINT = 1 << 48
_MOST_TRIED = 4000  # partial ways looked at before what was found is taken
_SLACK = 2  # how many joints more than the best an alternative may cost
_STRAIGHT = ("coupling", "bushing", "adapter", "nipple", "stub", "bulkhead", "saddle")
_DIRTY = ("drain", "drip", "band", "body")  # bodies that are not made for drinking water


@dataclass(frozen=True, slots=True)
class _Edge:
    """One way on from a state: the step taken, its weight, and whether its joint or part comes apart."""

    step: StackStep
    into: str
    leave: str
    weight: int
    plastic: bool
    served: bool


@remembered()
def _steps_into(also: tuple[str, ...], drink: bool) -> dict[str, tuple[StackStep, ...]]:
    """For every end name, the steps a straight fitting offers, or one of the families `also`, whose entry port is that
    end.
    """
    found: dict[str, list[StackStep]] = defaultdict(list)
    for part in fittings().values():
        if len(part.ports) != 2 or part.family not in (*_STRAIGHT, *also):
            continue
        if drink and part.material in _DIRTY:
            continue
        for into, out in ((0, 1), (1, 0)):
            found[part.ports[into].end.name].append(StackStep(part, into, out))
    return {name: tuple(steps) for name, steps in found.items()}


@remembered()
def _mates(name: str) -> tuple[tuple[str, str], ...]:
    """The ends a sound joint can be made with, and its method."""
    return mates_of(end(name))


@remembered()
def _edges(limits: Limits) -> dict[str, tuple[_Edge, ...]]:
    """Every way on from every end under `limits`: the cheapest step for each pair of ends it enters and leaves by."""
    found: dict[str, tuple[_Edge, ...]] = {}
    unions = ("union",) if limits.service or limits.fixed else ()
    slips = (SLIP,) if limits.fixed or limits.at_hand is not None else ()
    steps = _steps_into((*unions, *slips), limits.drink)
    for here in ends():
        best: dict[tuple[str, str, bool, bool], _Edge] = {}
        for entry, method in _mates(here):
            if method in limits.barred:
                continue
            for step in steps.get(entry, ()):
                if limits.at_hand is not None and step.fitting.id not in limits.at_hand:
                    continue
                if step.fitting.id in limits.weak:
                    continue
                leave = step.fitting.ports[step.out].end
                between = size_value(end(entry).size)
                walked = abs(between - size_value(end(here).size)) + abs(size_value(leave.size) - between)
                joints = (
                    1
                    + FOREIGN * (is_foreign(step.fitting, limits.foreign) + is_soft(step.fitting))
                    + stopgap(end(here), end(entry))
                )
                weight = _weigh(joints, walked, ranked_price(step.fitting), step.length)
                plastic = step.fitting.material in PLASTIC
                edge = _Edge(step, entry, leave.name, weight, plastic, limits.serve(method, step.fitting.family))
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


@dataclass(frozen=True, slots=True)
class _Backwards:
    """The graph backwards: all states by number, and from each the states one step before it with the weight of that
    step, row by row.
    """

    places: tuple[_Place, ...]
    number: dict[_Place, int]
    starts: NDArray[np.int64]
    before: NDArray[np.int64]
    weights: NDArray[np.float64]


@remembered()
def _arrivals(limits: Limits) -> _Backwards:
    number: dict[_Place, int] = {}
    rows: list[int] = []
    before: list[int] = []
    weights: list[int] = []
    flags = (True,) if limits.serve("") else (False, True)
    for here, edges in _edges(limits).items():
        for plastic, served in itertools.product((None, False, True), flags):
            place = _Place(here, plastic, served)
            mine = number.setdefault(place, len(number))
            for edge in edges:
                onward = _onward(place, edge)
                rows.append(number.setdefault(onward, len(number)))
                before.append(mine)
                weights.append(edge.weight + _fee(place, edge.into, edge.plastic))
    at = np.array(rows, dtype=np.int64)
    order = np.argsort(at, kind="stable")
    starts = np.concatenate(([0], np.cumsum(np.bincount(at, minlength=len(number)))))
    return _Backwards(
        tuple(number),
        number,
        starts,
        np.array(before, dtype=np.int64)[order],
        np.array(weights, dtype=np.float64)[order],
    )


@remembered()
def _to_go(target: str, limits: Limits, metal: bool) -> dict[_Place, int]:
    """The least weight from every state to `target` (of metal or not known), its last joint included.

    Weights are whole numbers below 2^53, which add up exactly as they are handed to the general-purpose search.
    """
    graph = _arrivals(limits)
    last_joints: dict[int, int] = {}
    strangers: dict[_Place, int] = {}
    for name, method in _mates(target):
        if method in limits.barred:
            continue
        walked = abs(size_value(end(name).size) - size_value(end(target).size))
        serves = limits.serve(method)
        for plastic, served in itertools.product((None, False, True), (False, True)):
            if served or serves:
                place = _Place(name, plastic, served)
                fee = _fee(place, target, False if metal else None)
                last = 1 + stopgap(end(name), end(target))
                weight = _weigh(last, walked, 0, 0) + fee
                if place in graph.number:
                    last_joints[graph.number[place]] = weight
                else:
                    strangers[place] = weight
    count, links = len(graph.places), len(graph.before)
    whole: csr_array[np.float64, tuple[int, int]] = csr_array(
        (
            np.concatenate((graph.weights, np.fromiter(last_joints.values(), np.float64, len(last_joints)))),
            np.concatenate((graph.before, np.fromiter(last_joints, np.int64, len(last_joints)))),
            np.concatenate((graph.starts, [links + len(last_joints)])),
        ),
        shape=(count + 1, count + 1),
    )
    found = np.asarray(dijkstra(whole, indices=[count]))[0][:count]
    near = np.flatnonzero(np.isfinite(found))
    return strangers | {graph.places[n]: int(w) for n, w in zip(near.tolist(), found[near].tolist(), strict=True)}


@remembered()
def find_stacks(
    start: str, stop: str, most: int = 5, limits: Limits = FREE, metal: frozenset[str] = frozenset()
) -> tuple[Stack, ...]:
    """The `most` best stacks between two ends by name, best first; empty where no way to join exists.

    `metal` names those of the two that are metal. Asked from the other end, it gives the same stacks turned round.
    Raises `Unknown` for an end that is not in the catalogue.
    """
    end(start), end(stop)
    if start > stop:
        return tuple(s.turned() for s in find_stacks(stop, start, most, limits, metal))
    to_go, edges = _to_go(stop, limits, stop in metal), _edges(limits)
    first = _Place(start, False if start in metal else None, limits.serve(""))
    if first not in to_go:
        return ()
    found: list[Stack] = []
    ceiling = ((to_go[first] >> 48) + _SLACK + 1) << 48
    tie = itertools.count()
    queue: list[tuple[int, int, int, _Place, tuple[_Edge, ...], tuple[str, ...]]] = []
    heapq.heappush(queue, (to_go[first], next(tie), 0, first, (), ()))
    expanded: set[tuple[_Place, tuple[str, ...]]] = set()
    shapes: set[tuple[str, ...]] = set()
    goals = {n: m for n, m in _mates(stop) if m not in limits.barred}
    for _ in range(_MOST_TRIED):
        if not queue or len(found) == most:
            break
        whole, _, spent, place, way, shape = heapq.heappop(queue)
        if whole > ceiling or (place, shape) in expanded:
            continue
        if place.end == "":  # the last joint was made
            if shape not in shapes:
                shapes |= {shape, shape[::-1]} if start == stop else {shape}
                found.append(
                    Stack(end(start), end(stop), tuple(e.step for e in way), metal & {start, stop}, limits.foreign)
                )
            continue
        expanded.add((place, shape))
        if place.end in goals and (place.served or limits.serve(goals[place.end])):
            walked = abs(size_value(end(place.end).size) - size_value(end(stop).size))
            last = 1 + stopgap(end(place.end), end(stop))
            made = spent + _weigh(last, walked, 0, 0) + _fee(place, stop, False if stop in metal else None)
            heapq.heappush(queue, (made, next(tie), made, place._replace(end=""), way, shape))
        left, entered = _been(first, stop, way)
        for edge in edges[place.end]:
            onward = _onward(place, edge)
            if (edge.leave, onward.served) in left or (edge.into, place.served) in entered or onward not in to_go:
                continue
            then = spent + edge.weight + _fee(place, edge.into, edge.plastic)
            heapq.heappush(
                queue,
                (
                    then + to_go[onward],
                    next(tie),
                    then,
                    onward,
                    (*way, edge),
                    (*shape, _kind(edge.into), _kind(edge.leave)),
                ),
            )
    return tuple(found)


_Been = set[tuple[str, bool]]


def _been(first: _Place, stop: str, way: tuple[_Edge, ...]) -> tuple[_Been, _Been]:
    """The ends a way left behind and those it entered, each with whether what is asked of the whole was given by then.

    To come to one of them again is a detour, and so is to enter what the last joint could be made with.
    """
    left, entered, served = {(first.end, first.served)}, {(stop, True)}, first.served
    for edge in way:
        entered.add((edge.into, served))
        served = served or edge.served
        left.add((edge.leave, served))
    return left, entered


@remembered()
def _kind(name: str) -> str:
    """What tells two ways apart in a real way: the system and size of an opening."""
    e = end(name)
    return f"{e.system} {e.size}"


def best_stack(start: str, stop: str, metal: frozenset[str] = frozenset(), limits: Limits = FREE) -> Stack | None:
    """The best way from one end to another, both by name; None where there is none."""
    found = find_stacks(start, stop, 1, limits, metal)
    return found[0] if found else None
