"""The network solver: global gradient (Newton on flows and heads together) with sparse factorisations.

Unknowns are the flow of every link and the head of every free node. Each link obeys head(from) − head(to) = h(q);
each free node passes on what it takes in. One step solves a symmetric positive definite system in the heads (Todini
and Pilati, 1988). Works on loops, trees, dead ends and links with exactly no flow.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from itertools import chain
from typing import Literal, TypeAlias

import numpy as np
from numpy.typing import NDArray
from scipy.interpolate import PchipInterpolator
from scipy.sparse import csc_array
from scipy.sparse.linalg import splu

from hydrarch.core.errors import HydrarchError
from hydrarch.core.hydraulics.friction import (
    HAZEN_WILLIAMS_EXPONENT,
    hazen_williams_resistance,
    head_loss_darcy_weisbach,
)
from hydrarch.core.hydraulics.water import Water
from hydrarch.core.units import STANDARD_GRAVITY

__all__ = ["Emitter", "Network", "NotSettled", "PipeLink", "PumpLink", "Regulator", "Solution", "Solver", "solve_network"]

Array: TypeAlias = NDArray[np.float64]
Flags: TypeAlias = NDArray[np.bool_]
Friction = Literal["hazen-williams", "darcy-weisbach"]

_SMALL_FLOW = 1e-7  # m³/s, 0.4 L/h: below it every loss is a straight line, so its slope is never zero
_SHUT = 1e9  # s/m²: slope of a link that is shut; 100 m of head leaks 0.1 mL/s through it
_TOLERANCE = 1e-9
_ALL_BUT_STILL = 1e-3  # m³/s: the total flow below which the tolerance is absolute, a nanolitre a second
_ROUNDING = 1e-11  # share of the heads below which an imbalance is rounding
_STILL_STEPS, _NOTHING, _BALANCED = 12, 1e-8, 1e-6
"""After so many steps a line in which less than 0.01 mL/s moves in all (m³/s) is at rest, its heads balanced to a micrometre (m)."""
_MOST_STEPS = 100


class NotSettled(HydrarchError):
    """The network did not settle in `steps` steps; `link` is the one that is still moving most."""

    def __init__(self, link: str, steps: int) -> None:
        self.link, self.steps = link, steps
        super().__init__(f"the flows did not settle in {steps} steps; the one at {link} is still moving")


@dataclass(frozen=True, slots=True)
class PipeLink:
    """A pipe: `minor` is the sum of its loss coefficients K, `fixed` (s²/m⁵) adds h = fixed·q², `one_way` bars back flow."""

    id: str
    start: str
    stop: str
    length: float
    bore: float
    hazen_williams_c: float = 150.0
    roughness: float = 1.5e-6
    minor: float = 0.0
    fixed: float = 0.0
    one_way: bool = False


@dataclass(frozen=True, slots=True)
class PumpLink:
    """A pump that lifts from `start` to `stop` by its curve of (flow, head) points, flow growing and head falling."""

    id: str
    start: str
    stop: str
    curve: tuple[tuple[float, float], ...]


@dataclass(frozen=True, slots=True)
class Emitter:
    """Water leaving at `node` to the air at `elevation` (m): q = k·h^x with h (m) the pressure head there."""

    id: str
    node: str
    elevation: float
    k: float
    exponent: float


@dataclass(frozen=True, slots=True)
class Regulator:
    """A pressure regulator from `start` to `stop`: it holds `head` (m) beyond it where there is more, and lets nothing back.

    With less than `head` before it, it stands open and loses `loss` (m) only.
    """

    id: str
    start: str
    stop: str
    head: float
    loss: float = 0.0


@dataclass(frozen=True, slots=True)
class Network:
    """Nodes with known heads (m), demands (m³/s), and links between nodes."""

    heads: dict[str, float]
    demands: dict[str, float]
    pipes: tuple[PipeLink, ...] = ()
    pumps: tuple[PumpLink, ...] = ()
    emitters: tuple[Emitter, ...] = ()
    regulators: tuple[Regulator, ...] = ()


@dataclass(frozen=True, slots=True)
class Solution:
    """Flows (m³/s, positive from start to stop) and heads (m); `residual` (m) is the worst energy imbalance."""

    flows: dict[str, float]
    heads: dict[str, float]
    steps: int
    residual: float
    shut: tuple[str, ...]


class _Links:
    """All links as arrays, with h(q) and its slope. Pipes come first, then pumps, then emitters."""

    def __init__(self, network: Network, friction: Friction, water: Water) -> None:
        pipes, emitters = network.pipes, network.emitters
        self.friction, self.water = friction, water
        self.length = np.array([p.length for p in pipes])
        self.fixed = np.array([p.fixed for p in pipes])
        self.resize(
            np.array([p.bore for p in pipes]),
            np.array([p.hazen_williams_c for p in pipes]),
            np.array([p.roughness for p in pipes]),
            np.array([p.minor for p in pipes]),
        )
        self.curves = [_PumpCurve(p.curve) for p in network.pumps]
        self.emitter_power = 1 / np.array([e.exponent for e in emitters])
        self.emitter_r = np.array([e.k for e in emitters]) ** -self.emitter_power
        self.one_way = np.array([p.one_way for p in pipes] + [True] * len(network.pumps) + [True] * len(emitters), dtype=bool)
        self.ids = [p.id for p in pipes] + [p.id for p in network.pumps] + [e.id for e in emitters]

    def resize(self, bore: Array, c: Array, roughness: Array, minor: Array) -> None:
        self.bore, self.c, self.roughness, self.k = bore, c, roughness, minor
        self.minor = minor / (2 * STANDARD_GRAVITY * (np.pi * bore**2 / 4) ** 2) + self.fixed
        self.resistance = np.asarray(hazen_williams_resistance(self.length, bore, c))

    def given(self) -> tuple[list[float], list[float], list[float], list[float]]:
        """Bore, C, roughness and K of every pipe, as they were given."""
        return self.bore.tolist(), self.c.tolist(), self.roughness.tolist(), self.k.tolist()

    def start_flows(self) -> Array:
        flows = [0.3 * np.pi * self.bore**2 / 4]
        flows.append(np.array([c.flows[-1] / 2 for c in self.curves]))
        flows.append(self.emitter_r ** (-1 / self.emitter_power) * 10 ** (1 / self.emitter_power))
        return np.concatenate(flows)

    def losses(self, q: Array) -> tuple[Array, Array]:
        """Head loss (m) of every link at flows q, and its slope (s/m²), never zero."""
        n, m = len(self.bore), len(self.bore) + len(self.curves)
        h, slope = np.empty_like(q), np.empty_like(q)
        h[:n], slope[:n] = _straightened(self._pipe, q[:n])
        for i, curve in enumerate(self.curves):
            h[n + i], slope[n + i] = curve(q[n + i])
        h[m:], slope[m:] = _straightened(self._emitter, q[m:])
        return h, slope

    def _pipe(self, q: Array) -> tuple[Array, Array]:
        minor, minor_slope = self.minor * q**2, 2 * self.minor * q
        if self.friction == "hazen-williams":
            power = self.resistance * q ** (HAZEN_WILLIAMS_EXPONENT - 1)
            return power * q + minor, HAZEN_WILLIAMS_EXPONENT * power + minor_slope

        def loss(flow: Array) -> Array:
            rho, mu = self.water.density, self.water.viscosity
            return np.asarray(head_loss_darcy_weisbach(flow, self.length, self.bore, self.roughness, rho, mu))

        h, step = loss(q), 1e-6 * q
        return h + minor, (loss(q + step) - h) / step + minor_slope

    def _emitter(self, q: Array) -> tuple[Array, Array]:
        h = self.emitter_r * q**self.emitter_power
        return h, self.emitter_power * h / q


def _straightened(loss, q: Array) -> tuple[Array, Array]:  # type: ignore[no-untyped-def]
    """`loss` for either sign of q, a straight line below the smallest flow worth the name."""
    size = np.abs(q)
    h, slope = loss(np.maximum(size, _SMALL_FLOW))
    line = h / _SMALL_FLOW
    small = size < _SMALL_FLOW
    return np.where(small, line * q, np.sign(q) * h), np.where(small, line, slope)


class _PumpCurve:
    """A pump's curve as a loss: −head(q), smooth and monotone between its points, straight beyond them."""

    def __init__(self, points: tuple[tuple[float, float], ...]) -> None:
        self.flows = np.array([p[0] for p in points])
        self._head = PchipInterpolator(self.flows, [p[1] for p in points])
        self._slope = self._head.derivative()
        self._floor = 1e-3 * (points[0][1] - points[-1][1]) / (self.flows[-1] - self.flows[0])

    def __call__(self, q: float) -> tuple[float, float]:
        inside = float(np.clip(q, self.flows[0], self.flows[-1]))
        slope = max(-float(self._slope(inside)), self._floor)
        return -float(self._head(inside)) + slope * (q - inside), slope


def solve_network(network: Network, water: Water, friction: Friction = "hazen-williams") -> Solution:
    """Flows and heads of a network. Every free node must have a way to a known head.

    Raises `NotSettled` naming the link that still moves, and `HydrarchError` for a node without such a way.
    """
    return Solver(network, water, friction).solve()


class Solver:
    """A network made ready to be solved many times while only its pipes change.

    `resize` gives the pipes other bores, constants and losses, in the order of `network.pipes`. Each solve begins from the
    flows of the one before.
    """

    def __init__(self, network: Network, water: Water, friction: Friction = "hazen-williams") -> None:
        self.network, self.water, self.friction = network, water, friction
        self._links = _Links(network, friction, water)
        ends = [(p.start, p.stop) for p in network.pipes] + [(p.start, p.stop) for p in network.pumps]
        air = {f"{e.id} air": e.elevation for e in network.emitters}
        ends += [(e.node, f"{e.id} air") for e in network.emitters]
        self._known = {**network.heads, **air}
        self._free = [n for n in dict.fromkeys(chain.from_iterable(ends)) if n not in self._known]
        self._graph = _Graph(ends, self._free, self._known)
        self._demand = (
            np.array([network.demands.get(n, 0.0) for n in self._free]) if network.demands else np.zeros(len(self._free))
        )
        self._count = len(ends)
        self._last: Array | None = None

    def resize(self, bore: Array, hazen_williams_c: Array, roughness: Array, minor: Array) -> None:
        """Give the pipes other bores (m), constants, roughness (m) and sums of loss coefficients."""
        self._links.resize(bore, hazen_williams_c, roughness, minor)

    def solve(self) -> Solution:
        """Flows and heads; raises as `solve_network` does."""
        if self.network.regulators:
            return self._regulated()
        if not self._count:
            return Solution({}, dict(self.network.heads), 0, 0.0, ())
        links, graph = self._links, self._graph
        q = links.start_flows() if self._last is None else self._last
        shut = np.zeros(self._count, dtype=bool)
        heads = np.zeros(len(self._free))
        total = 0
        for _ in range(50):
            q, heads, steps = _newton(links, graph, self._demand, q, shut, total)
            total += steps
            change = _switch(links, graph, heads, q, shut)
            if not change.any():
                break
            shut = shut ^ change
            q[change] = 0.0
        else:
            raise NotSettled(links.ids[int(np.argmax(change))], total)
        h, _slope = links.losses(q)
        residual = np.where(shut, 0.0, h - graph.drop(heads))
        flows = np.where(shut, 0.0, q)
        self._last = None if shut.any() else np.where(np.abs(q) > _SMALL_FLOW, q, 1e-5)
        return Solution(
            flows=dict(zip(links.ids, flows.tolist(), strict=True)),
            heads={**self.network.heads, **dict(zip(self._free, heads.tolist(), strict=True))},
            steps=total,
            residual=float(np.max(np.abs(residual), initial=0.0)),
            shut=tuple(links.ids[i] for i in np.flatnonzero(shut)),
        )

    def _regulated(self) -> Solution:
        """Try each regulator holding its head, open, or shut, until none wants to change.

        Holding: the node beyond is a known head, and the node before gives what flows out of it. Open: a short wide pipe.
        """
        states = {r.id: "open" for r in self.network.regulators}
        passes = {r.id: 0.0 for r in self.network.regulators}
        total = 0
        for _ in range(60):
            found = self._with(states, passes)
            total += found.steps
            moved = 0.0
            changed = False
            for r in self.network.regulators:
                out = _outflow(self.network, found, r)
                if states[r.id] == "open":
                    out = found.flows[r.id]
                moved = max(moved, abs(out - passes[r.id]))
                before = found.heads.get(r.start, r.head)
                wanted = _state(states[r.id], before, found.heads.get(r.stop, r.head), r, out)
                changed = changed or wanted != states[r.id]
                states[r.id], passes[r.id] = wanted, out if wanted != "shut" else 0.0
            if not changed and moved <= 1e-9 + 1e-7 * max(map(abs, passes.values())):
                flows = {**found.flows, **passes}
                return Solution(flows, found.heads, total, found.residual, found.shut)
        raise NotSettled(next(iter(passes)), total)

    def _with(self, states: dict[str, str], passes: dict[str, float]) -> Solution:
        heads, demands = dict(self.network.heads), dict(self.network.demands)
        pipes = [
            replace(p, bore=b, hazen_williams_c=c, roughness=e, minor=k)
            for p, b, c, e, k in zip(self.network.pipes, *self._links.given(), strict=True)
        ]
        for r in self.network.regulators:
            if states[r.id] == "open":
                pipes.append(
                    PipeLink(r.id, r.start, r.stop, 0.2, 0.025, one_way=True)
                )  # a body that loses a little, so that the sum stays well posed
            elif states[r.id] == "holding":
                heads[r.stop] = r.head
                demands[r.start] = demands.get(r.start, 0.0) + passes[r.id]
            else:
                pipes.append(PipeLink(r.id, r.start, r.stop, 1e6, 1e-3))
        return Solver(
            Network(heads, demands, tuple(pipes), self.network.pumps, self.network.emitters), self.water, self.friction
        ).solve()


def _outflow(network: Network, found: Solution, r: Regulator) -> float:
    """What leaves the node beyond a regulator by all other links."""
    out = network.demands.get(r.stop, 0.0)
    links: tuple[PipeLink | PumpLink, ...] = (*network.pipes, *network.pumps)
    for link in links:
        out += found.flows[link.id] * ((link.start == r.stop) - (link.stop == r.stop))
    return out + sum(found.flows[e.id] for e in network.emitters if e.node == r.stop)


def _state(now: str, before: float, beyond: float, r: Regulator, flow: float) -> str:
    """What a regulator wants to be next, from the heads (m) on its two sides and the flow through it."""
    if now == "open":
        return "holding" if beyond > r.head + 1e-6 and flow > 1e-9 else "open"
    if now == "shut":
        return "open" if beyond < min(before, r.head) - 1e-6 else "shut"
    if flow < -1e-9:
        return "shut"
    return "open" if before < r.head - 1e-6 else "holding"


class _Graph:
    """Which links meet at which free nodes, with the pattern of the head matrix worked out once."""

    def __init__(self, ends: list[tuple[str, str]], free: list[str], known: dict[str, float]) -> None:
        self.nodes = len(free)
        place = dict.fromkeys(known, -1) | dict(zip(free, range(self.nodes), strict=True))
        both_ends = np.fromiter(map(place.__getitem__, chain.from_iterable(ends)), dtype=np.int64, count=2 * len(ends))
        self.start, self.stop = both_ends.reshape(-1, 2).T
        self.fixed = np.zeros(len(ends))
        for link in np.flatnonzero((self.start < 0) | (self.stop < 0)):
            a, b = ends[link]
            self.fixed[link] = known.get(a, 0.0) - known.get(b, 0.0)
        self._from = np.where(self.start < 0, self.nodes, self.start)  # all known heads share one place beyond the free nodes
        self._to = np.where(self.stop < 0, self.nodes, self.stop)
        i, j = self.start, self.stop
        both, links = (i >= 0) & (j >= 0), np.arange(len(ends))
        rows = np.concatenate([i[i >= 0], j[j >= 0], i[both], j[both]])
        columns = np.concatenate([i[i >= 0], j[j >= 0], j[both], i[both]])
        self._link = np.concatenate([links[i >= 0], links[j >= 0], links[both], links[both]])
        single, double = int(np.sum(i >= 0) + np.sum(j >= 0)), 2 * int(np.sum(both))
        self._sign = np.concatenate([np.ones(single), -np.ones(double)])
        pattern = csc_array((np.ones(len(rows)), (rows, columns)), shape=(self.nodes, self.nodes))
        pattern.sum_duplicates()
        pattern.sort_indices()
        self._matrix = pattern
        column_of = np.repeat(np.arange(self.nodes), np.diff(pattern.indptr))
        order = column_of.astype(np.int64) * max(self.nodes, 1) + pattern.indices
        self._slot = np.searchsorted(order, columns.astype(np.int64) * max(self.nodes, 1) + rows)

    def matrix(self, conductance: Array) -> csc_array:
        """The head matrix for links of that conductance (m²/s): one object, filled anew each time."""
        entries = np.bincount(self._slot, self._sign * conductance[self._link], minlength=len(self._matrix.indices))
        self._matrix.data = entries.astype(np.float64, copy=False)
        return self._matrix

    def outflow(self, q: Array) -> Array:
        """Net flow out of every free node through the links."""
        away = np.bincount(self._from, q, minlength=self.nodes + 1)
        back = np.bincount(self._to, q, minlength=self.nodes + 1)
        return np.asarray((away - back)[: self.nodes], dtype=np.float64)

    def drop(self, heads: Array) -> Array:
        """Head at a link's start less that at its stop."""
        padded = np.append(heads, 0.0)
        return np.asarray(padded[self.start] - padded[self.stop] + self.fixed)


def _newton(links: _Links, graph: _Graph, demand: Array, q: Array, shut: Flags, before: int) -> tuple[Array, Array, int]:
    """Newton's method for one set of shut links: flows, heads and the number of steps."""
    heads = np.zeros(graph.nodes)
    moved = np.full(q.shape, np.inf)
    any_shut = bool(shut.any())
    for step in range(1, _MOST_STEPS + 1):
        h, slope = links.losses(q)
        if any_shut:
            h, slope = np.where(shut, _SHUT * q, h), np.where(shut, _SHUT, slope)
        if graph.nodes:
            eased = 1 / slope
            right = graph.outflow((h - graph.fixed) * eased - q) - demand
            heads = _factor(graph.matrix(eased)).solve(right)
        wrong = graph.drop(heads) - h
        moved = wrong / slope
        if step > 20:
            moved = moved * 0.5  # an oscillating emitter or pump settles at half steps
        q = q + moved
        if np.sum(np.abs(moved)) <= _TOLERANCE * max(np.sum(np.abs(q)), _ALL_BUT_STILL):
            return q, heads, step
        if step > 3 and np.max(np.abs(wrong)) <= _ROUNDING * max(1.0, np.max(np.abs(heads), initial=0.0)):
            return q, heads, step  # all that still moves is rounding in links of next to no resistance
        if step > _STILL_STEPS and np.sum(np.abs(moved)) <= _NOTHING and np.max(np.abs(wrong)) <= _BALANCED:
            return q, heads, step  # nothing flows, and what moves is rounding
    raise NotSettled(links.ids[int(np.argmax(np.abs(moved)))], before + _MOST_STEPS)


def _factor(matrix: csc_array):  # type: ignore[no-untyped-def]
    try:
        return splu(matrix, permc_spec="MMD_AT_PLUS_A", diag_pivot_thresh=0.0, options={"SymmetricMode": True})
    except RuntimeError as error:
        raise HydrarchError("some part of the network has no way to a source, so its pressure is not known") from error


def _switch(links: _Links, graph: _Graph, heads: Array, q: Array, shut: Flags) -> Flags:
    """The one-way links to shut (water would run back) or to open (pressure would run on)."""
    to_shut = links.one_way & ~shut & (q < -_SMALL_FLOW)
    if not shut.any():
        return np.asarray(to_shut)
    at_rest, _slope = links.losses(np.zeros_like(q))
    to_open = links.one_way & shut & (graph.drop(heads) > at_rest + 1e-6)
    return np.asarray(to_shut | to_open)
