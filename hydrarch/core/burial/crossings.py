"""Where buried pipe crosses other pipe: what lies on what, what is dug by hand, and water below a drain."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from hydrarch.core.base.messages import tell
from hydrarch.core.base.problems import Problem, declare
from hydrarch.core.base.units import show
from hydrarch.core.catalogue.pipes import Pipe
from hydrarch.core.plan.document import Plan
from hydrarch.core.site.layout import Layout

__all__ = ["Crossing", "crossing_problems", "crossings"]

declare("size", "pipes-rest", "crosses-pipe", "water-under-drain")

_RESTS = 0.025
"""m between two pipes below which settling ground lets one rest on the other; an inch, common practice."""
_NEAR = 0.30
"""m between a pipe and one that is there already from which no spade reaches it; a foot, common practice."""
_WATER_ABOVE = 0.30
"""m that drinking water keeps above a drain it crosses: 12 in, plumbing codes, from memory; the local one wins."""
_HEAP = 200_000  # pairs looked at at once


@dataclass(frozen=True, slots=True)
class Crossing:
    """Two buried runs that cross seen from above, `upper` over `lower`, with a `gap` (m) from outside to outside, below
    zero where they would run through each other; at a share of the upper one.
    """

    upper: str
    lower: str
    gap: float
    share: float


def crossings(plan: Plan, lay: Layout, pipes: Mapping[str, Pipe]) -> tuple[Crossing, ...]:
    """Where buried runs cross that do not share an end and are not both there already."""
    runs = [r for r in plan.runs if r.situation == "buried" and not r.coupled and r.id in pipes and r.id in lay.lines]
    if len(runs) < 2:
        return ()
    runs.sort(key=lambda r: min(lay.places[p][0] for p in r.points))
    ends: NDArray[Any] = np.array([[lay.places[p] for p in r.points] for r in runs])
    west, east = ends[:, :, 0].min(axis=1), ends[:, :, 0].max(axis=1)
    south, north = ends[:, :, 1].min(axis=1), ends[:, :, 1].max(axis=1)
    along = ends[:, 1] - ends[:, 0]
    found = []
    for one, other in _pairs(np.searchsorted(west, east, side="right")):
        beside = (south[other] <= north[one]) & (north[other] >= south[one])
        i, j = one[beside], other[beside]
        off, (ux, uy), (vx, vy) = ends[j, 0] - ends[i, 0], along[i, :2].T, along[j, :2].T
        across = ux * vy - uy * vx
        with np.errstate(divide="ignore", invalid="ignore"):  # side by side in one trench they do not cross
            mine, its = (off[:, 0] * vy - off[:, 1] * vx) / across, (off[:, 0] * uy - off[:, 1] * ux) / across
            meet = (np.abs(across) > 1e-12) & (mine >= 0) & (mine <= 1) & (its >= 0) & (its <= 1)
            up = ends[i, 0, 2] + along[i, 2] * mine - ends[j, 0, 2] - along[j, 2] * its
        for n in np.flatnonzero(meet):
            a, b = runs[i[n]], runs[j[n]]
            if set(a.points) & set(b.points) or (a.existing is not None and b.existing is not None):
                continue
            gap = abs(float(up[n])) - (pipes[a.id].outside + pipes[b.id].outside) / 2
            ways = (a.id, b.id, float(mine[n])) if up[n] >= 0 else (b.id, a.id, float(its[n]))
            found.append(Crossing(ways[0], ways[1], gap, ways[2]))
    return tuple(found)


def _pairs(last: NDArray[Any]) -> Iterator[tuple[NDArray[Any], NDArray[Any]]]:
    """The numbers of stretches, put in order by where they begin in the west, that may cross by that: each with those
    after it up to its `last`, in heaps that fit into memory.
    """
    counts = last - np.arange(1, len(last) + 1)
    begin, heap = 0, 0
    for n, count in enumerate(counts):
        heap += int(count)
        if heap > _HEAP or n == len(counts) - 1:
            rows = np.arange(begin, n + 1)
            i = np.repeat(rows, counts[begin : n + 1])
            step = np.arange(len(i)) - np.repeat(
                np.cumsum(counts[begin : n + 1]) - counts[begin : n + 1], counts[begin : n + 1]
            )
            yield i, i + 1 + step
            begin, heap = n + 1, 0


def crossing_problems(plan: Plan, lay: Layout, pipes: Mapping[str, Pipe]) -> Iterator[Problem]:
    """Pipe that would rest on other pipe, new pipe that crosses old, and drinking water that crosses under a drain."""
    names = plan.names
    for c in crossings(plan, lay, pipes):
        upper, lower = plan.run_by_id[c.upper], plan.run_by_id[c.lower]
        new = upper if upper.existing is None else lower
        (a, b), (x, y) = ([names[p] for p in r.points] for r in (upper, lower))
        at = f"{show(c.share * lay.lines[c.upper].length, 'length', plan.units)} from {a}"
        if c.gap < _RESTS:
            key = "pipes-rest" if c.gap >= 0 else "pipes-rest/through"
            yield tell(key, new.id, plan.units, gap=abs(c.gap), least=_RESTS, a=a, b=b, c=x, d=y, at=at)
        elif c.gap < _NEAR and (upper.existing is not None or lower.existing is not None):
            yield tell("crosses-pipe", new.id, plan.units, gap=c.gap, a=a, b=b, c=x, d=y, at=at)
        if lay.systems.drain(c.upper) and lay.systems.sort(c.lower) == "supply":
            yield tell("water-under-drain", new.id, plan.units, least=_WATER_ABOVE, a=a, b=b, c=x, d=y, at=at)
        elif lay.systems.drain(c.lower) and lay.systems.sort(c.upper) == "supply" and c.gap < _WATER_ABOVE:
            yield tell(
                "water-under-drain/near", new.id, plan.units, gap=c.gap, least=_WATER_ABOVE, a=a, b=b, c=x, d=y, at=at
            )
