"""A whole job as one JSON file: its plan and everything that was done. What is written reads back exactly.

A file of an earlier form is brought to the newest as it is read; one from the future is refused with a word.
"""

from __future__ import annotations

import json
from base64 import b64decode, b64encode
from collections.abc import Iterable
from dataclasses import dataclass
from typing import Any

from pydantic import ValidationError

from hydrarch.core.base.errors import HydrarchError
from hydrarch.core.derivation.format_1 import Carrying
from hydrarch.core.plan.crew_parts import Book
from hydrarch.core.plan.document import Plan
from hydrarch.core.plan.upgrades import NewerFormat, read_plan
from hydrarch.core.record.events import Event, event_body, read_events
from hydrarch.formats.bookfile import book_of
from hydrarch.formats.explained import BadFile, explain
from hydrarch.formats.pictures import Picture, read_picture

__all__ = ["JobFile", "book_in", "read_job_file", "wrap_job", "write_job_file"]

_FORM = "hydrarch/job/"
_NEWEST = 2


@dataclass(frozen=True, slots=True)
class JobFile:
    """What a file holds: the plan in the newest form, and the events."""

    plan: Plan
    events: tuple[Event, ...]
    picture: Picture | None = None


def write_job_file(plan: Plan, events: Iterable[Event], book: Book | None = None, picture: bytes | None = None) -> str:
    """A job as JSON text, two blanks a level, so that a person can read it and a diff shows little.

    With it go the rows of the crew's own it uses, and the picture that lies beneath it.
    """
    whole: dict[str, Any] = {
        "format": f"{_FORM}{_NEWEST}",
        "plan": plan.model_dump(mode="json"),
        "events": [event_body(e) for e in events],
    }
    if book is not None and (book.fittings or book.pipes):
        whole["book"] = book.model_dump(mode="json", exclude_none=True)
    if picture is not None:
        whole["picture"] = b64encode(picture).decode("ascii")
    return json.dumps(whole, indent=2, ensure_ascii=False) + "\n"


def wrap_job(plan: str, events: Iterable[str], book: Book | None = None, picture: bytes | None = None) -> bytes:
    """The same from texts as a database keeps them, not looked over: whoever reads the file does that."""
    whole: dict[str, Any] = {
        "format": f"{_FORM}{_NEWEST}",
        "plan": json.loads(plan),
        "events": [json.loads(e) for e in events],
    }
    if book is not None:
        whole["book"] = book.model_dump(mode="json", exclude_none=True)
    if picture is not None:
        whole["picture"] = b64encode(picture).decode("ascii")
    return json.dumps(whole, ensure_ascii=False).encode()


def book_in(text: str | bytes) -> Book | None:
    """The rows of another crew's own that a job file brings along, None where it brings none. Raises `BadFile`."""
    whole = _read(text)
    return book_of(whole["book"]) if isinstance(whole, dict) and "book" in whole else None


def _read(text: str | bytes) -> Any:
    try:
        return json.loads(text)
    except RecursionError:
        raise BadFile("this file is nested too deep to be read") from None
    except (ValueError, UnicodeDecodeError) as error:
        raise BadFile("this is not a JSON file", (("the file", str(error)),)) from error


def read_job_file(text: str | bytes) -> JobFile:
    """Read a job file. Raises `BadFile` with where it is wrong and what is expected there; nothing is kept."""
    whole = _read(text)
    number = _number(whole)
    unknown = set(whole) - {"format", "plan", "events", "book", "picture"}
    if unknown:
        raise BadFile("this job file is not valid", ((min(unknown), "is not known here; take it out"),))
    if not isinstance(whole.get("plan"), dict):
        raise BadFile("this job file is not valid", (("plan", "is missing; add it"),))
    part = "plan"
    try:
        plan = read_plan(whole["plan"])
        part = "events"
        kept = whole.get("events", [])
        if number == 1 and isinstance(kept, list):
            carrying = Carrying([whole["plan"]])
            kept = [carrying.event(e) if isinstance(e, dict) else e for e in kept]
        events = read_events([_bare(e) for e in kept] if isinstance(kept, list) else kept)
    except ValidationError as error:
        raise BadFile("this job file is not valid", explain(error, part)) from error
    except (NewerFormat, HydrarchError) as error:
        raise BadFile(str(error)) from error
    except (KeyError, TypeError, AttributeError) as error:
        raise BadFile(
            "this job file is not valid", (("the file", f"{error} is missing or of another kind"),)
        ) from error
    if len({e.id for e in events}) != len(events):
        raise BadFile("this job file is not valid", (("events", "two events share an id"),))
    return JobFile(plan, events, _picture(whole, plan))


def _picture(whole: Any, plan: Plan) -> Picture | None:
    if "picture" not in whole:
        return None
    try:
        found = read_picture(b64decode(whole["picture"], validate=True), kept=True)
    except (ValueError, TypeError) as error:
        told = error.says if isinstance(error, BadFile) else "is not written in base 64"
        raise BadFile("this job file is not valid", (("picture", told),)) from error
    if plan.underlay is None or plan.underlay.picture != found.hash:
        raise BadFile("this job file is not valid", (("picture", "is not the one its plan names"),))
    return found


def _bare(event: Any) -> Any:
    """An event without what it leaves open: files of form 1 wrote those out."""
    return {k: v for k, v in event.items() if v is not None} if isinstance(event, dict) else event


def _number(whole: Any) -> int:
    said = whole.get("format") if isinstance(whole, dict) else None
    if not isinstance(said, str) or not said.startswith(_FORM) or not said[len(_FORM) :].isdigit():
        raise BadFile("this is a JSON file, but not a Hydrarch job", (("format", f"must be '{_FORM}{_NEWEST}'"),))
    number = int(said[len(_FORM) :])
    if not 1 <= number <= _NEWEST:
        raise BadFile(
            f"this file has form {number}, and this version reads up to {_NEWEST}: bring Hydrarch up to date to open it"
        )
    return number
