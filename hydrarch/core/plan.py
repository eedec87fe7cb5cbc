"""What the crew draws: points, runs, conditions and scenarios. A document that checks itself when made.

All numbers are SI: metres, m³/s, Pa, K, and shares between 0 and 1. `ground` and water levels are elevations on one
datum of the crew's choosing; `depth` is below ground, negative above it.
"""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Callable
from functools import cached_property, partial
from typing import Annotated, Any, Literal, Self

from pydantic import AfterValidator, BaseModel, ConfigDict, Field, model_validator

from hydrarch.core.catalogue.curves import Curve, check_curve, running_curve
from hydrarch.core.catalogue.fittings import fitting
from hydrarch.core.catalogue.guidance import choose_practice, practices
from hydrarch.core.catalogue.pipes import pipe, series
from hydrarch.core.catalogue.prices import priced_item
from hydrarch.core.errors import HydrarchError

__all__ = [
    "BackflowPreventer",
    "Bend",
    "Cap",
    "ChosenHub",
    "ChosenWay",
    "CheckValve",
    "Conditions",
    "CurvePoint",
    "Drain",
    "DrainInlet",
    "Drip",
    "Extra",
    "Filter",
    "Junction",
    "Mains",
    "MeasuredStop",
    "Outfall",
    "Outlet",
    "Plan",
    "Point",
    "Pump",
    "Regulator",
    "Run",
    "Scenario",
    "Situation",
    "Source",
    "Stock",
    "Tin",
    "Sprinkler",
    "Tank",
    "Tap",
    "ThreeWay",
    "Union",
    "Valve",
    "Vent",
    "Vessel",
    "WellPump",
    "What",
]

MAX_POINTS = 5000
DRAIN_SERIES = {"sdr35": "sewer-sdr35", "thin": "sewer-thin", "corrugated": "corrugated", "dwv": "dwv40"}
THREAD_SIZES = ("1/2", "3/4", "1", "1-1/4", "1-1/2", "2")
ThreadSize = Literal["1/2", "3/4", "1", "1-1/4", "1-1/2", "2"]
Situation = Literal["buried", "on surface", "on bracket", "in wall", "in well"]


class _Model(BaseModel):
    model_config = ConfigDict(frozen=True, extra="forbid", strict=True, allow_inf_nan=False)


def _field(default: float | None, label: str, quantity: str, **limits: Any) -> Any:
    return Field(default, title=label, json_schema_extra={"quantity": quantity}, **limits)


def _list(most: int) -> Any:
    return Field((), max_length=most, strict=False)  # JSON has lists where we keep tuples


def _known(look: Callable[[], object], where: str) -> None:
    try:
        look()
    except HydrarchError as error:
        raise ValueError(f"{where}: {error}") from error
    except IndexError:
        raise ValueError(f"{where}: that fitting has fewer ports") from None


def _fitting_id(name: str) -> str:
    _known(partial(fitting, name), "fitting")
    return name


Name = Annotated[str, Field(max_length=80)]
Identity = Annotated[str, Field(pattern=r"^[A-Za-z0-9_-]{1,40}$")]
FittingId = Annotated[str, AfterValidator(_fitting_id)]
Place = Annotated[float, Field(ge=-1e5, le=1e5)]


class CurvePoint(_Model):
    """A point of a pump's curve: `flow` in m³/s, `head` in m."""

    flow: float = Field(ge=0, le=10)
    head: float = Field(ge=0, le=3000)


class WellPump(_Model):
    """A pump that lifts from a water level: its curve, falling, from shut-off to its largest flow."""

    kind: Literal["well_pump"] = "well_pump"
    water_level: float = _field(-30.0, "Water level when pumping", "level", ge=-3000, le=9000)
    curve: tuple[CurvePoint, ...] = Field(
        (CurvePoint(flow=0.0, head=75.0), CurvePoint(flow=0.001, head=62.0), CurvePoint(flow=0.002, head=24.0)),
        title="Pump curve", max_length=40, strict=False,
    )  # fmt: skip
    speed: float = _field(1.0, "Speed, share of rated", "ratio", ge=0.3, le=1.5)
    thread: ThreadSize = Field("1-1/4", title="Outlet thread")

    @model_validator(mode="after")
    def _falls(self) -> WellPump:
        check_curve([(c.flow, c.head) for c in self.curve])
        return self

    def running(self) -> Curve:
        """Its curve at its speed."""
        return running_curve(tuple((c.flow, c.head) for c in self.curve), self.speed)


class Mains(_Model):
    """A tapping with `pressure` (Pa, gauge) at rest at the point's own pipe level.

    Measured with water running, it falls to `flowing_pressure` at `flowing`: the source is then a curve, p = p0 − k·q^1.85.
    """

    kind: Literal["mains"] = "mains"
    pressure: float = _field(350e3, "Pressure at rest", "pressure", ge=0, le=5e6)
    flowing: float = _field(0.0, "Measured flow, 0 for none", "flow", ge=0, le=1)
    flowing_pressure: float = _field(0.0, "Pressure at that flow", "pressure", ge=0, le=5e6)
    thread: ThreadSize = Field("1", title="Outlet thread")

    @model_validator(mode="after")
    def _falls(self) -> Mains:
        if self.flowing > 0 and self.flowing_pressure >= self.pressure:
            raise ValueError("the pressure with water running must be below the one at rest")
        return self


class Tank(_Model):
    """Open water by its level (m): a tank, a pond, a spring box. A foot valve at the intake keeps a suction line full."""

    kind: Literal["tank"] = "tank"
    water_level: float = _field(10.0, "Water level", "level", ge=-3000, le=9000)
    intake: Literal["outlet", "foot valve"] = Field("outlet", title="Pipe begins at")
    thread: ThreadSize = Field("1-1/2", title="Outlet thread")


class Junction(_Model):
    """Where runs meet."""

    kind: Literal["junction"] = "junction"


class Bend(_Model):
    """Where a line turns."""

    kind: Literal["bend"] = "bend"


class Valve(_Model):
    """An isolating valve; it divides the line into sections. Throttled, it is `opening` of the way open; 0 is shut."""

    kind: Literal["valve"] = "valve"
    opening: float = _field(1.0, "Opening, 1 is wide open", "ratio", ge=0, le=1)


class CheckValve(_Model):
    """A valve that lets water away from the source and not back."""

    kind: Literal["check_valve"] = "check_valve"


class Union(_Model):
    """A union, so that what stands beside it can be taken out."""

    kind: Literal["union"] = "union"


class Filter(_Model):
    """A screen filter that loses `loss` (Pa) clean and `dirty_loss` before it is cleaned, at `at_flow` (m³/s), as flow squared.

    `dirt` says where between the two it is reckoned: 0 clean, 1 due for cleaning.
    """

    kind: Literal["filter"] = "filter"
    loss: float = _field(20e3, "Loss, clean", "pressure", ge=0, le=1e6)
    dirty_loss: float = _field(50e3, "Loss, due for cleaning", "pressure", ge=0, le=1e6)
    dirt: float = _field(0.0, "Dirt, 0 clean to 1 due", "ratio", ge=0, le=1)
    at_flow: float = _field(0.001, "at flow", "flow", gt=0, le=1)

    @model_validator(mode="after")
    def _grows(self) -> Filter:
        if self.dirty_loss < self.loss:
            raise ValueError("a dirty filter loses more than a clean one, not less")
        return self

    def loss_now(self) -> float:
        """Loss (Pa) at `at_flow` as dirty as it is."""
        return self.loss + self.dirt * (self.dirty_loss - self.loss)


class BackflowPreventer(_Model):
    """A backflow preventer that loses `loss` (Pa) at `at_flow` (m³/s), as the square of flow."""

    kind: Literal["backflow"] = "backflow"
    loss: float = _field(40e3, "Loss", "pressure", ge=0, le=1e6)
    at_flow: float = _field(0.001, "at flow", "flow", gt=0, le=1)


class Pump(_Model):
    """A pump in the line, as for a booster set or a pond: it lifts away from the source, and needs `npsh` (m) at its inlet."""

    kind: Literal["pump"] = "pump"
    curve: tuple[CurvePoint, ...] = Field(
        (CurvePoint(flow=0.0, head=32.0), CurvePoint(flow=0.001, head=25.0), CurvePoint(flow=0.002, head=10.0)),
        title="Pump curve", max_length=40, strict=False,
    )  # fmt: skip
    speed: float = _field(1.0, "Speed, share of rated", "ratio", ge=0.3, le=1.5)
    side_by_side: int = Field(1, title="How many side by side", ge=1, le=6)
    behind: int = Field(1, title="How many one behind the other", ge=1, le=6)
    npsh: float = _field(2.5, "Suction head needed (NPSH)", "head", ge=0, le=20)
    thread: ThreadSize = Field("1-1/4", title="Threads")

    @model_validator(mode="after")
    def _falls(self) -> Pump:
        check_curve([(c.flow, c.head) for c in self.curve])
        return self

    def running(self) -> Curve:
        """The curve of all its pumps together at their speed."""
        one = running_curve(tuple((c.flow, c.head) for c in self.curve), self.speed)
        return tuple((q * self.side_by_side, h * self.behind) for q, h in one)


class Regulator(_Model):
    """A pressure regulator that holds `pressure` (Pa, gauge) beyond it, away from the source."""

    kind: Literal["regulator"] = "regulator"
    pressure: float = _field(170e3, "Pressure held", "pressure", gt=0, le=2e6)
    thread: ThreadSize = Field("3/4", title="Threads")


class Vent(_Model):
    """An air and vacuum valve at a high point."""

    kind: Literal["vent"] = "vent"


class ThreeWay(_Model):
    """A three-way valve; `shut` names the run it closes, blank for none."""

    kind: Literal["three_way"] = "three_way"
    shut: Annotated[str, Field(max_length=40)] = Field("", title="Run it shuts, by id")


class Vessel(_Model):
    """A pressure vessel at the end of a branch: `volume` (m³); the pump starts at `cut_in` and stops at `cut_out` (Pa, gauge)."""

    kind: Literal["vessel"] = "vessel"
    volume: float = _field(0.1, "Volume", "volume", gt=0, le=10)
    cut_in: float = _field(200e3, "Pump starts at", "pressure", gt=0, le=2e6)
    cut_out: float = _field(340e3, "Pump stops at", "pressure", gt=0, le=2e6)
    thread: ThreadSize = Field("1", title="Thread")

    @model_validator(mode="after")
    def _band(self) -> Vessel:
        if self.cut_out <= self.cut_in:
            raise ValueError("the pump must stop at a higher pressure than it starts at")
        return self


class Cap(_Model):
    """A closed end."""

    kind: Literal["cap"] = "cap"


class Tap(_Model):
    """A standpipe tap that draws `flow` (m³/s) and wants `needs` (Pa) at its own height."""

    kind: Literal["tap"] = "tap"
    flow: float = _field(2.5e-4, "Flow wanted", "flow", gt=0, le=1)
    needs: float = _field(100e3, "Pressure wanted", "pressure", ge=0, le=2e6)
    height: float = _field(1.0, "Height above ground", "length", ge=-5, le=100)
    thread: ThreadSize = Field("3/4", title="Inlet thread")


class Sprinkler(_Model):
    """A head that passes `flow` (m³/s) at `at_pressure` (Pa), and q = k·p^x at others; `radius` (m) is its throw."""

    kind: Literal["sprinkler"] = "sprinkler"
    flow: float = _field(1.4e-4, "Flow", "flow", gt=0, le=1)
    at_pressure: float = _field(210e3, "at pressure", "pressure", gt=0, le=2e6)
    exponent: float = _field(0.5, "Exponent x", "ratio", ge=0.1, le=1)
    needs: float = _field(200e3, "Least pressure", "pressure", ge=0, le=2e6)
    height: float = _field(0.0, "Height above ground", "length", ge=-5, le=100)
    radius: float = _field(9.0, "Throw", "length", ge=0, le=100)
    thread: ThreadSize = Field("1/2", title="Inlet thread")


class Drip(_Model):
    """A drip zone that draws `flow` (m³/s) and wants `needs` (Pa).

    With exponent 0 its emitters compensate for pressure and draw that flow at any; else q = k·p^x, `flow` at `needs`.
    """

    kind: Literal["drip"] = "drip"
    flow: float = _field(1e-4, "Flow", "flow", gt=0, le=1)
    exponent: float = _field(0.0, "Exponent x, 0 compensates", "ratio", ge=0, le=1)
    needs: float = _field(140e3, "Least pressure", "pressure", ge=0, le=2e6)
    height: float = _field(0.0, "Height above ground", "length", ge=-5, le=100)
    thread: ThreadSize = Field("3/4", title="Inlet thread")


class DrainInlet(_Model):
    """Where water runs into a drain: a gully, a trap, a gutter's foot; `flow` (m³/s) is the most it takes."""

    kind: Literal["drain_inlet"] = "drain_inlet"
    flow: float = _field(5e-4, "Most it takes", "flow", gt=0, le=1)


class Outfall(_Model):
    """Where a drain ends: a ditch, a soakaway, a sewer."""

    kind: Literal["outfall"] = "outfall"


Source = WellPump | Mains | Tank
Outlet = Tap | Sprinkler | Drip
Device = Valve | CheckValve | Union | Filter | BackflowPreventer | Pump | Regulator | Vent
Ending = Vessel | Cap
Drain = DrainInlet | Outfall
What = Annotated[Source | Junction | Bend | Device | ThreeWay | Ending | Outlet | Drain, Field(discriminator="kind")]


class Point(_Model):
    """A place where something is. `ground` is its elevation (m), `depth` that of the pipe's axis below it (m)."""

    id: Identity
    name: Name = ""
    x: Place
    y: Place
    ground: float = Field(0.0, ge=-500, le=9000)
    depth: float = Field(0.6, ge=-100, le=100)
    what: What

    @property
    def level(self) -> float:
        """Elevation (m) of the pipe's axis here."""
        return self.ground - self.depth

    @property
    def label(self) -> str:
        """Its name, or its kind and id where it has none."""
        return self.name or f"{self.what.kind.replace('_', ' ')} {self.id}"


class Run(_Model):
    """Pipe between two points, straight in plan. A blank `size` is left to Hydrarch, a blank `series` to the job.

    `measured_length` (m) overrules the length the drawing gives: the tape is right.
    """

    id: Identity
    a: Identity
    b: Identity
    situation: Situation = "buried"
    series: str | None = None
    size: str | None = None
    measured_length: float | None = Field(None, gt=0, le=1e5)

    @model_validator(mode="after")
    def _holds_together(self) -> Run:
        if self.a == self.b:
            raise ValueError(f"run {self.id} starts and ends at {self.a}; draw it to another point")
        if self.series is not None:
            _known(lambda: series(self.series or ""), f"run {self.id}")
        if self.series is not None and self.size is not None:
            _known(lambda: pipe(self.series or "", self.size or ""), f"run {self.id}")
        return self


class Scenario(_Model):
    """What is open at once."""

    id: Identity
    name: Name
    open: tuple[Identity, ...] = _list(MAX_POINTS)


class MeasuredStop(_Model):
    """The crew's own centre-to-stop distance (m) of one port of a fitting, used wherever that fitting is."""

    fitting: str
    port: int = Field(ge=0, le=3)
    stop: float = Field(ge=-0.1, le=1.0)

    @model_validator(mode="after")
    def _exists(self) -> MeasuredStop:
        _known(lambda: fitting(self.fitting).ports[self.port], "measured fitting")
        return self


class ChosenWay(_Model):
    """The crew's own stack, by fitting ids, from the end of a run (or "riser") inward at a point; it stays chosen."""

    point: Identity
    run: Identity
    fittings: tuple[FittingId, ...] = _list(8)


class ChosenHub(_Model):
    """What the crew wants to stand at a point: one fitting, two elbows, a saddle, or the pipe's own bend; it stays chosen."""

    point: Identity
    how: Literal["fitting", "two elbows", "saddle", "own bend"]
    fittings: tuple[FittingId, ...] = _list(2)


class Extra(_Model):
    """A part the crew added by hand, as from the bench: how many, and what for."""

    fitting: FittingId
    count: int = Field(1, ge=1, le=1000)
    note: Annotated[str, Field(max_length=160)] = ""


class Stock(_Model):
    """What is there already: fittings by id and count, or pipe by "series size" and the length (m) of each piece."""

    item: Annotated[str, Field(max_length=80)]
    count: int = Field(1, ge=1, le=10000)
    length: float | None = Field(None, gt=0, le=1000)

    @model_validator(mode="after")
    def _exists(self) -> Stock:
        _known(lambda: priced_item(self.item), "stock")
        if (" " in self.item) != (self.length is not None):
            raise ValueError(f"stock of {self.item}: pipe has a length, a fitting has none")
        return self


class Tin(_Model):
    """A tin of cement or primer and when it was opened or made: "2026-05"."""

    what: Literal["cement", "primer"]
    dated: Annotated[str, Field(pattern=r"^\d{4}-(0[1-9]|1[0-2])$")]


class Conditions(_Model):
    """The job's conditions and the limits the crew works to."""

    water_temperature: float = _field(285.15, "Water temperature", "temperature", ge=273.15, le=333.15)
    air_temperature: float = _field(291.15, "Lowest air temperature while curing", "temperature", ge=255.35, le=310.95)
    humidity: float = _field(0.5, "Relative humidity", "humidity", ge=0, le=1)
    friction: Literal["hazen-williams", "darcy-weisbach"] = Field("hazen-williams", title="Friction formula")
    max_velocity: float = _field(1.524, "Velocity limit", "velocity", ge=0.1, le=10)
    closing: float = _field(0.0, "Fastest valve closes in, 0 at once", "seconds", ge=0, le=600)
    crew: Literal["1", "2", "3", "4"] = Field("1", title="People who make joints")
    test_pressure: float | None = _field(None, "Test pressure", "pressure", gt=0, le=5e6)
    altitude: float = _field(0.0, "Height above the sea", "level", ge=-500, le=5000)
    energy_price: float = _field(0.3, "Price of a kilowatt-hour", "ratio", ge=0, le=100)
    run_hours: float = _field(400.0, "Hours pumped in a year", "ratio", ge=0, le=8784)
    years: float = _field(15.0, "Years reckoned with", "ratio", ge=0, le=100)
    pump_efficiency: float = _field(0.45, "Efficiency, plug to water", "ratio", gt=0, le=1)
    kerf: float = _field(0.003, "Saw kerf", "takeoff", ge=0, le=0.02)
    keep: float = _field(0.3, "Shortest remainder worth keeping", "cut", ge=0, le=5)
    spares: float = _field(0.1, "Spare fittings, share", "ratio", ge=0, le=1)
    series: str = Field("pvc40", title="Pipe where none is chosen")

    @model_validator(mode="after")
    def _series_exists(self) -> Conditions:
        _known(lambda: series(self.series), "conditions")
        return self


class Plan(_Model):
    """The document: everything else is derived from it."""

    format: Literal["hydrarch/plan/1"] = "hydrarch/plan/1"
    name: Annotated[str, Field(min_length=1, max_length=80)]
    units: Literal["us", "metric"] = "metric"
    conditions: Conditions = Conditions()
    practices: dict[str, str] = Field(default_factory=dict)
    points: tuple[Point, ...] = _list(MAX_POINTS)
    runs: tuple[Run, ...] = _list(2 * MAX_POINTS)
    scenarios: tuple[Scenario, ...] = _list(50)
    measured: tuple[MeasuredStop, ...] = _list(1000)
    chosen: tuple[ChosenWay, ...] = _list(1000)
    hubs: tuple[ChosenHub, ...] = _list(1000)
    extras: tuple[Extra, ...] = _list(200)
    stock: tuple[Stock, ...] = _list(1000)
    tins: tuple[Tin, ...] = _list(20)
    prices: dict[str, Annotated[float, Field(ge=0, le=1e6)]] = Field(default_factory=dict, max_length=2000)

    @model_validator(mode="after")
    def _holds_together(self) -> Plan:
        for what, ids in (("points", self.points), ("runs", self.runs), ("scenarios", self.scenarios)):
            twice = [i for i, n in Counter(x.id for x in ids).items() if n > 1]
            if twice:
                raise ValueError(f"two {what} share the id {twice[0]}; give each its own")
        here = {p.id for p in self.points}
        for run in self.runs:
            for place in (run.a, run.b):
                if place not in here:
                    raise ValueError(f"run {run.id} goes to {place}, which is not on the drawing; add that point")
        for scenario in self.scenarios:
            for place in scenario.open:
                if place not in here:
                    raise ValueError(f"scenario {scenario.id} opens {place}, which is not on the drawing")
        for question, answer in self.practices.items():
            if question not in practices():
                raise ValueError(f"there is no practice called {question}; use one of {', '.join(practices())}")
            _known(partial(choose_practice, {question: answer}, question), "practices")
        for item in self.prices:
            _known(partial(priced_item, item), "prices")
        for run in self.runs:
            name, wanted = self.series_of(run), "drain" if run.id in self.drains else "pressure"
            if series(name).kind != wanted:
                lacks = (
                    "carries no pressure; choose a pressure pipe" if wanted == "pressure" else "is no drain; choose a drain pipe"
                )
                raise ValueError(f"run {run.id}: {series(name).name} {lacks}")
        return self

    def __copy__(self) -> Self:
        """A copy to be changed: what was worked out of this one is left behind."""
        copied = super().__copy__()
        for name in [n for n in copied.__dict__ if n not in type(self).model_fields]:
            del copied.__dict__[name]
        return copied

    @cached_property
    def drains(self) -> frozenset[str]:
        """The runs of drains, by id: all that hang together with a drain inlet or an outfall."""
        wet = [p.id for p in self.points if isinstance(p.what, Drain)]
        if not wet:
            return frozenset()
        at: dict[str, list[Run]] = defaultdict(list)
        for run in self.runs:
            at[run.a].append(run)
            at[run.b].append(run)
        seen, found = set(wet), set[str]()
        while wet:
            for run in at[wet.pop()]:
                found.add(run.id)
                for place in (run.a, run.b):
                    if place not in seen:
                        seen.add(place)
                        wet.append(place)
        return frozenset(found)

    @cached_property
    def by_id(self) -> dict[str, Point]:
        """The points by id."""
        return {p.id: p for p in self.points}

    @cached_property
    def names(self) -> dict[str, str]:
        """What each point is called, by id."""
        return {p.id: p.label for p in self.points}

    def point(self, name: str) -> Point:
        """The point with that id; raises KeyError."""
        return self.by_id[name]

    @cached_property
    def outlets(self) -> tuple[Point, ...]:
        """The points where water leaves."""
        return tuple(p for p in self.points if isinstance(p.what, Outlet))

    @cached_property
    def sources(self) -> tuple[Point, ...]:
        """The points where water enters."""
        return tuple(p for p in self.points if isinstance(p.what, Source))

    def series_of(self, run: Run) -> str:
        """The pipe series of a run: its own, or the job's, or for a drain that of the house practice."""
        if run.series is not None:
            return run.series
        return DRAIN_SERIES[choose_practice(self.practices, "drain")] if run.id in self.drains else self.conditions.series

    def all_scenarios(self) -> tuple[Scenario, ...]:
        """The crew's scenarios, or everything open at once where none was written."""
        if self.scenarios:
            return self.scenarios
        return (Scenario(id="all", name="Everything open", open=tuple(p.id for p in self.outlets)),)
