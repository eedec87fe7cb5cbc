"""Where rows of emitters begin on a drawing, how long they are, and how many emitters fit on them."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from math import dist, floor
from typing import Protocol, TypeVar

from hydrarch.core.components.base import What
from hydrarch.core.components.outlets import DripRow

__all__ = ["fitting_on", "row_way", "run_long", "runs_at"]

_MOST = 5000


class _End(Protocol):
    @property
    def point(self) -> str: ...


class _Run(Protocol):
    @property
    def a(self) -> _End: ...
    @property
    def b(self) -> _End: ...
    @property
    def coupled(self) -> bool: ...
    @property
    def measured_length(self) -> float | None: ...


class _Point(Protocol):
    @property
    def id(self) -> str: ...
    @property
    def x(self) -> float: ...
    @property
    def y(self) -> float: ...
    @property
    def level(self) -> float: ...
    @property
    def what(self) -> What: ...


R = TypeVar("R", bound=_Run)


def runs_at(runs: Iterable[R]) -> dict[str, list[R]]:
    """The runs that come to each point, in drawing order."""
    found: dict[str, list[R]] = {}
    for run in runs:
        for point in (run.a.point, run.b.point):
            found.setdefault(point, []).append(run)
    return found


def row_way(points: Mapping[str, _Point], at: Mapping[str, list[R]], point: str) -> tuple[str, tuple[R, ...]]:
    """Where the row that ends at a point begins, and its runs from there: back over bends to a tee, a device or a
    source.
    """
    here, way, seen = point, list[R](), {point}
    mine = at.get(point, [])
    run = mine[0] if len(mine) == 1 else None  # what two runs come to ends no row
    while run is not None and not run.coupled:
        way.append(run)
        here = run.b.point if run.a.point == here else run.a.point
        if here in seen or points[here].what.kind != "bend" or len(at[here]) != 2:
            break
        seen.add(here)
        run = next((r for r in at[here] if r is not way[-1]), None)
    return here, tuple(reversed(way))


def run_long(points: Mapping[str, _Point], run: _Run) -> float:
    """A run's length (m), as it was measured or is drawn."""
    if run.measured_length is not None:
        return run.measured_length
    a, b = points[run.a.point], points[run.b.point]
    return dist((a.x, a.y, a.level), (b.x, b.y, b.level))


def fitting_on(points: Mapping[str, _Point], runs: Iterable[R]) -> dict[str, int]:
    """How many emitters fit on each row, by the point it ends at: the first half a spacing on, then one every
    spacing.
    """
    found: dict[str, int] = {}
    at: dict[str, list[R]] | None = None
    for p in points.values():
        if isinstance(p.what, DripRow):
            at = runs_at(runs) if at is None else at
            long = sum(run_long(points, r) for r in row_way(points, at, p.id)[1])
            found[p.id] = min(_MOST, max(1, floor(long / p.what.spacing + 0.5 + 1e-9)))
    return found
