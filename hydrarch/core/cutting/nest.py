"""Pieces out of sticks and coils: offcuts first, then the fewest new sticks, proved or with the gap that is left.

Best fit, longest first, gives a nesting; the whole length over the stock gives a bound. Where they differ, the linear
programme over cutting patterns is solved by column generation (a knapsack finds each new pattern), which gives a better
bound, and an integer programme over the patterns found (HiGHS) gives a better nesting. Gilmore and Gomory, 1961.
"""

from __future__ import annotations

from bisect import bisect_left, insort
from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass
from math import ceil, floor

import numpy as np
from numpy.typing import NDArray
from scipy.optimize import Bounds, LinearConstraint, linprog, milp

from hydrarch.core.base.cache import remembered

__all__ = ["LONG", "Nested", "QUICK", "nest_lengths"]

_GRAIN = 1e-3  # m: lengths are nested in whole millimetres, each rounded up
_MOST_KINDS = 220
QUICK = 25
"""Patterns the programme may try within an edit; more can be asked for where a person waits for it."""
MANY = 40
"""Pieces of one pipe above which an edit leaves the programme alone: the bound is told, and a person may ask for more.
"""
LONG = 120
_SECONDS_A_PATTERN = 0.003
"""What the integer programme may take for each pattern there may be."""

Sized = tuple[str, float]


@dataclass(frozen=True, slots=True)
class Nested:
    """What is cut from what: sticks of new stock and offcuts used, each with its cuts (name, length in m) and what is
    left (m).

    `bound` is the least number of new sticks for what the offcuts leave; `proved` whether the nesting reaches it.
    """

    sticks: tuple[tuple[tuple[Sized, ...], float], ...]
    offcuts: tuple[tuple[float, tuple[Sized, ...], float], ...]
    bound: int
    proved: bool


def nest_lengths(
    pieces: Sequence[Sized],
    stock: float,
    kerf: float,
    offcuts: Sequence[float] = (),
    keep: float = 0.0,
    patterns: int = QUICK,
) -> Nested:
    """Nest named lengths (m, none above `stock`) into sticks of `stock` with `kerf` (m) a cut, using `offcuts` first.

    An offcut is used where it is filled best; one that would leave more than `keep` (m) and less than half of itself
    used is left for another day. `patterns` is how many cutting patterns may be tried for a better nesting and a better
    bound. Raises `ValueError` for a piece longer than the stock.
    """
    too_long = next((name for name, x in pieces if x > stock + 1e-9), None)
    if too_long is not None:
        raise ValueError(f"piece {too_long} is longer than the stock")
    left = sorted(pieces, key=lambda p: -p[1])
    used = []
    for offcut in sorted(offcuts):
        chosen = _fill(left, offcut, kerf)
        taken = sum(x + kerf for _, x in chosen) - (kerf if chosen else 0.0)
        rest = offcut - taken
        if not chosen or (rest > keep and taken < offcut / 2):
            continue
        used.append((offcut, tuple(chosen), max(0.0, rest)))
        left = _without(left, chosen)
    sticks, bound = _sticks(left, stock, kerf, patterns)
    rests = [stock - sum(x for _, x in s) - kerf * (len(s) - 1) for s in sticks]
    whole = tuple((tuple(s), max(0.0, r)) for s, r in zip(sticks, rests, strict=True))
    return Nested(whole, tuple(used), bound, len(sticks) == bound)


def _without(pieces: list[Sized], gone: Sequence[Sized]) -> list[Sized]:
    counts = Counter(gone)
    kept = []
    for p in pieces:
        if counts[p] > 0:
            counts[p] -= 1
        else:
            kept.append(p)
    return kept


def _whole(length: float, kerf: float) -> int:
    """A piece and its saw cut in whole millimetres, rounded up so that nothing is ever too short."""
    return ceil((length + kerf) / _GRAIN - 1e-6)


def _fill(pieces: Sequence[Sized], room: float, kerf: float) -> list[Sized]:
    """The pieces that fill `room` best: subset sum by whole millimetres."""
    size = floor((room + kerf) / _GRAIN + 1e-6)
    reach: dict[int, tuple[int, int]] = {0: (-1, -1)}
    for i, (_, x) in enumerate(pieces):
        width = _whole(x, kerf)
        for at in sorted(reach, reverse=True):
            if at + width <= size and at + width not in reach:
                reach[at + width] = (at, i)
    at, chosen, seen = max(reach), [], set()
    while at:
        at, i = reach[at]
        if i in seen:
            break
        seen.add(i)
        chosen.append(pieces[i])
    return chosen


def _sticks(pieces: list[Sized], stock: float, kerf: float, patterns: int) -> tuple[list[list[Sized]], int]:
    """New sticks for the pieces, and the least number there can be."""
    if not pieces:
        return [], 0
    best = _best_fit(pieces, stock, kerf)
    bound = ceil(sum(x + kerf for _, x in pieces) / (stock + kerf) - 1e-9)
    halves = sum(x > (stock - kerf) / 2 + 1e-9 for _, x in pieces)  # no two of these share a stick
    bound = max(bound, halves)
    if len(best) == bound or (patterns <= QUICK and len(pieces) > MANY):
        return best, bound
    widths = tuple(sorted((_whole(x, kerf) for _, x in pieces), reverse=True))
    better, lower = _patterns(widths, floor((stock + kerf) / _GRAIN + 1e-6), patterns)
    bound = max(bound, lower)
    if better is not None and len(better) < len(best):
        best = _name(better, pieces, kerf)
    return best, bound


def _best_fit(pieces: Sequence[Sized], stock: float, kerf: float) -> list[list[Sized]]:
    """Each piece, longest first, into the stick it fills best."""
    sticks: list[list[Sized]] = []
    room: list[tuple[float, int]] = []  # what each stick has left, the fullest first
    for name, x in sorted(pieces, key=lambda p: -p[1]):
        fits = bisect_left(room, (x - 1e-9, -1))
        if fits < len(room):
            left, i = room.pop(fits)
        else:
            left, i = stock, len(sticks)
            sticks.append([])
        sticks[i].append((name, x))
        insort(room, (left - x - kerf, i))
    return sticks


def _name(patterns: Sequence[Counter[int]], pieces: Sequence[Sized], kerf: float) -> list[list[Sized]]:
    """Give the widths of patterns the pieces they stand for."""
    waiting: dict[int, list[Sized]] = {}
    for p in pieces:
        waiting.setdefault(_whole(p[1], kerf), []).append(p)
    return [
        s
        for s in (
            [waiting[w].pop() for w, n in pattern.items() for _ in range(n) if waiting[w]] for pattern in patterns
        )
        if s
    ]


@remembered(64)
def _patterns(widths: tuple[int, ...], room: int, patterns: int) -> tuple[tuple[Counter[int], ...] | None, int]:
    """The fewest sticks by cutting patterns, and the bound of the linear programme.

    None where it was not tried or not better.
    """
    demand = Counter(widths)
    kinds = sorted(demand, reverse=True)
    if len(kinds) > _MOST_KINDS:
        return None, 0
    wanted = np.array([demand[k] for k in kinds], dtype=np.float64)
    columns = [np.where(np.arange(len(kinds)) == i, min(room // k, demand[k]), 0) for i, k in enumerate(kinds)]
    value = float("inf")
    lower = 0
    for _ in range(patterns):
        table = np.column_stack(columns)
        found = linprog(np.ones(table.shape[1]), A_ub=-table, b_ub=-wanted, method="highs")
        value = float(found.fun or 0.0)
        prices = -np.asarray(found.ineqlin.marginals)
        pattern, worth = _knapsack(kinds, demand, prices, room)
        lower = max(lower, ceil(value / max(worth, 1.0) - 1e-6))  # Farley's bound
        if worth <= 1 + 1e-7:
            lower = max(lower, ceil(value - 1e-6))
            break
        columns.append(pattern)
    table = np.column_stack(columns)
    count = table.shape[1]
    whole = milp(
        np.ones(count),
        constraints=[LinearConstraint(table, wanted, np.inf)],
        integrality=np.ones(count, dtype=np.int64),
        bounds=Bounds(0, np.inf),
        options={"time_limit": patterns * _SECONDS_A_PATTERN},
    )
    if whole.x is None:
        return None, lower
    left, made = Counter(demand), []
    for i, times in enumerate(np.round(whole.x).astype(int)):
        for _ in range(times):
            pattern_used = Counter(
                {k: min(int(n), left[k]) for k, n in zip(kinds, table[:, i], strict=True) if min(int(n), left[k]) > 0}
            )
            left -= pattern_used
            if pattern_used:
                made.append(pattern_used)
    return tuple(made), lower


def _knapsack(
    kinds: Sequence[int], demand: Counter[int], prices: NDArray[np.float64], room: int
) -> tuple[NDArray[np.int64], float]:
    """The pattern worth most at these prices: a bounded knapsack over whole millimetres."""
    best = np.zeros(room + 1)
    taken: list[tuple[int, int, NDArray[np.bool_]]] = []
    for i, k in enumerate(kinds):
        if prices[i] <= 1e-9:
            continue
        times, left = 1, min(demand[k], room // k)
        while left > 0:  # so many at once: 1, 2, 4 and the rest
            n = min(times, left)
            width, gain = n * k, n * prices[i]
            if width <= room:
                tried = best[: room + 1 - width] + gain
                better = tried > best[width:] + 1e-12
                best[width:] = np.where(better, tried, best[width:])
                mark = np.zeros(room + 1, dtype=bool)
                mark[width:] = better
                taken.append((i, n, mark))
            left -= n
            times *= 2
    pattern = np.zeros(len(kinds), dtype=np.int64)
    at = int(np.argmax(best))
    worth = float(best[at])
    for i, n, mark in reversed(taken):
        if mark[at]:
            pattern[i] += n
            at -= n * kinds[i]
    return pattern, worth
