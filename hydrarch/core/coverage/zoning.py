"""Heads put into zones: no zone draws more than the supply gives, heads that do not match stand apart, and the pipe is
short.

Heads are taken along a way that keeps neighbours together and parted where that saves most pipe; then heads change over
to a neighbour's zone where that makes the pipe cheaper, each piece of the size that carries what goes through it. What
comes out is set beside what no grouping can be better than.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from math import ceil, hypot, inf

import numpy as np
from numpy.typing import NDArray
from scipy.sparse.csgraph import minimum_spanning_tree
from scipy.spatial.distance import cdist

from hydrarch.core.base.errors import HydrarchError
from hydrarch.core.base.units import System, show
from hydrarch.core.components.devices import Valve
from hydrarch.core.components.outlets import Outlet, Sprinkler
from hydrarch.core.components.sources import Mains, WellPump
from hydrarch.core.coverage.zonepipe import ZonePipe, exchange, pipe_prices
from hydrarch.core.hydraulics.acting import mains_curve
from hydrarch.core.hydraulics.flow import draws
from hydrarch.core.hydraulics.pumps import flow_at
from hydrarch.core.hydraulics.water import water
from hydrarch.core.plan.document import Plan, Point
from hydrarch.core.site.layout import Layout, path_between
from hydrarch.core.site.risers import mouth_level

__all__ = ["Group", "Grouping", "by_valves", "gives", "grouped", "measured", "waters"]

Array = NDArray[np.float64]
_MATCHED = 1.25
"""The greatest rate over the least that heads of one zone may have; from memory."""
_FEW = 300
"""Heads up to which several ways round them are tried."""
_TINY = 1e-9
_ON_THE_WAY = 0.25


@dataclass(frozen=True, slots=True)
class Group:
    """Heads that open together: what they draw (m³/s), the least `pipe` (m) between them, its price, and the valve that
    is theirs alone.

    The way to the nearest valve is in the pipe.
    """

    heads: tuple[str, ...]
    flow: float
    pipe: float
    price: float
    valve: str


@dataclass(frozen=True, slots=True)
class Grouping:
    """All groups; `least` is how many there must be at the least, `bound` (m) the pipe that no grouping into as many
    can go below.

    `price` is what the pipe costs, `price_bound` what it costs at the least in any grouping into as many.
    """

    groups: tuple[Group, ...]
    least: int
    pipe: float
    bound: float
    price: float
    price_bound: float
    says: str


def waters(plan: Plan) -> tuple[Point, ...]:
    """The outlets that a controller waters by: heads, drip zones and rows; taps are opened by hand."""
    return tuple(plan.with_trait("waters"))


def _classes(points: Iterable[Point]) -> dict[str, tuple[str, int]]:
    """What may stand in one zone, by head: those whose rates over their own arcs are within a quarter of each other;
    drip by itself.
    """
    found: dict[str, tuple[str, int]] = {}
    rates: list[tuple[float, str]] = []
    for p in points:
        what = p.what
        if isinstance(what, Sprinkler) and what.radius > 0:
            rates.append((draws(what) / (what.arc * what.radius**2 / 2), p.id))
        else:
            found[p.id] = ("heads", -1) if isinstance(what, Sprinkler) else ("drip", 0)
    lowest, kind = 0.0, -1
    for rate, name in sorted(rates):
        if kind < 0 or rate > _MATCHED * lowest * (1 + 1e-9):
            lowest, kind = rate, kind + 1
        found[name] = "heads", kind
    return found


def gives(plan: Plan) -> float | None:
    """What the one source of a plan gives (m³/s) while the highest of what waters has its pressure and a quarter more
    for the way there.

    A quarter is what crews take to be lost in valves and pipe; common practice. None where no curve is known of it, or
    there are several.
    """
    mine, wet = waters(plan), water(plan.conditions.water_temperature)
    if len(plan.sources) != 1 or not mine:
        return None
    source = plan.sources[0]
    want = max(
        mouth_level(p) + (1 + _ON_THE_WAY) * p.what.needs / wet.weight for p in mine if isinstance(p.what, Outlet)
    )
    if isinstance(source.what, WellPump):
        curve = tuple((q, h + source.what.water_level) for q, h in source.what.running())
    elif isinstance(source.what, Mains) and source.what.flowing > 0:
        curve = tuple((q, h + source.level) for q, h in mains_curve(source.what, wet))
    else:
        return None
    return flow_at(curve, want)


def grouped(plan: Plan, most: float) -> Grouping:
    """Put everything that waters into zones that draw no more than `most` (m³/s).

    Raises `HydrarchError` where one alone draws more.
    """
    mine = waters(plan)
    if not mine:
        raise HydrarchError("nothing on the drawing is watered by a controller: set down heads or drip first")
    for p in mine:
        if draws(p.what) > most * (1 + 1e-9):
            raise HydrarchError(
                f"{p.label} alone draws {show(draws(p.what), 'flow', plan.units)}, more than the "
                f"{show(most, 'flow', plan.units)} there are: "
                "take smaller nozzles, or more water"
            )
    groups: list[tuple[Point, ...]] = []
    classes = _classes(mine)
    for kind in sorted(set(classes.values())):
        groups += _parted(plan, [p for p in mine if classes[p.id] == kind], most)
    return measured(plan, [tuple(p.id for p in g) for g in groups], most)


def _pipe_of(plan: Plan, heads: Sequence[Point]) -> ZonePipe:
    """Heads with what their pipe would cost: from the nearest valve, or where none is drawn from the head that is
    nearest to the source.
    """
    spots = np.array([(p.x, p.y) for p in heads])
    apart, places = cdist(spots, spots), list(plan.of_kind(Valve))
    hubs = places or list(plan.sources)
    near = cdist(spots, np.array([(h.x, h.y) for h in hubs])).min(axis=1) if hubs else np.zeros(len(heads))
    flows = np.array([draws(p.what) for p in heads])
    return ZonePipe(apart, flows, near, near if places else np.zeros(len(heads)), pipe_prices(plan))


def _parted(plan: Plan, heads: list[Point], most: float) -> list[tuple[Point, ...]]:
    spots = np.array([(p.x, p.y) for p in heads])
    pipe = _pipe_of(plan, heads)
    flows, apart = pipe.flows, pipe.apart
    found: list[tuple[int, float, int, NDArray[np.int64]]] = []
    hub = spots[int(np.argmin(pipe.near))]
    ways = (_way(spots), _way(spots[:, ::-1]), _round(spots, hub)) if len(heads) <= _FEW else (_way(spots),)
    for tried, order in enumerate(ways):
        cuts = _cut(apart[order[:-1], order[1:]], flows[order], most)
        zone = np.empty(len(heads), dtype=np.int64)
        for n, (a, b) in enumerate(zip([0, *cuts], [*cuts, len(heads)], strict=True)):
            zone[order[a:b]] = n
        found.append((len(cuts), exchange(pipe, zone, most), tried, zone))
    zone = min(found, key=lambda f: f[:3])[3]
    return [tuple(heads[i] for i in np.flatnonzero(zone == n)) for n in range(int(zone.max()) + 1) if (zone == n).any()]


def _way(spots: Array) -> NDArray[np.int64]:
    """An order in which neighbours follow each other: rows to and fro, as wide as heads stand apart on the mean."""
    low, span = spots.min(axis=0), np.ptp(spots, axis=0)
    across = 0 if span[0] >= span[1] else 1
    room = max(float(span[0] * span[1]), 1e-9)
    side = max((room / len(spots)) ** 0.5, 1e-6)
    rows = max(1, round(float(span[1 - across]) / (4 * side)))
    row = np.minimum(
        ((spots[:, 1 - across] - low[1 - across]) / max(float(span[1 - across]), 1e-9) * rows).astype(np.int64),
        rows - 1,
    )
    along = np.where(row % 2 == 0, spots[:, across], -spots[:, across])
    return np.asarray(np.lexsort((spots[:, 1 - across], np.round(along, 3), row)), dtype=np.int64)


def _round(spots: Array, hub: Array) -> NDArray[np.int64]:
    """An order round the place that water comes from, from the widest gap on."""
    angle = np.arctan2(*(spots - hub).T)
    order = np.argsort(angle, kind="stable")
    gaps = np.diff(np.append(angle[order], angle[order[0]] + 2 * np.pi))
    return np.asarray(np.roll(order, -(int(np.argmax(gaps)) + 1)), dtype=np.int64)


def _cut(steps: Array, flows: Array, most: float) -> list[int]:
    """Where to part a way: into as few parts as do, and of those where the steps left out are longest."""
    count = len(flows)
    best: list[tuple[int, float]] = [(0, 0.0)] + [(count + 1, inf)] * count
    back = [0] * (count + 1)
    for stop in range(1, count + 1):
        total = 0.0
        for start in range(stop - 1, -1, -1):
            total += float(flows[start])
            if total > most * (1 + 1e-9):
                break
            saved = float(steps[start - 1]) if start else 0.0
            here = best[start][0] + 1, best[start][1] - saved
            if here < best[stop]:
                best[stop], back[stop] = here, start
    cuts, at = [], count
    while back[at]:
        at = back[at]
        cuts.append(at)
    return cuts[::-1]


def measured(plan: Plan, groups: Sequence[Sequence[str]], most: float | None) -> Grouping:
    """What some grouping comes to: each group's draw and pipe, how few zones would do, and the bound on the pipe of as
    many.

    The way to the nearest valve is in the pipe where valves are drawn; a valve is that of one group alone, the one that
    is nearest to it.
    """
    by_id = plan.by_id
    mine = [tuple(by_id[h] for h in g if h in by_id) for g in groups]
    mine = [g for g in mine if g]
    places = list(plan.of_kind(Valve))
    ways = [[min(hypot(p.x - v.x, p.y - v.y) for p in g) for v in places] for g in mine]
    valves = _one_each(ways)
    found = []
    for n, heads in enumerate(mine):
        pipe, price = _pipe_of(plan, heads).of(np.arange(len(heads)))
        own = places[valves[n]].id if n in valves else ""
        found.append(Group(tuple(p.id for p in heads), sum(draws(p.what) for p in heads), pipe, price, own))
    whole, price = sum(g.pipe for g in found), sum(g.price for g in found)
    heads_all = [p for g in mine for p in g]
    least = _least(heads_all, most) if most else len(found)
    bound = _bound(heads_all, places, len(found))
    cheapest = _price_bound(plan, heads_all, places, bound, max((g.flow for g in found), default=0.0))
    return Grouping(
        groups=tuple(found),
        least=least,
        pipe=whole,
        bound=bound,
        price=price,
        price_bound=cheapest,
        says=_says(found, least, whole, price, cheapest, plan.units),
    )


def _one_each(ways: Sequence[Sequence[float]]) -> dict[int, int]:
    """By group the valve that is its own: the nearest pairs first, no valve twice."""
    pairs = sorted((way, n, v) for n, mine in enumerate(ways) for v, way in enumerate(mine))
    found: dict[int, int] = {}
    for _, n, v in pairs:
        if n not in found and v not in found.values():
            found[n] = v
    return found


def _least(heads: Sequence[Point], most: float) -> int:
    """How many zones there must be at the least: by what heads draw in all and how many kinds of rate there are, and
    drip by itself.
    """
    classes = _classes(heads)
    found = 0
    for sort in ("heads", "drip"):
        mine = [p for p in heads if classes[p.id][0] == sort]
        kinds = len({classes[p.id] for p in mine})  # as few as ranges of a quarter cover all rates
        found += max(ceil(sum(draws(p.what) for p in mine) / most - 1e-9), kinds)
    return found


def _bound(heads: Sequence[Point], places: Sequence[Point], zones: int) -> float:
    """Pipe (m) that no grouping into so many zones goes below: what joins all heads, less its longest pieces, and the
    nearest ways to valves.
    """
    if not heads:
        return 0.0
    spots = np.array([(p.x, p.y) for p in heads])
    tree = np.sort(minimum_spanning_tree(cdist(spots, spots) + _TINY).data) - _TINY  # heads at one place are joined too
    joined = float(tree[: max(0, len(tree) - (zones - 1))].sum())
    if not places:
        return joined
    to = np.sort(cdist(spots, np.array([(v.x, v.y) for v in places])).min(axis=1))
    return joined + float(to[:zones].sum())


def _price_bound(plan: Plan, heads: Sequence[Point], places: Sequence[Point], bound: float, most: float) -> float:
    """What the pipe of any such grouping costs at the least: none of it is cheaper than what carries the least head.

    And where valves are drawn, every head's water comes from one: a metre costs no less for each m³/s than in the size
    that is best at it.
    """
    if not heads:
        return 0.0
    prices, flows = pipe_prices(plan), np.array([draws(p.what) for p in heads])
    found = bound * prices.of(float(flows.min()))
    if places:
        near = cdist(np.array([(p.x, p.y) for p in heads]), np.array([(v.x, v.y) for v in places])).min(axis=1)
        found = max(found, float(flows @ near) * prices.least_each(most))
    return found


def _says(found: Sequence[Group], least: int, pipe: float, price: float, cheapest: float, units: System) -> str:
    largest = max((g.flow for g in found), default=0.0)
    zones = "1 zone" if len(found) == 1 else f"{len(found)} zones"
    needed = "no fewer can do" if least >= len(found) else f"{least} at the least by what they draw"
    gap = f", within {max(0.0, price / cheapest - 1):.0%} of the least it could cost" if cheapest > 0 else ""
    return (
        f"{zones}, {needed}; the thirstiest draws {show(largest, 'flow', units)}; {show(pipe, 'length', units)} "
        f"of pipe in straight lines for {price:.2f}{gap}."
    )


def by_valves(plan: Plan, lay: Layout) -> tuple[tuple[str, tuple[str, ...]], ...]:
    """The zones that are drawn: by each valve the outlets whose way from the source it is the last valve of, in the
    order of drawing.
    """
    found: dict[str, list[str]] = {}
    sources = [p.id for p in plan.sources]
    for head in waters(plan):
        ways = [w for s in sources if (w := path_between(lay, s, head.id))]
        if not ways:
            continue
        runs = min(ways, key=len)
        here, last = head.id, ""
        for run in reversed(runs):
            here = lay.lines[run].other(here)
            if isinstance(plan.by_id[here].what, Valve):
                last = here
                break
        found.setdefault(last, []).append(head.id)
    return tuple((valve, tuple(heads)) for valve, heads in found.items())
