"""The bench: single questions with no job at all. Nothing here is kept."""

from __future__ import annotations

from dataclasses import dataclass
from math import radians
from typing import Annotated, Literal

from fastapi import APIRouter
from pydantic import BaseModel, ConfigDict, Field

from hydrarch.core.base.errors import HydrarchError, OutOfRange
from hydrarch.core.base.units import System
from hydrarch.core.catalogue.fittings import ends, fittings
from hydrarch.core.catalogue.identify import Identified, Measured, identify
from hydrarch.core.catalogue.markets import Market
from hydrarch.core.cutting.single import CutAnswer, CutQuestion, EndOn, Measure, Taker, cut_one, takers
from hydrarch.core.hydraulics.gravity import PartFull
from hydrarch.core.hydraulics.supply import Flowing, SupplyCurve, bucket, supply_curve
from hydrarch.core.joining.answer import answer
from hydrarch.core.joining.branches import BranchWay, branch
from hydrarch.core.joining.constraints import Constraints
from hydrarch.core.joining.pipe_or_end import PipeOrEnd
from hydrarch.core.joining.question import read_question
from hydrarch.core.joining.views import EndView, view
from hydrarch.core.joining.ways import Ways, join
from hydrarch.core.making.at_bench import steps_at_bench
from hydrarch.core.making.fusion import FusedJoint, fused_joint
from hydrarch.core.making.steps import Procedure
from hydrarch.core.making.waiting import Waits, waits
from hydrarch.core.plan.document import Plan, Situation
from hydrarch.core.repair.mending import Broke, Damage, Ends, Lies, Mendings, mendings
from hydrarch.core.report.asked import Figured, figured
from hydrarch.core.sizing.one_line import (
    FrictionTable,
    LineAnswer,
    LineQuestion,
    drain_sizes,
    friction_table,
    line_sizes,
)
from hydrarch.core.wells.droppipe import DropPipes, Duty, drop_pipes
from hydrarch.core.wells.hole import Hole
from hydrarch.core.wells.laid import lay_well
from hydrarch.devices.caliper import SimulatedCaliper

__all__ = ["router"]

router = APIRouter(prefix="/api/bench", tags=["bench"])
_STRICT = ConfigDict(extra="forbid", strict=True, allow_inf_nan=False)


class PipeOrEndIn(BaseModel):
    """A cut pipe by series and size, or an open end by its name."""

    model_config = _STRICT
    series: str | None = None
    size: str | None = None
    end: str | None = Field(None, examples=["npt:female:3/4"])

    def thing(self) -> PipeOrEnd:
        """As the core takes it."""
        return PipeOrEnd(self.series, self.size, self.end)


class JoinIn(BaseModel):
    """What to join: two things, or words such as "1 in sch 40 pipe to 1 in poly", "cap a 1 in pvc line", "branch 3/4
    off a 2 in pvc line", "a nick in 1 in sch 40"; and what the crew cannot do.
    """

    model_config = _STRICT
    start: PipeOrEndIn | None = None
    stop: PipeOrEndIn | None = None
    words: str = Field("", max_length=200, examples=["1 in sch 40 pipe to 1 in poly"])
    serviceable: bool = False
    no_hot_work: bool = False
    no_solvent: bool = False
    potable: bool = False
    buried: bool = False
    pressure: Annotated[float, Field(gt=0, le=1e8)] | None = None
    temperature: Annotated[float, Field(ge=273.15, le=368.15)] = 293.15
    at_hand: list[str] | None = None
    units: System = "metric"
    fixed: bool = False
    valve: bool = False
    union: bool = False
    waste: bool = False
    market: Market = "both"


class IdentifyIn(BaseModel):
    """What a caliper read, in m, and what a rule counted; any subset, with the tool's error."""

    model_config = _STRICT
    outside: float | None = None
    bore: float | None = None
    wall: float | None = None
    error: float = 0.1e-3
    colour: Literal["white", "grey", "dark", "clear", "metal"] | None = None
    threads_per_inch: float | None = Field(None, examples=[14.0])
    pitch: float | None = None
    situation: Situation | None = None


class CaliperIn(BaseModel):
    """Where the simulated caliper's jaws are."""

    model_config = _STRICT
    series: str = "pvc40"
    size: str = "1"
    what: Literal["outside", "bore", "wall"] = "outside"
    seed: int = 1


@dataclass(frozen=True, slots=True)
class CaliperReading:
    """One reading (m) with the tool's error (m)."""

    value: float
    error: float


class BranchIn(BaseModel):
    """The pipe a branch is taken off, and what is to be joined to it."""

    model_config = _STRICT
    line: PipeOrEndIn
    off: PipeOrEndIn
    market: Market = "both"


@router.post("/join", summary="Join this end to that")
def join_ends(asked: JoinIn) -> Ways:
    """The best stacks with their joints, the tempting wrong ways, and what to do where no way to join exists."""
    at_hand = tuple(asked.at_hand) if asked.at_hand is not None else None
    limits = Constraints(
        serviceable=asked.serviceable,
        no_hot_work=asked.no_hot_work,
        no_solvent=asked.no_solvent,
        potable=asked.potable,
        buried=asked.buried,
        pressure=asked.pressure,
        temperature=asked.temperature,
        at_hand=at_hand,
        units=asked.units,
        fixed=asked.fixed,
        valve=asked.valve,
        union=asked.union,
        waste=asked.waste,
        market=asked.market,
    )
    if asked.start is not None and asked.stop is not None:
        return join(asked.start.thing(), asked.stop.thing(), limits)
    return answer(read_question(asked.words, asked.market), limits)


class StepsIn(BaseModel):
    """What was asked to be joined, which of its ways, and which joint of that, each from 0."""

    model_config = _STRICT
    asked: JoinIn
    way: int = Field(0, ge=0, le=50)
    joint: int = Field(0, ge=0, le=50)


@router.post("/steps", summary="How to make a joint of a way")
def joint_steps(wanted: StepsIn) -> Procedure:
    """The steps, holds and cautions of one joint as Make has them, by the usual practice and in the weather that a new
    job begins with.
    """
    found = join_ends(wanted.asked)
    if wanted.way >= len(found.ways):
        raise OutOfRange("the number of the way", wanted.way, 0, len(found.ways) - 1)
    asked = wanted.asked
    return steps_at_bench(
        found.ways[wanted.way], found.things, wanted.joint, asked.pressure or 0.0, asked.units, asked.market
    )


class AskIn(BaseModel):
    """A question of figures as it is said: "8 gpm over 1000 ft of SIDR 15, 30 ft up, 60 psi at the foot, 20 psi
    wanted".
    """

    model_config = _STRICT
    words: str = Field(max_length=200)
    units: System = "metric"


@router.post("/ask", summary="Ask for a size, a length or a time in words")
def ask_in_words(asked: AskIn) -> Figured | None:
    """The answer to a question of figures, with what was read of it; nothing where it asks to join things."""
    return figured(asked.words, asked.units)


@router.post("/identify", summary="What pipe is this?")
def identify_pipe(read: IdentifyIn) -> Identified:
    """Ranked candidates with likelihood, and what to measure next to tell them apart."""
    return identify(Measured(**read.model_dump()))


@router.post("/branch", summary="Branch a size off a line")
def branch_off(asked: BranchIn) -> list[BranchWay]:
    """Ways to take a branch from the middle of a pipe, fewest joints first: tees that fit, and saddles."""
    return list(branch(asked.line.thing(), asked.off.thing(), Constraints(market=asked.market)))


@router.get("/ends", summary="Every end there is")
def all_ends() -> list[EndView]:
    """Ends by name, in words, with their true sizes."""
    return [view(e) for e in ends().values()]


@dataclass(frozen=True, slots=True)
class PartName:
    """A fitting by id and in words."""

    id: str
    name: str


@router.get("/fittings", summary="Every fitting there is")
def all_fittings() -> list[PartName]:
    """Fittings by id and name, for saying which are at hand."""
    return [PartName(f.id, f.name) for f in fittings().values()]


class FusedIn(BaseModel):
    """A PPR joint as it was made: series, size, depth pushed in (m), heating (s), and the flow through it (m³/s)."""

    model_config = _STRICT
    series: Literal["ppr-s5", "ppr-s3.2", "ppr-s2.5"] = "ppr-s2.5"
    size: str = "20"
    depth: float
    heating: float
    flow: Annotated[float, Field(ge=0, le=1)] = 2e-4


@router.post("/fused", summary="What does a PPR joint do to the flow?")
def try_fused(asked: FusedIn) -> FusedJoint:
    """Bore left, loss and verdict of a joint pushed so deep after so long."""
    return fused_joint(asked.series, asked.size, asked.depth, asked.heating, asked.flow)


class LineIn(BaseModel):
    """A line to size, in SI units; `fittings` are counts by kind."""

    model_config = _STRICT
    series: str = "pvc40"
    flow: float = Field(examples=[8e-4])
    length: float
    rise: float = 0.0
    fittings: dict[str, int] = Field(default_factory=dict, max_length=20, examples=[{"elbow": 2}])
    working: float = 400e3
    wanted: float = 100e3
    temperature: Annotated[float, Field(ge=273.15, le=333.15)] = 285.15
    friction: Literal["hazen-williams", "darcy-weisbach"] = "hazen-williams"
    max_velocity: float = 1.524
    units: System = "metric"


@router.post("/line", summary="How big a line?")
def size_line(asked: LineIn) -> LineAnswer:
    """Every size of a series: loss, velocity, surge and verdict; the one to take, its neighbours, the rule beside the
    sum.
    """
    given = asked.model_dump()
    return line_sizes(LineQuestion(**{**given, "fittings": tuple(asked.fittings.items())}))


class DrainIn(BaseModel):
    """A drain to size: series, flow (m³/s) and slope (m/m); `units` are for what is said."""

    model_config = _STRICT
    series: str = "sewer-sdr35"
    flow: float
    slope: float
    units: System = "metric"


@dataclass(frozen=True, slots=True)
class DrainRow:
    """One size of a drain, in use."""

    size: str
    runs: PartFull


@router.post("/drain", summary="How does a drain run?")
def size_drain(asked: DrainIn) -> list[DrainRow]:
    """Every size of a drain by Manning: depth, velocity, whether it cleans itself."""
    return [DrainRow(size, runs) for size, runs in drain_sizes(asked.series, asked.flow, asked.slope, asked.units)]


@router.get("/friction/{name}", summary="The friction table of a series")
def table_of_friction(name: str, units: System = "metric") -> FrictionTable:
    """Losses in 100 and velocities at round flows in the crew's units."""
    step = 3.785411784e-3 / 60 if units == "us" else 1e-3 / 60
    rounds = (0.5, 1, 2, 3, 4, 5, 6, 8, 10, 12, 15, 20, 25, 30, 40, 50, 60, 80, 100, 150, 200)
    return friction_table(name, tuple(n * step * (1 if units == "us" else 5) for n in rounds))


class WellIn(BaseModel):
    """A hole and what is asked of the string in it, in SI units; depths in m below ground."""

    model_config = _STRICT
    depth: float
    casing: float
    static: float
    pump: float
    test_flow: float
    test_drawdown: float
    flow: float
    pressure: float
    outlet: Literal["3/4", "1", "1-1/4", "1-1/2", "2", "3"] = "1-1/4"
    pump_weight: float = 15.0
    cable_weight: float = 0.3
    horsepower: float = 1.0
    shut_off: float = 100.0
    aggressive: bool = False
    iron: bool = False
    sand: bool = False
    hoist: bool = False
    school: Literal["pulling", "strength"] = "pulling"
    cut_in: float = 200e3
    cut_out: float = 340e3
    width: float = 0.0953
    units: System = "metric"
    market: Market = "both"

    def taken(self) -> tuple[Hole, Duty]:
        """As the core takes it."""
        given = self.model_dump()
        hole = {k: given.pop(k) for k in ("depth", "casing", "static", "pump", "test_flow", "test_drawdown")}
        return Hole(**hole), Duty(**given)


class WellInto(BaseModel):
    """A well as asked at the bench, and the plan it is sent into."""

    model_config = ConfigDict(extra="forbid")
    well: WellIn
    plan: Plan


@router.post("/well/laid", summary="Send a well into a job")
def laid_well(asked: WellInto) -> Plan:
    """The plan with pump, string, check valves, pitless adapter and vessel drawn beside what is there; nothing is
    saved.

    Refused where the bench answered for shops other than the job's, and another string would be drawn than it showed.
    """
    hole, duty = asked.well.taken()
    return lay_well(asked.plan, hole, duty, drop_pipes(hole, duty))


@router.post("/well", summary="Which drop pipe?")
def drop_pipe(asked: WellIn) -> DropPipes:
    """Every candidate pipe against weight, pressure, friction, power, water and crew; check valves, vessel and
    cautions.
    """
    return drop_pipes(*asked.taken())


class FlowingIn(BaseModel):
    """One reading with water running: pressure (Pa), and a flow (m³/s) or a bucket (m³) with its time (s)."""

    model_config = _STRICT
    pressure: float
    flow: float | None = None
    volume: float | None = None
    seconds: float | None = None


class SupplyIn(BaseModel):
    """Pressure at rest (Pa), readings with water running, and what the gauge may be off (Pa)."""

    model_config = _STRICT
    rest: float
    readings: list[FlowingIn] = Field(max_length=50)
    gauge_error: Annotated[float, Field(gt=0, le=1e6)] = 5e3


@router.post("/supply", summary="What does the source give?")
def measured_supply(asked: SupplyIn) -> SupplyCurve:
    """The source's curve with its doubt, from a bucket and a watch and a gauge at rest and flowing."""
    readings = []
    for n, r in enumerate(asked.readings, 1):
        if r.flow is not None:
            readings.append(Flowing(r.flow, r.pressure, 0.03 * r.flow))
        elif r.volume is not None and r.seconds is not None:
            flow, doubt = bucket(r.volume, r.seconds)
            readings.append(Flowing(flow, r.pressure, doubt))
        else:
            raise HydrarchError(f"reading {n} has no flow: give one, or a bucket and the seconds it took")
    return supply_curve(asked.rest, readings, asked.gauge_error)


class EndOnIn(BaseModel):
    """What goes on one end of a piece: a fitting's id and the number of its port, and the crew's own centre to stop
    (m).
    """

    model_config = _STRICT
    fitting: str | None = Field(None, examples=["pvc-elbow-90-1"])
    port: int = 0
    stop: float | None = None


class CutIn(BaseModel):
    """A piece to cut, in m and rad: a distance and how it was measured, or an offset and the angle of its elbows."""

    model_config = _STRICT
    series: str = "pvc40"
    size: str = "1"
    distance: float = 0.0
    measured: Measure = "centres"
    a: EndOnIn = EndOnIn()
    b: EndOnIn = EndOnIn()
    rise: float = 0.0
    roll: float = 0.0
    angle: float = radians(45)
    units: System = "metric"


@router.post("/cut", summary="How long do I cut it?")
def cut_length(asked: CutIn) -> CutAnswer:
    """The length between stops, what goes inside each fitting, and how it came about."""
    given = asked.model_dump(exclude={"a", "b"})
    return cut_one(CutQuestion(**given, a=EndOn(**asked.a.model_dump()), b=EndOn(**asked.b.model_dump())))


@router.get("/takers", summary="What takes a pipe")
def pipe_takers(series: str, size: str) -> tuple[Taker, ...]:
    """Every port of every fitting that a cut pipe goes into or over, by family."""
    return takers(series, size)


class WaitIn(BaseModel):
    """A joint that was made: its method and size, the coldest (K) and dampest (share of 1) to come, and the
    test (Pa).
    """

    model_config = _STRICT
    method: str = "solvent weld"
    size: str = "1"
    temperature: float = 288.15
    humidity: Annotated[float, Field(ge=0, le=1)] = 0.5
    pressure: float = 6e5
    units: System = "metric"


@router.post("/wait", summary="When may water come in?")
def joint_waits(asked: WaitIn) -> Waits:
    """How long it is held and left, and when each school fills and tests it."""
    return waits(asked.method, asked.size, asked.temperature, asked.humidity, asked.pressure, asked.units)


class RepairIn(BaseModel):
    """What broke, in what pipe (none: nobody identified it), how long the damage is (m), where it lies, whether the two
    ends can be sprung aside, how much bare pipe there is beside it (m), whether it runs dry; the pressure it will see
    (Pa) and the coldest (K) and dampest (share of 1) until water comes back.
    """

    model_config = _STRICT
    broke: Broke = "split"
    series: str | None = None
    size: str | None = None
    long: Annotated[float, Field(ge=0, le=100)] = 0.0
    lies: Lies = "in ground"
    ends: Ends = "held"
    bare: Annotated[float, Field(ge=0, le=100)] | None = None
    wet: bool = False
    potable: bool = False
    pressure: Annotated[float, Field(gt=0, le=1e8)] | None = None
    temperature: Annotated[float, Field(ge=263.15, le=313.15)] = 288.15
    humidity: Annotated[float, Field(ge=0, le=1)] = 0.5
    units: System = "metric"
    market: Market = "both"


@router.post("/repair", summary="It broke: how is it mended?")
def mend_break(asked: RepairIn) -> Mendings:
    """Every way to make it whole in the room there is: what to cut out, what goes in and how, what to buy, what it
    waits for.
    """
    return mendings(Damage(**asked.model_dump()))


@router.post("/caliper", summary="Read the simulated caliper")
def read_caliper(jaws: CaliperIn) -> CaliperReading:
    """A stand-in for a tool with a wire: one reading of a known pipe, with its error."""
    tool = SimulatedCaliper(jaws.series, jaws.size, seed=jaws.seed)
    return CaliperReading(tool.read(jaws.what), tool.error)
