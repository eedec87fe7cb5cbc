"""Jobs deleted for good: asked twice, kept for a month, brought back; and the list of what was done about
access and jobs.
"""

from __future__ import annotations

from typing import TYPE_CHECKING, Annotated

from fastapi import APIRouter, Depends, Query, Request, Response

from hydrarch.api.jobs import JobView, bring_job, view
from hydrarch.api.keep import subject_of
from hydrarch.api.problems import Fault, problem
from hydrarch.api.service import By, ServiceIn
from hydrarch.api.shapes import written_as
from hydrarch.formats.exports import EXPORTS
from hydrarch.formats.tables import acts_csv
from hydrarch.store.audit import Audited, add_audit, audited
from hydrarch.store.forgotten import Forgotten, forget, forgotten, forgotten_file, let_go
from hydrarch.store.jobs import delete_job

if TYPE_CHECKING:
    from hydrarch.api.guard import Guard

__all__ = ["Owner", "router", "who"]

router = APIRouter(prefix="/api", tags=["jobs"])


def who(request: Request) -> str:
    """Who asks, by the name their device was let in under; "" where nobody said."""
    guard: Guard = request.app.state.guard
    mine = guard.session_of(request.headers)
    return mine.member if mine else ""


def _owner(request: Request) -> None:
    guard: Guard = request.app.state.guard
    if not guard.owns(request.headers):
        raise Fault(
            problem(
                "owner",
                "The owner's to do",
                403,
                "On this server that is done by whoever joined with the owner's passphrase.",
                "Ask the owner, or leave and join again with that passphrase.",
            )
        )


Owner = Depends(_owner)


@router.delete("/jobs/{job_id}", status_code=204, summary="Delete a job for good", dependencies=[Owner])
def remove_job(
    service: ServiceIn,
    request: Request,
    job_id: str,
    name: Annotated[str, Query(max_length=200, description="the job's name, typed again")] = "",
    by: By = "",
) -> Response:
    """Deletes a job with its revisions and records. Its name is asked for; it is kept for 30 days as a file."""
    found = service.job(job_id)
    if name.strip() != found.plan.name.strip():
        raise Fault(
            problem(
                "name",
                "Type the job's name",
                409,
                f"To delete it for good, type its name: {found.plan.name}.",
                "Type the name just as it is written.",
            )
        )
    written = EXPORTS["archive"].write(subject_of(service, found))
    file = written if isinstance(written, bytes) else written.encode()
    now = service.clock()
    with service.store.atomic():
        forget(service.store, job_id, found.plan.name, who(request), now, file)
        add_audit(service.store, now, who(request), "deleted for good", found.plan.name)
        delete_job(service.store, job_id)
    service.forget(job_id)
    service.tell(job_id, "gone", by)
    return Response(status_code=204)


@router.get("/deleted", summary="Jobs deleted for good that are still kept")
def deleted(service: ServiceIn) -> tuple[Forgotten, ...]:
    """Each for 30 days after it was deleted."""
    return forgotten(service.store, service.clock())


@router.post(
    "/deleted/{name}/back",
    status_code=201,
    summary="Bring back a job deleted for good",
    response_model=written_as(JobView),
    dependencies=[Owner],
)
def bring_back(service: ServiceIn, request: Request, name: str) -> Response:
    """The job as it was, with its records and photos."""
    found = bring_job(service, forgotten_file(service.store, name, service.clock()))
    let_go(service.store, name)
    add_audit(service.store, service.clock(), who(request), "restored", found.plan.name)
    return view(service, found, "survey", 201)


@router.get("/audit/export", summary="The same as a table", response_class=Response)
def audit_table(service: ServiceIn) -> Response:
    """All of it that is kept, as CSV, the newest first, times in UTC."""
    rows = ((a.at, a.who, a.what, a.about) for a in audited(service.store, 10_000))
    headers = {"Content-Disposition": 'attachment; filename="activity.csv"'}
    return Response(acts_csv(rows), media_type="text/csv; charset=utf-8", headers=headers)


@router.get("/audit", summary="What was done about access and jobs")
def audit(service: ServiceIn) -> tuple[Audited, ...]:
    """Who joined, was refused, ended a session, deleted or brought back a job, passed a gate with a reason;
    newest first.
    """
    return audited(service.store)
