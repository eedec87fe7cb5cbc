"""What meets at a point: the legs that come to it, how the line turns there, and what the crew chose for it.

A `Meeting` is all that its fittings depend on, and nothing more: two that are equal are joined alike, so an edit of a
plan joins again only the points it touches.
"""

from __future__ import annotations

from collections.abc import Collection, Iterator, Mapping
from dataclasses import dataclass
from functools import singledispatch
from math import radians, sqrt

from hydrarch.core.base.cache import remembered
from hydrarch.core.base.identity import EndId, riser_end
from hydrarch.core.base.units import System
from hydrarch.core.catalogue.fittings import End, end, ends, fitting, fittings, pipe_end
from hydrarch.core.catalogue.guidance import choose_practice
from hydrarch.core.catalogue.markets import MarketRow, market
from hydrarch.core.catalogue.pipes import HUNG, Pipe, bend_radius, pipe, series, thread_end
from hydrarch.core.components.base import What, kind_named, kind_of
from hydrarch.core.components.devices import Valve
from hydrarch.core.components.outlets import DripRow, Outlet, Sprinkler
from hydrarch.core.components.sources import Tank
from hydrarch.core.joining.assembled import Side
from hydrarch.core.joining.dripways import set_aside_ways, tubing_end
from hydrarch.core.plan.document import Plan, Point
from hydrarch.core.site.layout import Layout, turns_at
from hydrarch.core.site.risers import riser_length, riser_pipe, riser_thread

__all__ = ["METALS", "Leg", "Meeting", "meetings", "metal_ends", "stands_as"]

METALS = ("steel", "copper")
METAL_BODIES = ("steel", "brass")


@dataclass(frozen=True, slots=True)
class Leg:
    """Something to be joined at a point: a run's pipe end, the foot of a riser, or another thing's port without pipe
    between.

    `key` is the run's end (or the riser's foot), `port` the thing's port it comes to. `offers` names the end it has
    where that is not its pipe's usual one. `length` (m) is the run's, `beyond` whether water leaves by it, `drain`
    whether it is of a drain that falls, `towards` the name of the point at its other end and `far_kind` the kind of the
    first thing that way which is more than a bend. A `riser` is upright; an `existing` leg was there before; a
    `coupled` one has no pipe: it offers the end of what is beyond (`held`, a side of its joint), or `asks` that a port
    is left for that. A `hung` one is of a string in a well; one `closes` where new stiff pipe between two that were met
    is joined last.
    """

    key: EndId
    run: str | None
    port: str
    series: str
    size: str
    length: float
    beyond: bool
    towards: str
    far_kind: str
    drain: bool = False
    riser: bool = False
    offers: str = ""
    existing: bool = False
    coupled: bool = False
    opposite: str = ""
    asks: str = ""
    held: Side | None = None
    hung: bool = False
    buried: bool = False
    closes: bool = False

    @property
    def wants(self) -> str:
        """What a fitting is looked for by: the end it offers, or what it asks of a port."""
        return self.asks or self.end.name

    @property
    def pipe(self) -> Pipe:
        """Its pipe."""
        return pipe(self.series, self.size)

    @property
    def item(self) -> str:
        """Its pipe as stock and prices have it: "series size"."""
        return f"{self.series} {self.size}"

    @property
    def what(self) -> str:
        """It in words."""
        if self.coupled:
            return self.towards
        if self.riser:
            return f"threaded riser {self.size}"
        return f"{'existing ' if self.existing else ''}{series(self.series).short} {self.size} pipe"

    @property
    def end(self) -> End:
        """The end it offers."""
        return end(self.offers) if self.offers else pipe_end(self.series, self.size)

    @property
    def bore(self) -> float:
        """Its bore (m)."""
        return self.pipe.bore

    @property
    def metal(self) -> bool:
        """Whether a plastic female thread over it would split."""
        if self.coupled:
            return (
                self.held is not None
                and self.held.fitting is not None
                and fitting(self.held.fitting).material in METAL_BODIES
            )
        return series(self.series).material in METALS


@dataclass(frozen=True, slots=True)
class Meeting:
    """One point with all that decides its fittings.

    `ends` are the ends of its ports by port, "" where a part is suited to the pipe; `serves` the ports beyond which
    things are taken off now and then, `falls` those where what comes falls in the open and nothing is joined,
    `families` the catalogue's families that may stand for it. `riser` is the upright pipe to its outlet, of no length
    where that sits on the line. `turns` (rad) are by pair of legs in their order, 0 straight on; `weak` are the
    fittings (by id) that do not stand there: what carries less than is seen there, where one was taken, and what the
    crew standards leave out; `ways` and `node` what the crew chose there, `stops` its own measured centre-to-stop
    distances (m) by fitting and port; `swing` is whether a head stands on a swing riser, `foreign` the systems that are
    taken last: what the shop does not sell, and of drip tubing the ways that the crew does not go.
    """

    point: str
    name: str
    kind: str
    ends: tuple[tuple[str, str], ...]
    serves: frozenset[str]
    families: tuple[str, ...]
    legs: tuple[Leg, ...]
    riser: Leg | None
    turns: tuple[tuple[str, str, float], ...]
    ways: tuple[tuple[str, tuple[str, ...]], ...]
    node: tuple[str, tuple[str, ...]] | None
    stops: tuple[tuple[str, int, float], ...]
    saddles: bool
    swing: bool
    service: str
    units: System
    foreign: frozenset[str]
    existing: bool
    weak: frozenset[str] = frozenset()
    falls: frozenset[str] = frozenset()

    @property
    def barred(self) -> frozenset[str]:
        """What does not stand there for its rating; what the crew chose itself stands, and is told to be weak."""
        return self.weak if self.node is None else frozenset()

    def turn(self, a: str, b: str) -> float:
        """The turn (rad) from one leg to another."""
        return next(t for one, two, t in self.turns if {one, two} == {a, b})

    @property
    def met(self) -> bool:
        """Whether what stands at the point exists already: then it is joined to, and is not ours."""
        return self.existing or (kind_named(self.kind).plain and all(leg.existing for leg in self.legs))

    @property
    def instead(self) -> str:
        """What to do where nothing joins what meets."""
        if len(self.legs) > 2 and all(leg.drain for leg in self.legs):
            return "Bring the one from the side in at 45° the way the water runs, or choose another size or series."
        open_ = self.families and "" in dict(self.ends).values()
        own = f", or say in Survey what ends {self.name} has: a part is looked for that suits the pipe" if open_ else ""
        return f"Choose another size or series for one of the runs{own}."

    def end_at(self, port: str) -> str:
        """The end a port has, "" where a part is suited to the pipe."""
        return dict(self.ends).get(port, "")


@singledispatch
def stands_as(what: What) -> tuple[str, ...]:
    """The families of the catalogue that may stand for a thing where its ports are suited to the pipe."""
    return kind_of(what).families


@stands_as.register
def _(what: Tank) -> tuple[str, ...]:
    return ("foot valve",) if what.intake == "foot valve" else ()


@stands_as.register
def _(what: DripRow) -> tuple[str, ...]:
    return ("flush valve",) if what.end == "flush valve" else kind_of(what).families


@stands_as.register
def _(what: Valve) -> tuple[str, ...]:
    return ("zone valve",) if what.worked == "by wire" else kind_of(what).families


def meetings(
    plan: Plan, lay: Layout, pipes: Mapping[str, Pipe], only: Collection[str] | None = None
) -> Iterator[Meeting]:
    """Every point that a run comes to, in the plan's order; or `only` those."""
    chosen: dict[str, tuple[str, ...]] = {w.end: w.fittings for w in plan.ways}
    nodes = {c.point: (c.how, c.fittings) for c in plan.nodes}
    stops = tuple((m.fitting, m.port, m.stop) for m in plan.measured)
    shop = market(plan.conditions.market)
    ends = {e.id: e for r in plan.runs for e in r.ends}
    ahead, closing = _Ahead(plan, lay), _closing(plan, lay, pipes)
    for p in plan.points:
        here = p.id
        if not lay.at[here] or (only is not None and here not in only):
            continue
        legs, own = [], plan.practices_at(here)
        way = choose_practice(own, "drip_joint")
        for run in lay.at[here]:
            line, item = lay.lines[run], pipes[run]
            far, key = line.other(here), line.end_at(here)
            port = plan.port(ends[key])
            legs.append(
                Leg(
                    key=EndId(key),
                    run=run,
                    port="" if port is None else port.name,
                    series=item.series,
                    size=item.size,
                    length=line.length,
                    beyond=_beyond(lay, here, far),
                    towards=plan.names[far],
                    far_kind=ahead.kind(run, far),
                    drain=lay.systems.drain(run),
                    offers=tubing_end(item.series, item.size, way)
                    or end_of(shop, item.series, item.size, plan.run_by_id[run].situation),
                    existing=plan.run_by_id[run].existing is not None,
                    coupled=line.coupled,
                    opposite=line.end_at(far) if line.coupled else "",
                    hung=plan.run_by_id[run].situation == HUNG,
                    buried=plan.run_by_id[run].situation == "buried",
                    closes=key in closing,
                )
            )
        legs.sort(key=lambda leg: (leg.beyond, leg.run or ""))  # as the water comes and goes, not as the crew drew
        riser = _riser(plan, p)
        keys = {leg.key for leg in (*legs, *((riser,) if riser else ()))}
        families = stands_as(p.what)
        if families == ("check valve",) and any(plan.run_by_id[r].situation == HUNG for r in lay.at[here]):
            families = ("spring check valve",)  # a swinging flap does not close with the string, and wears it
        saddles, service = choose_practice(own, "branch") == "saddle", choose_practice(own, "service")
        swing = choose_practice(own, "riser") == "swing"
        last = shop.foreign | set_aside_ways(way)
        yield Meeting(
            here,
            p.label,
            p.what.kind,
            _port_ends(plan, p, bool(families)),
            _serving(p),
            families,
            tuple(legs),
            riser,
            turns_at(lay, here),
            tuple((k, chosen[k]) for k in sorted(keys) if k in chosen),
            nodes.get(here),
            stops,
            saddles,
            swing and isinstance(p.what, Sprinkler),
            service,
            plan.units,
            last,
            p.existing is not None,
            weak=_cemented() if choose_practice(own, "drain_fittings") == "mixed" else frozenset(),
            falls=frozenset(x.name for x in p.kind.ports_of(p.what) if x.falls),
        )


@remembered()
def _cemented() -> frozenset[str]:
    """The wyes, caps and square elbows on gaskets: what a crew leaves out that cements those."""
    return frozenset(
        f.id
        for f in fittings().values()
        if any(p.end.system == "gasket" for p in f.ports)
        and (f.family in ("wye", "cap") or (f.family == "elbow" and f.angle > _EIGHTH))
    )


_EIGHTH = radians(50)
"""The eighth bend, and a little more."""


def _closing(plan: Plan, lay: Layout, pipes: Mapping[str, Pipe]) -> set[str]:
    """The ends of existing pipe at which new pipe between two of them is joined last: neither of them moves,
    so what joins it must close.

    Only where all of it is stiff, too short to be sprung into a bow, and nothing but bends stand in it; it is the end
    farther from the source.
    """
    found = set[str]()
    for old in (r for r in plan.runs if r.existing is not None and series(pipes[r.id].series).stick is not None):
        for first in old.ends:
            run, here, ends, long = (
                old.id,
                first.point,
                [(lay.distance.get(first.point, 0.0), first.point, first.id)],
                0.0,
            )
            while len(lay.at[here]) == 2 and plan.by_id[here].kind.plain:
                run = next(r for r in lay.at[here] if r != run)
                if series(pipes[run].series).stick is None or lay.lines[run].coupled:
                    break
                if plan.run_by_id[run].existing is not None:
                    if run != old.id and here != first.point and not _springs(long, pipes[old.id]):
                        found.add(max(*ends, (lay.distance.get(here, 0.0), here, lay.lines[run].end_at(here)))[2])
                    break
                long += lay.lines[run].length
                here = lay.lines[run].other(here)
    return found


def _springs(length: float, item: Pipe) -> bool:
    """Whether a length (m) of stiff pipe may be bowed until it is shorter by the depth of one joint: a bow of sag s
    takes 8s²/3L off its chord.
    """
    sag = sqrt(3 * length * pipe_end(item.series, item.size).engagement / 8)
    return sag > 0 and length**2 / (8 * sag) >= bend_radius(item)


def _port_ends(plan: Plan, point: Point, suited: bool) -> tuple[tuple[str, str], ...]:
    """The end of each port: the crew's, or its kind's unless a part is suited to the pipe."""
    usual = {
        port.name: "" if suited else port.end(plan.conditions.market) or "" for port in point.kind.ports_of(point.what)
    }
    return tuple((name, point.ports.get(name, own)) for name, own in usual.items())


def _serving(point: Point) -> frozenset[str]:
    """The ports of a device beside which the crew standards put a valve and a union."""
    return (
        frozenset(p.name for p in point.kind.ports_of(point.what) if p.serves)
        if point.kind.role == "device"
        else frozenset()
    )


def _riser(plan: Plan, point: Point) -> Leg | None:
    if not (isinstance(point.what, Outlet) and point.kind.stands):
        return None
    item, thread = riser_pipe(plan, point), riser_thread(plan, point)
    return Leg(
        key=riser_end(point.id),
        run=None,
        port="",
        series=item.series,
        size=item.size,
        length=riser_length(point),
        beyond=True,
        towards="the outlet",
        far_kind="",
        riser=True,
        offers=thread.name,
    )


class _Ahead:
    """The kind of the first point beyond a run's far end that is more than a bend of the same line, each line walked
    once.
    """

    def __init__(self, plan: Plan, lay: Layout) -> None:
        self._points, self._lay = plan.by_id, lay
        self._known: dict[tuple[str, str], str] = {}

    def kind(self, run: str, far: str) -> str:
        """Of the point that is met by going on through a run's far end."""
        way: dict[tuple[str, str], None] = {}
        points, lay, known = self._points, self._lay, self._known
        while (run, far) not in known and (run, far) not in way:
            way[run, far] = None
            on = lay.at[far]
            if len(on) != 2 or on[0] == on[1] or not points[far].kind.plain:
                known[run, far] = points[far].what.kind
            else:
                run = on[1] if on[0] == run else on[0]
                far = lay.lines[run].other(far)
        round_it = (run, far) not in known  # a ring of bends: it has no end
        met = min(points[p].what.kind for _, p in way) if round_it else known[run, far]
        known |= dict.fromkeys(way, met)
        return met


def _beyond(lay: Layout, here: str, far: str) -> bool:
    """Whether water that leaves a point by a run goes away from the source, or down the drain."""
    if here in lay.outfall and here not in lay.distance:
        return lay.outfall.get(far, 0.0) < lay.outfall[here]
    return lay.distance.get(far, 0.0) >= lay.distance.get(here, 0.0)


def end_of(shop: MarketRow, name: str, size: str, situation: str) -> str:
    """The end (by name) that a cut pipe has in a shop's market where it lies: plastic that hangs in a well hangs on its
    threads.
    """
    thread = f"{thread_end(name)}:{size}"
    return thread if situation == HUNG and thread in ends() else shop.pipe_end(name, size)


def metal_ends(legs: tuple[Leg, ...]) -> frozenset[str]:
    """The ends of those legs that are metal."""
    return frozenset(leg.end.name for leg in legs if leg.metal)
