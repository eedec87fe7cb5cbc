"""The network solver: global gradient (Newton on flows and heads together) with sparse factorisations.

Unknowns are the flow of every link and the head of every free node. Each link obeys head(from) − head(to) = h(q);
each free node passes on what it takes in. One step solves a symmetric positive definite system in the heads (Todini
and Pilati, 1988). Works on loops, trees, dead ends and links with exactly no flow.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property
from itertools import chain
from typing import TypeAlias

import numpy as np
from numpy.typing import NDArray

from hydrarch.core.base.errors import HydrarchError
from hydrarch.core.hydraulics.foresight import Ahead, Foresight, nothing_ahead
from hydrarch.core.hydraulics.incidence import Incidence
from hydrarch.core.hydraulics.links import (
    SMALL_FLOW,
    Array,
    Emitter,
    Friction,
    Links,
    PipeLink,
    PumpLink,
    RegulatorLink,
    Sizes,
)
from hydrarch.core.hydraulics.water import Water

__all__ = [
    "NO_WATER",
    "Emitter",
    "Network",
    "NotSettled",
    "RunsDry",
    "PipeLink",
    "PumpLink",
    "RegulatorLink",
    "Solution",
    "Solver",
]

Flags: TypeAlias = NDArray[np.bool_]

_SHUT = 1e9  # s/m²: slope of a link that is shut; 100 m of head leaks 0.1 mL/s through it
_TOLERANCE = 1e-9
_ALL_BUT_STILL = 1e-3  # m³/s: the total flow below which the tolerance is absolute, a nanolitre a second
_ROUNDING = 1e-11  # share of the heads below which an imbalance is rounding
_STILL_STEPS, _NOTHING, _BALANCED = 12, 1e-8, 1e-6
"""After so many steps a line in which less than 0.01 mL/s moves in all (m³/s) is at rest, its heads balanced to a
micrometre (m)."""
_NO_HEAD, _UNBALANCED = 1e6, 1e-3
"""m: where heads are beyond what any line stands at, and their imbalance is more than rounding, the equations have no
answer."""
_MOST_STEPS = 100


class NotSettled(HydrarchError):
    """The network did not settle in `steps` steps; `link` is the one that is still moving most."""

    def __init__(self, link: str, steps: int) -> None:
        self.link, self.steps = link, steps
        super().__init__(f"the flows did not settle in {steps} steps; the one at {link} is still moving")


class RunsDry(HydrarchError):
    """A node came to no more than the head it was to stay above."""

    def __init__(self, node: str) -> None:
        super().__init__(f"no pressure is left at {node}")


@dataclass(frozen=True, slots=True)
class Network:
    """Nodes with known heads (m), demands (m³/s), and links between nodes."""

    heads: dict[str, float]
    demands: dict[str, float]
    pipes: tuple[PipeLink, ...] = ()
    pumps: tuple[PumpLink, ...] = ()
    emitters: tuple[Emitter, ...] = ()
    regulators: tuple[RegulatorLink, ...] = ()


_EMPTY: Array = np.zeros(0)


class Solution:
    """Flows (m³/s, positive from start to stop) and heads (m); `residual` (m) is the worst energy imbalance.

    `q` and `h` hold the same as arrays: of links, pipes first and as given, and of the free nodes; `lost` what each
    link loses (m). `foresight` makes ready what tells what other pipe would do.
    """

    def __init__(
        self,
        ids: Sequence[str],
        q: Array,
        nodes: Sequence[str],
        h: Array,
        known: dict[str, float],
        steps: int,
        residual: float,
        lost: Array = _EMPTY,
        shut: tuple[str, ...] = (),
        foresight: Callable[[], Ahead] = nothing_ahead,
    ) -> None:
        self._ids, self._nodes, self._known = ids, nodes, known
        self.q, self.h, self.steps, self.residual, self.lost, self.shut = q, h, steps, residual, lost, shut
        self.foresight = foresight

    @cached_property
    def flows(self) -> dict[str, float]:
        """Flow by link."""
        return dict(zip(self._ids, self.q.tolist(), strict=True))

    @cached_property
    def heads(self) -> dict[str, float]:
        """Head by node."""
        return {**self._known, **dict(zip(self._nodes, self.h.tolist(), strict=True))}


NO_WATER = Solution((), np.zeros(0), (), np.zeros(0), {}, 0, 0.0)
"""Of a network that did not settle."""


class Solver:
    """A network made ready to be solved many times while only its pipes change.

    `resize` gives the pipes other bores, constants and losses, in the order of `network.pipes`. Each solve begins from
    the flows of the one before.
    """

    def __init__(self, network: Network, water: Water, friction: Friction = "hazen-williams") -> None:
        self.network, self.water, self.friction = network, water, friction
        self.links = Links(network.pipes, network.pumps, network.emitters, friction, water)
        self._emitter_r = self.links.emitter_r
        ends = [(p.start, p.stop) for p in network.pipes] + [(p.start, p.stop) for p in network.pumps]
        air = {f"{e.id} air": e.elevation for e in network.emitters}
        ends += [(e.node, f"{e.id} air") for e in network.emitters]
        self._known = {**network.heads, **air}
        self.nodes = [n for n in dict.fromkeys(chain.from_iterable(ends)) if n not in self._known]
        self._incidence = Incidence(ends, self.nodes, self._known)
        self._demand = (
            np.array([network.demands.get(n, 0.0) for n in self.nodes])
            if network.demands
            else np.zeros(len(self.nodes))
        )
        self._count = len(ends)
        self._places = {n: i for i, n in enumerate(self.nodes)}
        self._more = np.zeros(len(self.nodes))
        self._last: Array | None = None

    def resize(self, sizes: Sizes) -> None:
        """Give the pipes other sizes."""
        self.links.resize(sizes)

    def ease(self, times: Array) -> None:
        """Let each emitter pass so many times what it was made for, from now on."""
        self.links.emitter_r = self._emitter_r * times**-self.links.emitter_power

    def draw(self, more: Mapping[str, float]) -> None:
        """Draw so much more (m³/s) at some nodes from now on; nothing more at any other."""
        self._more = np.zeros(len(self.nodes))
        for name, flow in more.items():
            if name in self._places:
                self._more[self._places[name]] = flow

    def stand(self, heads: Mapping[str, float]) -> None:
        """Let some of the nodes with known heads stand at others (m) from now on."""
        self._known |= heads
        self._incidence.stand(self._known)

    def solve(self, dry: Mapping[str, float] | None = None) -> Solution:
        """Flows and heads. Raises `NotSettled`, `RunsDry` as soon as it shows that one of the `dry` nodes comes to no
        more than its head (m), and `HydrarchError` for a node with no way to a known head.
        """
        if not self._count:
            return Solution((), np.zeros(0), (), np.zeros(0), dict(self.network.heads), 0, 0.0)
        links, incidence = self.links, self._incidence
        q = links.start_flows() if self._last is None else self._last
        shut = np.zeros(self._count, dtype=bool)
        heads = np.zeros(len(self.nodes))
        total = 0
        for _ in range(50):
            q, heads, steps = _newton(links, incidence, self._demand + self._more, q, shut, total)
            total += steps
            change = _switch(links, incidence, heads, q, shut)
            if not change.any():
                break
            by_air_alone = not shut.any() and not change[: self._count - len(self._emitter_r)].any()
            for name, head in (dry or {}).items() if by_air_alone else ():
                if name in self._places and heads[self._places[name]] <= head:
                    raise RunsDry(name)  # what would run in by emitters holds heads up: without it they are lower still
            shut = shut ^ change
            q[change] = 0.0
        else:
            raise NotSettled(links.ids[int(np.argmax(change))], total)
        h, slope = links.losses(q)
        residual = np.where(shut, 0.0, h - incidence.drop(heads))
        flows = np.where(shut, 0.0, q)
        self._last = None if shut.any() else np.where(np.abs(q) > SMALL_FLOW, q, 1e-5)
        worst = float(np.max(np.abs(residual), initial=0.0))
        if (
            worst > _UNBALANCED and np.max(np.abs(heads), initial=0.0) > _NO_HEAD
        ):  # nothing holds this water at any level
            raise NotSettled(links.ids[int(np.argmax(np.abs(residual)))], total)
        gone = tuple(links.ids[i] for i in np.flatnonzero(shut)) if shut.any() else ()

        def foresight() -> Foresight:
            return Foresight(links, incidence, flows, h, np.where(shut, _SHUT, slope))

        return Solution(
            links.ids,
            flows,
            self.nodes,
            heads,
            self.network.heads,
            total,
            worst,
            np.where(shut, 0.0, h),
            gone,
            foresight,
        )

    def place(self, node: str) -> int:
        """Where a node's head is in a solution's `h`; -1 for a known head."""
        return self._places.get(node, -1)


def _newton(
    links: Links, incidence: Incidence, demand: Array, q: Array, shut: Flags, before: int
) -> tuple[Array, Array, int]:
    """Newton's method for one set of shut links: flows, heads and the number of steps."""
    heads = np.zeros(incidence.nodes)
    moved = np.full(q.shape, np.inf)
    any_shut = bool(shut.any())
    for step in range(1, _MOST_STEPS + 1):
        h, slope = links.losses(q)
        if any_shut:
            h, slope = np.where(shut, _SHUT * q, h), np.where(shut, _SHUT, slope)
        if incidence.nodes:
            eased = 1 / slope
            right = incidence.outflow((h - incidence.fixed) * eased - q) - demand
            heads = incidence.factors(eased).solve(right)
        wrong = incidence.drop(heads) - h
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


def _switch(links: Links, incidence: Incidence, heads: Array, q: Array, shut: Flags) -> Flags:
    """The one-way links to shut (water would run back) or to open (pressure would run on)."""
    to_shut = links.one_way & ~shut & (q < -SMALL_FLOW)
    if not shut.any():
        return np.asarray(to_shut)
    at_rest, _slope = links.losses(np.zeros_like(q))
    to_open = links.one_way & shut & (incidence.drop(heads) > at_rest + 1e-6)
    return np.asarray(to_shut | to_open)
