"""The equipment book: a crew's own things, fittings and pipe; read, added to, taken out of."""

from __future__ import annotations

from typing import Literal

from fastapi import APIRouter, Request, Response
from fastapi.concurrency import run_in_threadpool

from hydrarch.api.foreign import read_foreign
from hydrarch.api.problems import Fault, problem
from hydrarch.api.service import Service, ServiceIn
from hydrarch.core.base.errors import HydrarchError, Unknown
from hydrarch.core.plan.crew_parts import Book, merged, used_in
from hydrarch.formats.bookfile import read_book, write_book
from hydrarch.formats.explained import BadFile

__all__ = ["router"]

router = APIRouter(prefix="/api/book", tags=["book"])
Section = Literal["things", "fittings", "pipes", "assemblies"]


@router.get("", summary="The equipment book")
def whole_book(service: ServiceIn) -> Book:
    """All rows of the crew's own."""
    return service.book()


@router.get("/export", summary="The book as a file")
def export_book(service: ServiceIn) -> Response:
    """One JSON file that reads back the same."""
    headers = {"Content-Disposition": 'attachment; filename="equipment-book.json"'}
    return Response(write_book(service.book()), media_type="application/json", headers=headers)


@router.post(
    "",
    summary="Add rows to the book",
    openapi_extra={
        "requestBody": {
            "required": True,
            "content": {"application/json": {"schema": {"$ref": "#/components/schemas/Book"}}},
        }
    },
)
async def add_rows(service: ServiceIn, request: Request) -> Book:
    """Take the rows of a book file, each in place of one of the same name.

    A file with a wrong row is refused whole, row by row.
    """
    return await run_in_threadpool(_added, service, await request.body())


def _added(service: Service, body: bytes) -> Book:
    more = read_foreign(read_book, body)
    try:
        with service.changing_book() as book:
            return service.keep_book(merged(book, more))
    except HydrarchError as error:
        raise BadFile("these rows cannot be used; nothing was taken", (("the rows", str(error)),)) from error


@router.delete("/{section}/{name}", summary="Take a row out of the book")
def take_out(service: ServiceIn, section: Section, name: str) -> Book:
    """Take a row out. One that a job uses stays, and the job is named."""
    with service.changing_book() as book:
        return _left_out(service, book, section, name)


def _left_out(service: Service, book: Book, section: Section, name: str) -> Book:
    key = "name" if section in ("things", "assemblies") else "id"
    rows = getattr(book, section)
    left = tuple(row for row in rows if getattr(row, key) != name)
    if len(left) == len(rows):
        raise Unknown(f"row of {section}", name, [getattr(row, key) for row in rows])
    users = service.jobs_using(name) if key == "id" else []
    users += [a.name for a in book.assemblies if key == "id" and name in used_in(a)]
    if users:
        raise Fault(
            problem(
                "in-use",
                "Still in use",
                409,
                f"{name} is used in {' and '.join(users[:3])}.",
                "Choose something else there first.",
            )
        )
    return service.keep_book(book.model_copy(update={section: left}))
