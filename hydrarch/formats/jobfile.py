"""A whole job as one JSON file: its plan and everything that was done. What is written reads back exactly."""

from __future__ import annotations

import json
from dataclasses import asdict
from typing import Any, Literal, get_args

from pydantic import BaseModel, ConfigDict, Field, TypeAdapter, ValidationError, model_validator

from hydrarch.core.making.state import Event
from hydrarch.core.plan import Plan, What

__all__ = ["BadFile", "JobFile", "explain", "read_job_file", "write_job_file"]

_EVENTS = TypeAdapter(list[Event], config=ConfigDict(strict=True, extra="forbid"))


class BadFile(ValueError):
    """A file that is not a job; `places` are pairs of where and what is wrong there."""

    def __init__(self, says: str, places: tuple[tuple[str, str], ...] = ()) -> None:
        self.says, self.places = says, places
        super().__init__("; ".join([says, *(f"{where}: {what}" for where, what in places[:5])]))


class JobFile(BaseModel):
    """The file's shape."""

    model_config = ConfigDict(frozen=True, extra="forbid")
    format: Literal["hydrarch/job/1"] = "hydrarch/job/1"
    plan: Plan
    events: list[Event] = Field(default_factory=list)

    @model_validator(mode="after")
    def _once(self) -> JobFile:
        seen = [e.id for e in self.events]
        if len(set(seen)) != len(seen):
            raise ValueError("two events share an id")
        return self


def write_job_file(plan: Plan, events: list[Event]) -> str:
    """A job as JSON text, two blanks a level, so that a person can read it and a diff shows little."""
    whole = {"format": "hydrarch/job/1", "plan": plan.model_dump(mode="json"), "events": [asdict(e) for e in events]}
    return json.dumps(whole, indent=2, ensure_ascii=False) + "\n"


def read_job_file(text: str | bytes) -> JobFile:
    """Read a job file. Raises `BadFile` with where it is wrong and what is expected there; nothing is kept."""
    try:
        whole: Any = json.loads(text)
    except (ValueError, UnicodeDecodeError) as error:
        raise BadFile("this is not a JSON file", (("the file", str(error)),)) from error
    if not isinstance(whole, dict) or not str(whole.get("format", "")).startswith("hydrarch/job/"):
        raise BadFile("this is a JSON file, but not a Hydrarch job", (("format", "must be 'hydrarch/job/1'"),))
    try:
        return JobFile.model_validate(whole)
    except ValidationError as error:
        raise BadFile("this job file does not hold together", explain(error)) from error


def explain(error: ValidationError) -> tuple[tuple[str, str], ...]:
    """What Pydantic found, as pairs of place and plain words."""
    return explain_items(error.errors(include_url=False))


def explain_items(items: Any) -> tuple[tuple[str, str], ...]:
    """The same for a list of Pydantic's error records."""
    return tuple((_place(i["loc"]), _words(i)) for i in items[:20])


_TAGS = {str(kind.model_fields["kind"].default) for kind in get_args(get_args(What)[0])} | {"body"}


def _place(loc: tuple[Any, ...]) -> str:
    text = ""
    for part in loc:
        if isinstance(part, int):
            text += f"[{part}]"
        elif part not in _TAGS:
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
