"""An exercise as one JSON file, and a person's own record of practice. What is written reads back the same."""

from __future__ import annotations

import json
from collections.abc import Iterable
from typing import Any

from pydantic import ValidationError

from hydrarch.core.base.errors import HydrarchError
from hydrarch.core.plan.upgrades import NewerFormat, read_plan
from hydrarch.core.practice.attempt import Attempt
from hydrarch.core.practice.exercise import Exercise
from hydrarch.formats.explained import BadFile, explain

__all__ = ["read_exercise", "write_attempts", "write_exercise"]

_FORM = "hydrarch/exercise/1"


def write_exercise(exercise: Exercise) -> str:
    """An exercise as JSON text that reads back the same."""
    return json.dumps(exercise.model_dump(mode="json"), indent=2, ensure_ascii=False) + "\n"


def read_exercise(text: str | bytes) -> Exercise:
    """Read an exercise. Raises `BadFile` with where it is wrong and what is expected there."""
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


def write_attempts(person: str, attempts: Iterable[Attempt]) -> str:
    """All that a person practised as JSON text, to keep or to show to whom they choose."""
    whole = {
        "format": "hydrarch/practice-record/1",
        "person": person,
        "attempts": [a.model_dump(mode="json") for a in attempts],
    }
    return json.dumps(whole, indent=2, ensure_ascii=False) + "\n"
