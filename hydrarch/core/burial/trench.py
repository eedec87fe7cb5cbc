"""What is dug for a line and what goes back: width and depth of the trench, bed, surround and fill, and what is over."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from math import pi

from hydrarch.core.base.units import INCH
from hydrarch.core.catalogue.pipes import Pipe, series
from hydrarch.core.plan.document import Plan, Run
from hydrarch.core.site.layout import Layout

__all__ = ["BACKFILL", "Trench", "TrenchRun", "trench", "trench_width"]

_BED, _OVER = 4 * INCH, 6 * INCH
"""m of sand or pea gravel under the pipe and over it; usual of pipe handbooks, from memory."""
_BUCKET = 12 * INCH
"""m of the narrowest bucket or of a spade's trench; common practice."""
_BESIDE = 0.40
"""m that a drain's trench is wider than its pipe, as far as 225 mm; EN 1610, from memory."""
_BY_DEPTH = ((4.0, 1.00), (1.75, 0.90), (1.2, 0.80))
"""Depth (m) from which a trench that people stand in has at least that width (m); EN 1610, from memory, which begins at
1.0 m: less deep, a yard's drain is laid from above."""
_LOOSENED = 1.25
"""Loose over firm ground: usual of loam, from memory; clay more, sand less."""
_SAND = 1600.0
"""kg/m³ of dry sand or pea gravel; handbook value."""
BACKFILL = (
    "Lay the pipe on the bed so that it rests all along, with a hollow under each bell.",
    "Fill under its sides first and tread that in: no pipe carries on its crown alone.",
    "Sand or pea gravel over it by hand, 6 in (150 mm); no stones, no frozen clods.",
    "Then the ground in layers of 6 in (150 mm), each tamped; clay is watered in. No wheels before all of it is back.",
    "A wire beside plastic pipe, and warning tape 12 in (300 mm) over it, so that it is found again.",
)
"""How it goes back, in order: common practice."""
_SHORE = 1.2
"""m of depth from which a trench is not entered unless its walls are shored or sloped; 4 ft and 1.25 m in common codes,
from memory: the local one wins."""


@dataclass(frozen=True, slots=True)
class TrenchRun:
    """One run's trench (m): its length, width, and depth at either end, to the underside of its bed."""

    run: str
    length: float
    width: float
    depths: tuple[float, float]


@dataclass(frozen=True, slots=True)
class Trench:
    """All that is dug for a job's new pipe (m³): `dig` as it lies in the ground; `bed`, sand or gravel under and about
    the pipe, with its weight (kg); `fill` of the ground that goes back; `over`, what is left, loose as it is carted.

    `deep` are the runs whose trench no one enters without shoring, `backfill` is how it is filled, in order. Pipes
    that share a trench are counted each.
    """

    runs: tuple[TrenchRun, ...]
    dig: float
    bed: float
    bed_weight: float
    fill: float
    over: float
    deep: tuple[str, ...]
    backfill: tuple[str, ...] = BACKFILL


def trench_width(item: Pipe, depth: float) -> float:
    """How wide (m) the trench of a pipe is, so deep (m): of a drain by EN 1610, of other pipe a bucket's width, and
    from where people must work in it as for a drain.
    """
    least = next((wide for deep, wide in _BY_DEPTH if depth >= deep), 0.0)
    if series(item.series).kind == "drain":
        return max(item.outside + _BESIDE, least)
    return max(_BUCKET, item.outside + 2 * _BED, least)


def trench(plan: Plan, lay: Layout, pipes: Mapping[str, Pipe]) -> Trench:
    """What is dug for the new buried pipe of a job, each run as deep as it lies at its ends."""
    runs = [r for r in plan.runs if r.situation == "buried" and r.existing is None and not r.coupled and r.id in pipes]
    found, dig, bed, pipe_volume = [], 0.0, 0.0, 0.0
    for run in runs:
        item, long = pipes[run.id], lay.lines[run.id].length
        depths = _depths(plan, run, item)
        if max(depths) <= 0:
            continue
        wide = trench_width(item, max(depths))
        mean = sum(depths) / 2
        dig += long * wide * mean
        layer = min(_BED + item.outside + _OVER, mean)  # no more than there is
        bed += max(long * (wide * layer - pi * item.outside**2 / 4), 0.0)
        pipe_volume += long * pi * item.outside**2 / 4
        found.append(TrenchRun(run.id, long, wide, depths))
    fill = max(dig - bed - pipe_volume, 0.0)
    return Trench(
        runs=tuple(found),
        dig=dig,
        bed=bed,
        bed_weight=bed * _SAND,
        fill=fill,
        over=(dig - fill) * _LOOSENED,
        deep=tuple(t.run for t in found if max(t.depths) >= _SHORE),
    )


def _depths(plan: Plan, run: Run, item: Pipe) -> tuple[float, float]:
    """How deep (m) the trench is at both ends of a run; none where it comes up."""
    a, b = (
        max(plan.by_id[p].depth + item.outside / 2 + _BED, 0.0) if plan.by_id[p].depth > 0 else 0.0 for p in run.points
    )
    return a, b
