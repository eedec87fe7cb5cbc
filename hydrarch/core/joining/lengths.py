"""Lengths of pipe: which runs one goes through, bent or straight, without a joint at the points between."""

from __future__ import annotations

from collections.abc import Iterable

from hydrarch.core.base.identity import EndId
from hydrarch.core.joining.assembled import ColdBend, PipeLength
from hydrarch.core.site.layout import Layout

__all__ = ["pipe_lengths"]

Passes = dict[str, tuple[str, float]]
"""By a run's end: the end it goes on by, and what the bend between them saves (m)."""


def pipe_lengths(lay: Layout, bends: Iterable[ColdBend]) -> tuple[PipeLength, ...]:
    """Every run of pipe in just one length, in the order of their first runs; a run with fittings at both ends is one
    by itself.
    """
    passes: Passes = {}
    for bend in bends:
        a, b = bend.ends
        passes[a] = (b, bend.saved)
        passes[b] = (a, bend.saved)
    done: set[str] = set()
    found = []
    for run, line in lay.lines.items():
        if run in done or line.coupled:
            continue
        runs, ends, saved = _along(lay, passes, _first(lay, passes, line.ends[0]))
        done.update(runs)
        away = [(lay.away(lay.point_of[e]), lay.point_of[e]) for e in ends]
        if away[1] < away[0]:
            runs, ends = runs[::-1], ends[::-1]
        start, stop = (EndId(e) for e in ends)
        found.append(PipeLength(runs, start, stop, sum(lay.lines[r].length for r in runs), saved))
    return tuple(found)


def _across(lay: Layout, end: str) -> str:
    """The other end of an end's run."""
    one, two = lay.lines[lay.run_of[end]].ends
    return two if end == one else one


def _first(lay: Layout, passes: Passes, end: str) -> str:
    """The end a length begins at, looked for from one of its runs' ends on; that end itself again where it is a
    ring.
    """
    here = end
    while here in passes:
        here = _across(lay, passes[here][0])
        if here == end:
            break
    return here


def _along(lay: Layout, passes: Passes, start: str) -> tuple[tuple[str, ...], tuple[str, str], float]:
    """The runs of a length from its first end, both its ends, and what its bends shorten."""
    runs, saved = [lay.run_of[start]], 0.0
    here = _across(lay, start)
    while here in passes and passes[here][0] != start:
        onward, less = passes[here]
        runs.append(lay.run_of[onward])
        saved += less
        here = _across(lay, onward)
    return tuple(runs), (start, here), saved
