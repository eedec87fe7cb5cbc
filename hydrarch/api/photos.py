"""Photos to a joint, a section, a thing or a mark."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace
from typing import Annotated

from fastapi import APIRouter, Query, Request, Response
from fastapi.concurrency import run_in_threadpool

from hydrarch.api.foreign import read_foreign
from hydrarch.api.service import By, Service, ServiceIn
from hydrarch.core.record.events import JointName, Moment, Text
from hydrarch.formats.archive import ArchivedPhoto
from hydrarch.formats.photos import develop
from hydrarch.store.database import Store
from hydrarch.store.photos import Photo, drop_photo, keep_photo, photo_body, photos

__all__ = ["PhotoId", "archived_photos", "router"]

router = APIRouter(prefix="/api/jobs/{job_id}/photos", tags=["photos"])

PhotoId = Annotated[
    str,
    Query(pattern=r"^[0-9a-fA-F-]{32,36}$", description="made by the phone, so that sending it twice changes nothing"),
]
Who = Annotated[str, Query(min_length=1, max_length=60)]


def archived_photos(store: Store, job: str) -> Iterator[ArchivedPhoto]:
    """The photos of a job as its archive has them, read one at a time."""
    for p in photos(store, job):
        yield ArchivedPhoto(
            id=p.id,
            about=p.about,
            by=p.by,
            at=p.at,
            note=p.note,
            north=p.north,
            east=p.east,
            wide=p.wide,
            high=p.high,
            body=photo_body(store, job, p.id),
        )


@router.get("", summary="The photos of a job")
def job_photos(service: ServiceIn, job_id: str) -> tuple[Photo, ...]:
    """All of them without what is in them, the earliest first."""
    service.job(job_id)
    return photos(service.store, job_id)


@router.post(
    "",
    status_code=201,
    summary="Keep a photo",
    response_model=Photo,
    openapi_extra={
        "requestBody": {
            "required": True,
            "content": {"application/octet-stream": {"schema": {"type": "string", "format": "binary"}}},
        }
    },
)
async def keep(
    service: ServiceIn,
    request: Request,
    job_id: str,
    name: Annotated[PhotoId, Query(alias="id")],
    about: Annotated[JointName, Query()],
    by: Annotated[Who, Query()],
    at: Annotated[Moment, Query()],
    note: Annotated[Text, Query(max_length=500)] = "",
    place: bool = False,
    page: By = "",
) -> Photo:
    """A JPEG, PNG or WebP, about the joint, section or thing of that id.

    It is kept upright and sized down; where it was taken only if `place` is said.
    """
    new = Photo(id=name, about=about, by=by, at=at, note=note, wide=0, high=0)
    return await run_in_threadpool(_kept, service, job_id, new, await request.body(), place, page)


def _kept(service: Service, job_id: str, new: Photo, body: bytes, place: bool, page: str) -> Photo:
    service.job(job_id)
    made = read_foreign(develop, body, place=place)
    north, east = made.place or (None, None)
    found = keep_photo(
        service.store, job_id, replace(new, wide=made.wide, high=made.high, north=north, east=east), made.body
    )
    service.tell(job_id, "photos", page)
    return found


@router.get("/{photo}", summary="A photo")
def one_photo(service: ServiceIn, job_id: str, photo: str) -> Response:
    """The JPEG; it never changes."""
    body = photo_body(service.store, job_id, photo)
    return Response(body, media_type="image/jpeg", headers={"Cache-Control": "private, max-age=31536000, immutable"})


@router.delete("/{photo}", status_code=204, summary="Take a photo out")
def remove(service: ServiceIn, job_id: str, photo: str, page: By = "") -> Response:
    """The photo is gone for good."""
    drop_photo(service.store, job_id, photo)
    service.tell(job_id, "photos", page)
    return Response(status_code=204)
