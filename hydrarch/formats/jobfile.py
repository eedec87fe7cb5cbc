"""A whole job as one JSON file: its plan and everything that was done. What is written reads back exactly.

A file of an earlier form is brought to the newest as it is read; one from the future is refused with a word.
"""

from __future__ import annotations

import json
from collections.abc import Iterable
from dataclasses import dataclass
from typing import Any

from pydantic import TypeAdapter, ValidationError

from hydrarch.core.carried import Carrying
from hydrarch.core.errors import HydrarchError
from hydrarch.core.kinds.base import kinds
from hydrarch.core.making.state import Event, event_body
from hydrarch.core.plan import Plan
from hydrarch.core.upgrades import NewerFormat, read_plan
from hydrarch.formats.said import KeptEvent

__all__ = ["BadFile", "JobFile", "explain", "explain_items", "read_job_file", "write_job_file"]

_FORM = "hydrarch/job/"
_NEWEST = 2
_EVENTS = TypeAdapter(list[KeptEvent])


class BadFile(ValueError):
    """A file that is not a job; `places` are pairs of where and what is wrong there."""

    def __init__(self, says: str, places: tuple[tuple[str, str], ...] = ()) -> None:
        self.says, self.places = says, places
        super().__init__("; ".join([says, *(f"{where}: {what}" for where, what in places[:5])]))


@dataclass(frozen=True, slots=True)
class JobFile:
    """What a file holds: the plan in the newest form, and the events."""

    plan: Plan
    events: tuple[Event, ...]


def write_job_file(plan: Plan, events: Iterable[Event]) -> str:
    """A job as JSON text, two blanks a level, so that a person can read it and a diff shows little."""
    whole = {"format": f"{_FORM}{_NEWEST}", "plan": plan.model_dump(mode="json"), "events": [event_body(e) for e in events]}
    return json.dumps(whole, indent=2, ensure_ascii=False) + "\n"


def read_job_file(text: str | bytes) -> JobFile:
    """Read a job file. Raises `BadFile` with where it is wrong and what is expected there; nothing is kept."""
    try:
        whole: Any = json.loads(text)
    except RecursionError:
        raise BadFile("this file is nested too deep to be a job") from None
    except (ValueError, UnicodeDecodeError) as error:
        raise BadFile("this is not a JSON file", (("the file", str(error)),)) from error
    number = _number(whole)
    unknown = set(whole) - {"format", "plan", "events"}
    if unknown:
        raise BadFile("this job file does not hold together", ((min(unknown), "is not known here; take it out"),))
    if not isinstance(whole.get("plan"), dict):
        raise BadFile("this job file does not hold together", (("plan", "is missing; add it"),))
    part = "plan"
    try:
        plan = read_plan(whole["plan"])
        part = "events"
        kept = whole.get("events", [])
        if number == 1 and isinstance(kept, list):
            carrying = Carrying([whole["plan"]])
            kept = [carrying.event(e) if isinstance(e, dict) else e for e in kept]
        events = tuple(e.event() for e in _EVENTS.validate_python([_bare(e) for e in kept] if isinstance(kept, list) else kept))
    except ValidationError as error:
        raise BadFile("this job file does not hold together", explain(error, part)) from error
    except (NewerFormat, HydrarchError) as error:
        raise BadFile(str(error)) from error
    except (KeyError, TypeError, AttributeError) as error:
        raise BadFile(
            "this job file does not hold together", (("the file", f"{error} is missing or of another kind"),)
        ) from error
    if len({e.id for e in events}) != len(events):
        raise BadFile("this job file does not hold together", (("events", "two events share an id"),))
    return JobFile(plan, events)


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


def explain(error: ValidationError, part: str = "") -> tuple[tuple[str, str], ...]:
    """What Pydantic found, as pairs of place and plain words; `part` is what the places are in."""
    found = error.errors(include_url=False)
    return explain_items([{**i, "loc": (part, *i["loc"])} for i in found] if part else found)


def explain_items(items: Any) -> tuple[tuple[str, str], ...]:
    """The same for a list of Pydantic's error records."""
    return tuple((_place(i["loc"]), _words(i)) for i in items[:20])


def _place(loc: tuple[Any, ...]) -> str:
    text = ""
    for part in loc:
        if isinstance(part, int):
            text += f"[{part}]"
        elif part not in kinds() and part != "body":
            text += f".{part}" if text else str(part)
    return text or "the whole of it"


def _words(item: dict[str, Any]) -> str:
    kind, given, context = item["type"], item.get("input"), item.get("ctx", {})
    shown = json.dumps(given, ensure_ascii=False, default=str)[:60] if not isinstance(given, dict | list) else "a structure"
    match kind:
        case "missing":
            return "is missing; add it"
        case "extra_forbidden":
            return "is not known here; take it out"
        case "float_type" | "float_parsing" | "int_type":
            return f"must be a number, not {shown}"
        case "string_type":
            return f"must be text, not {shown}"
        case "greater_than":
            return f"must be above {context['gt']:g}, not {shown}"
        case "greater_than_equal":
            return f"must be {context['ge']:g} or more, not {shown}"
        case "less_than_equal":
            return f"must be {context['le']:g} or less, not {shown}"
        case "finite_number":
            return "must be a finite number"
        case "value_error":
            return str(item["msg"]).removeprefix("Value error, ")
        case "literal_error" | "union_tag_invalid":
            return f"must be one of {context.get('expected') or context.get('expected_tags')}, not {shown}"
        case _:
            return str(item["msg"])
