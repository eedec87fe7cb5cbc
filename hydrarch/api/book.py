"""The equipment book: a crew's own things, fittings and pipe; read, added to, taken out of."""

from __future__ import annotations

import hashlib
from typing import Annotated, Literal

from fastapi import APIRouter, Header, Request, Response
from fastapi.concurrency import run_in_threadpool

from hydrarch.api.foreign import read_foreign
from hydrarch.api.problems import Fault, problem
from hydrarch.api.service import Service, ServiceIn
from hydrarch.core.base.errors import HydrarchError, Unknown
from hydrarch.core.plan.crew_parts import Book, merged, used_in
from hydrarch.formats.bookfile import read_book, write_book
from hydrarch.formats.explained import BadFile
from hydrarch.store.book import keep_gone_row

__all__ = ["router"]

router = APIRouter(prefix="/api/book", tags=["book"])
Section = Literal["things", "fittings", "pipes", "assemblies"]


Seen = Annotated[
    str, Header(alias="If-Match", description="the ETag of the crew parts as they were last seen; blank for any")
]


def _stamp(book: Book) -> str:
    """What tells one state of the crew parts from another, as an ETag."""
    return f'"{hashlib.sha256(write_book(book).encode()).hexdigest()[:16]}"'


def _marked(response: Response, book: Book) -> Book:
    response.headers["ETag"] = _stamp(book)
    return book


@router.get("", summary="The crew parts")
def whole_book(service: ServiceIn, response: Response) -> Book:
    """All rows of the crew's own; their ETag goes with a change of them."""
    return _marked(response, service.book())


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
async def add_rows(service: ServiceIn, request: Request, response: Response, seen: Seen = "") -> Book:
    """Take the rows of a book file, each in place of one of the same name.

    A file with a wrong row is refused whole, row by row; so is one that would take the place of a row that is another
    than was seen.
    """
    return _marked(response, await run_in_threadpool(_added, service, await request.body(), seen))


def _added(service: Service, body: bytes, seen: str) -> Book:
    more = read_foreign(read_book, body)
    try:
        with service.changing_book() as book:
            if seen and seen != _stamp(book) and (others := _others(book, more)):
                raise _changed(others[0])
            return service.keep_book(merged(book, more))
    except HydrarchError as error:
        raise BadFile("these rows cannot be used; nothing was taken", (("the rows", str(error)),)) from error


@router.delete("/{section}/{name}", summary="Take a row out of the book")
def take_out(service: ServiceIn, response: Response, section: Section, name: str, seen: Seen = "") -> Book:
    """Take a row out. One that a job uses stays, and the job is named; so does any where the parts are other than was
    seen.
    """
    with service.changing_book() as book:
        if seen and seen != _stamp(book):
            raise _changed(name)
        return _marked(response, _left_out(service, book, section, name))


def _others(book: Book, more: Book) -> list[str]:
    """The names of rows that would take the place of another of the same name."""
    found = []
    for section in ("things", "fittings", "pipes", "assemblies"):
        key = "name" if section in ("things", "assemblies") else "id"
        there = {getattr(row, key): row for row in getattr(book, section)}
        found += [n for row in getattr(more, section) if there.get(n := getattr(row, key), row) != row]
    return found


def _changed(name: str) -> Fault:
    return Fault(
        problem(
            "row-changed",
            "Changed meanwhile",
            409,
            f"Somebody changed the crew parts since they were shown here, and this would undo it at {name}.",
            "Look at that row as it is now, then do it again.",
        )
    )


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
    if key == "id":
        gone = next(row for row in rows if row.id == name)
        keep_gone_row(service.store, section, name, gone.model_dump_json())
    return service.keep_book(book.model_copy(update={section: left}))
