"""Jobs and their plans: list, start, open, edit, delete."""

from __future__ import annotations

import gc
import re
import secrets
from dataclasses import dataclass
from typing import Annotated

from fastapi import APIRouter, Response
from pydantic import BaseModel, ConfigDict, Field, TypeAdapter
from starlette.background import BackgroundTask

from hydrarch.api.service import Service, ServiceIn
from hydrarch.core.chain import Derived
from hydrarch.core.plan import Plan
from hydrarch.core.proving.readiness import Readiness
from hydrarch.store.jobs import Job, JobSummary, add_job, delete_job, jobs, save_plan

__all__ = ["JobView", "new_id", "router", "view"]

router = APIRouter(prefix="/api/jobs", tags=["jobs"])


@dataclass(frozen=True, slots=True)
class JobView:
    """A job at its newest revision with all that follows from it."""

    id: str
    revision: int
    plan: Plan
    derived: Derived
    readiness: Readiness


class NewJob(BaseModel):
    """A job to start empty."""

    model_config = ConfigDict(extra="forbid", strict=True)
    name: Annotated[str, Field(min_length=1, max_length=80, examples=["Upper paddock"])]
    units: Annotated[str, Field(pattern="^(us|metric)$")] = "metric"


class PlanEdit(BaseModel):
    """A plan and the revision it was made on."""

    model_config = ConfigDict(extra="forbid", strict=True)
    revision: Annotated[int, Field(ge=1)]
    plan: Plan


_VIEW = TypeAdapter(JobView)


def view(service: Service, found: Job, status: int = 200) -> Response:
    """A job with everything derived from it, written out once: it is made of our own values and needs no second check."""
    whole = JobView(found.id, found.revision, found.plan, service.derived(found), service.stands(found))
    return Response(_VIEW.dump_json(whole), status, media_type="application/json")


def new_id(service: Service, name: str) -> str:
    """An id of the job's name that no job has yet."""
    stem = re.sub(r"[^a-z0-9]+", "-", name.lower()).strip("-")[:32] or "job"
    taken = {j.id for j in jobs(service.store)}
    return stem if stem not in taken else f"{stem}-{secrets.token_hex(3)}"


@router.get("", summary="List jobs")
def list_jobs(service: ServiceIn) -> list[JobSummary]:
    """Every job, the latest saved first."""
    return jobs(service.store)


@router.post("", status_code=201, summary="Start an empty job", response_model=JobView)
def start_job(service: ServiceIn, new: NewJob) -> Response:
    """A new job with nothing drawn."""
    plan = Plan.model_validate({"name": new.name, "units": new.units})
    return view(service, add_job(service.store, new_id(service, new.name), plan), 201)


@router.get("/{job_id}", summary="Open a job", response_model=JobView)
def open_job(service: ServiceIn, job_id: str) -> Response:
    """The newest revision, and all that follows from it."""
    return view(service, service.job(job_id))


@router.put("/{job_id}/plan", summary="Save an edit", response_model=JobView)
def save_edit(service: ServiceIn, job_id: str, edit: PlanEdit) -> Response:
    """Keep a plan as the next revision. An edit of an older revision is refused with both sides (409)."""
    found = save_plan(service.store, job_id, edit.revision, edit.plan)
    service.news.tell(job_id, "plan")
    answer = view(service, found)
    answer.background = BackgroundTask(gc.collect)
    return answer


@router.delete("/{job_id}", status_code=204, summary="Delete a job")
def remove_job(service: ServiceIn, job_id: str) -> Response:
    """Forget a job with its revisions and events."""
    delete_job(service.store, job_id)
    service.forget(job_id)
    return Response(status_code=204)
