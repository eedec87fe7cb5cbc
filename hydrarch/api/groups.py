"""Edits of several things at once, worked out of the plan that is sent; nothing is saved."""

from __future__ import annotations

from math import radians
from typing import Annotated, Literal

from fastapi import APIRouter
from pydantic import BaseModel, ConfigDict, Field, ValidationError

from hydrarch.core.base.errors import HydrarchError
from hydrarch.core.base.units import read, show
from hydrarch.core.editing.common_fields import GroupChange, change_all
from hydrarch.core.editing.drip_beds import bedded, ringed
from hydrarch.core.editing.drip_head import drip_head
from hydrarch.core.editing.fill_area import Pattern, filled
from hydrarch.core.editing.groups import (
    Edited,
    copied,
    lifted,
    mirrored,
    moved,
    repeated,
    set_down,
    taken_away,
    turned,
)
from hydrarch.core.editing.jet_ring import MOST_JETS, jet_ring
from hydrarch.core.editing.measures import way_of
from hydrarch.core.editing.new_service import new_service, temporary_loop
from hydrarch.core.editing.room_set import MOST_FIXTURES, room_set
from hydrarch.core.editing.set_nozzle import nozzled
from hydrarch.core.plan.document import MAX_POINTS, Plan, Situation

__all__ = ["router"]

router = APIRouter(prefix="/api/groups", tags=["survey and size"])
By = Annotated[str, Field(max_length=200, examples=["12 m east", "3 e, 0.5 up"])]
_MOST = 3 * MAX_POINTS


class Chosen(BaseModel):
    """A plan and what of it is chosen, points and runs by id."""

    model_config = ConfigDict(extra="forbid")
    plan: Plan
    chosen: Annotated[tuple[str, ...], Field(min_length=1, max_length=_MOST)]


class Move(Chosen):
    """Move or copy by measures, in words."""

    by: By
    copy_: Annotated[bool, Field(alias="copy")] = False


class Repeat(Chosen):
    """How many there are to be in all, each how far from the last, and whether pipe joins them."""

    by: By
    times: int
    joined: bool = False


class Turn(Chosen):
    """By how many degrees to the left; to the right below zero."""

    degrees: Annotated[float, Field(ge=-360, le=360)]


class Mirror(Chosen):
    """Which ways change places."""

    across: Literal["east-west", "north-south"]


class Give(Chosen):
    """What all are given; depth and level in words, None or blank leaves a thing as each has it."""

    depth: Annotated[str, Field(max_length=60, examples=["1 ft 6 in"])] = ""
    level: Annotated[str, Field(max_length=60)] = ""
    situation: Situation | None = None
    series: Annotated[str, Field(max_length=80)] | None = None
    size: Annotated[str, Field(max_length=20)] | None = None
    wheels: bool | None = None
    existing: bool | None = None
    practice: Annotated[str, Field(max_length=40)] | None = None
    way: Annotated[str, Field(max_length=40)] = ""


class Lift(Chosen):
    """What the part is called."""

    name: Annotated[str, Field(min_length=1, max_length=80)]


class Fill(Chosen):
    """The corners of an area that are chosen, how far heads stand apart (in words), and how they stand."""

    spacing: Annotated[str, Field(max_length=60, examples=["9 m", "30 ft"])]
    pattern: Pattern = "square"


class Bed(Chosen):
    """The corners of a bed that are chosen, how far its rows lie apart and the emitters on them (in words), and what
    each passes.
    """

    row: Annotated[str, Field(max_length=60, examples=["0.4 m", "18 in"])]
    spacing: Annotated[str, Field(max_length=60, examples=["0.3 m", "12 in"])]
    each: Annotated[str, Field(max_length=60, examples=["2 L/h", "0.6 gal/h"])] = ""


class GiveNozzle(Chosen):
    """The nozzle by name, of the generic set or the plan's own."""

    nozzle: Annotated[str, Field(min_length=1, max_length=60)]


class JetRing(Chosen):
    """How many jets, how far below the water (in words), of the small body or the large, and whether with air."""

    jets: Annotated[int, Field(ge=2, le=MOST_JETS)]
    below: Annotated[str, Field(max_length=60, examples=["300 mm", "1 ft"])]
    small: bool = False
    air: bool = True


class Room(Chosen):
    """The kinds of fixtures in their order along the wall, how far and which way each stands from the last (in words),
    and whether those that have a hot side get it.
    """

    fixtures: Annotated[tuple[Annotated[str, Field(max_length=40)], ...], Field(min_length=1, max_length=MOST_FIXTURES)]
    by: By
    hot: bool = True


class DripHead(Chosen):
    """Whether a timer comes first."""

    timer: bool = False


class Ring(Chosen):
    """How far from the middle of each pot its ring lies, and how far its emitters are apart (in words)."""

    radius: Annotated[str, Field(max_length=60, examples=["0.2 m", "8 in"])]
    spacing: Annotated[str, Field(max_length=60, examples=["0.15 m", "6 in"])]


class SetDown(BaseModel):
    """A part, the plan it goes into, where to (m), and the plain point it is set on, if any."""

    model_config = ConfigDict(extra="forbid")
    plan: Plan
    part: Plan
    x: Annotated[float, Field(ge=-1e5, le=1e5)]
    y: Annotated[float, Field(ge=-1e5, le=1e5)]
    onto: str | None = None
    level: float | None = None


@router.post("/move", summary="Move or copy several things")
def move_group(asked: Move) -> Edited:
    """By measures, in words."""
    by = way_of(asked.by, asked.plan.units)
    return copied(asked.plan, asked.chosen, by) if asked.copy_ else moved(asked.plan, asked.chosen, by)


@router.post("/repeat", summary="Repeat several things at a spacing")
def repeat_group(asked: Repeat) -> Edited:
    """So many in all, each so far from the last."""
    return repeated(asked.plan, asked.chosen, way_of(asked.by, asked.plan.units), asked.times, asked.joined)


@router.post("/turn", summary="Turn several things")
def turn_group(asked: Turn) -> Edited:
    """About their middle, as seen from above."""
    return turned(asked.plan, asked.chosen, radians(asked.degrees))


@router.post("/mirror", summary="Mirror several things")
def mirror_group(asked: Mirror) -> Edited:
    """About their middle."""
    return mirrored(asked.plan, asked.chosen, asked.across)


@router.post("/give", summary="Give several things the same")
def give_group(asked: Give) -> Edited:
    """A depth or level, pipe, size, way of lying."""
    said = {q: read(text, q, asked.plan.units) for q in ("depth", "level") if (text := getattr(asked, q)).strip()}
    try:
        change = GroupChange.model_validate(
            {
                **said,
                **asked.model_dump(include={"situation", "series", "size", "wheels", "existing", "practice", "way"}),
            }
        )
    except ValidationError as error:
        told = " and ".join(
            str(show(said[str(e["loc"][0])], str(e["loc"][0]), asked.plan.units)) for e in error.errors()
        )
        raise HydrarchError(f"{told} is beyond what a drawing can hold") from None
    return change_all(asked.plan, asked.chosen, change)


@router.post("/fill", summary="Fill an area with heads")
def fill_area(asked: Fill) -> Edited:
    """Head to head, square or triangular, from the first corner along the first side."""
    return filled(asked.plan, asked.chosen, read(asked.spacing, "length", asked.plan.units), asked.pattern)


@router.post("/bed", summary="Fill a bed with rows of emitters")
def lay_bed(asked: Bed) -> Edited:
    """Tubing along its first side, and rows from there to the far one."""
    units = asked.plan.units
    each = read(asked.each, "emitter", units) if asked.each.strip() else None
    return bedded(
        asked.plan, asked.chosen, read(asked.row, "length", units), read(asked.spacing, "length", units), each
    )


@router.post("/nozzle", summary="Give heads a nozzle")
def give_nozzle(asked: GiveNozzle) -> Edited:
    """By its table: what they pass, how far they throw, what they need."""
    return nozzled(asked.plan, asked.chosen, asked.nozzle)


@router.post("/drip-head", summary="Lay out the head of a drip line")
def lay_drip_head(asked: DripHead) -> Edited:
    """Preventer, filter, regulator behind the first of what is chosen; a timer before them where it is asked."""
    return drip_head(asked.plan, asked.chosen[0], asked.timer)


@router.post("/jet-ring", summary="Lay a ring of jets")
def lay_jet_ring(asked: JetRing) -> Edited:
    """Round the first of what is chosen, a body of water: jets, tees and a ring that joins them, and one of air where
    it is asked.
    """
    below = read(asked.below, "cut", asked.plan.units)
    return jet_ring(asked.plan, asked.chosen[0], asked.jets, below, asked.small, asked.air)


@router.post("/room", summary="Set a room's fixtures down")
def set_room_down(asked: Room) -> Edited:
    """Their wall plates along a wall, from the first of what is chosen: hot beside cold, at their usual heights."""
    by = way_of(asked.by, asked.plan.units)
    return room_set(asked.plan, asked.chosen[0], asked.fixtures, by, asked.hot)


@router.post("/new-service", summary="New pipe in the place of an old service")
def lay_new_service(asked: Chosen) -> Edited:
    """Along the first of what is chosen, an existing run; the old pipe stays in use until the changeover."""
    return new_service(asked.plan, asked.chosen[0])


@router.post("/loop", summary="Hang a temporary loop on")
def hang_loop(asked: Chosen) -> Edited:
    """On the first of what is chosen, from a supply beyond the drawing or to the second."""
    return temporary_loop(asked.plan, asked.chosen)


@router.post("/ring", summary="A ring of drip tubing round a pot")
def lay_ring(asked: Ring) -> Edited:
    """Round each of the chosen things that is no run."""
    units = asked.plan.units
    return ringed(asked.plan, asked.chosen, read(asked.radius, "length", units), read(asked.spacing, "length", units))


@router.post("/take-away", summary="Take several things away")
def take_group_away(asked: Chosen) -> Edited:
    """With the pipe that comes to them."""
    return taken_away(asked.plan, asked.chosen)


@router.post("/lift", summary="A part of a plan as a plan of its own")
def lift_part(asked: Lift) -> Plan:
    """To be kept as an assembly, or set down again, here or in another job."""
    return lifted(asked.plan, asked.chosen, asked.name)


@router.post("/set-down", summary="Set a part down")
def set_part_down(asked: SetDown) -> Edited:
    """At a place, or on a plain point of the line."""
    return set_down(asked.plan, asked.part, asked.x, asked.y, asked.onto, asked.level)
