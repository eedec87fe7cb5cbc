"""The copies of the last days, and bringing a job back from one: as a job of its own, beside what is there now."""

from __future__ import annotations

import json
from dataclasses import dataclass

from fastapi import APIRouter, Request, Response

from hydrarch.api.deleted import Owner, who
from hydrarch.api.jobs import JobView, bring_job, view
from hydrarch.api.photos import archived_photos
from hydrarch.api.service import ServiceIn
from hydrarch.api.shapes import written_as
from hydrarch.core.base.errors import HydrarchError
from hydrarch.core.plan.crew_parts import Book
from hydrarch.formats.archive import write_archive
from hydrarch.formats.bookfile import read_book
from hydrarch.formats.explained import BadFile
from hydrarch.formats.jobfile import wrap_job
from hydrarch.store.audit import add_audit
from hydrarch.store.book import kept_book
from hydrarch.store.database import Store
from hydrarch.store.errors import NotThere
from hydrarch.store.folder import InCopy, copies, opened_copy
from hydrarch.store.pictures import picture

__all__ = ["router"]

router = APIRouter(prefix="/api/copies", tags=["jobs"])


@dataclass(frozen=True, slots=True)
class DayCopy:
    """A copy of one day ("2026-11-30") and the jobs in it."""

    day: str
    jobs: tuple[InCopy, ...]


@router.get("", summary="The copies of the last days")
def all_copies(service: ServiceIn) -> tuple[DayCopy, ...]:
    """Newest first, each as it was looked over when it was made; one that cannot be read any more is left out."""
    return tuple(DayCopy(day, jobs) for day, jobs in copies(service.store.path.parent))


@router.post(
    "/{day}/{name}/back",
    status_code=201,
    summary="Bring a job back from a copy",
    response_model=written_as(JobView),
    dependencies=[Owner],
)
def bring_back(service: ServiceIn, request: Request, day: str, name: str) -> Response:
    """The job as it was that day, with its records and photos, as a new job; what is there now stays as it is."""
    with opened_copy(service.store.path.parent, day) as copy:
        if copy is None:
            raise NotThere("copy", day)
        text = kept_book(copy)
        try:
            found = bring_job(service, _file(copy, day, name, None))
        except (HydrarchError, BadFile):
            if text is None:
                raise
            found = bring_job(service, _file(copy, day, name, read_book(text)))  # with the crew's parts as they were
    add_audit(service.store, service.clock(), who(request), "restored", f"{found.plan.name}, from the copy of {day}")
    return view(service, found, "survey", 201)


def _file(copy: Store, day: str, name: str, book: Book | None) -> bytes:
    """A job of a copy as a file, its day in its name."""
    here = copy.read()
    row = here.execute(
        "SELECT revision.plan FROM job JOIN revision ON revision.job = job.id AND revision.number = job.revision "
        "WHERE job.id = ?",
        (name,),
    ).fetchone()
    if row is None:
        raise NotThere("job", name)
    plan = json.loads(row["plan"])
    plan["name"] = f"{str(plan.get('name', ''))[:180]} ({day})"
    beneath = (plan.get("underlay") or {}).get("picture")
    laid = picture(copy, str(beneath))[1] if beneath else None
    records = [str(r["body"]) for r in here.execute("SELECT body FROM event WHERE job = ? ORDER BY place", (name,))]
    whole = wrap_job(json.dumps(plan), records, book, laid)
    photos = tuple(archived_photos(copy, name))
    return write_archive(whole.decode(), photos) if photos else whole
