"""Rows of emitters: water that leaves a pipe all along its way, and what that does to what is lost in it.

A row is calculated as one outlet at its end. Its pipe carries less and less, so it loses what a pipe with the whole
flow would lose times the mean of the share that is left, to the power of the friction formula (Christiansen 1942, here
summed emitter by emitter). Whatever sits in the tubing at each emitter counts as so much more of it (`barb_length`).
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from typing import TypeAlias

import numpy as np
from numpy.typing import NDArray

from hydrarch.core.catalogue.pipes import pipe, series
from hydrarch.core.components.outlets import DripRow
from hydrarch.core.hydraulics.friction import METHODS
from hydrarch.core.hydraulics.network import Solution, Solver
from hydrarch.core.hydraulics.regulated import Regulated
from hydrarch.core.plan.document import Plan, Run
from hydrarch.core.plan.emitter_rows import row_way, run_long, runs_at
from hydrarch.core.site.layout import Layout

__all__ = [
    "Row",
    "RowEnds",
    "Rows",
    "barb_length",
    "beyond",
    "exponent_of",
    "pressed",
    "rises",
    "row_length",
    "row_runs",
    "rows",
    "share_left",
    "spread",
]

_LEAST = 1e-6
_SHUT = 1e-3
"""Times what its outlet passes that a row passes at the least, none of whose emitters is under pressure."""
_IN_LINE = 0.23
_NO_HEAD = 0.1
"""m of head that the end of a row is taken to have at the least, where it is calculated what its emitters pass more."""
_ROUNDS = 40
"""Times at the most that rows are calculated again with what they pass."""
_SAME = 1e-7
RowEnds: TypeAlias = tuple[str, int, str, str]
Array = NDArray[np.float64]


@dataclass(frozen=True, slots=True)
class Row:
    """A row laid out: its end, where it begins, its runs from there on with their lengths (m), and how far (m) along
    each emitter is.

    `level` (m) is that of its end, `barb` (m) how much tubing loses what one emitter's barb or body does.
    """

    point: str
    start: str
    runs: tuple[str, ...]
    lengths: tuple[float, ...]
    places: tuple[float, ...]
    level: float
    barb: float = 0.0

    @property
    def length(self) -> float:
        """Of its tubing (m)."""
        return sum(self.lengths)


def barb_length(what: DripRow, bore: float) -> float:
    """Tubing (m) of that bore (m) that loses as much as one emitter's barb or body in it, from memory of Montalvo and
    of Watters and Keller.

    0.23 m for an emitter in line; 14.38·d^−1.89 (d in mm) for one whose barb of about 5 mm stands in from a hole.
    """
    return _IN_LINE if what.built == "in line" else 14.38 * (bore * 1e3) ** -1.89


def _bore(plan: Plan, runs: Iterable[Run]) -> float:
    """The bore (m) of a row's tubing: of its narrowest run, and where a size is open of the smallest there is."""
    found = []
    for run in runs:
        family = series(run.series or plan.conditions.series)
        found.append(family.sizes[0].bore if run.size is None else pipe(family.id, run.size).bore)
    return min(found)


def row_runs(plan: Plan, point: str) -> tuple[str, tuple[Run, ...]]:
    """Where the row that ends at a point begins, and its runs from there: back over bends to a tee, a device or a
    source.
    """
    return row_way(plan.by_id, runs_at(plan.runs), point)


def row_length(plan: Plan, point: str) -> float:
    """The tubing (m) of the row that ends at a point."""
    return sum(run_long(plan.by_id, r) for r in row_runs(plan, point)[1])


def rows(plan: Plan, lay: Layout, some: Iterable[str] | None = None) -> dict[str, Row]:
    """Every row of a plan by the point it ends at, or some of them; one with no tubing is left out."""
    ends = [p for p in plan.points if isinstance(p.what, DripRow)]
    if not ends:
        return {}
    want = None if some is None else set(some)
    at, found = runs_at(plan.runs), {}
    for p in ends:
        if want is not None and p.id not in want:
            continue
        start, way = row_way(plan.by_id, at, p.id)
        lengths = tuple(lay.lines[r.id].length for r in way)
        long = sum(lengths)
        if long > 0 and isinstance(p.what, DripRow):
            places = tuple(min((n + 0.5) * p.what.spacing, long) for n in range(p.what.emitters))
            found[p.id] = Row(
                point=p.id,
                start=start,
                runs=tuple(r.id for r in way),
                lengths=lengths,
                places=places,
                level=p.level,
                barb=barb_length(p.what, _bore(plan, way)),
            )
    return found


def exponent_of(plan: Plan) -> float:
    """The power of flow that friction goes by in this plan's formula."""
    return METHODS[plan.conditions.friction].exponent


def share_left(row: Row, start: float, stop: float, power: float) -> float:
    """The mean, from `start` to `stop` (m) along a row, of the share of its flow that is still in the pipe, to a power;
    barbs as tubing.
    """
    if stop <= start:
        return 1.0
    places = np.array(row.places)
    marks = np.concatenate(([start], places[(places > start) & (places < stop)], [stop]))
    left = 1 - np.searchsorted(places, (marks[:-1] + marks[1:]) / 2, side="right") / len(places)
    passed = np.flatnonzero((places > start) & (places <= stop))
    barbs = row.barb * np.sum((1 - passed / len(places)) ** power)
    return float((np.sum(np.diff(marks) * left**power) + barbs) / (stop - start))


def spread(plan: Plan, lay: Layout, opened: Iterable[str]) -> dict[str, float]:
    """What each run of an open row loses, as a share of what it would with the whole of its flow through to its end and
    no barbs.
    """
    power, found = exponent_of(plan), {}
    for row in rows(plan, lay, opened).values():
        at = 0.0
        for run, long in zip(row.runs, row.lengths, strict=True):
            found[run] = max(share_left(row, at, at + long, power), _LEAST)
            at += long
    return found


class Rows:
    """The open rows of one scenario as the outlets they are calculated as: what each passes, from the heads at its two
    ends.

    An outlet at the end would pass too little, for what sits before it is pushed harder: `times` says how many times
    that it is.
    """

    def __init__(self, plan: Plan, lay: Layout, heads: Iterable[RowEnds], emitters: int) -> None:
        """`heads` are, of each open row: its end, the number of its emitter, and the nodes it begins and ends at;
        `emitters` how many there are.
        """
        self._now = np.ones(emitters)
        power = exponent_of(plan)
        known = {p: (n, start, stop) for p, n, start, stop in heads}
        self.found = rows(plan, lay, known)
        self._at = [
            (known[p], plan.by_id[p].what, row, beyond(row, power), rises(plan, lay, row))
            for p, row in self.found.items()
        ]

    def settle(self, solver: Solver | Regulated) -> Solution:
        """A network solved, its rows passing what their emitters do at the pressure that each is at; raises as the
        solver does.
        """
        found = solver.solve()
        for n in range(_ROUNDS if self._at else 0):
            times = self._times(found.heads)
            if np.allclose(times, self._now, rtol=_SAME):
                break
            self._now = np.sqrt(times * self._now) if n > 2 else times  # half-way, where they chase each other
            times = self._now
            solver.ease(times)
            found = solver.solve()
        return found

    def _times(self, heads: Mapping[str, float]) -> Array:
        """By what each emitter passes more than the head (m) at its end alone would have it."""
        found = self._now.copy()
        for (number, start, stop), what, row, left, up in self._at:
            assert isinstance(what, DripRow)
            each = pressed(heads, start, stop, left, up)
            at_end = max(heads.get(stop, 0.0) - row.level, _NO_HEAD)
            mean = float(np.mean((np.maximum(each - row.level, 0.0) / at_end) ** what.exponent))
            found[number] = max(mean, _SHUT)
        return found


def pressed(heads: Mapping[str, float], start: str, stop: str, left: Array, up: Array) -> Array:
    """Head (m) at each emitter above the level of the row's end, from the total heads at the row's two ends."""
    first, last = heads.get(start, 0.0), heads.get(stop, 0.0)
    return np.asarray(last + max(first - last, 0.0) * left - up, dtype=np.float64)


def rises(plan: Plan, lay: Layout, row: Row) -> Array:
    """How much (m) each emitter of a row lies above its end."""
    marks, at, here = [0.0], [lay.places[row.start][2]], row.start
    for run, long in zip(row.runs, row.lengths, strict=True):
        here = lay.lines[run].other(here)
        marks.append(marks[-1] + long)
        at.append(lay.places[here][2])
    return np.asarray(np.interp(row.places, marks, at) - at[-1], dtype=np.float64)


def beyond(row: Row, power: float) -> Array:
    """Of what the whole row loses, the share that is lost beyond each of its emitters."""
    edges = np.array([0.0, *row.places, row.length])
    left = 1 - np.arange(len(row.places) + 1) / len(row.places)
    lost = (np.diff(edges) + row.barb * (left > 0)) * left**power
    whole = float(lost.sum())
    return np.zeros(len(row.places)) if whole <= 0 else np.asarray(1 - np.cumsum(lost)[:-1] / whole, dtype=np.float64)
