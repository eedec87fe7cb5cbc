"""What a change of pipe would do to a network that has settled, foreseen from the heads' own equations without solving
again.

About its state a network is a straight one: the reach that changes is taken out of it by one solve with the factors at
hand, and set against what the rest does (Sherman and Morrison). Where flows are fixed and no loop is closed this is
exact; where outlets pass less at less pressure it is good to a share of the change.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Protocol, TypeAlias

import numpy as np

from hydrarch.core.hydraulics.incidence import Incidence
from hydrarch.core.hydraulics.links import Array, Links, Rows, Sizes

__all__ = ["Ahead", "Foreseen", "Foresight", "Part", "nothing_ahead"]

_ROUNDS = 20
_FLOWING = 1e-9  # m³/s
_ROUNDING = 1e-6


@dataclass(frozen=True, slots=True)
class Foreseen:
    """What is foreseen: by how much the heads of the free nodes (m) and the flows of the links (m³/s) change; None
    where none does.
    """

    heads: Array | None
    flows: Array | None


Part: TypeAlias = tuple[Rows, Sizes]
"""Pipes, given by their numbers and joined end to end, with other sizes for them."""


class Ahead(Protocol):
    """Tells what changes would do."""

    def changes(self, parts: Sequence[Part]) -> list[Foreseen | None]:
        """What each of these changes alone would do; None where that cannot be foreseen."""


class _Nothing:
    def changes(self, parts: Sequence[Part]) -> list[Foreseen | None]:
        return [None] * len(parts)


def nothing_ahead() -> Ahead:
    """Foresees nothing."""
    return _Nothing()


class Foresight:
    """A settled network: the flow of every link (m³/s), the head it loses (m), and the slope of that (s/m²)."""

    def __init__(self, links: Links, incidence: Incidence, q: Array, lost: Array, slope: Array) -> None:
        self._links, self._incidence, self._q, self._lost, self._slope = links, incidence, q, lost, slope
        self._factors = incidence.factors(1 / slope)

    def changes(self, parts: Sequence[Part]) -> list[Foreseen | None]:
        """As `Ahead`."""
        found: list[Foreseen | None] = [None] * len(parts)
        asked: list[int] = []
        ends: list[tuple[int, int]] = []
        for i, (pipes, _) in enumerate(parts):
            carried = np.abs(self._q[pipes])
            flow = float(carried.max(initial=0.0))
            if flow < _FLOWING:
                found[i] = Foreseen(None, None)
            elif (between := self._ends(pipes)) is not None and np.ptp(carried) <= _ROUNDING * flow:
                asked.append(i)
                ends.append(between)
        for i, foreseen in zip(asked, self._work_out([parts[i] for i in asked], ends), strict=True):
            found[i] = foreseen
        return found

    def drawn(self, nodes: Rows) -> Array:
        """How the heads of the free nodes (m, a row for each) change for each m³/s more that is drawn at each of these
        nodes.
        """
        right = np.zeros((self._incidence.nodes, len(nodes)))
        right[nodes, np.arange(len(nodes))] = -1.0
        return np.asarray(self._factors.solve(right))

    def _work_out(self, parts: list[Part], ends: list[tuple[int, int]]) -> list[Foreseen | None]:
        count = len(parts)
        if not count:
            return []
        pipes = np.concatenate([p for p, _ in parts])
        of = np.repeat(np.arange(count), [len(p) for p, _ in parts])
        bore, c, roughness, minor = (np.concatenate(x) for x in zip(*(s for _, s in parts), strict=True))
        sizes = bore, c, roughness, minor
        right = np.zeros((self._incidence.nodes + 1, count))  # with a row for known heads, which stay
        columns = np.arange(count)
        up, down = np.array(ends, dtype=np.int64).T
        right[up, columns] += 1.0
        right[down, columns] -= 1.0
        toward = np.zeros_like(right)
        toward[:-1] = self._factors.solve(right[:-1])
        toward[-1] = 0.0
        meets = (
            toward[up, columns] - toward[down, columns]
        )  # s/m²: what the whole network sets against a flow from end to end
        flow = np.zeros(count)
        np.maximum.at(flow, of, np.abs(self._q[pipes]))
        before = _sums(of, np.abs(self._lost[pipes]), count)
        meets = np.maximum(meets, 1e-30)
        rest = 1 / meets - 1 / _sums(of, self._slope[pipes], count)  # m²/s: what goes round, or is spared beyond
        rest = np.where(rest > _ROUNDING / meets, rest, 0.0)
        passes, lost = _meet(self._links.part(pipes, sizes), of, flow, before, rest)
        heads = np.ascontiguousarray((toward[:-1] * ((lost - before) / meets)).T)
        found: list[Foreseen | None] = []
        for i, (mine, _) in enumerate(parts):
            if rest[i] == 0:
                found.append(Foreseen(heads[i], None))
                continue
            more = self._incidence.along(heads[i]) / self._slope
            more[mine] = np.sign(self._q[mine]) * (passes[i] - flow[i])
            found.append(Foreseen(heads[i], more))
        return found

    def _ends(self, pipes: Rows) -> tuple[int, int] | None:
        """The node at which the water comes to these pipes and that at which it leaves them, -1 for a known head; None
        if several.
        """
        start, stop = self._incidence.start[pipes], self._incidence.stop[pipes]
        forward = self._q[pipes] >= 0
        ups, downs = np.where(forward, start, stop).tolist(), np.where(forward, stop, start).tolist()
        if len(ups) == 1:
            return ups[0], downs[0]
        comes, leaves = set(ups) - set(downs), set(downs) - set(ups)
        one, two = (sorted(x - {-1}) for x in (comes, leaves))
        if len(one) > 1 or len(two) > 1:
            return None
        return one[0] if one else -1, two[0] if two else -1


def _meet(pipes: Links, of: Rows, flow: Array, before: Array, rest: Array) -> tuple[Array, Array]:
    """The flows (m³/s) and heads lost (m) at which changed pipes and the rest agree: it gives up `rest` m²/s of flow.

    `of` says of which change each pipe is; where `rest` is zero the flow stays.
    """

    def lose(q: Array) -> tuple[Array, Array]:
        h, slope = pipes.losses(q[of])
        return _sums(of, h, len(flow)), _sums(of, slope, len(flow))

    h, slope = lose(flow)
    gives = rest > 0
    if not gives.any():
        return flow, h
    eased = np.where(gives, rest, 1.0)
    q = flow
    for _ in range(_ROUNDS):
        step = np.where(gives, (before + (flow - q) / eased - h) / (slope + 1 / eased), 0.0)
        q = np.maximum(q + step, q / 4)
        h, slope = lose(q)
        if (np.abs(step) <= _ROUNDING * flow).all():
            break
    return q, h


def _sums(of: Rows, values: Array, count: int) -> Array:
    return np.asarray(np.bincount(of, values, count), dtype=np.float64)
