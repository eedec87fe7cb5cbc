"""Low-head drainage: what runs out of the lowest head each time its valve shuts, until the pipe above it is empty."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from math import pi

from hydrarch.core.base.graph import Edge, Graph
from hydrarch.core.base.messages import tell
from hydrarch.core.base.problems import Problem, declare
from hydrarch.core.catalogue.pipes import Pipe
from hydrarch.core.components.devices import CheckValve, Valve
from hydrarch.core.components.outlets import Sprinkler
from hydrarch.core.plan.document import Plan
from hydrarch.core.site.layout import Layout
from hydrarch.core.site.risers import mouth_level

__all__ = ["drained", "lowhead_problems"]

declare("size", "low-head")

_LEAST = 2e-3
"""m³ that run out below which nobody minds; from memory."""


def drained(plan: Plan, lay: Layout, pipes: Mapping[str, Pipe]) -> Iterator[tuple[str, float]]:
    """Of each stretch of pipe between valves that feeds heads: its lowest head that holds nothing back, and what runs
    out there (m³).
    """
    stops = {p.id for p in plan.of_kind(Valve, CheckValve)} | {p.id for p in plan.sources}

    def at(point: str, end: str) -> str:
        return f"{point} {end}" if point in stops else point

    graph = Graph(Edge(r.id, at(r.a.point, r.a.id), at(r.b.point, r.b.id), 1.0) for r in plan.runs if r.id in lay.lines)
    for nodes, edges in graph.parts():
        heads = [plan.by_id[n] for n in nodes if n in plan.by_id and isinstance(plan.by_id[n].what, Sprinkler)]
        if not heads or not edges:
            continue
        free = [(mouth_level(p) + p.what.check, p) for p in heads if isinstance(p.what, Sprinkler)]
        low, lowest = min(free, key=lambda f: (f[0], f[1].id))
        volume = 0.0
        for edge in edges:
            line, item = lay.lines[edge.name], pipes.get(edge.name)
            if item is None:
                continue
            ends = sorted(lay.places[p][2] for p in (line.a, line.b))
            above = 1.0 if ends[0] >= low else 0.0 if ends[1] <= low else (ends[1] - low) / (ends[1] - ends[0])
            volume += above * line.length * pi * item.bore**2 / 4
        yield lowest.id, volume


def lowhead_problems(plan: Plan, lay: Layout, pipes: Mapping[str, Pipe]) -> Iterator[Problem]:
    """The lowest heads at which more than a puddle runs out."""
    for head, volume in drained(plan, lay, pipes):
        if volume >= _LEAST:
            yield tell("low-head", head, plan.units, head=plan.names[head], volume=volume)
