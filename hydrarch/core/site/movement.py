"""How far pipe in the open grows and shrinks with its warmth, and the leg that must be free to bend for it."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from math import sqrt

from hydrarch.core.base.messages import tell
from hydrarch.core.base.problems import Problem, declare
from hydrarch.core.catalogue.pipes import Pipe, series
from hydrarch.core.plan.document import Plan, Run
from hydrarch.core.site.layout import Layout

__all__ = ["bending_leg", "growth", "movement_problems"]

declare("size", "moves")

_FREE = ("on surface", "on bracket", "above water", "in a cellar", "in a pit")
_LEG = {"pvc": 33.5, "pe": 27.0, "pe100": 27.0, "ppr": 30.0, "copper": 61.0, "steel": 90.0}
"""C of the bending leg, C sqrt(d ΔL) in mm: PVC-U, PE and PP as in DVS 2210-1; copper and steel from memory."""
_LAID = 293.15
"""K: as warm as pipe is usually laid; from memory."""
_TOLD = 0.010
"""m of movement from which it is reported."""
_STRAIGHT = 0.996  # cosine of a turn of 5°


def growth(item: Pipe, length: float, change: float) -> float:
    """How much longer (m) a length of pipe is when it is warmer by `change` (K): α L ΔT."""
    return series(item.series).expansion * length * change


def bending_leg(item: Pipe, moves: float) -> float:
    """How long (m) the leg behind the next elbow must be free of clips to take up a movement (m): C sqrt(d ΔL), the
    guided cantilever of plastic pipe guides; half of it each side for a loop.

    >>> from hydrarch.core.catalogue.pipes import pipe
    >>> round(bending_leg(pipe("ppr-s3.2", "25"), 0.030), 2)
    0.82
    """
    factor = _LEG.get(series(item.series).material, max(_LEG.values()))
    return factor * sqrt(item.outside * 1e3 * moves * 1e3) * 1e-3


def movement_problems(plan: Plan, lay: Layout, pipes: Mapping[str, Pipe]) -> Iterator[Problem]:
    """Straight stretches of stiff pipe in the open, or of hot water, that move by a centimetre or more between cold and
    warm.

    The air's range is the job's, where somebody said it; what carries hot water is laid at 20 °C and as warm as that.
    """
    cold, hot = plan.conditions.coldest, plan.conditions.warmest
    told = set[str]()
    for run in plan.runs:
        if run.id in told or not _may_move(plan, lay, run, pipes):
            continue
        stretch = _stretch(plan, lay, run, pipes)
        told |= set(stretch)
        item, long = pipes[run.id], sum(lay.lines[r].length for r in stretch)
        carries = lay.warm.get(run.id, _LAID)
        swings = [carries - _LAID] + ([hot - cold] if cold is not None and hot is not None else [])
        moves = growth(item, long, max(swings))
        if moves < _TOLD:
            continue
        yield tell(
            "moves",
            run.id,
            plan.units,
            long=long,
            pipe=f"{series(item.series).short} {item.size}",
            by=moves,
            leg=bending_leg(item, moves),
            change=max(swings),
        )


def _may_move(plan: Plan, lay: Layout, run: Run, pipes: Mapping[str, Pipe]) -> bool:
    item = pipes.get(run.id)
    if item is None or run.id not in lay.lines or run.coupled or run.existing is not None:
        return False
    hot = lay.warm.get(run.id, _LAID) > _LAID + 10
    free = run.situation in _FREE or (hot and run.situation == "in wall")
    return free and series(item.series).bend_radius > 100  # what is soft lies in waves of its own


def _stretch(plan: Plan, lay: Layout, run: Run, pipes: Mapping[str, Pipe]) -> list[str]:
    """The runs that go on straight from one, with no turn that could take up what they move."""
    found = [run.id]
    for start in run.points:
        here, last = start, run.id
        while True:
            on = [r for r in lay.at[here] if r not in found and r in lay.lines]
            straight = [
                r
                for r in on
                if _may_move(plan, lay, plan.run_by_id[r], pipes)
                and pipes[r].series == pipes[run.id].series
                and _goes_straight(lay, last, here, r)
            ]
            if len(straight) != 1:
                break
            last = straight[0]
            found.append(last)
            here = lay.lines[last].other(here)
    return found


def _goes_straight(lay: Layout, into: str, at: str, out: str) -> bool:
    a, b, c = (lay.places[p] for p in (lay.lines[into].other(at), at, lay.lines[out].other(at)))
    u, v = [y - x for x, y in zip(a, b, strict=True)], [y - x for x, y in zip(b, c, strict=True)]
    long = sqrt(sum(x * x for x in u)) * sqrt(sum(x * x for x in v))
    return long > 0 and sum(x * y for x, y in zip(u, v, strict=True)) / long >= _STRAIGHT
