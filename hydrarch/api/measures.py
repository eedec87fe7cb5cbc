"""Drawing by measure: a line of measures read back before it is drawn, and drawn into a plan."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated, Literal

from fastapi import APIRouter
from pydantic import BaseModel, ConfigDict, Field

from hydrarch.api.foreign import ForeignText, read_foreign
from hydrarch.core.base.earth import read_place, said_place
from hydrarch.core.base.units import System
from hydrarch.core.components.sources import CurvePoint
from hydrarch.core.editing.grading import Graded, even_fall, follow_ground, read_slope
from hydrarch.core.editing.measures import read_measures, said
from hydrarch.core.measuring.drawn_line import draw_measures, heading_of
from hydrarch.core.plan.document import Plan
from hydrarch.core.plan.tie import Tie, tie_at
from hydrarch.formats.curvefile import read_curve
from hydrarch.formats.pointsfile import Points, read_points

__all__ = ["router"]

router = APIRouter(prefix="/api/measures", tags=["survey and size"])
Line = Annotated[str, Field(max_length=2000, examples=["12.4 e, 3 up, 45 left 2.1, tap"])]


class MeasuresIn(BaseModel):
    """A line of measures as it was typed."""

    model_config = ConfigDict(extra="forbid", strict=True)
    text: Line
    units: System = "metric"


@dataclass(frozen=True, slots=True)
class MeasuresRead:
    """A line of measures in words, as it would be drawn."""

    says: str


class MeasuresInto(BaseModel):
    """A line of measures, the plan it goes into, and the point it begins at; "" where its first words say it."""

    model_config = ConfigDict(extra="forbid")
    text: Line
    plan: Plan
    start: str = ""


@dataclass(frozen=True, slots=True)
class MeasuresDrawn:
    """The plan with the line drawn; nothing is saved. `end` is the point it came to, `says` the line in words."""

    plan: Plan
    end: str
    says: str


@router.post("/read", summary="Read a line of measures back")
def read_line(line: MeasuresIn) -> MeasuresRead:
    """What the line would draw, in words; its lefts and rights are told as they were said."""
    return MeasuresRead(said(read_measures(line.text, line.units), line.units))


@router.post("/draw", summary="Draw a line of measures")
def draw_line(line: MeasuresInto) -> MeasuresDrawn:
    """The plan with the line drawn from the point; refused with the part that is not understood."""
    heading = heading_of(line.plan, line.start) if line.start in line.plan.by_id else 0.0
    steps = read_measures(line.text, line.plan.units, heading)
    drawn = draw_measures(line.plan, line.start, steps)
    return MeasuresDrawn(drawn.plan, drawn.end, said(steps, line.plan.units))


class PointsFile(ForeignText):
    """A file of points, a table or GeoJSON, and the units its figures are in where it does not say.

    Places on the earth are set down by the drawing's `tie`. `use` says, column by column, what each is (name, east,
    north, level, latitude, longitude; "" for nothing), where the heads do not. `grid` is the national grid or UTM zone
    of its figures, by EPSG code or name; "as they are" sets large figures down from their own south-west corner.
    """

    units: System = "metric"
    use: Annotated[list[Annotated[str, Field(max_length=20)]], Field(max_length=200)] = Field(default_factory=list)
    tie: Tie | None = None
    grid: Annotated[str, Field(max_length=80)] = ""


@router.post("/points", summary="Read points that were measured")
def measured_points(file: PointsFile) -> Points:
    """What a file of points holds, column by column; nothing is drawn or kept."""
    return read_foreign(read_points, file.file, file.units, tuple(file.use), file.tie, file.grid.strip())


class PlaceIn(BaseModel):
    """A place on the earth as a map or a phone shows it, of the spot `east`, `north` (m) of a drawing whose north is
    `turn` (rad) clockwise of true north.
    """

    model_config = ConfigDict(extra="forbid", strict=True, allow_inf_nan=False)
    text: Annotated[str, Field(max_length=100, examples=["51.4779, -0.0015"])]
    east: Annotated[float, Field(ge=-1e5, le=1e5)] = 0.0
    north: Annotated[float, Field(ge=-1e5, le=1e5)] = 0.0
    turn: Annotated[float, Field(ge=-6.3, le=6.3)] = 0.0


@dataclass(frozen=True, slots=True)
class PlaceRead:
    """Where a drawing's own origin lies, for its plan to keep, and in words."""

    tie: Tie
    says: str


@router.post("/place", summary="Say where a drawing lies on the earth")
def place_on_earth(place: PlaceIn) -> PlaceRead:
    """Where the drawing's origin lies, by the place of one of its spots; refused with what will do."""
    latitude, longitude = read_place(place.text)
    tie = tie_at(place.east, place.north, latitude, longitude, place.turn)
    return PlaceRead(tie, said_place(tie.latitude, tie.longitude))


class CurveText(BaseModel):
    """A pump's curve as text, a point a line, and the units its figures are in where it does not say."""

    model_config = ConfigDict(extra="forbid", strict=True)
    text: Annotated[str, Field(max_length=20_000, examples=["0 45\n60 42\n180 26"])]
    units: System = "metric"


@dataclass(frozen=True, slots=True)
class CurveRead:
    """A curve as it was read: its points, and what was read as what, in words."""

    points: tuple[CurvePoint, ...]
    says: str


@router.post("/curve", summary="Read a pump's curve")
def pump_curve(curve: CurveText) -> CurveRead:
    """The points of a curve as it was typed or pasted, the least flow first, with what was read as what; refused with
    the line that is not understood.
    """
    found = read_foreign(read_curve, curve.text, curve.units)
    return CurveRead(tuple(CurvePoint(flow=q, head=h) for q, h in found.points), found.says)


class GradeIn(BaseModel):
    """Levels to set along the way between two points of a plan: `by` an even fall, a slope from the first, or the
    ground.
    """

    model_config = ConfigDict(extra="forbid")
    plan: Plan
    start: str
    stop: str
    by: Literal["even", "slope", "ground"] = "even"
    slope: str = Field("", max_length=40, examples=["1 in 70"])


@router.post("/grade", summary="Set the levels along a line")
def grade_line(asked: GradeIn) -> Graded:
    """The plan with the levels set; nothing is saved."""
    if asked.by == "ground":
        return follow_ground(asked.plan, asked.start, asked.stop)
    return even_fall(asked.plan, asked.start, asked.stop, read_slope(asked.slope) if asked.by == "slope" else None)
