"""The practice ground: exercises, what a person does in them, and what comes up next. Nothing here touches a job."""

from __future__ import annotations

import uuid
from dataclasses import dataclass, replace
from typing import Annotated

from fastapi import APIRouter, Query, Request, Response
from fastapi.concurrency import run_in_threadpool
from pydantic import BaseModel, ConfigDict, Field

from hydrarch.api.foreign import read_foreign
from hydrarch.api.photos import PhotoId
from hydrarch.api.problems import Fault, problem
from hydrarch.api.service import Service, ServiceIn
from hydrarch.core.base.errors import Unknown
from hydrarch.core.base.units import System
from hydrarch.core.catalogue.guidance import Caution
from hydrarch.core.cutting.billrow import BillRow
from hydrarch.core.derivation.chain import Derivation, made_of
from hydrarch.core.making.steps import StepText, procedure
from hydrarch.core.plan.crew_parts import rows_of
from hydrarch.core.plan.names import Identity
from hydrarch.core.practice.attempt import Assessment, Attempt, assessed, exercise_kit, questions_of
from hydrarch.core.practice.exercise import (
    MOST_RUNS,
    Exercise,
    Tolerance,
    exercise_from,
    joint_shapes,
    shipped_exercises,
)
from hydrarch.core.practice.joint_drawing import Outline
from hydrarch.core.practice.move_clocks import Phase, phases
from hydrarch.core.practice.next_up import NextUp, Practised, missed_before, next_up
from hydrarch.core.record.events import Moment, Text
from hydrarch.formats.drawing import drawings
from hydrarch.formats.exercisefile import PracticePhoto, read_exercise, write_attempts, write_exercise
from hydrarch.formats.exercisesheet import exercise_sheet
from hydrarch.formats.explained import BadFile
from hydrarch.formats.jobfile import book_in
from hydrarch.formats.photos import develop
from hydrarch.store.practice import (
    AttemptPhoto,
    AttemptRow,
    attempt_as_row,
    attempt_photo,
    attempt_photos,
    attempt_row,
    attempt_rows,
    drop_attempt,
    drop_attempt_photo,
    drop_exercise,
    exercise_bodies,
    exercise_body,
    keep_attempt,
    keep_attempt_photo,
    keep_exercise,
)

__all__ = ["router"]

router = APIRouter(prefix="/api", tags=["practice"])
_TRIED_AT = 6e5  # Pa: what an exercise's joints are to stand
Who = Annotated[Text, Query(min_length=1, max_length=60, description="who practises, where the server does not know")]


@dataclass(frozen=True, slots=True)
class ExerciseHead:
    """An exercise in the list: what it is, how long it takes (min), whether it is the crew's `own`, an attempt that is
    under way ("": none), and when it comes up again. `fault` tells why it cannot be opened.
    """

    id: str
    title: str
    about: str
    minutes: float
    own: bool
    under_way: str
    next: NextUp
    fault: str = ""


@dataclass(frozen=True, slots=True)
class AttemptHead:
    """An attempt in the list: at what, when it was begun and ended (s since 1970), and how much of it went well."""

    id: str
    exercise: str
    title: str
    begun: float
    ended: float | None
    share: float | None


@dataclass(frozen=True, slots=True)
class PracticeGround:
    """Every exercise, what comes up first in front, and what this person did: theirs alone."""

    person: str
    exercises: tuple[ExerciseHead, ...]
    attempts: tuple[AttemptHead, ...]


@dataclass(frozen=True, slots=True)
class PieceToCut:
    """A piece whose length the person works out: where it goes, and its length (m) between the centres."""

    id: str
    name: str
    pipe: str
    takes: tuple[str, str]
    centres: float


@dataclass(frozen=True, slots=True)
class JointToMake:
    """A joint of an exercise: where, how, its clocks, and its steps for whoever asks."""

    id: str
    place: str
    method: str
    size: str
    towards: str
    phases: tuple[Phase, ...]
    steps: tuple[StepText, ...]


@dataclass(frozen=True, slots=True)
class ExerciseView:
    """An exercise with what follows from its drawing; no answer is in it."""

    id: str
    title: str
    about: str
    minutes: float
    units: System
    own: bool
    drawings: tuple[str, ...]
    kit: tuple[BillRow, ...]
    pieces: tuple[PieceToCut, ...]
    joints: tuple[JointToMake, ...]
    tolerances: tuple[Tolerance, ...]
    cautions: tuple[Caution, ...]


@dataclass(frozen=True, slots=True)
class FlawChoice:
    """An answer that can be given: the fault's id and what it is called."""

    id: str
    title: str


@dataclass(frozen=True, slots=True)
class JointToJudge:
    """A joint that is drawn to be judged, with the faults that a joint of its kind can have."""

    number: int
    method: str
    size: str
    drawing: tuple[Outline, ...]
    choices: tuple[FlawChoice, ...]


@dataclass(frozen=True, slots=True)
class AttemptView:
    """An attempt as it is kept, how it went so far, and the joints it has to judge."""

    attempt: Attempt
    assessment: Assessment
    questions: tuple[JointToJudge, ...]


class ExerciseName(BaseModel):
    """What an exercise is to be called."""

    model_config = ConfigDict(extra="forbid", strict=True, str_strip_whitespace=True)
    title: Annotated[Text, Field(max_length=80)] = ""


def _person(request: Request, said: str) -> str:
    """Who asks: whom this device was let in as, else who says so."""
    mine = request.app.state.guard.session_of(request.headers)
    return mine.member if mine is not None and mine.member else said


def _exercise(service: Service, name: str) -> Exercise:
    """An exercise of the crew's own or a shipped one; raises `Unknown`."""
    body = exercise_body(service.store, name)
    if body is not None:
        return read_exercise(body)
    shipped = {e.id: e for e in shipped_exercises()}
    if name not in shipped:
        raise Unknown("exercise", name, [*shipped, *exercise_bodies(service.store)])
    return shipped[name]


def _derived(service: Service, exercise: Exercise) -> Derivation:
    return service.worked_out(exercise.plan, exercise.plan.model_dump_json(), Derivation.ROOMS)


def _done(rows: tuple[AttemptRow, ...]) -> tuple[Practised, ...]:
    return tuple(
        Practised(r.exercise, r.ended, r.share, r.missed) for r in rows if r.ended is not None and r.share is not None
    )


@router.get("/practice", summary="The exercises, and one's own record")
def practice_ground(service: ServiceIn, request: Request, person: Who = "crew") -> PracticeGround:
    """Every exercise with when it comes up; and what this person did in them, which no other path tells."""
    name = _person(request, person)
    rows = attempt_rows(service.store, name)
    found: dict[str, tuple[Exercise | None, str, bool]] = {e.id: (e, "", False) for e in shipped_exercises()}
    for own, body in exercise_bodies(service.store).items():
        try:
            found[own] = (read_exercise(body), "", True)
        except BadFile as error:
            found[own] = (None, str(error), True)
    open_ones = {r.exercise: r.id for r in reversed(rows) if r.ended is None}
    heads = []
    for upcoming in next_up(found, _done(rows), service.clock()):
        exercise, fault, own_one = found[upcoming.exercise]
        heads.append(_head(upcoming, exercise, fault, own_one, open_ones.get(upcoming.exercise, "")))
    titles = {h.id: h.title for h in heads}
    attempts = tuple(
        AttemptHead(r.id, r.exercise, titles.get(r.exercise, "An exercise that is gone"), r.begun, r.ended, r.share)
        for r in rows
    )
    return PracticeGround(name, tuple(heads), attempts)


def _head(upcoming: NextUp, exercise: Exercise | None, fault: str, own: bool, under_way: str) -> ExerciseHead:
    if exercise is None:
        return ExerciseHead(upcoming.exercise, "An exercise that cannot be opened", "", 0, own, "", upcoming, fault)
    return ExerciseHead(
        id=exercise.id,
        title=exercise.title,
        about=exercise.about,
        minutes=exercise.minutes,
        own=own,
        under_way=under_way,
        next=upcoming,
    )


@router.get("/practice/exercises/{name}", summary="An exercise")
def one_exercise(service: ServiceIn, name: str) -> ExerciseView:
    """Its drawing, kit, pieces, joints with their steps, and what is measured in the end."""
    exercise = _exercise(service, name)
    derived, plan = _derived(service, exercise), exercise.plan
    return ExerciseView(
        id=exercise.id,
        title=exercise.title,
        about=exercise.about,
        minutes=exercise.minutes,
        units=plan.units,
        own=exercise_body(service.store, name) is not None,
        drawings=tuple(s.svg for s in drawings(plan, derived)),
        kit=exercise_kit(derived),
        pieces=tuple(
            PieceToCut(p.id, f"{p.a.name} to {p.b.name}", f"{p.series} {p.size}", (p.a.takes, p.b.takes), p.centres)
            for p in derived.cuts.pieces
        ),
        joints=tuple(
            JointToMake(
                id=j.id,
                place=j.place,
                method=j.method,
                size=j.size,
                towards=j.towards,
                phases=phases(plan, j),
                steps=procedure(plan, j, _TRIED_AT).steps,
            )
            for j in derived.assembly.joints
        ),
        tolerances=exercise.tolerances,
        cautions=derived.cautions,
    )


@router.get("/practice/exercises/{name}/export", summary="An exercise as a file")
def export_exercise(service: ServiceIn, name: str) -> Response:
    """One JSON file that can be taken in elsewhere."""
    exercise = _exercise(service, name)
    headers = {"Content-Disposition": f'attachment; filename="{exercise.id}.exercise.json"'}
    rows = rows_of(exercise.plan, made_of(_derived(service, exercise)))
    return Response(write_exercise(exercise, rows), media_type="application/json", headers=headers)


@router.get("/practice/exercises/{name}/sheet", summary="An exercise to print")
def print_exercise(service: ServiceIn, name: str) -> Response:
    """A sheet with drawing, kit, boxes, and room for one's own figures."""
    exercise = _exercise(service, name)
    return Response(exercise_sheet(exercise, _derived(service, exercise)), media_type="text/html")


@router.post(
    "/practice/exercises",
    status_code=201,
    summary="Take in an exercise",
    openapi_extra={
        "requestBody": {
            "required": True,
            "content": {"application/json": {"schema": {"$ref": "#/components/schemas/Exercise"}}},
        }
    },
)
async def take_in(service: ServiceIn, request: Request) -> Exercise:
    """Keep the exercise of a file, under a new id where one of its id is there, with the crew parts it brings along."""
    return await run_in_threadpool(_taken_in, service, await request.body())


def _taken_in(service: Service, body: bytes) -> Exercise:
    with service.with_rows(read_foreign(book_in, body), "exercise"):
        return _kept(service, read_foreign(read_exercise, body))


def _kept(service: Service, exercise: Exercise) -> Exercise:
    taken = {e.id for e in shipped_exercises()}
    if exercise.id in taken or not keep_exercise(service.store, exercise.id, write_exercise(exercise), service.clock()):
        exercise = exercise.model_copy(update={"id": f"x{uuid.uuid4().hex[:16]}"})
        keep_exercise(service.store, exercise.id, write_exercise(exercise), service.clock())
    return exercise


@router.post("/jobs/{job_id}/exercise", status_code=201, summary="Make an exercise of a job's drawing")
def make_exercise(service: ServiceIn, job_id: str, named: ExerciseName) -> Exercise:
    """A copy of the drawing to practise on. The job stays as it is; one that has no joint to make is refused."""
    found = service.job(job_id)
    plan = found.plan.model_copy(update={"name": named.title}) if named.title else found.plan
    if len(plan.runs) > MOST_RUNS:
        raise Fault(
            problem(
                "nothing-to-practise",
                "Too much for an exercise",
                422,
                f"An exercise has at most {MOST_RUNS} runs, and this drawing has {len(plan.runs)}.",
                "Copy the part to be practised into a job of its own.",
            )
        )
    exercise = exercise_from(plan.model_copy(update={"underlay": None}), f"x{uuid.uuid4().hex[:16]}")
    if not joint_shapes(exercise, service.sized(found)):
        raise Fault(
            problem(
                "nothing-to-practise",
                "No joint to practise",
                422,
                "This drawing has no joint on a pipe that can be drawn and judged.",
                "Draw a run between two components first.",
            )
        )
    return _kept(service, exercise)


@router.delete("/practice/exercises/{name}", status_code=204, summary="Delete an exercise of the crew's own")
def delete_exercise(service: ServiceIn, name: str) -> Response:
    """What was done in it stays in each person's record."""
    drop_exercise(service.store, name)
    return Response(status_code=204)


@router.put("/practice/attempts/{name}", summary="Keep an attempt as it is now")
def put_attempt(service: ServiceIn, request: Request, name: str, attempt: Attempt, person: Who = "crew") -> AttemptView:
    """Keeps all of an attempt, and tells how it went so far. A state older than what is kept changes nothing."""
    if name != attempt.id:
        raise Unknown("attempt", name, [attempt.id])
    who = _person(request, person)
    exercise = _exercise(service, attempt.exercise)
    rows = attempt_rows(service.store, who)
    there = next((r for r in rows if r.id == attempt.id), None)
    # what its joints were drawn by stays, whatever of the record is deleted or comes later
    before = there.before if there is not None else missed_before(d for d in _done(rows) if d.at < attempt.begun)
    judged = assessed(exercise, _derived(service, exercise), attempt, before)
    row = attempt_as_row(attempt, who, judged.share, judged.missed, before)
    return _seen(service, keep_attempt(service.store, row))


@router.get("/practice/attempts/{name}", summary="An attempt of one's own")
def get_attempt(service: ServiceIn, request: Request, name: str, person: Who = "crew") -> AttemptView:
    """The attempt, how it went so far, and the joints it has to judge."""
    who = _person(request, person)
    return _seen(service, attempt_row(service.store, who, name))


def _seen(service: Service, row: AttemptRow) -> AttemptView:
    attempt = Attempt.model_validate_json(row.body)
    exercise = _exercise(service, attempt.exercise)
    derived = _derived(service, exercise)
    asked = questions_of(exercise, derived, attempt.id, row.before)
    return AttemptView(
        attempt,
        assessed(exercise, derived, attempt, row.before),
        tuple(
            JointToJudge(
                number=q.number,
                method=q.shape.method,
                size=q.shape.size,
                drawing=q.drawing(),
                choices=tuple(FlawChoice(f.id, f.title) for f in q.choices),
            )
            for q in asked
        ),
    )


@router.delete("/practice/attempts/{name}", status_code=204, summary="Delete an attempt of one's own")
def delete_attempt(service: ServiceIn, request: Request, name: str, person: Who = "crew") -> Response:
    """Takes it out of this person's record."""
    drop_attempt(service.store, _person(request, person), name)
    return Response(status_code=204)


@router.get("/practice/attempts/{name}/photos", summary="The photos of an attempt of one's own")
def list_attempt_photos(
    service: ServiceIn, request: Request, name: str, person: Who = "crew"
) -> tuple[AttemptPhoto, ...]:
    """All of them without what is in them, the earliest first."""
    return attempt_photos(service.store, _person(request, person), name)


@router.post(
    "/practice/attempts/{name}/photos",
    status_code=201,
    summary="Keep a photo of the real piece",
    response_model=AttemptPhoto,
    openapi_extra={
        "requestBody": {
            "required": True,
            "content": {"application/octet-stream": {"schema": {"type": "string", "format": "binary"}}},
        }
    },
)
async def add_attempt_photo(
    service: ServiceIn,
    request: Request,
    name: Identity,
    photo: Annotated[PhotoId, Query(alias="id")],
    about: Annotated[Identity, Query(description="the tolerance it lies beside")],
    at: Annotated[Moment, Query()],
    person: Who = "crew",
) -> AttemptPhoto:
    """A JPEG, PNG or WebP, kept upright and sized down, without where it was taken. The attempt itself may come later:
    a phone sends each when it can.
    """
    new = AttemptPhoto(photo, about, at, 0, 0)
    body = await request.body()
    return await run_in_threadpool(_photo_kept, service, _person(request, person), name, new, body)


def _photo_kept(service: Service, person: str, attempt: str, new: AttemptPhoto, body: bytes) -> AttemptPhoto:
    made = read_foreign(develop, body, place=False)
    return keep_attempt_photo(service.store, person, attempt, replace(new, wide=made.wide, high=made.high), made.body)


@router.get("/practice/attempts/{name}/photos/{photo}", summary="A photo of one's own attempt")
def show_attempt_photo(service: ServiceIn, request: Request, name: str, photo: str, person: Who = "crew") -> Response:
    """The JPEG; it never changes."""
    body = attempt_photo(service.store, _person(request, person), name, photo)
    return Response(body, media_type="image/jpeg", headers={"Cache-Control": "private, max-age=31536000, immutable"})


@router.delete(
    "/practice/attempts/{name}/photos/{photo}", status_code=204, summary="Take a photo of one's own attempt out"
)
def remove_attempt_photo(service: ServiceIn, request: Request, name: str, photo: str, person: Who = "crew") -> Response:
    """The photo is gone for good."""
    drop_attempt_photo(service.store, _person(request, person), name, photo)
    return Response(status_code=204)


@router.get("/practice/record", summary="One's own record as a file")
def own_record(service: ServiceIn, request: Request, person: Who = "crew") -> Response:
    """Everything this person practised, as JSON, to keep or to show to whom they choose."""
    who = _person(request, person)
    attempts = [Attempt.model_validate_json(r.body) for r in attempt_rows(service.store, who)]
    headers = {"Content-Disposition": 'attachment; filename="practice-record.json"'}
    photos = {
        a.id: [
            PracticePhoto(p.about, p.at, attempt_photo(service.store, who, a.id, p.id))
            for p in attempt_photos(service.store, who, a.id)
        ]
        for a in attempts
    }
    return Response(write_attempts(who, attempts, photos), media_type="application/json", headers=headers)
