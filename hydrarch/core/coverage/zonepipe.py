"""What the pipe of a zone costs: the least tree between its heads, each piece of the size that carries what goes
through it.
"""

from __future__ import annotations

from bisect import bisect_left
from dataclasses import dataclass
from itertools import accumulate
from math import inf, pi

import numpy as np
from numpy.typing import NDArray

from hydrarch.core.catalogue.pipes import series
from hydrarch.core.catalogue.prices import pipe_price
from hydrarch.core.plan.document import Plan

__all__ = ["PipePrices", "ZonePipe", "exchange", "pipe_prices"]

Array = NDArray[np.float64]
_FITS = 1 + 1e-9
_PASSES = 3
_NEAR = 6


@dataclass(frozen=True, slots=True)
class PipePrices:
    """The sizes of a job's usual pipe: what each carries at the velocity limit (`most`, m³/s), and the price of a metre
    of it.

    A size is never dearer than the next one up: then that one is taken.
    """

    most: tuple[float, ...]
    price: tuple[float, ...]

    def of(self, flow: float) -> float:
        """The price of a metre that carries a flow; of the largest there is where none does."""
        return self.price[min(bisect_left(self.most, flow / _FITS), len(self.price) - 1)]

    def least_each(self, most: float) -> float:
        """The least that a metre costs for each m³/s it carries, in pipe that carries no more than `most` (m³/s)."""
        if most <= 0:
            return 0.0
        carried = (
            *self.most[:-1],
            max(self.most[-1], most),
        )  # the largest is taken for whatever is more than any carries
        return min(p / min(m, most) for p, m in zip(self.price, carried, strict=True))


def pipe_prices(plan: Plan) -> PipePrices:
    """Those of the pipe that is taken where none is chosen, at the crew's own prices where it has them."""
    sizes = series(plan.conditions.series).sizes
    most = tuple(plan.conditions.max_velocity * pi * s.bore**2 / 4 for s in sizes)
    dear = [pipe_price(s, plan.prices) for s in sizes]
    return PipePrices(most, tuple(accumulate(reversed(dear), min))[::-1])


@dataclass(frozen=True, slots=True)
class ZonePipe:
    """Heads with how far apart they are, what each draws (m³/s), and how far each is from where water comes (`way`, m;
    zero: not known).

    `near` are the same ways where a zone begins at its nearest head but no pipe to there is counted.
    """

    apart: Array
    flows: Array
    near: Array
    way: Array
    prices: PipePrices

    def of(self, some: NDArray[np.bool_] | NDArray[np.int64]) -> tuple[float, float]:
        """Length (m) and cost of the least pipe for some of the heads, from where water comes; zero for none."""
        at = np.flatnonzero(some) if some.dtype == np.bool_ else some
        if not len(at):
            return 0.0, 0.0
        first = int(np.argmin(self.near[at]))
        order, parent, step = _prim(self.apart[np.ix_(at, at)], first)
        carried = self.flows[at].tolist()
        cost = long = 0.0
        for i in reversed(order):
            if parent[i] >= 0:
                carried[parent[i]] += carried[i]
                long += step[i]
                cost += step[i] * self.prices.of(carried[i])
        way = float(self.way[at[first]])
        return long + way, cost + way * self.prices.of(carried[first])


def _prim(apart: Array, first: int) -> tuple[list[int], list[int], list[float]]:
    """The least tree between places from the first: the order they are joined in, what each hangs on (−1: nothing), and
    how far off.
    """
    count = len(apart)
    reach, on = apart[first].copy(), np.full(count, first)
    reach[first] = inf
    order, parent, step = [first], [-1] * count, [0.0] * count
    for _ in range(count - 1):
        nxt = int(reach.argmin())
        order.append(nxt)
        parent[nxt], step[nxt] = int(on[nxt]), float(reach[nxt])
        nearer = (apart[nxt] < reach) & (reach < inf)
        reach[nearer], on[nearer] = apart[nxt][nearer], nxt
        reach[nxt] = inf
    return order, parent, step


def exchange(pipe: ZonePipe, zone: NDArray[np.int64], most: float) -> float:
    """Let heads change over to a near neighbour's zone, or change places with one, where that makes pipe cheaper; what
    it costs then.

    No zone draws more than `most` (m³/s). `zone` is the zone of each head, and is changed.
    """
    near, flows, apart = np.argsort(pipe.apart, axis=1)[:, 1 : _NEAR + 1], pipe.flows, pipe.apart
    cost = {n: pipe.of(zone == n)[1] for n in range(int(zone.max()) + 1)}
    drawn = {n: float(flows[zone == n].sum()) for n in cost}

    def moved(here: int, there: int, going: int, coming: int | None) -> bool:
        """Whether it is done: one head goes, and another comes for it if one does."""
        change = float(flows[going]) - (0.0 if coming is None else float(flows[coming]))
        if drawn[there] + change > most * _FITS or drawn[here] - change > most * _FITS:
            return False
        mine, other = zone == here, zone == there
        mine[going], other[going] = False, True
        if coming is not None:
            mine[coming], other[coming] = True, False
        if not mine.any():
            return False
        one, two = pipe.of(mine)[1], pipe.of(other)[1]
        if one + two >= cost[here] + cost[there] - 1e-9:
            return False
        zone[going] = there
        if coming is not None:
            zone[coming] = here
        cost[here], cost[there] = one, two
        drawn[here] -= change
        drawn[there] += change
        return True

    def loose(head: int, of: int, without: int) -> float:
        """How far a head is from the nearest of a zone, itself and another left out."""
        others = np.flatnonzero(zone == of)
        others = others[(others != head) & (others != without)]
        return float(apart[head, others].min()) if len(others) else 0.0

    for _ in range(_PASSES):
        changed = False
        for i in range(len(flows)):
            for there in dict.fromkeys(int(zone[j]) for j in near[i]):
                here = int(zone[i])
                if there == here:
                    continue
                if moved(here, there, i, None):
                    changed = True
                    break
                theirs = np.flatnonzero(zone == there)
                kept, sooner = loose(i, here, -1), loose(i, there, -1)
                swaps = theirs[np.argsort(apart[i, theirs])[:_NEAR]].tolist()
                swaps = [
                    j
                    for j in swaps
                    if loose(i, there, j) + loose(j, here, i) < max(kept, sooner) + loose(j, there, -1) - 1e-9
                ]
                if any(moved(here, there, i, j) for j in swaps):
                    changed = True
                    break
        if not changed:
            break
    return sum(cost.values())
