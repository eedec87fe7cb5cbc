"""An exercise as one JSON file, and a person's own record of practice. What is written reads back the same."""

from __future__ import annotations

import json
from base64 import b64encode
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from pydantic import ValidationError

from hydrarch.core.base.errors import HydrarchError
from hydrarch.core.plan.crew_parts import Book
from hydrarch.core.plan.upgrades import NewerFormat, read_plan
from hydrarch.core.practice.attempt import Attempt
from hydrarch.core.practice.exercise import Exercise
from hydrarch.formats.explained import BadFile, explain

__all__ = ["PracticePhoto", "read_exercise", "write_attempts", "write_exercise"]

_FORM = "hydrarch/exercise/1"


@dataclass(frozen=True, slots=True)
class PracticePhoto:
    """A photo on its way out: beside which result it lies, when it was taken (s since 1970), and its JPEG."""

    about: str
    at: float
    body: bytes


def _photo(photo: PracticePhoto) -> dict[str, Any]:
    return {"about": photo.about, "at": photo.at, "jpeg": b64encode(photo.body).decode("ascii")}


def write_exercise(exercise: Exercise, book: Book | None = None) -> str:
    """An exercise as JSON text that reads back the same, with the rows of the crew's own it uses where it leaves."""
    whole = exercise.model_dump(mode="json")
    if book is not None and (book.fittings or book.pipes):
        whole["book"] = book.model_dump(mode="json", exclude_none=True)
    return json.dumps(whole, indent=2, ensure_ascii=False) + "\n"


def read_exercise(text: str | bytes) -> Exercise:
    """Read an exercise; the rows that came with it are in use by then. Raises `BadFile` with where it is wrong and what
    is expected there.
    """
    try:
        whole: Any = json.loads(text)
    except RecursionError:
        raise BadFile("this file is nested too deep to be an exercise") from None
    except (ValueError, UnicodeDecodeError) as error:
        raise BadFile("this is not a JSON file", (("the file", str(error)),)) from error
    if not isinstance(whole, dict) or whole.get("format") != _FORM:
        raise BadFile("this is a JSON file, but not an exercise", (("format", f"must be '{_FORM}'"),))
    if not isinstance(whole.get("plan"), dict):
        raise BadFile("this exercise is not valid", (("plan", "is missing; add it"),))
    whole.pop("book", None)
    part = "plan"
    try:
        plan = read_plan(whole["plan"])
        part = ""
        return Exercise.model_validate({**whole, "plan": plan})
    except ValidationError as error:
        raise BadFile("this exercise is not valid", explain(error, part)) from error
    except (NewerFormat, HydrarchError) as error:
        raise BadFile(str(error)) from error
    except (KeyError, TypeError, AttributeError) as error:
        raise BadFile("this exercise is not valid", (("plan", f"{error} is missing or of another kind"),)) from error


def write_attempts(person: str, attempts: Iterable[Attempt], photos: Mapping[str, Sequence[PracticePhoto]]) -> str:
    """All that a person practised as JSON text, to keep or to show to whom they choose; `photos` by the attempt they
    are of, each as JPEG in base64.
    """
    whole = {
        "format": "hydrarch/practice-record/1",
        "person": person,
        "attempts": [
            {**a.model_dump(mode="json"), "photos": [_photo(p) for p in photos.get(a.id, ())]} for a in attempts
        ],
    }
    return json.dumps(whole, indent=2, ensure_ascii=False) + "\n"
