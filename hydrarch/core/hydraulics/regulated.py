"""A network with pressure regulators: which of them hold, stand open or are shut, tried until none wants to change."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from typing import Literal, TypeAlias

import numpy as np

from hydrarch.core.hydraulics.foresight import Foreseen, Part
from hydrarch.core.hydraulics.links import Array, Friction, PipeLink, RegulatorLink, Rows, Sizes
from hydrarch.core.hydraulics.network import Network, NotSettled, Solution, Solver
from hydrarch.core.hydraulics.water import Water

__all__ = ["Regulated", "make_solver", "solve_network"]

State: TypeAlias = Literal["open", "holding", "shut"]
_TRIES = 60
_OPEN = {"length": 0.2, "bore": 0.025, "one_way": True}  # a body that loses a little, so that the sum stays well posed
_SHUT = {"length": 1e6, "bore": 1e-3}


def solve_network(network: Network, water: Water, friction: Friction = "hazen-williams") -> Solution:
    """Flows and heads of a network. Every free node must have a way to a known head.

    Raises `NotSettled` naming the link that still moves, and `HydrarchError` for a node without such a way.
    """
    return make_solver(network, water, friction).solve()


def make_solver(network: Network, water: Water, friction: Friction = "hazen-williams") -> Solver | Regulated:
    """A network made ready to be solved many times while only its pipes change."""
    return Regulated(network, water, friction) if network.regulators else Solver(network, water, friction)


class _Way:
    """A network with each of its regulators in one state.

    Holding: the node beyond is a known head, and the node before gives what flows out of it. Open: a short wide pipe.
    """

    def __init__(
        self, network: Network, states: tuple[State, ...], nodes: Sequence[str], water: Water, friction: Friction
    ) -> None:
        heads, pipes = dict(network.heads), list(network.pipes)
        holding = []
        for r, state in zip(network.regulators, states, strict=True):
            if state == "holding":
                heads[r.stop] = r.head
                holding.append(r)
            else:
                pipes.append(PipeLink(r.id, r.start, r.stop, **(_OPEN if state == "open" else _SHUT)))  # type: ignore[arg-type]
        self.solver = Solver(replace(network, heads=heads, pipes=tuple(pipes), regulators=()), water, friction)
        added = pipes[len(network.pipes) :]
        self._added = np.array([(p.bore, p.hazen_williams_c, p.roughness, p.minor) for p in added]).reshape(-1, 4)
        self.places = np.array([self.solver.place(n) for n in nodes], dtype=np.int64)
        self._known = np.array([heads.get(n, 0.0) for n in nodes])
        row = {name: i for i, name in enumerate(self.solver.links.ids)}
        self.row = {r.id: row[r.id] for r in network.regulators if r.id in row}
        own = [*(p.id for p in network.pipes), *(p.id for p in network.pumps), *(e.id for e in network.emitters)]
        self.own = np.array([row[name] for name in own], dtype=np.int64)
        self.holding = tuple((at, r.head) for r in holding if (at := self.solver.place(r.start)) >= 0)

    def resize(self, sizes: Sizes) -> None:
        """Give the network's own pipes other sizes."""
        bore, c, roughness, minor = (np.concatenate(x) for x in zip(sizes, self._added.T, strict=True))
        self.solver.resize((bore, c, roughness, minor))

    def heads(self, found: Solution) -> Array:
        """The heads of the network's own free nodes."""
        inner = found.h[np.maximum(self.places, 0)] if len(found.h) else np.zeros(len(self.places))
        return np.asarray(np.where(self.places >= 0, inner, self._known), dtype=np.float64)


class Regulated:
    """As `Solver`, for a network with regulators. Each solve begins from the states of the one before."""

    def __init__(self, network: Network, water: Water, friction: Friction = "hazen-williams") -> None:
        self.network, self.water, self.friction = network, water, friction
        self._plain = Solver(replace(network, regulators=()), water, friction)
        self._ids = (*self._plain.links.ids, *(r.id for r in network.regulators))
        self._beyond = [self._leaving(r) for r in network.regulators]
        self._ways: dict[tuple[State, ...], _Way] = {}
        self._sizes: Sizes | None = None
        self._times: Array | None = None
        self._states = self._all_open()
        self._passes = [0.0] * len(network.regulators)

    def _all_open(self) -> tuple[State, ...]:
        return tuple("open" for _ in self.network.regulators)

    def _leaving(self, r: RegulatorLink) -> tuple[Rows, Array, float, tuple[int, ...]]:
        """The links that meet beyond a regulator and their way out of there, what is drawn, and the regulators that
        begin there.
        """
        n = self.network
        ends = (
            [(p.start, p.stop) for p in n.pipes]
            + [(p.start, p.stop) for p in n.pumps]
            + [(e.node, "") for e in n.emitters]
        )
        out = np.array([(start == r.stop) - (stop == r.stop) for start, stop in ends], dtype=np.float64)
        links = np.flatnonzero(out)
        return (
            links,
            out[links],
            n.demands.get(r.stop, 0.0),
            tuple(i for i, x in enumerate(n.regulators) if x.start == r.stop),
        )

    def place(self, node: str) -> int:
        """Where a node's head is in a solution's `h`; -1 for a known head."""
        return self._plain.place(node)

    def resize(self, sizes: Sizes) -> None:
        """Give the pipes other sizes."""
        self._sizes = sizes

    def ease(self, times: Array) -> None:
        """Let each emitter pass so many times what it was made for, from now on."""
        self._times = times

    def solve(self) -> Solution:
        """Flows and heads; raises as `solve_network` does."""
        found = self._try()
        if found is None:  # from other states it may come to rest
            self._states = self._all_open()
            self._passes = [0.0] * len(self._states)
            found = self._try()
        if found is None:
            raise NotSettled(self.network.regulators[0].id, _TRIES)
        return found

    def _try(self) -> Solution | None:
        regulators, total = self.network.regulators, 0
        for _ in range(_TRIES):
            way = self._with(self._states)
            drawn: dict[str, float] = {}
            for r, state, flow in zip(regulators, self._states, self._passes, strict=True):
                if state == "holding":
                    drawn[r.start] = drawn.get(r.start, 0.0) + flow
            way.solver.draw(drawn)
            found = way.solver.solve()
            total += found.steps
            q, heads = found.q[way.own], found.heads
            passes = [self._passing(i, way, q, found) for i in range(len(regulators))]
            wanted = tuple(
                _state(state, heads.get(r.start, r.head), heads.get(r.stop, r.head), r, flow)
                for r, state, flow in zip(regulators, self._states, passes, strict=True)
            )
            moved = max(abs(now - then) for now, then in zip(passes, self._passes, strict=True))
            settled = wanted == self._states and moved <= 1e-9 + 1e-7 * max(map(abs, passes))
            self._states = wanted
            self._passes = [0.0 if state == "shut" else flow for state, flow in zip(wanted, passes, strict=True)]
            if settled:
                return self._solution(way, found, total)
        return None

    def _solution(self, way: _Way, found: Solution, steps: int) -> Solution:
        q = np.concatenate([found.q[way.own], self._passes])
        return Solution(
            self._ids,
            q,
            self._plain.nodes,
            way.heads(found),
            self.network.heads,
            steps,
            found.residual,
            found.lost[way.own],
            found.shut,
            lambda: _Held(way, found),
        )

    def _with(self, states: tuple[State, ...]) -> _Way:
        way = self._ways.get(states)
        if way is None:
            way = self._ways[states] = _Way(self.network, states, self._plain.nodes, self.water, self.friction)
        if self._sizes is not None:
            way.resize(self._sizes)
        if self._times is not None:
            way.solver.ease(self._times)
        return way

    def _passing(self, number: int, way: _Way, q: Array, found: Solution) -> float:
        """What passes a regulator now: beyond one that stands open its own flow, else what leaves there by all other
        ways.
        """
        r = self.network.regulators[number]
        if self._states[number] == "open":
            return float(found.q[way.row[r.id]])
        links, out, drawn, next_ones = self._beyond[number]
        return drawn + float(q[links] @ out) + sum(self._passes[i] for i in next_ones)


class _Held:
    """Foresees, while the regulators that hold go on doing so."""

    def __init__(self, way: _Way, found: Solution) -> None:
        self._way, self._heads, self._foresight = way, found.h, found.foresight()

    def changes(self, parts: Sequence[Part]) -> list[Foreseen | None]:
        """As `Ahead`; None where one of them would hold no longer."""
        return [self._outside(x) for x in self._foresight.changes(parts)]

    def _outside(self, foreseen: Foreseen | None) -> Foreseen | None:
        way = self._way
        if foreseen is None or foreseen.heads is None:
            return foreseen
        if any(self._heads[at] + foreseen.heads[at] < head for at, head in way.holding):
            return None
        heads = np.where(way.places >= 0, foreseen.heads[np.maximum(way.places, 0)], 0.0)
        return Foreseen(heads, None if foreseen.flows is None else foreseen.flows[way.own])


def _state(now: State, before: float, beyond: float, r: RegulatorLink, flow: float) -> State:
    """What a regulator wants to be next, from the heads (m) on its two sides and the flow through it."""
    if now == "open":
        return "holding" if beyond > r.head + 1e-6 and flow > 1e-9 else "open"
    if now == "shut":
        return "open" if beyond < min(before, r.head) - 1e-6 else "shut"
    if flow < -1e-9:
        return "shut"
    return "open" if before < r.head - 1e-6 else "holding"
