"""What no choice of sizes can cost less than, where runs close loops and flows may go either way.

In a loop the cheapest sizes are not proved by turning between sizes and flows. But every choice that works also solves
an easier problem: flows that balance and keep the velocity limit, and heads that fall along each run by no less than
straight lines under its loss curve. That one is linear in flows and heads and chooses among sizes, so HiGHS solves it,
and what it costs is a bound from below; the difference is what could still be saved at the most.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from itertools import pairwise
from math import inf

import numpy as np
from scipy.optimize import Bounds, LinearConstraint, milp
from scipy.sparse import csr_array

__all__ = ["BOUND_SECONDS", "LoopRun", "LoopScenario", "LoopSize", "least_possible", "lines_under"]

BOUND_SECONDS = 5.0  # the longest the bound may take
_SAMPLES = 120
_LINES = 4
_INFEASIBLE = 2  # HiGHS's word for it, as SciPy passes it on
_FLOW_SCALE = 1e3  # flows stand in the programme in L/s, so that its numbers are of a size


@dataclass(frozen=True, slots=True)
class LoopSize:
    """A size a run may have: its cost, the most it may carry (m³/s), and lines (slope in s/m², head in m) under its
    loss.
    """

    cost: float
    most: float
    lines: tuple[tuple[float, float], ...]


@dataclass(frozen=True, slots=True)
class LoopRun:
    """A run between two nodes with its sizes."""

    start: str
    stop: str
    sizes: tuple[LoopSize, ...]


@dataclass(frozen=True, slots=True)
class LoopScenario:
    """What must hold at once: flows wanted (m³/s) and heads needed (m) by node, known heads, and what lifts or holds.

    `lifts` are pumps from node to node with the most head (m) they add, `held` regulators with the head (m) they hold
    at the most; a pump that is a source starts at a node of known head.
    """

    wants: Mapping[str, float]
    needs: Mapping[str, float]
    known: Mapping[str, float]
    lifts: tuple[tuple[str, str, float], ...] = ()
    held: tuple[tuple[str, str, float], ...] = ()


def lines_under(loss: Callable[[float], float], most: float) -> tuple[tuple[float, float], ...]:
    """Straight lines (slope, head at no flow) that lie under a growing loss curve (m) from 0 to `most` (m³/s).

    Each sample of the curve is moved one step to the right, where a growing curve is above it, and lines are laid under
    all.
    """
    if most <= 0:
        return ()
    flows = np.linspace(0, most, _SAMPLES + 1)
    heads = np.array([loss(float(q)) for q in flows[:-1]])
    hull = [(0.0, 0.0)]
    for q, h in zip(flows[1:].tolist(), heads.tolist(), strict=True):
        while len(hull) > 1 and _slope(hull[-2], (q, h)) <= _slope(hull[-2], hull[-1]):
            hull.pop()
        hull.append((q, h))
    edges = [(_slope(a, b), a) for a, b in pairwise(hull)]
    picked = sorted({round(i) for i in np.linspace(0, len(edges) - 1, min(_LINES, len(edges)))})
    return tuple((slope, h - slope * q) for slope, (q, h) in (edges[i] for i in picked) if slope > 0)


def _slope(a: tuple[float, float], b: tuple[float, float]) -> float:
    return (b[1] - a[1]) / (b[0] - a[0])


def least_possible(runs: Sequence[LoopRun], scenarios: Sequence[LoopScenario], seconds: float = BOUND_SECONDS) -> float:
    """A cost below which no choice of sizes serves every scenario, by HiGHS within `seconds`; infinite where none does
    at all.

    Stopped before it is done, it still gives a bound, only a lower one.
    """
    return _Programme(runs, scenarios).solve(seconds)


class _Programme:
    """Columns: a choice of each run (0 or 1); then in each scenario a flow and a direction of each run, a flow of each
    lift, a head of each node.
    """

    def __init__(self, runs: Sequence[LoopRun], scenarios: Sequence[LoopScenario]) -> None:
        self.cost: list[float] = []
        self.low: list[float] = []
        self.high: list[float] = []
        self.whole: list[int] = []
        self._entries: list[tuple[int, int, float]] = []
        self._floor: list[float] = []
        self._ceiling: list[float] = []
        chosen = [[self._column(s.cost, 0, 1, whole=True) for s in run.sizes] for run in runs]
        self.floor = sum(min(s.cost for s in run.sizes) for run in runs)
        for columns in chosen:
            self._row([(c, 1.0) for c in columns], 1, 1)
        for scenario in scenarios:
            self._scenario(runs, chosen, scenario)

    def _column(self, cost: float, low: float, high: float, whole: bool = False) -> int:
        self.cost.append(cost)
        self.low.append(low)
        self.high.append(high)
        self.whole.append(int(whole))
        return len(self.cost) - 1

    def _row(self, entries: Sequence[tuple[int, float]], floor: float, ceiling: float) -> None:
        row = len(self._floor)
        self._entries += [(row, column, value) for column, value in entries]
        self._floor.append(floor)
        self._ceiling.append(ceiling)

    def _scenario(self, runs: Sequence[LoopRun], chosen: list[list[int]], scenario: LoopScenario) -> None:
        lifted = sum(h for _, _, h in scenario.lifts)
        top = max(scenario.known.values(), default=0.0) + lifted
        bottom = min((*scenario.needs.values(), *scenario.known.values()), default=0.0) - lifted
        nodes = dict.fromkeys(
            n for pair in (*((r.start, r.stop) for r in runs), *(x[:2] for x in scenario.lifts)) for n in pair
        )
        nodes |= dict.fromkeys(n for x in scenario.held for n in x[:2])
        head = {}
        for n in nodes:
            low = max(scenario.needs.get(n, bottom), bottom)
            head[n] = self._column(0.0, scenario.known.get(n, low), scenario.known.get(n, max(top, low)))
        into: dict[str, list[tuple[int, float]]] = {n: [] for n in nodes}
        for run, columns in zip(runs, chosen, strict=True):
            most = max(s.most for s in run.sizes) * _FLOW_SCALE
            flow, forward = self._column(0.0, -most, most), self._column(0.0, 0, 1, whole=True)
            into[run.stop].append((flow, 1.0))
            into[run.start].append((flow, -1.0))
            self._carries(run, columns, flow, forward, most)
            for size, column in zip(run.sizes, columns, strict=True):
                self._loses(size, column, (flow, forward), (head[run.start], head[run.stop]), most, top - bottom)
        for a, b, rise in scenario.lifts:
            self._passes(into, a, b)
            self._row([(head[b], 1.0), (head[a], -1.0)], -inf, rise)
        for a, b, most in scenario.held:
            self._passes(into, a, b)
            self._row([(head[b], 1.0), (head[a], -1.0)], -inf, 0.0)
            self._row([(head[b], 1.0)], -inf, most)
        for n, flows in into.items():
            if n not in scenario.known:
                want = scenario.wants.get(n, 0.0) * _FLOW_SCALE
                self._row(flows, want, inf if want > 0 else 0.0)  # an outlet with pressure to spare may pass more

    def _carries(self, run: LoopRun, columns: list[int], flow: int, forward: int, most: float) -> None:
        """No more than the chosen size may carry, and only the way that is chosen."""
        room = [(c, -s.most * _FLOW_SCALE) for c, s in zip(columns, run.sizes, strict=True)]
        self._row([(flow, 1.0), *room], -inf, 0.0)
        self._row([(flow, -1.0), *room], -inf, 0.0)
        self._row([(flow, 1.0), (forward, -most)], -inf, 0.0)
        self._row([(flow, 1.0), (forward, -most)], -most, inf)

    def _loses(
        self, size: LoopSize, column: int, move: tuple[int, int], heads: tuple[int, int], most: float, span: float
    ) -> None:
        """If this size is chosen and the water goes that way, the head falls by no less than each line says."""
        (flow, forward), (start, stop) = move, heads
        for slope, base in size.lines:
            steep = slope / _FLOW_SCALE
            loose = span + steep * most + max(base, 0.0)
            # h_start − h_stop ≥ slope·q + base − loose·(1 − chosen) − loose·(1 − forward), and the same the other way
            # round
            self._row(
                [(start, 1.0), (stop, -1.0), (flow, -steep), (column, -loose), (forward, -loose)], base - 2 * loose, inf
            )
            self._row(
                [(start, -1.0), (stop, 1.0), (flow, steep), (column, -loose), (forward, loose)], base - loose, inf
            )

    def _passes(self, into: dict[str, list[tuple[int, float]]], a: str, b: str) -> None:
        flow = self._column(0.0, 0.0, inf)
        into[a].append((flow, -1.0))
        into[b].append((flow, 1.0))

    def solve(self, seconds: float) -> float:
        rows, columns, values = zip(*self._entries, strict=True)
        matrix = csr_array((values, (rows, columns)), shape=(len(self._floor), len(self.cost)))
        found = milp(
            np.array(self.cost),
            constraints=LinearConstraint(matrix, np.array(self._floor), np.array(self._ceiling)),
            integrality=np.array(self.whole),
            bounds=Bounds(np.array(self.low), np.array(self.high)),
            options={"time_limit": seconds, "mip_rel_gap": 1e-6},
        )
        if found.status == _INFEASIBLE:
            return inf
        return max(float(found.mip_dual_bound or 0.0), self.floor)
