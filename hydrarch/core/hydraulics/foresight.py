"""What a change of pipe would do to a network that has settled, foreseen from the heads' own equations without solving again.

About its state a network is a straight one: the reach that changes is taken out of it by one solve with the factors at hand, and set
against what the rest does (Sherman and Morrison). Where flows are fixed and no loop is closed this is exact; where outlets pass less
at less pressure it is good to a share of the change.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Protocol

import numpy as np

from hydrarch.core.hydraulics.incidence import Incidence
from hydrarch.core.hydraulics.links import Array, Links, Rows, Sizes

__all__ = ["Ahead", "Foreseen", "Foresight", "nothing_ahead"]

_ROUNDS = 20
_FLOWING = 1e-9  # m³/s
_ROUNDING = 1e-6


@dataclass(frozen=True, slots=True)
class Foreseen:
    """What is foreseen: by how much the heads of the free nodes (m) and the flows of the links (m³/s) change; None where none does."""

    heads: Array | None
    flows: Array | None


class Ahead(Protocol):
    """Tells what a change would do."""

    def change(self, pipes: Rows, sizes: Sizes) -> Foreseen | None:
        """What pipes, given by their numbers and joined end to end, would do with other sizes; None where it cannot be foreseen."""


class _Nothing:
    def change(self, pipes: Rows, sizes: Sizes) -> Foreseen | None:
        return None


def nothing_ahead() -> Ahead:
    """Foresees nothing."""
    return _Nothing()


class Foresight:
    """A settled network: the flow of every link (m³/s), the head it loses (m), and the slope of that (s/m²)."""

    def __init__(self, links: Links, incidence: Incidence, q: Array, lost: Array, slope: Array) -> None:
        self._links, self._incidence, self._q, self._lost, self._slope = links, incidence, q, lost, slope
        self._factors = incidence.factors(1 / slope)

    def change(self, pipes: Rows, sizes: Sizes) -> Foreseen | None:
        """As `Ahead`."""
        q = self._q[pipes]
        carried = np.abs(q)
        flow = float(carried.max(initial=0.0))
        if flow < _FLOWING:
            return Foreseen(None, None)
        up, down = self._ends(pipes, q)
        if len(up) > 1 or len(down) > 1 or np.ptp(carried) > _ROUNDING * flow:
            return None
        right = np.zeros(self._incidence.nodes)
        right[up] += 1.0
        right[down] -= 1.0
        toward = np.asarray(self._factors.solve(right), dtype=np.float64)
        meets = float(toward[up].sum() - toward[down].sum())  # s/m²: what the whole network sets against a flow from end to end
        if meets <= 0:
            return None
        before = float(np.abs(self._lost[pipes]).sum())
        rest = 1 / meets - 1 / float(self._slope[pipes].sum())  # m²/s: what goes round, or is spared beyond
        passes, lost = _meet(self._links.part(pipes, sizes), len(pipes), flow, before, rest if rest > _ROUNDING / meets else 0.0)
        heads = toward * ((lost - before) / meets)
        if passes == flow:
            return Foreseen(heads, None)
        more = self._incidence.along(heads) / self._slope
        more[pipes] = np.sign(q) * (passes - flow)
        return Foreseen(heads, more)

    def _ends(self, pipes: Rows, q: Array) -> tuple[Rows, Rows]:
        """The free nodes at which the water comes to these pipes and at which it leaves them."""
        start, stop = self._incidence.start[pipes], self._incidence.stop[pipes]
        ups, downs = np.where(q >= 0, start, stop), np.where(q >= 0, stop, start)
        return np.setdiff1d(ups[ups >= 0], downs), np.setdiff1d(downs[downs >= 0], ups)


def _meet(pipes: Links, count: int, flow: float, before: float, rest: float) -> tuple[float, float]:
    """The flow (m³/s) and head lost (m) at which the changed pipes and the rest agree: it gives up `rest` m²/s of flow."""

    def lose(q: float) -> tuple[float, float]:
        h, slope = pipes.losses(np.full(count, q))
        return float(h.sum()), float(slope.sum())

    h, slope = lose(flow)
    if rest == 0:
        return flow, h
    q = flow
    for _ in range(_ROUNDS):
        step = (before + (flow - q) / rest - h) / (slope + 1 / rest)
        q = max(q + step, q / 4)
        h, slope = lose(q)
        if abs(step) <= _ROUNDING * flow:
            break
    return q, h
