"""One room for all walks over a line: what hangs together, how far it is, and by which way, on SciPy's graph routines.

Nodes and edges are numbered; several edges may join the same two nodes. Of ways and edges alike in length the one drawn
by the smaller name is taken, so that nothing depends on the order of drawing.
"""

from __future__ import annotations

from collections.abc import Hashable, Iterable, Iterator, Sequence
from dataclasses import dataclass
from typing import Generic, TypeVar

import numpy as np
from numpy.typing import NDArray
from scipy.sparse import csr_array
from scipy.sparse.csgraph import connected_components, dijkstra

__all__ = ["Edge", "Graph", "Reach"]

Node = TypeVar("Node", bound=Hashable)


@dataclass(frozen=True, slots=True)
class Edge(Generic[Node]):
    """An edge called `name` between two nodes, `length` above 0 long; a `one_way` one is walked from a to b only."""

    name: str
    a: Node
    b: Node
    length: float = 1.0
    one_way: bool = False


@dataclass(frozen=True, slots=True)
class Reach(Generic[Node]):
    """What is reached from some nodes: how far each is, and for each the edge and node before it on the
    shortest way.
    """

    distance: dict[Node, float]
    before: dict[Node, tuple[str, Node]]

    def way(self, to: Node) -> tuple[str, ...]:
        """The edges of the shortest way to a node, from where it starts; empty where it is not reached or is a
        start.
        """
        found = []
        while to in self.before:
            edge, to = self.before[to]
            found.append(edge)
        return tuple(reversed(found))


class Graph(Generic[Node]):
    """Nodes joined by edges. `nodes` may name some that no edge comes to."""

    def __init__(self, edges: Iterable[Edge[Node]], nodes: Iterable[Node] = ()) -> None:
        self.edges = tuple(edges)
        self._place: dict[Node, int] = dict.fromkeys(nodes, 0)
        for e in self.edges:
            self._place.setdefault(e.a, 0)
            self._place.setdefault(e.b, 0)
        self._nodes: tuple[Node, ...] = tuple(self._place)
        self._place = {n: i for i, n in enumerate(self._nodes)}
        self._shortest: dict[tuple[int, int], Edge[Node]] = {}
        for e in self.edges:
            i, j = self._place[e.a], self._place[e.b]
            for pair in ((i, j),) if e.one_way else ((i, j), (j, i)):
                best = self._shortest.get(pair)
                if i != j and (best is None or (e.length, e.name) < (best.length, best.name)):
                    self._shortest[pair] = e
        pairs = np.array(list(self._shortest), dtype=np.int64).reshape(-1, 2)
        lengths = np.array([e.length for e in self._shortest.values()])
        self._matrix = csr_array((lengths, (pairs[:, 0], pairs[:, 1])), shape=(len(self._nodes), len(self._nodes)))

    def parts(self) -> tuple[tuple[tuple[Node, ...], tuple[Edge[Node], ...]], ...]:
        """What hangs together, whichever way: the nodes and edges of each part, in the order of the first of
        its nodes.
        """
        label = self._labels()
        nodes: dict[int, list[Node]] = {}
        edges: dict[int, list[Edge[Node]]] = {}
        for n, part in zip(self._nodes, label, strict=True):
            nodes.setdefault(int(part), []).append(n)
        for e in self.edges:
            edges.setdefault(int(label[self._place[e.a]]), []).append(e)
        return tuple((tuple(mine), tuple(edges.get(part, ()))) for part, mine in nodes.items())

    def _labels(self) -> NDArray[np.int32]:
        if not self._nodes:
            return np.zeros(0, dtype=np.int32)
        _, label = connected_components(self._matrix, directed=False)
        return np.asarray(label, dtype=np.int32)

    def rings(self) -> Iterator[tuple[str, ...]]:
        """The edges that lie on rings, those of rings that share a node together; in the order they were given."""
        bridges = self._bridges()
        left = [e for e in self.edges if e.name not in bridges and e.a != e.b]
        for _, edges in Graph(left).parts():
            yield tuple(e.name for e in edges)

    def _bridges(self) -> set[str]:
        """The edges without which what hangs together falls apart. Tarjan's lowest links, without recursion."""
        at: dict[Node, list[Edge[Node]]] = {n: [] for n in self._nodes}
        for e in self.edges:
            at[e.a].append(e)
            at[e.b].append(e)
        seen: dict[Node, int] = {}
        low: dict[Node, int] = {}
        found: set[str] = set()
        for root in self._nodes:
            if root in seen:
                continue
            seen[root] = low[root] = len(seen)
            way: list[tuple[Node, str, Iterator[Edge[Node]]]] = [(root, "", iter(at[root]))]
            while way:
                here, by, rest = way[-1]
                for e in rest:
                    there = e.b if e.a == here else e.a
                    if e.name == by:
                        continue
                    if there in seen:
                        low[here] = min(low[here], seen[there])
                        continue
                    seen[there] = low[there] = len(seen)
                    way.append((there, e.name, iter(at[there])))
                    break
                else:
                    way.pop()
                    if way:
                        before = way[-1][0]
                        low[before] = min(low[before], low[here])
                        if low[here] > seen[before]:
                            found.add(by)
        return found

    def from_nodes(self, starts: Sequence[Node]) -> Reach[Node]:
        """How far every node is from the nearest of `starts`, and by which way.

        Starts that are no nodes are passed over.
        """
        places = sorted({self._place[s] for s in starts if s in self._place})
        if not places:
            return Reach({}, {})
        distance = np.asarray(dijkstra(self._matrix, directed=True, indices=places, min_only=True))
        found = {n: float(d) for n, d in zip(self._nodes, distance.tolist(), strict=True) if np.isfinite(d)}
        return Reach(found, self._before(found, {self._nodes[p] for p in places}))

    def _before(self, distance: dict[Node, float], starts: set[Node]) -> dict[Node, tuple[str, Node]]:
        """The edge by which each node is reached: of ways as long, the one whose last edge has the smaller name."""
        best: dict[Node, tuple[str, Node]] = {}
        for (i, j), e in self._shortest.items():
            here, there = self._nodes[i], self._nodes[j]
            if here not in distance or there not in distance or there in starts or distance[here] >= distance[there]:
                continue
            on_way = distance[here] + e.length <= distance[there] * (1 + 1e-12) + 1e-12
            if on_way and (there not in best or e.name < best[there][0]):
                best[there] = (e.name, here)
        return best
