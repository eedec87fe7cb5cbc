"""The bench: single questions with no job at all. Nothing here is kept."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated, Literal

from fastapi import APIRouter
from pydantic import BaseModel, ConfigDict, Field

from hydrarch.core.catalogue.fittings import ends, fittings
from hydrarch.core.catalogue.identify import Identified, Measured, identify
from hydrarch.core.joining.bench import Answer, BranchWay, Constraints, branch, join
from hydrarch.core.joining.things import Thing, read_things
from hydrarch.core.joining.views import EndView, view
from hydrarch.core.plan import Situation
from hydrarch.devices.caliper import SimulatedCaliper

__all__ = ["router"]

router = APIRouter(prefix="/api/bench", tags=["bench"])
_STRICT = ConfigDict(extra="forbid", strict=True, allow_inf_nan=False)


class ThingIn(BaseModel):
    """A cut pipe by series and size, or an open end by its name."""

    model_config = _STRICT
    series: str | None = None
    size: str | None = None
    end: str | None = Field(None, examples=["npt:female:3/4"])

    def thing(self) -> Thing:
        """As the core takes it."""
        return Thing(self.series, self.size, self.end)


class JoinIn(BaseModel):
    """What to join: two things, or words such as "1 in sch 40 pipe to 1 in poly"; and what the crew cannot do."""

    model_config = _STRICT
    start: ThingIn | None = None
    stop: ThingIn | None = None
    words: str = Field("", max_length=200, examples=["1 in sch 40 pipe to 1 in poly"])
    serviceable: bool = False
    no_hot_work: bool = False
    no_solvent: bool = False
    potable: bool = False
    buried: bool = False
    pressure: Annotated[float, Field(gt=0, le=1e8)] | None = None
    temperature: Annotated[float, Field(ge=273.15, le=368.15)] = 293.15
    at_hand: list[str] | None = None


class IdentifyIn(BaseModel):
    """What a caliper read, in m, and what a rule counted; any subset, with the tool's error."""

    model_config = _STRICT
    outside: float | None = None
    bore: float | None = None
    wall: float | None = None
    error: float = 0.1e-3
    colour: Literal["white", "grey", "dark", "clear", "metal"] | None = None
    threads_per_inch: float | None = Field(None, examples=[14.0])
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
    line: ThingIn
    off: ThingIn


@router.post("/join", summary="Join this end to that")
def join_ends(asked: JoinIn) -> Answer:
    """The best stacks with their joints, the tempting wrong ways, and what to do where no honest way exists."""
    if asked.start is not None and asked.stop is not None:
        start, stop = asked.start.thing(), asked.stop.thing()
    else:
        start, stop = read_things(asked.words)
    at_hand = tuple(asked.at_hand) if asked.at_hand is not None else None
    limits = Constraints(
        asked.serviceable, asked.no_hot_work, asked.no_solvent, asked.potable, asked.buried, asked.pressure, asked.temperature, at_hand,
    )  # fmt: skip
    return join(start, stop, limits)


@router.post("/identify", summary="What pipe is this?")
def identify_pipe(read: IdentifyIn) -> Identified:
    """Ranked candidates with likelihood, and what to measure next to tell them apart."""
    return identify(Measured(**read.model_dump()))


@router.post("/branch", summary="Branch a size off a line")
def branch_off(asked: BranchIn) -> list[BranchWay]:
    """Ways to take a branch from the middle of a pipe, fewest joints first: tees that fit, and saddles."""
    return list(branch(asked.line.thing(), asked.off.thing()))


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


@router.post("/caliper", summary="Read the simulated caliper")
def read_caliper(jaws: CaliperIn) -> CaliperReading:
    """A stand-in for a tool with a wire: one reading of a known pipe, with its error."""
    tool = SimulatedCaliper(jaws.series, jaws.size, seed=jaws.seed)
    return CaliperReading(tool.read(jaws.what), tool.error)
