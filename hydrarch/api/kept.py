"""What stays after the trench is closed: where hidden joints lie, what is to be done again, and the label at
the riser.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated

from fastapi import APIRouter, Query, Request, Response

from hydrarch.api.service import ServiceIn
from hydrarch.core.base.errors import Unknown
from hydrarch.core.report.as_laid import AsLaid, as_laid, fixed_marks
from hydrarch.core.report.reminders import Reminder, reminders
from hydrarch.formats.labels import label_sheets
from hydrarch.formats.trusting import label

__all__ = ["router"]

router = APIRouter(prefix="/api/jobs/{job_id}", tags=["keep"])


@dataclass(frozen=True, slots=True)
class Laid:
    """Hidden joints as they were laid, from how many marks they could be measured, and what that comes to in words."""

    joints: tuple[AsLaid, ...]
    marks: int
    says: str


@router.get("/as-laid", summary="Where hidden joints lie")
def job_as_laid(service: ServiceIn, job_id: str) -> Laid:
    """Every joint that was made and is out of sight, measured from two marks."""
    found = service.job(job_id)
    joints, marks = as_laid(found.plan, service.derived(found), service.stands(found)), len(fixed_marks(found.plan))
    flat = sum(bool(j.tapes) and not j.sharp for j in joints)
    if not joints:
        says = "Nothing is made yet that lies, or will lie, out of sight."
    elif not any(j.tapes for j in joints):
        says = (
            f"{len(joints)} made joints lie, or will lie, out of sight, and there are no two marks to find them again "
            "by: set down two things that stay, such as the corners of a house."
        )
    else:
        each = f"each measured from two of {marks} marks"
        says = f"{len(joints)} made joints lie, or will lie, out of sight, {each}" + (
            f"; for {flat} the two tapes cross flat: set down another mark to the side of them." if flat else "."
        )
    if moved := sum(bool(j.since) for j in joints):
        says += f" {moved} {'is' if moved == 1 else 'are'} drawn elsewhere since: each lies where it was made."
    return Laid(joints, marks, says)


@router.get("/reminders", summary="What is to be done again")
def job_reminders(service: ServiceIn, job_id: str) -> tuple[Reminder, ...]:
    """What the things of the job ask for, the next due first; an event "tended" says that it was done."""
    found = service.job(job_id)
    with service.log(job_id) as log:
        return reminders(found.plan, log, service.clock())


@router.get("/label/{point}", summary="A label for a thing")
def job_label(service: ServiceIn, request: Request, job_id: str, point: str) -> Response:
    """SVG to print, 60 mm by 30: a QR code that opens the thing's page, its name, and how deep it lies."""
    found = service.job(job_id)
    known = found.plan.by_id
    if point not in known:
        raise Unknown("thing", point, known)
    svg = label(f"{_page(request, job_id)}?at={point}", found.plan, known[point])
    return Response(svg, media_type="image/svg+xml")


@router.get("/labels", summary="Labels for everything, on label paper", response_class=Response)
def job_labels(
    service: ServiceIn, request: Request, job_id: str, used: Annotated[int, Query(ge=0, le=29)] = 0
) -> Response:
    """PDF: a code, a name and a depth for each thing, by section, on A4 with 21 labels or on letter with 30; `used` are
    those already taken off the first sheet.
    """
    found = service.job(job_id)
    body = label_sheets(found.plan, service.derived(found).sections, _page(request, job_id), service.clock(), used)
    return Response(
        body, media_type="application/pdf", headers={"Content-Disposition": 'inline; filename="labels.pdf"'}
    )


def _page(request: Request, job_id: str) -> str:
    """Where a job's drawing is opened, at the address by which phones are served."""
    guard = request.app.state.guard
    base = guard.settings.trust.secure if guard.settings.trust is not None else str(request.base_url).rstrip("/")
    return f"{base}/job/{job_id}/survey"
