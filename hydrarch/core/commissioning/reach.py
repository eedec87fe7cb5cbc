"""How far a test pump's pressure reaches: to what is connected to it with nothing against it.

A check valve, a preventer or whatever else passes water one way only lets pressure on, never back. Where no one place
reaches the whole section, what stands against it is taken out and its place bridged.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from hydrarch.core.base.graph import Edge, Graph
from hydrarch.core.components.devices import ThreeWay
from hydrarch.core.plan.document import Plan, Point, RunEnd
from hydrarch.core.site.systems import water_at

__all__ = ["Connected", "connected", "shut_ports"]

Node = tuple[str, str]


@dataclass(frozen=True, slots=True)
class Connected:
    """Where the test pump is connected (None: nowhere opens), and the points that are taken out because they stand
    against its pressure, with their places bridged. `whole` is whether all of the section is reached then.
    """

    pump: str | None
    against: tuple[str, ...]
    whole: bool = True


def connected(
    plan: Plan, runs: Sequence[str], edge: set[str], opens: Sequence[Point], plugged: set[str], one_way: set[str]
) -> Connected:
    """Find where a test pump reaches all of the section of these `runs`, which ends at the points `edge`.

    `opens` are the places it may be connected at, the best first; at `plugged` points nothing lets pressure by, at
    `one_way` ones what stays in the line lets it on and not back. The first place that reaches all is taken; where none
    does, the one that reaches most, and what stands against it.
    """
    against: list[str] = []
    while True:
        held = one_way - set(against)
        pump, missing, whole = _best(plan, runs, edge, opens, held, plugged)
        if not missing:
            return Connected(pump, tuple(against), whole)
        against += missing


def _best(
    plan: Plan,
    runs: Sequence[str],
    edge: set[str],
    opens: Sequence[Point],
    held: set[str],
    plugged: set[str],
) -> tuple[str | None, list[str], bool]:
    """The place that reaches most, the one-way things that keep its pressure from the rest, and whether it reaches
    all.
    """

    def at(end: RunEnd) -> Node:
        if end.point in edge or end.point in plugged:
            return end.point, end.id
        if end.point in held:
            port = plan.port(end)
            return end.point, "in" if port is not None and port.way == "in" else "out"
        return water_at(plan, end)

    pockets: dict[Node, int] = {}
    edges = [Edge(r, at(plan.run_by_id[r].a), at(plan.run_by_id[r].b)) for r in runs]
    graph = Graph(edges, [(p, side) for p in held for side in ("in", "out")])
    for number, (nodes, _) in enumerate(graph.parts()):
        pockets |= dict.fromkeys(nodes, number)
    onward: dict[int, set[int]] = {}
    for p in held:
        onward.setdefault(pockets[p, "in"], set()).add(pockets[p, "out"])
    live = {pockets[e.a] for e in edges}
    homes: dict[str, set[int]] = {}
    for node, number in pockets.items():
        homes.setdefault(node[0], set()).add(number)
    by_pocket: dict[frozenset[int], set[int]] = {}
    pump, got = None, set[int]()
    tries: list[tuple[str | None, frozenset[int]]] = [
        (p.id, frozenset(homes[p.id] & live)) for p in opens if p.id in homes
    ]
    for name, home in tries or [(None, frozenset({n})) for n in sorted(live)]:  # a tapping, wherever it reaches most
        if home not in by_pocket:
            by_pocket[home] = _reached(home, onward) & live
        if len(by_pocket[home]) > len(got):  # of equals the first
            pump, got = name, by_pocket[home]
        if got == live:
            break
    missing = [p for p in sorted(held) if pockets[p, "out"] in got and pockets[p, "in"] not in got]
    return pump, missing if live - got else [], live <= got


def _reached(starts: Iterable[int], onward: dict[int, set[int]]) -> set[int]:
    found, left = set(starts), list(starts)
    while left:
        for there in onward.get(left.pop(), set()) - found:
            found.add(there)
            left.append(there)
    return found


def shut_ports(points: Iterable[Point]) -> list[str]:
    """What is done so that pressure reaches all ports of the three-way valves among some things, in words."""
    shut = [p for p in points if isinstance(p.what, ThreeWay) and p.what.shut]
    return [f"set {p.label} so that all its ports are open" for p in shut]
