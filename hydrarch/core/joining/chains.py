"""Lengths of pipe: which runs one goes through, bent or straight, without a joint at the points between."""

from __future__ import annotations

from collections.abc import Iterable

from hydrarch.core.joining.records import Chain, SoftBend
from hydrarch.core.layout import Layout

__all__ = ["chains"]

Passes = dict[str, dict[str, tuple[str, float]]]


def chains(lay: Layout, bends: Iterable[SoftBend]) -> tuple[Chain, ...]:
    """Every run in just one chain, in the order of their first runs; a run with fittings at both ends is one by itself."""
    soft: Passes = {r: {} for r in lay.lines}
    for bend in bends:
        a, b = bend.runs
        soft[a][bend.point] = (b, bend.saved)
        soft[b][bend.point] = (a, bend.saved)
    done: set[str] = set()
    found = []
    for run, line in lay.lines.items():
        if run in done:
            continue
        runs, ends, saved = _along(lay, soft, *_end(lay, soft, run, line.a))
        done.update(runs)
        if (lay.away(ends[1]), ends[1]) < (lay.away(ends[0]), ends[0]):
            runs, ends = runs[::-1], ends[::-1]
        found.append(Chain(runs, *ends, sum(lay.lines[r].length for r in runs), saved))
    return tuple(found)


def _end(lay: Layout, soft: Passes, run: str, here: str) -> tuple[str, str]:
    """The last run of a chain beyond a run's end `here`, and the point it ends at; the run itself again where it is a ring."""
    current, seen = run, {run}
    while (onward := soft[current].get(here)) is not None and onward[0] not in seen:
        current = onward[0]
        seen.add(current)
        here = lay.lines[current].other(here)
    return current, here


def _along(lay: Layout, soft: Passes, run: str, start: str) -> tuple[tuple[str, ...], tuple[str, str], float]:
    """The runs of a chain from its end `start`, its two ends, and what its bends shorten."""
    runs, saved, here, current = [run], 0.0, lay.lines[run].other(start), run
    while (onward := soft[current].get(here)) is not None and onward[0] not in runs:
        current = onward[0]
        runs.append(current)
        saved += onward[1]
        here = lay.lines[current].other(here)
    return tuple(runs), (start, here), saved
