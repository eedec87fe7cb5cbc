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


@dataclass(frozen=True, slots=True)
class Crossing:
    """Two buried runs that cross seen from above, `upper` over `lower`, with a `gap` (m) from outside to outside, below
    nought where they would run through each other; at a share of the upper one.
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
    last = np.searchsorted(west, east, side="right")
    found = []
    for i, run in enumerate(runs):
        window = slice(i + 1, int(last[i]))
        may = np.flatnonzero((south[window] <= north[i]) & (north[window] >= south[i])) + i + 1
        for j in may:
            other = runs[j]
            if set(run.points) & set(other.points) or (run.existing is not None and other.existing is not None):
                continue
            where = _where(ends[i], ends[j])
            if where is None:
                continue
            t, u = where
            mine, its = (e[0, 2] + (e[1, 2] - e[0, 2]) * s for e, s in ((ends[i], t), (ends[j], u)))
            gap = float(abs(mine - its) - (pipes[run.id].outside + pipes[other.id].outside) / 2)
            above, below, share = (run.id, other.id, t) if mine >= its else (other.id, run.id, u)
            found.append(Crossing(above, below, gap, share))
    return tuple(found)


def _where(a: NDArray[Any], b: NDArray[Any]) -> tuple[float, float] | None:
    """The shares of two stretches at which they cross seen from above; None where they do not."""
    u, v, w = a[1, :2] - a[0, :2], b[1, :2] - b[0, :2], b[0, :2] - a[0, :2]
    cross = float(u[0] * v[1] - u[1] * v[0])
    if abs(cross) < 1e-12:
        return None  # side by side in one trench
    t, s = float(w[0] * v[1] - w[1] * v[0]) / cross, float(w[0] * u[1] - w[1] * u[0]) / cross
    return (t, s) if 0 <= t <= 1 and 0 <= s <= 1 else None


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
