"""Jobs and their plans: list, start, open, edit, take back, delete."""

from __future__ import annotations

import gc
import json
import re
import secrets
from collections.abc import Sequence
from dataclasses import dataclass
from time import monotonic
from typing import Annotated, Literal

from fastapi import APIRouter, Request, Response
from fastapi.exceptions import RequestValidationError
from pydantic import BaseModel, ConfigDict, Field, TypeAdapter, ValidationError
from starlette.background import BackgroundTask

from hydrarch.api.foreign import read_foreign
from hydrarch.api.service import By, Service, ServiceIn
from hydrarch.api.shapes import written_as
from hydrarch.api.stage import stage_json, stage_shape
from hydrarch.api.standing import StageIn
from hydrarch.core.base.errors import Unknown
from hydrarch.core.base.problems import Stage
from hydrarch.core.catalogue.beginnings import beginnings
from hydrarch.core.catalogue.markets import Market, markets
from hydrarch.core.measuring.begun import begun
from hydrarch.core.plan.document import Plan
from hydrarch.core.plan.references import ids_of
from hydrarch.core.plan.upgrades import LeftOut
from hydrarch.core.report.shown import rooms_of
from hydrarch.formats.archive import ArchivedPhoto, is_archive, read_archive
from hydrarch.formats.changes import Change, applied
from hydrarch.formats.jobfile import book_in, read_job_file
from hydrarch.store.audit import Act, add_audit
from hydrarch.store.errors import Clash, NotThere
from hydrarch.store.events import add_events
from hydrarch.store.jobs import (
    Job,
    JobSummary,
    RevisionSummary,
    Shelf,
    add_job,
    job_exists,
    jobs,
    put_on_shelf,
    revision,
    revisions,
    save_plan,
)
from hydrarch.store.photos import Photo, keep_photo
from hydrarch.store.pictures import keep_picture

__all__ = ["JobView", "bring_job", "keep_new_job", "router", "view"]

router = APIRouter(prefix="/api/jobs", tags=["jobs"])
_TIDY_EVERY = 5.0
"""s between two collections of garbage."""
_TIDIED = [0.0]
_LEFT_OUT = TypeAdapter(tuple[LeftOut, ...])


@dataclass(frozen=True, slots=True)
class JobView:
    """A job at its newest revision with what one stage shows of it; `left_out` is what of a stored plan could not be
    read.
    """

    id: str
    revision: int
    plan: Plan
    left_out: tuple[LeftOut, ...]
    answer: written_as(stage_shape)  # type: ignore[valid-type]


@dataclass(frozen=True, slots=True)
class Saved:
    """That an edit was kept, as which revision, and what the open stage shows of it."""

    id: str
    revision: int
    answer: written_as(stage_shape)  # type: ignore[valid-type]


class NewJob(BaseModel):
    """A job to start; what its shop sells goes by its units unless it is said. It is empty, or `drawn`: with the small
    drawing of its kind, to be changed.
    """

    model_config = ConfigDict(extra="forbid", strict=True)
    name: Annotated[str, Field(min_length=1, max_length=80, examples=["Upper paddock"])]
    units: Literal["us", "metric"] = "metric"
    market: Market | None = None
    about: Annotated[str, Field(max_length=40)] = ""
    drawn: bool = False


Back = Annotated[tuple[Annotated[str, Field(max_length=40)], ...], Field(max_length=50_000, strict=False)]
"""The ids of things that come back as what they were, as by undo: any other id that a job has used before is refused.
"""


class PlanEdit(BaseModel):
    """A plan and the revision it was made on."""

    model_config = ConfigDict(extra="forbid", strict=True)
    revision: Annotated[int, Field(ge=1)]
    plan: Plan
    back: Back = ()


class PlanChange(BaseModel):
    """What was changed in a plan, and the revision it was changed in."""

    model_config = ConfigDict(extra="forbid", strict=True)
    revision: Annotated[int, Field(ge=1)]
    change: Change
    back: Back = ()


def view(service: Service, found: Job, stage: Stage = "survey", status: int = 200) -> Response:
    """A job with what a stage shows of it, written out once: it is made of our own values and needs no second check."""
    answer = stage_json(service, found, stage)
    body = b'{"id":"%s","revision":%d,"plan":%s,"left_out":%s,"answer":%s}' % (
        found.id.encode(),
        found.revision,
        found.plan.model_dump_json().encode(),
        _LEFT_OUT.dump_json(found.left_out),
        answer,
    )
    return Response(body, status, media_type="application/json")


def keep_new_job(service: Service, plan: Plan, wanted: str = "") -> Job:
    """Keep a new job under an id of its name that no job has yet."""
    stem = re.sub(r"[^a-z0-9]+", "-", (wanted or plan.name).lower()).strip("-")[:32] or "job"
    with service.store.atomic():
        name = stem
        while job_exists(service.store, name) is not None:
            name = f"{stem}-{secrets.token_hex(3)}"
        return add_job(service.store, name, plan)


def bring_job(service: Service, body: bytes, wanted: str = "") -> Job:
    """Keep the job of a file, with the rows of another crew's own that it brings along; all of it or nothing."""
    body, photos = read_foreign(read_archive, body) if is_archive(body) else (body, ())
    with service.with_rows(book_in(body), "job"):
        return _brought(service, body, photos, wanted)


def _brought(service: Service, body: bytes, photos: Sequence[ArchivedPhoto], wanted: str) -> Job:
    file = read_job_file(body)
    with service.store.atomic():
        found = keep_new_job(service, file.plan, wanted)
        add_events(service.store, found.id, file.events)
        if file.picture is not None:
            keep_picture(service.store, file.picture.hash, file.picture.media, file.picture.body)
        for p in photos:
            kept = Photo(
                id=p.id,
                about=p.about,
                by=p.by,
                at=p.at,
                note=p.note,
                wide=p.wide,
                high=p.high,
                north=p.north,
                east=p.east,
            )
            keep_photo(service.store, found.id, kept, p.body)
    return found


@router.get("", summary="List jobs")
def list_jobs(service: ServiceIn) -> list[JobSummary]:
    """Every job, the latest saved first."""
    return jobs(service.store)


@router.post("", status_code=201, summary="Start a job", response_model=written_as(JobView))
def start_job(service: ServiceIn, new: NewJob) -> Response:
    """A new job, empty or with the small drawing of its kind."""
    market: Market = new.market or ("north-american" if new.units == "us" else "elsewhere")
    if new.about and new.about not in beginnings():
        raise Unknown("kind of job", new.about, list(beginnings()))
    series = markets()[market].usual(beginnings()[new.about].pipe if new.about else "series")
    plan = Plan.model_validate(
        {"name": new.name, "units": new.units, "about": new.about, "conditions": {"market": market, "series": series}}
    )
    return view(service, keep_new_job(service, begun(plan) if new.drawn else plan), "survey", 201)


@router.get("/{job_id}", summary="Open a job", response_model=written_as(JobView))
def open_job(service: ServiceIn, job_id: str, stage: StageIn = "survey") -> Response:
    """The newest revision, and what one stage shows of it."""
    return view(service, service.job(job_id), stage)


@router.get("/{job_id}/stages/{stage}", summary="What a stage shows", response_model=written_as(stage_shape))
def stage_answer(service: ServiceIn, job_id: str, stage: Stage) -> Response:
    """What one stage needs of the newest revision, and no more."""
    return Response(stage_json(service, service.job(job_id), stage), media_type="application/json")


@router.put("/{job_id}/plan", summary="Save an edit", response_model=written_as(Saved))
def save_edit(service: ServiceIn, job_id: str, edit: PlanEdit, stage: StageIn = "survey", by: By = "") -> Response:
    """Keep a plan as the next revision. An edit of an older revision is refused with both sides (409).

    It is worked out before it is kept, so that what is kept can be opened.
    """
    service.worked_out(edit.plan, edit.plan.model_dump_json(), rooms_of(stage))
    return _saved(service, save_plan(service.store, job_id, edit.revision, edit.plan, edit.back), stage, by)


@router.patch("/{job_id}/plan", summary="Save a change", response_model=written_as(Saved))
def save_change(service: ServiceIn, job_id: str, edit: PlanChange, stage: StageIn = "survey", by: By = "") -> Response:
    """The same, where only what was changed is sent: the rest is as it is in the revision that was changed."""
    try:
        made_on = _changed_in(service, job_id, edit.revision).plan.model_dump(mode="json")
        text = json.dumps(applied(made_on, edit.change))
        try:
            plan = Plan.model_validate_json(text)
        except ValidationError:  # it may name a part of the crew's own that somebody took out meanwhile
            if not service.bring_back(text):
                raise
            plan = Plan.model_validate_json(text)
            add_audit(service.store, service.clock(), by, "restored", f"crew parts that {plan.name} uses")
    except ValidationError as error:
        faults = [{**e, "loc": ("body", "plan", *e["loc"])} for e in error.errors(include_url=False)]
        raise RequestValidationError(faults) from None
    return save_edit(service, job_id, PlanEdit(revision=edit.revision, plan=plan, back=edit.back), stage, by)


def _changed_in(service: Service, job_id: str, number: int) -> Job:
    """A job at the revision that was changed.

    Raises `Clash` where that is not there (any more), as after a copy was put back.
    """
    newest = service.job(job_id)
    if newest.revision == number:
        return newest
    try:
        return revision(service.store, job_id, number)
    except NotThere:
        raise Clash(job_id, number, newest.revision, newest.text) from None


def _saved(service: Service, found: Job, stage: Stage, by: str) -> Response:
    service.saved(found)
    answer = stage_json(service, found, stage)
    service.tell(found.id, "plan", by)
    body = b'{"id":"%s","revision":%d,"answer":%s}' % (found.id.encode(), found.revision, answer)
    return Response(body, media_type="application/json", background=BackgroundTask(_tidy))


def _tidy() -> None:
    """Collect garbage after an edit is answered, and not after every one that comes hard upon another."""
    now = monotonic()
    if now - _TIDIED[0] >= _TIDY_EVERY:
        _TIDIED[0] = now
        gc.collect()


@router.get("/{job_id}/revisions", summary="The revisions of a job")
def list_revisions(service: ServiceIn, job_id: str) -> list[RevisionSummary]:
    """When each was saved and how much is drawn in it, the newest first."""
    return revisions(service.store, job_id)


class TakenBack(BaseModel):
    """Which revision to go back to, and the newest one that is known of."""

    model_config = ConfigDict(extra="forbid", strict=True)
    to: Annotated[int, Field(ge=1)]
    revision: Annotated[int, Field(ge=1)]


@router.post("/{job_id}/revisions", summary="Go back to an earlier revision", response_model=written_as(JobView))
def take_back(service: ServiceIn, job_id: str, back: TakenBack, stage: StageIn = "survey", by: By = "") -> Response:
    """Keep an earlier plan as the newest revision; nothing that came between is lost."""
    with service.store.atomic():
        earlier = revision(service.store, job_id, back.to)
        found = save_plan(service.store, job_id, back.revision, earlier.plan, ids_of(earlier.plan))
    answer = view(service, service.saved(found), stage)
    service.tell(job_id, "plan", by)
    return answer


class Shelved(BaseModel):
    """Where a job is to lie."""

    model_config = ConfigDict(extra="forbid", strict=True)
    shelf: Shelf


@router.put("/{job_id}/shelf", summary="Put a job in the list, the archive, or among the deleted")
def shelve_job(service: ServiceIn, request: Request, job_id: str, put: Shelved) -> list[JobSummary]:
    """Nothing of the job is changed, and it goes on taking what phones still bring: it can be brought back as it is.

    Every job as it lies now.
    """
    name = service.job(job_id).plan.name
    with service.store.atomic():
        put_on_shelf(service.store, job_id, put.shelf)
        if put.shelf != "archive":
            mine = request.app.state.guard.session_of(request.headers)
            what: Act = "deleted" if put.shelf == "deleted" else "restored"
            add_audit(service.store, service.clock(), mine.member if mine else "", what, name)
    return jobs(service.store)


@router.post("/{job_id}/copy", status_code=201, summary="Start a job from another", response_model=written_as(JobView))
def copy_job(service: ServiceIn, job_id: str) -> Response:
    """A new job with the same drawing, conditions and prices; what was made and tested stays with the first."""
    plan = service.job(job_id).plan
    taken = {j.name for j in jobs(service.store)}
    names = (f"{plan.name[:70]}, copy", *(f"{plan.name[:70]}, copy {n}" for n in range(2, len(taken) + 3)))
    name = next(n for n in names if n not in taken)
    return view(service, keep_new_job(service, plan.model_copy(update={"name": name})), "survey", 201)
