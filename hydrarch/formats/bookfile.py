"""The equipment book as one JSON file, read row by row: a book with a wrong row is refused whole, with every wrong row
told.
"""

from __future__ import annotations

import json
from typing import Any

from pydantic import BaseModel, ValidationError

from hydrarch.core.plan.crew_parts import Book, OwnFitting, OwnSeries, OwnThing
from hydrarch.formats.explained import BadFile, explain

__all__ = ["book_of", "read_book", "write_book"]

_FORM = "hydrarch/book/1"
_ROWS: dict[str, type[BaseModel]] = {"pipes": OwnSeries, "fittings": OwnFitting, "things": OwnThing}


def write_book(book: Book) -> str:
    """A book as JSON text that reads back the same."""
    return json.dumps(book.model_dump(mode="json", exclude_none=True), indent=2, ensure_ascii=False) + "\n"


def read_book(text: str | bytes) -> Book:
    """Read a book. Raises `BadFile` with every row that is wrong, and what would do."""
    try:
        whole: Any = json.loads(text)
    except RecursionError:
        raise BadFile("this file is nested too deep to be a book") from None
    except (ValueError, UnicodeDecodeError) as error:
        raise BadFile("this is not a JSON file", (("the file", str(error)),)) from error
    return book_of(whole)


def book_of(whole: Any) -> Book:
    """The same for what was read already."""
    said = whole.get("format") if isinstance(whole, dict) else None
    if not isinstance(said, str) or not said.startswith("hydrarch/book/"):
        raise BadFile("this is a JSON file, but no equipment book", (("format", f"must be '{_FORM}'"),))
    if said != _FORM:
        raise BadFile(
            f"this book has the form {said}, and this version reads {_FORM}: bring Hydrarch up to date to open it"
        )
    wrong = [place for section, model in _ROWS.items() for place in _wrong(whole.get(section, []), section, model)]
    if wrong:
        raise BadFile("some rows of this book are not valid; nothing was taken in", tuple(wrong))
    try:
        return Book.model_validate(whole)
    except ValidationError as error:
        raise BadFile("this book is not valid", explain(error)) from error


def _wrong(rows: Any, section: str, model: type[BaseModel]) -> list[tuple[str, str]]:
    """What is wrong with the rows of a section, each with which row it is."""
    if not isinstance(rows, list):
        return [(section, "must be a list of rows")]
    found = []
    for n, row in enumerate(rows, 1):
        try:
            model.model_validate(row)
        except ValidationError as error:
            name = row.get("id") or row.get("name") if isinstance(row, dict) else None
            where = f"{section}, row {n}{f' ({str(name)[:60]})' if name else ''}"
            found += [
                (where, f"{place} {says}" if place != "the whole of it" else says) for place, says in explain(error)
            ]
    return found
