"""Keep: the job as a file, parts and cuts as CSV, and the sheet to print."""

from __future__ import annotations

from fastapi import APIRouter, Request, Response
from fastapi.responses import HTMLResponse

from hydrarch.api.jobs import new_id, view
from hydrarch.api.service import ServiceIn
from hydrarch.formats.jobfile import read_job_file, write_job_file
from hydrarch.formats.sheet import sheet_html
from hydrarch.formats.tables import cuts_csv, parts_csv
from hydrarch.store.events import add_events, events
from hydrarch.store.jobs import add_job

__all__ = ["router"]

router = APIRouter(prefix="/api", tags=["keep"])


def _file(text: str, name: str, media: str) -> Response:
    return Response(text, media_type=media, headers={"Content-Disposition": f'attachment; filename="{name}"'})


@router.get("/jobs/{job_id}/export", summary="The whole job as one file")
def export_job(service: ServiceIn, job_id: str) -> Response:
    """A JSON file that imports to exactly the same job."""
    found = service.job(job_id)
    return _file(write_job_file(found.plan, events(service.store, job_id)), f"{job_id}.hydrarch.json", "application/json")


@router.post(
    "/import", status_code=201, summary="Start a job from a file",
    openapi_extra={"requestBody": {"required": True, "content": {"application/json": {"schema": {"type": "object"}}}}},
)  # fmt: skip
async def import_job(service: ServiceIn, request: Request) -> Response:
    """A new job from an exported file; a file that is not one is refused whole, with where it is wrong."""
    file = read_job_file(await request.body())
    found = add_job(service.store, new_id(service, file.plan.name), file.plan)
    add_events(service.store, found.id, file.events)
    return view(service, found, 201)


@router.get("/jobs/{job_id}/parts.csv", summary="Parts list")
def export_parts(service: ServiceIn, job_id: str) -> Response:
    """The bill of materials as CSV."""
    return _file(parts_csv(service.derived(service.job(job_id)).bill), f"{job_id}-parts.csv", "text/csv")


@router.get("/jobs/{job_id}/cuts.csv", summary="Cut list")
def export_cuts(service: ServiceIn, job_id: str) -> Response:
    """The cut list as CSV."""
    found = service.job(job_id)
    return _file(cuts_csv(found.plan, service.derived(found).cuts), f"{job_id}-cuts.csv", "text/csv")


@router.get("/jobs/{job_id}/sheet", summary="The sheet to print", response_class=HTMLResponse)
def print_sheet(service: ServiceIn, job_id: str) -> HTMLResponse:
    """One page of HTML: first what is dry or unproved."""
    found = service.job(job_id)
    return HTMLResponse(sheet_html(found.plan, service.derived(found), service.stands(found)))
