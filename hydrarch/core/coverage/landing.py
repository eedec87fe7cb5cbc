"""Where the water of the heads lands, from the pressure that was solved at each: the rate over the ground, how even it
is, and whether they overlap.

A head wets its arc out to its throw, most beside it and evenly less to nothing at the rim, as single nozzles do when
they stand head to head (common practice). Its throw is what was typed or what its nozzle's table has, in still air;
below the pressure that is for, it falls with the root of the pressure, and above it is not let grow: the drops get
finer. How even it is in wind is told beside it.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from math import atan2, cos, dist, hypot, inf, pi, sin

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import label
from scipy.sparse import coo_array
from scipy.sparse.csgraph import connected_components
from scipy.spatial import ConvexHull, QhullError, cKDTree

from hydrarch.core.base.messages import tell
from hydrarch.core.base.problems import Problem, declare
from hydrarch.core.base.units import System, show
from hydrarch.core.catalogue.nozzles import nozzle_of
from hydrarch.core.components.marks import Mark
from hydrarch.core.components.outlets import Sprinkler
from hydrarch.core.coverage.evenness import christiansen, distribution, scheduling
from hydrarch.core.hydraulics.flow import Flow
from hydrarch.core.plan.document import Plan, Point

__all__ = ["Coverage", "Head", "Overlap", "Painted", "coverage_problems", "coverages", "overlaps", "painted"]

declare("size", "heads-apart", "dry-spot", "overspray", "unmatched", "misting")

Grid = NDArray[np.float64]

_CELLS = 90
"""Cells along its longer side of the mesh that is painted."""
_FINE, _LEAST_CELL = 400, 0.25
"""Cells at the most of the mesh that coefficients are taken from, and the m of a cell that is fine enough."""
_DRY = 0.25
"""Share of the mean below which a place is dry."""
_LEAST_DRY = 1.0
"""m² from which a dry spot is told."""
_WIND = 0.2
"""Share of its throw that a head loses across a wind of about 3 m/s (7 mph); from memory."""
_MISTS = 1.5
"""Times the pressure it is made for, or the highest of its nozzle's table, beyond which a head mists; from memory."""
_CLOSE = 1.6
"""Overlap beyond which heads stand closer than anyone sets them."""
_TOGETHER = 1.25
"""Times both throws that two heads of one stand are apart at the most; farther they water different ground."""
_MATCHED = 1.25
"""The greatest rate over the least from which heads that run together do not match; from memory."""


@dataclass(frozen=True, slots=True)
class Head:
    """A head that runs: where it is (m), how far it throws (m), what it gives (m³/s), and its arc: where it begins and
    how far it goes (rad).
    """

    point: str
    x: float
    y: float
    throw: float
    flow: float
    begins: float
    arc: float

    @property
    def rate(self) -> float:
        """Mean water (m/s) over its own arc."""
        return self.flow / (self.arc * self.throw**2 / 2)


@dataclass(frozen=True, slots=True)
class Overlap:
    """How far the throws of two heads that stand next to each other overlap, as a share of the distance between them: 1
    is head to head.
    """

    one: str
    two: str
    share: float


@dataclass(frozen=True, slots=True)
class Painted:
    """Rates (m/s) on a mesh of square cells of `cell` (m), rows from `y` north, columns from `x` east."""

    x: float
    y: float
    cell: float
    rates: tuple[tuple[float, ...], ...]


@dataclass(frozen=True, slots=True)
class Coverage:
    """What one scenario waters. The coefficients are those of the ground between its heads, None where they do not
    stand round any.
    """

    scenario: str
    heads: tuple[Head, ...]
    overlaps: tuple[Overlap, ...]
    mean: float | None
    christiansen: float | None
    distribution: float | None
    scheduling: float | None
    says: tuple[str, ...]
    problems: tuple[Problem, ...]


def coverages(plan: Plan, flows: dict[str, Flow]) -> dict[str, Coverage]:
    """What every scenario waters, by its id; those in which no head runs are left out."""
    found = {}
    for name, flow in flows.items():
        heads = tuple(_heads(plan, flow))
        if heads:
            covered = _covered(plan, name, heads)
            found[name] = replace(covered, problems=(*covered.problems, *_misting(plan, flow)))
    return found


def painted(plan: Plan, flow: Flow) -> Painted | None:
    """The ground of one scenario with its rates, for whoever looks at it; None where no head runs."""
    heads = tuple(_heads(plan, flow))
    return _painted(heads) if heads else None


def coverage_problems(found: dict[str, Coverage]) -> tuple[Problem, ...]:
    """What is wrong with where water lands, each told once though it is so in several scenarios."""
    return tuple({p.key: p for c in found.values() for p in c.problems}.values())


def _heads(plan: Plan, flow: Flow) -> Iterator[Head]:
    for name, out in flow.outlets.items():
        point = plan.by_id.get(name)
        if point is not None and isinstance(point.what, Sprinkler) and point.what.radius > 0 and out.flow > 0:
            what = point.what
            table = nozzle_of(what.nozzle, plan.nozzles) if what.nozzle else None
            share = max(out.pressure, 0.0) / (table.low if table is not None else what.at_pressure)
            throw = what.radius * min(share**0.5, 1.0)
            if table is not None:  # below its table it falls short as any other does
                throw = table.throw(out.pressure) * min(1.0, share**0.5)
            yield Head(name, point.x, point.y, throw, out.flow, what.begins, what.arc)


def overlaps(heads: Sequence[Head]) -> tuple[Overlap, ...]:
    """The pairs of heads that stand next to each other: each with its nearest, as far as both throw that way."""
    if len(heads) < 2:
        return ()
    heads = sorted(heads, key=lambda h: h.point)  # the same pairs by the same names, however they were drawn
    spots = np.array([(h.x, h.y) for h in heads])
    near = cKDTree(spots).query(spots, k=min(len(heads), 4))[1]
    pairs: dict[tuple[int, int], float] = {}
    for i, others in enumerate(np.atleast_2d(near)):
        facing = [int(j) for j in others if j != i and (heads[i].x, heads[i].y) != (heads[int(j)].x, heads[int(j)].y)]
        if facing:
            least = min(dist(spots[i], spots[j]) for j in facing)
            for j in facing:
                apart = dist(spots[i], spots[j])
                if apart <= least * 1.05:
                    pairs[min(i, j), max(i, j)] = apart
    return tuple(
        Overlap(heads[i].point, heads[j].point, _reach(heads[i], heads[j], d)) for (i, j), d in sorted(pairs.items())
    )


def _reach(a: Head, b: Head, apart: float) -> float:
    """The overlap of two throws, as far as each throws towards the other at all."""
    way = atan2(b.y - a.y, b.x - a.x)
    one = a.throw if _within(a, way) else 0.0
    two = b.throw if _within(b, way + pi) else 0.0
    return (one + two - apart) / apart


def _within(head: Head, way: float) -> bool:
    return head.arc >= 2 * pi - 1e-9 or (way - head.begins + 1e-9) % (2 * pi) <= head.arc + 2e-9


def _covered(plan: Plan, scenario: str, heads: tuple[Head, ...]) -> Coverage:
    cell, _, xs, ys, rates = _mesh(heads, _FINE)
    inside = _between_heads(heads, xs, ys)
    pairs, units = overlaps(heads), plan.units
    says, problems = list(_overlap_words(plan, pairs)), list(_apart(plan, pairs))
    mean = cu = du = sc = None
    if inside.any() and rates[inside].mean() > 0:
        caught = rates[inside]
        mean, cu, du, sc = float(caught.mean()), christiansen(caught), distribution(caught), scheduling(rates, inside)
        says.append(
            f"Between the heads {_rate(mean, units)} falls in still air; distribution uniformity {du:.0%}, "
            f"Christiansen's coefficient {cu:.0%}, throws {_whence(plan, heads)}."
        )
        says.append(
            f"A wind of {show(3.0, 'wind', units)} takes a fifth off every throw (from memory): distribution "
            "uniformity "
            f"{_in_wind(heads, xs, ys, cell, inside):.0%} then."
        )
        if sc == inf:
            says.append("Some of the ground between them stays dry, however long they run.")
        else:
            says.append(
                f"Run it {sc:.2f} times as long as the mean would need, so that the driest twentieth has enough."
            )
        problems += _dry(plan, heads, xs, ys, rates, inside, cell)
    spray = list(_oversprayed(plan, xs, ys, rates, cell))
    problems += spray
    says += [p.says for p in spray]
    matched = [h.rate for h in heads]
    if len(heads) > 1 and max(matched) > _MATCHED * min(matched):
        most, least = max(heads, key=lambda h: h.rate), min(heads, key=lambda h: h.rate)
        problems.append(
            tell(
                "unmatched",
                most.point,
                one=plan.names[most.point],
                two=plan.names[least.point],
                times=most.rate / least.rate,
                fast=_rate(most.rate, units),
                slow=_rate(least.rate, units),
            )
        )
        says.append(problems[-1].says)
    elif len(heads) > 1:
        low, high = _rate(min(matched), units), _rate(max(matched), units)
        says.append(f"They match: each puts down {low if low == high else f'{low} to {high}'} over its own arc.")
    return Coverage(
        scenario=scenario,
        heads=heads,
        overlaps=pairs,
        mean=mean,
        christiansen=cu,
        distribution=du,
        scheduling=sc if sc != inf else None,
        says=tuple(says),
        problems=tuple(problems),
    )


def _whence(plan: Plan, heads: Sequence[Head]) -> str:
    """Where the throws come from, in words."""
    by_table = {bool(getattr(plan.by_id[h.point].what, "nozzle", "")) for h in heads}
    return {frozenset({True}): "by their nozzles' tables", frozenset({False}): "as typed"}.get(
        frozenset(by_table), "as typed or by their nozzles' tables"
    )


def _in_wind(heads: Sequence[Head], xs: Grid, ys: Grid, cell: float, inside: NDArray[np.bool_]) -> float:
    """Distribution uniformity of the same ground with every throw shortened by a wind."""
    caught = _caught([replace(h, throw=h.throw * (1 - _WIND)) for h in heads], xs, ys, cell)[inside]
    return distribution(caught) if caught.mean() > 0 else 0.0


def _misting(plan: Plan, flow: Flow) -> Iterator[Problem]:
    """Heads at so much more than they are made for that their water leaves them as mist."""
    for name, out in flow.outlets.items():
        point = plan.by_id.get(name)
        if point is None or not isinstance(point.what, Sprinkler):
            continue
        table = nozzle_of(point.what.nozzle, plan.nozzles) if point.what.nozzle else None
        made = table.high if table is not None else point.what.at_pressure
        if out.pressure > _MISTS * made:
            yield tell("misting", name, plan.units, head=plan.names[name], sees=out.pressure, most=made)


def _rate(rate: float, units: System) -> str:
    """A rate over the ground in words: mm/h, or in/h."""
    return f"{rate * 3.6e6:.1f} mm/h" if units == "metric" else f"{rate * 3600 / 0.0254:.2f} in/h"


def _painted(heads: Sequence[Head]) -> Painted:
    cell, (west, south), _, _, rates = _mesh(heads, _CELLS)
    shown = tuple(tuple(float(f"{v:.3g}") for v in row) for row in rates)
    return Painted(west, south, cell, shown)


def _mesh(heads: Sequence[Head], cells: int) -> tuple[float, tuple[float, float], Grid, Grid, Grid]:
    """The side of a cell (m), the mesh's south-west corner, its columns and rows (m), and the rate (m/s) in each cell.

    At most so many cells along the longer side; no finer than a quarter of a metre where that makes as many as are
    painted.
    """
    west, east = min(h.x - h.throw for h in heads), max(h.x + h.throw for h in heads)
    south, north = min(h.y - h.throw for h in heads), max(h.y + h.throw for h in heads)
    span = max(east - west, north - south, 0.1)
    cell = max(span / cells, min(_LEAST_CELL, span / _CELLS))
    xs = np.asarray(west + cell * (np.arange(int((east - west) / cell) + 1) + 0.5), dtype=np.float64)
    ys = np.asarray(south + cell * (np.arange(int((north - south) / cell) + 1) + 0.5), dtype=np.float64)
    return cell, (west, south), xs, ys, _caught(heads, xs, ys, cell)


def _caught(heads: Sequence[Head], xs: Grid, ys: Grid, cell: float) -> Grid:
    """The rate (m/s) in each cell of a mesh of square cells of that side (m)."""
    rates: Grid = np.zeros((ys.size, xs.size))
    for h in heads:
        i, j = np.searchsorted(xs, (h.x - h.throw, h.x + h.throw))
        k, m = np.searchsorted(ys, (h.y - h.throw, h.y + h.throw))
        dx, dy = xs[i:j] - h.x, (ys[k:m] - h.y)[:, None]
        away = np.hypot(dx, dy)
        # a cone over the arc: its height beside the head is such that all the flow lands
        here = np.clip(1 - away / h.throw, 0, None) * (6 * h.flow / (h.arc * h.throw**2))
        if h.arc < 2 * pi - 1e-9:
            here = np.where((np.arctan2(dy, dx) - h.begins) % (2 * pi) <= h.arc, here, 0.0)
        landed = float(here.sum()) * cell**2
        if landed > 0:  # a mesh cuts its rim as it falls: all of its flow lands all the same
            rates[k:m, i:j] += here * (h.flow / landed)
    return rates


def _between_heads(heads: Sequence[Head], xs: NDArray[np.float64], ys: NDArray[np.float64]) -> NDArray[np.bool_]:
    """Which cells lie between heads that stand together: in the polygons round them; none where they stand in a
    line.
    """
    inside = np.zeros((ys.size, xs.size), dtype=bool)
    for together in _stands(heads):
        inside |= _round(together, xs, ys)
    return inside


def _stands(heads: Sequence[Head]) -> list[list[Head]]:
    """Heads by the stand they belong to: two lawns that run at once are two, and nothing is asked of what lies between
    them.
    """
    spots = np.array([(h.x, h.y) for h in heads])
    throws = np.array([h.throw for h in heads])
    pairs = cKDTree(spots).query_pairs(2 * _TOGETHER * float(throws.max()), output_type="ndarray")
    one, two = pairs[:, 0], pairs[:, 1]
    near = np.hypot(*(spots[one] - spots[two]).T) <= _TOGETHER * (throws[one] + throws[two])
    links = coo_array((np.ones(int(near.sum())), (one[near], two[near])), shape=(len(heads), len(heads)))
    many, of = connected_components(links, directed=False)
    return [[h for h, n in zip(heads, of, strict=True) if n == stand] for stand in range(many)]


def _round(heads: Sequence[Head], xs: NDArray[np.float64], ys: NDArray[np.float64]) -> NDArray[np.bool_]:
    none = np.zeros((ys.size, xs.size), dtype=bool)
    spots = np.unique(np.array([(h.x, h.y) for h in heads]), axis=0)
    if len(spots) < 3:
        return none
    try:
        hull = ConvexHull(spots)
    except QhullError:
        return none
    gx, gy = np.meshgrid(xs, ys)
    inside = ~none
    for a, b, c in hull.equations:
        inside &= a * gx + b * gy + c <= 1e-9
    return inside


def _overlap_words(plan: Plan, pairs: Sequence[Overlap]) -> Iterator[str]:
    if not pairs:
        return
    least, most = min(pairs, key=lambda p: p.share), max(pairs, key=lambda p: p.share)

    def told(pair: Overlap) -> str:
        return f"{max(pair.share, 0):.0%} between {plan.names[pair.one]} and {plan.names[pair.two]}"

    if least.share > _CLOSE:
        yield (
            f"They stand closer than they need: each throws {(least.share + 1) / 2:.1f} times as far as the "
            "next stands or more, "
            f"from {plan.names[least.one]} to {plan.names[least.two]} the least; head to head is once."
        )
        return
    begins = "They do not all overlap" if least.share <= 0 else "They overlap"
    if least is most or abs(most.share - least.share) < 0.005:
        yield f"{begins}: {told(least)}; 100% is head to head."
    else:
        yield f"{begins}: least {told(least)}, most {told(most)}; 100% is head to head."


def _apart(plan: Plan, pairs: Sequence[Overlap]) -> Iterator[Problem]:
    far = [
        p for p in pairs if p.share < 0.6
    ]  # beyond 60 to 65 % of the throw's diameter the middle stays dry in a breeze; from memory
    if not far:
        return
    pair = min(far, key=lambda p: (p.share, p.one, p.two))
    others = sorted({plan.names[n] for p in far for n in (p.one, p.two)} - {plan.names[pair.one], plan.names[pair.two]})
    listed = ", ".join(others[:6]) + (f" and {len(others) - 6} more" if len(others) > 6 else "")
    more = (
        f" Nor do {len(far) - 1} other pairs reach 60%{f', with {listed}' if listed else ''}." if len(far) > 2 else ""
    )
    more = f" Nor does one other pair reach 60%{f', with {listed}' if listed else ''}." if len(far) == 2 else more
    yield tell(
        "heads-apart",
        pair.one,
        one=plan.names[pair.one],
        two=plan.names[pair.two],
        share=max(pair.share, 0),
        more=more,
    )


def _dry(
    plan: Plan,
    heads: Sequence[Head],
    xs: NDArray[np.float64],
    ys: NDArray[np.float64],
    rates: NDArray[np.float64],
    inside: NDArray[np.bool_],
    cell: float,
) -> Iterator[Problem]:
    """The largest of the dry spots between the heads."""
    found, many = label(inside & (rates < _DRY * rates[inside].mean()))
    if not many:
        return
    sizes = np.bincount(found.ravel())[1:]
    at = int(sizes.argmax()) + 1
    area = float(sizes.max()) * cell**2
    if area < _LEAST_DRY:
        return
    rows, columns = np.nonzero(found == at)
    x, y = float(xs[columns].mean()), float(ys[rows].mean())
    near = min(heads, key=lambda h: hypot(h.x - x, h.y - y))
    more = f" and {many - 1} more" if many > 1 else ""
    big = f"{area:.0f} m²" if plan.units == "metric" else f"{area / 0.3048**2:.0f} ft²"
    yield tell(
        "dry-spot",
        near.point,
        plan.units,
        big=big,
        away=hypot(near.x - x, near.y - y),
        head=plan.names[near.point],
        more=more,
    )


def _oversprayed(
    plan: Plan, xs: NDArray[np.float64], ys: NDArray[np.float64], rates: NDArray[np.float64], cell: float
) -> Iterator[Problem]:
    """Water that lands on a drive."""
    for point in plan.of_kind(Mark):
        if not isinstance(point.what, Mark) or point.what.what != "drive" or not point.what.long:
            continue
        lost = float(rates[_on_drive(point, point.what, xs, ys)].sum()) * cell**2
        whole = float(rates.sum()) * cell**2
        if whole > 0 and lost > 0.01 * whole:
            named = point.name or "the drive"
            yield tell("overspray", point.id, plan.units, lost=lost, whole=whole, mark=named)


def _on_drive(point: Point, mark: Mark, xs: NDArray[np.float64], ys: NDArray[np.float64]) -> NDArray[np.bool_]:
    gx, gy = np.meshgrid(xs, ys)
    long = hypot(mark.east, mark.north)
    way = atan2(mark.north, mark.east)
    along = (gx - point.x) * cos(way) + (gy - point.y) * sin(way)
    aside = -(gx - point.x) * sin(way) + (gy - point.y) * cos(way)
    return np.asarray((along >= 0) & (along <= long) & (np.abs(aside) <= mark.width / 2))
