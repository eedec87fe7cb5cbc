"""What the crew draws: things, runs between their ports, conditions and scenarios.

A document that checks itself when made.

All numbers are SI: metres, m³/s, Pa, K, and shares between 0 and 1. `ground` and water levels are elevations on one
datum of the crew's choosing; `depth` is below ground, negative above it. What does not hold together is refused; what
holds together and cannot work is told by the chain as a `Problem`. Plans of earlier formats are read by
`core/upgrades.py`.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Mapping
from functools import cached_property, partial
from typing import Annotated, Literal, Self

from pydantic import AfterValidator, Field, model_validator

from hydrarch.core import components as _every_kind
from hydrarch.core.base.identity import Names, Refers, spoken
from hydrarch.core.catalogue.beginnings import beginnings
from hydrarch.core.catalogue.fittings import end, fitting
from hydrarch.core.catalogue.guidance import choose_practice, practices
from hydrarch.core.catalogue.nozzles import Nozzle
from hydrarch.core.catalogue.pipes import pipe, series
from hydrarch.core.catalogue.prices import priced_item
from hydrarch.core.components.base import AnyWhat, Kind, Model, PortSpec, Trait, kind_of, listed
from hydrarch.core.components.drains import DrainPump
from hydrarch.core.components.outlets import DripRow, Outlet
from hydrarch.core.plan.basin_shapes import let_in
from hydrarch.core.plan.conditions import Conditions, known
from hydrarch.core.plan.details import Detail
from hydrarch.core.plan.emitter_rows import fitting_on
from hydrarch.core.plan.leaving import ChangeoverAct, Leaving
from hydrarch.core.plan.names import AnyEnd, AnyThing, Identity, Name, PortName, Words, sayable
from hydrarch.core.plan.tie import Tie
from hydrarch.core.plan.underlay import Underlay
from hydrarch.core.plan.watering import MOST_ZONES, Watering, Zone

__all__ = [
    "AT_A_PLACE",
    "FORMAT",
    "MAX_POINTS",
    "ChosenNode",
    "ChosenWay",
    "Conditions",
    "Existing",
    "Extra",
    "MeasuredStop",
    "Plan",
    "Point",
    "Run",
    "RunEnd",
    "Scenario",
    "Situation",
    "Stock",
    "Tin",
]

assert _every_kind  # a plan may hold a thing of every kind there is

FORMAT = 3
MAX_POINTS = 5000
DRAIN_SERIES = {"sdr35": "sewer-sdr35", "thin": "sewer-thin", "corrugated": "corrugated", "dwv": "dwv40"}
AT_A_PLACE = (
    "branch",
    "service",
    "riser",
    "prepare",
    "primer_wet",
    "coats",
    "cement",
    "twist",
    "cure",
    "tape",
    "bulkhead",
)
"""Practices that may be otherwise at one thing than in the rest of a job."""
LEAST_LENGTH = 1e-3
"""The shortest run (m) that is allowed for."""
Situation = Literal[
    "buried", "on surface", "on bracket", "in wall", "in well", "above water", "in a cellar", "in a pit"
]


def _fitting_id(name: str) -> str:
    known(partial(fitting, name), "fitting")
    return name


def _end_name(name: str) -> str:
    if name:
        known(partial(end, name), "end")
    return name


FittingId = Annotated[str, AfterValidator(_fitting_id)]
EndName = Annotated[str, Field(max_length=60), AfterValidator(_end_name)]
Coordinate = Annotated[float, Field(ge=-1e5, le=1e5)]


class Existing(Model):
    """What exists already and stays: what is known of it, in words."""

    known: Words = ""


class Point(Model):
    """A place where a thing is. `ground` is its elevation (m), `depth` that of the pipe's axis below it (m).

    `number` tells a point without a name from others of its kind, for people: it may repeat, and nothing goes by it.
    `practices` are what is done otherwise here than in the rest of the job. `ports` are the ends a crew says its ports
    have, by port; blank for a part whose ends suit the pipe.
    """

    id: Annotated[Identity, Names("thing")]
    name: Name = ""
    number: Annotated[int, Field(ge=1, le=100_000)] | None = None
    x: Coordinate
    y: Coordinate
    ground: float = Field(0.0, ge=-500, le=9000)
    depth: float = Field(0.6, ge=-100, le=1500)
    what: AnyWhat
    ports: dict[PortName, EndName] = Field(default_factory=dict, max_length=8)
    existing: Existing | None = None
    practices: dict[str, str] = Field(default_factory=dict, max_length=20)

    @property
    def level(self) -> float:
        """Elevation (m) of the pipe's axis here."""
        return self.ground - self.depth

    @property
    def kind(self) -> Kind:
        """The kind of what stands here."""
        return kind_of(self.what)

    @property
    def label(self) -> str:
        """Its name, or its kind and number where it has none."""
        return self.name or f"{self.what.kind.replace('_', ' ')} {self.number or spoken(self.id)}".rstrip()


class RunEnd(Model):
    """One end of a run: who it is, the thing it comes to, and the port of that thing."""

    id: Annotated[Identity, Names("end")]
    point: AnyThing
    port: PortName = ""


class Run(Model):
    """Pipe between two ports, straight in plan. A blank `size` is left to Hydrarch, a blank `series` to the job.

    `measured_length` (m) overrules the length the drawing gives: the tape is right. A `coupled` run is no pipe at all:
    its two ports are screwed or pushed together. An `existing` one exists already: it flows and is joined, and nothing
    of it is bought. `wheels` go over it where it lies buried under a drive or a gateway; `lagging` (m) is how thick it
    is insulated. `closed` is the loss coefficient of joints in it that went wrong.
    """

    id: Annotated[Identity, Names("thing")]
    a: RunEnd
    b: RunEnd
    situation: Situation = "buried"
    series: str | None = None
    size: str | None = None
    measured_length: float | None = Field(None, ge=LEAST_LENGTH, le=1e5)
    coupled: bool = False
    existing: Existing | None = None
    wheels: bool = False
    lagging: float = Field(0.0, ge=0, le=0.3)
    closed: float = Field(0.0, ge=0, le=1e5)

    @property
    def ends(self) -> tuple[RunEnd, RunEnd]:
        """Both ends."""
        return self.a, self.b

    @property
    def points(self) -> tuple[str, str]:
        """The two things it joins, by id."""
        return self.a.point, self.b.point

    @model_validator(mode="after")
    def _holds_together(self) -> Run:
        if self.a.point == self.b.point:
            raise ValueError(f"run {self.id} starts and ends at {self.a.point}; draw it to another point")
        if self.series is not None:
            known(lambda: series(self.series or ""), f"run {self.id}")
        if self.series is not None and self.size is not None:
            known(lambda: pipe(self.series or "", self.size or ""), f"run {self.id}")
        return self


class Turned(Model):
    """How a three-way valve is set in a scenario: which of its ports it shuts, "" for none. One whose valve is gone is
    blank.
    """

    point: Annotated[str, Field(max_length=40), Refers("thing", holds="kind")] = ""
    shut: Literal["", "in", "left", "right"] = ""


class Scenario(Model):
    """What is open at once, and how three-way valves are set then; one that is not named is as it is drawn."""

    id: Annotated[Identity, Names("scenario")]
    name: Name
    open: tuple[Annotated[Identity, Refers("thing", holds="outlet")], ...] = listed(MAX_POINTS)
    turned: tuple[Turned, ...] = listed(50)

    @property
    def shares(self) -> Mapping[str, float]:
        """By outlet the share of its flow that it draws, where that is not all of it."""
        return {}


class LineRule(Model):
    """What the levels of a line keep, along the shortest way between two points: an even fall between those two, a
    `slope` (m/m) from the first, or the depth of the first, with the ground.
    """

    start: Annotated[Identity, Refers("thing")]
    stop: Annotated[Identity, Refers("thing")]
    by: Literal["even", "slope", "ground"] = "even"
    slope: float = Field(0.0, ge=-10, le=10)


class MeasuredStop(Model):
    """The crew's own centre-to-stop distance (m) of one port of a fitting, used wherever that fitting is."""

    fitting: str
    port: int = Field(ge=0, le=3)
    stop: float = Field(ge=-0.1, le=1.0)

    @model_validator(mode="after")
    def _exists(self) -> MeasuredStop:
        known(lambda: fitting(self.fitting).ports[self.port], "measured fitting")
        return self


class ChosenWay(Model):
    """The crew's own stack, by fitting ids, from a run's end (or the foot of a riser) inward; it stays chosen."""

    end: AnyEnd
    fittings: tuple[FittingId, ...] = listed(8)


class ChosenNode(Model):
    """What the crew wants to stand at a point: one fitting, two elbows, a saddle, or the pipe's own bend; it stays
    chosen.
    """

    point: Annotated[Identity, Refers("thing", holds="kind")]
    how: Literal["fitting", "two elbows", "saddle", "own bend"]
    fittings: tuple[FittingId, ...] = listed(2)


class Extra(Model):
    """A part the crew added by hand, as from the bench: how many, and what for."""

    fitting: FittingId
    count: int = Field(1, ge=1, le=1000)
    note: Words = ""


class Stock(Model):
    """What is there already: fittings by id and count, or pipe by "series size" and the length (m) of each piece."""

    item: Annotated[str, Field(max_length=80)]
    count: int = Field(1, ge=1, le=10000)
    length: float | None = Field(None, gt=0, le=1000)

    @model_validator(mode="after")
    def _exists(self) -> Stock:
        known(lambda: priced_item(self.item), "stock")
        if (" " in self.item) != (self.length is not None):
            raise ValueError(f"stock of {self.item}: pipe has a length, a fitting has none")
        return self


class Tin(Model):
    """A tin of cement or primer and when it was opened or made: "2026-05"."""

    what: Literal["cement", "primer"]
    dated: Annotated[str, Field(pattern=r"^\d{4}-(0[1-9]|1[0-2])$")]


def _laid(point: Point, emitters: int | None) -> Point:
    what = point.what
    return (
        point
        if emitters is None or not isinstance(what, DripRow)
        else point.model_copy(update={"what": what.laid(emitters)})
    )


class Plan(Model):
    """The document: everything else is derived from it."""

    format: Literal["hydrarch/plan/3"] = "hydrarch/plan/3"
    name: Annotated[str, Field(min_length=1, max_length=80), AfterValidator(sayable)]
    units: Literal["us", "metric"] = "metric"
    about: str = ""
    """What kind of job it was begun as, "" for none: what is at hand and asked first goes by it, and nothing is derived
    from it."""
    conditions: Conditions = Conditions()
    practices: dict[str, str] = Field(default_factory=dict)
    points: tuple[Point, ...] = listed(MAX_POINTS)
    runs: tuple[Run, ...] = listed(2 * MAX_POINTS)
    leaving: tuple[Leaving, ...] = listed(20)
    """Pipe that feeds the house until a changeover is over: no part of what is built, sized or handed over."""
    changeover: tuple[ChangeoverAct, ...] = listed(100)
    """The order of a changeover as the crew agreed it; empty where the one that is worked out is gone by."""
    scenarios: tuple[Scenario, ...] = listed(50)
    zones: tuple[Zone, ...] = listed(MOST_ZONES)
    watering: Watering = Watering()
    nozzles: tuple[Nozzle, ...] = listed(200)
    measured: tuple[MeasuredStop, ...] = listed(1000)
    ways: tuple[ChosenWay, ...] = listed(1000)
    nodes: tuple[ChosenNode, ...] = listed(1000)
    extras: tuple[Extra, ...] = listed(200)
    stock: tuple[Stock, ...] = listed(1000)
    tins: tuple[Tin, ...] = listed(20)
    details: tuple[Detail, ...] = listed(100)
    rules: tuple[LineRule, ...] = listed(200)
    underlay: Underlay | None = None
    tie: Tie | None = None
    prices: dict[str, Annotated[float, Field(ge=0, le=1e6)]] = Field(default_factory=dict, max_length=2000)
    currency: Annotated[
        str, Field(pattern="^([A-Z]{3})?$", description="Of those prices; ISO 4217, empty where unsaid")
    ] = ""

    @model_validator(mode="after")
    def _holds_together(self) -> Plan:
        pipes: tuple[Run | Leaving, ...] = (*self.runs, *self.leaving)
        things = (*(p.id for p in self.points), *(r.id for r in pipes), *(e.id for r in pipes for e in r.ends))
        named = (
            ("scenarios and zones", [*(s.id for s in self.scenarios), *(z.id for z in self.zones)]),
            ("details", [d.name for d in self.details]),
            ("nozzle tables", [n.name for n in self.nozzles]),
        )
        for what, ids in (("things of the drawing", things), *named):
            twice = [i for i, n in Counter(ids).items() if n > 1]
            if twice:
                raise ValueError(
                    f"two {what} share the "
                    f"{'id' if what in ('things of the drawing', 'scenarios and zones') else 'name'} "
                    f"{twice[0]}; give each its own"
                )
        if self.about and self.about not in beginnings():
            raise ValueError(
                f"there is no kind of job called {self.about}; use one of {', '.join(beginnings())}, or leave it blank"
            )
        here = {p.id for p in self.points}
        for run in pipes:
            for place in run.points:
                if place not in here:
                    raise ValueError(f"run {run.id} goes to {place}, which is not on the drawing; add that point")
        for scenario in self.scenarios:
            for place in scenario.open:
                if place not in here:
                    raise ValueError(f"scenario {scenario.id} opens {place}, which is not on the drawing")
        for told, asked in ((self.practices, tuple(practices())), *((p.practices, AT_A_PLACE) for p in self.points)):
            for question, answer in told.items():
                if question not in asked:
                    raise ValueError(f"there is no practice called {question} there; use one of {', '.join(asked)}")
                known(partial(choose_practice, {question: answer}, question), "practices")
        for item in self.prices:
            known(partial(priced_item, item), "prices")
        listed = fitting_on({p.id: p for p in self.points}, self.runs)
        if listed:  # how many emitters fit follows from where the row lies, and is no part of the document
            self.__dict__["points"] = tuple(_laid(p, listed.get(p.id)) for p in self.points)
        walled = let_in(self.points)
        if walled:  # nor is the water that a skimmer stands in
            self.__dict__["points"] = tuple(
                p.model_copy(update={"what": walled[p.id]}) if p.id in walled else p for p in self.points
            )
        return self

    def __copy__(self) -> Self:
        """A copy to be changed: what was worked out of this one is left behind."""
        copied = super().__copy__()
        for name in [n for n in copied.__dict__ if n not in type(self).model_fields]:
            del copied.__dict__[name]
        return copied

    @cached_property
    def by_id(self) -> dict[str, Point]:
        """The points by id."""
        return {p.id: p for p in self.points}

    @cached_property
    def run_by_id(self) -> dict[str, Run]:
        """The runs by id."""
        return {r.id: r for r in self.runs}

    @cached_property
    def met_ends(self) -> frozenset[str]:
        """The ends of runs that exist already."""
        return frozenset(e.id for r in self.runs if r.existing is not None for e in r.ends)

    @cached_property
    def names(self) -> dict[str, str]:
        """What each point is called, by id."""
        return {p.id: p.label for p in self.points}

    def practices_at(self, point: str | None) -> dict[str, str]:
        """The crew's answers where a point is: its own, or the job's."""
        own = self.by_id[point].practices if point in self.by_id else {}
        return {**self.practices, **own} if own else self.practices

    def of_kind(self, *models: type) -> Iterable[Point]:
        """The points where a thing of one of these models stands."""
        return (p for p in self.points if isinstance(p.what, models))

    def with_trait(self, trait: Trait) -> Iterable[Point]:
        """The points where a thing with this trait stands."""
        return (p for p in self.points if trait in p.what.traits)

    @cached_property
    def outlets(self) -> tuple[Point, ...]:
        """The points where water leaves."""
        return tuple(self.of_kind(Outlet))

    @cached_property
    def sources(self) -> tuple[Point, ...]:
        """The points where water enters."""
        return tuple(p for p in self.points if p.kind.role == "source")

    def port(self, of: RunEnd) -> PortSpec | None:
        """The port a run's end comes to; None where its thing has no such port."""
        return self._ports[of.id]

    def port_name(self, of: RunEnd) -> str:
        """The name of the port a run's end comes to: as it was said, or the one that is meant."""
        port = self._ports[of.id]
        return of.port if port is None else port.name

    @cached_property
    def _ports(self) -> dict[str, PortSpec | None]:
        """The port of each run's end."""
        points = self.by_id
        found = {e.id: (p := points[e.point]).kind.port(p.what, e.port) for r in self.runs for e in r.ends}
        unsaid = {e.point for r in self.runs for e in r.ends if found[e.id] is None and not e.port}
        at: dict[str, list[str]] = {}
        for run in self.runs:
            for e in run.ends:
                if e.point in unsaid:
                    at.setdefault(e.point, []).append(e.id)
        for name, ends in at.items():
            blank = [i for i in ends if found[i] is None]
            taken = Counter(spec.name for i in ends if (spec := found[i]) is not None)
            free = [s for s in points[name].kind.ports_of(points[name].what) if not s.takes or taken[s.name] < s.takes]
            if len(blank) == len(free) == 1:  # the one port that is left is the one meant
                found[blank[0]] = free[0]
        return found

    def end_at(self, point: Point, port: PortSpec) -> str | None:
        """The end (by name) a port has: the crew's, or its kind's in this market; None where a part is suited to the
        pipe.
        """
        chosen = point.ports.get(port.name)
        return port.end(self.conditions.market) if chosen is None else chosen or None

    def as_in(self, scenario: Scenario) -> Plan:
        """The plan with its three-way valves set as in a scenario, and its outlets drawing what they do there; itself
        where nothing is otherwise.
        """
        ways, shares = {t.point: t.shut for t in scenario.turned if t.point}, scenario.shares
        if not ways and not shares:
            return self

        def there(p: Point) -> Point:
            if p.id in ways and "diverts" in p.kind.traits:
                return p.model_copy(update={"what": p.what.model_copy(update={"shut": ways[p.id]})})
            if shares.get(p.id, 1.0) != 1.0:
                assert isinstance(p.what, Outlet)
                return p.model_copy(update={"what": p.what.model_copy(update={"flow": p.what.flow * shares[p.id]})})
            return p

        return self.model_copy(update={"points": tuple(there(p) for p in self.points)})

    def written_scenarios(self) -> tuple[Scenario, ...]:
        """The crew's scenarios and each zone by itself; where none is written, what is in no zone all at once, and
        that with each three-way valve turned.
        """
        here = {p.id for p in self.outlets}
        zones = tuple(Scenario(id=z.id, name=z.name, open=tuple(h for h in z.heads if h in here)) for z in self.zones)
        if self.scenarios:
            return self.scenarios + zones
        rest = tuple(p.id for p in self.outlets if not any(p.id in z.open for z in zones))
        if zones and not rest:
            return zones
        name = "All else open" if zones else "Everything open"
        return (Scenario(id="all", name=name, open=rest), *self._turned_otherwise(name, rest), *zones)

    def _turned_otherwise(self, name: str, rest: tuple[str, ...]) -> Iterable[Scenario]:
        """The same with each three-way valve that shuts one of its sides turned to shut the other, and in what is
        pumped away each way by itself where nobody said which is shut: both are sized.
        """
        pumped = any(isinstance(p.what, DrainPump) for p in self.points)
        for p in self.with_trait("diverts"):
            shut = getattr(p.what, "shut", "")
            others = {"left": ("right",), "right": ("left",)}.get(
                shut, ("left", "right") if pumped and not shut else ()
            )
            for n, other in enumerate(others):
                turned = Turned.model_validate({"point": p.id, "shut": other})
                told = "turned" if shut else f"{other} shut"
                where = f"all{n or ''}-{p.id[-35:]}"
                yield Scenario(id=where, name=f"{name}, {p.label} {told}", open=rest, turned=(turned,))
