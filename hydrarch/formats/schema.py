"""The JSON Schema of a job file, for programs that are not ours: every field, its limits, and the unit of each number
that has one.
"""

from __future__ import annotations

import json
from typing import Any, Literal

from pydantic import BaseModel, ConfigDict, Field

from hydrarch.core.base.quantities import QUANTITIES
from hydrarch.core.plan.crew_parts import Book
from hydrarch.core.plan.document import Plan
from hydrarch.core.record.events import Event

__all__ = ["job_schema"]


_SI = {"min": "s", "h": "s", "kW": "W", "A·h": "A·s", "%": "1", "": "1", "°": "rad", "ΔK": "K"}
"""What a number is kept in, of quantities that are named for the unit they are shown in."""


class _Job(BaseModel):
    """A whole job as one file: its drawing (`plan`), everything that was recorded (`events`), and where it has them the
    crew's own parts that it uses (`book`) and the picture beneath it (`picture`, base64).
    """

    model_config = ConfigDict(extra="forbid")
    format: Literal["hydrarch/job/2"]
    plan: Plan
    events: list[Event]
    book: Book | None = None
    picture: str = Field("", json_schema_extra={"contentEncoding": "base64"})


def job_schema() -> str:
    """The schema as JSON text (draft 2020-12). A number has `unit` where core knows its quantity; where it has none,
    its description says what it is in, and all are SI.
    """
    whole = _Job.model_json_schema()
    _with_units(whole)
    told = {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        **whole,
        "title": "Job file, form 2",
    }
    return json.dumps(told, indent=1, ensure_ascii=False, sort_keys=False) + "\n"


def _with_units(part: Any) -> None:
    """Say the unit of every number with a known quantity."""
    if isinstance(part, dict):
        quantity = QUANTITIES.get(part["quantity"]) if isinstance(part.get("quantity"), str) else None
        if quantity is not None:
            part["unit"] = _SI.get(quantity.si, quantity.si)
            del part["quantity"]
        part.pop("discriminator", None)  # a word of OpenAPI, none of JSON Schema
        for inner in part.values():
            _with_units(inner)
    elif isinstance(part, list):
        for inner in part:
            _with_units(inner)
