"""What is wrong with a file or a request, by place and in plain words."""

from __future__ import annotations

import json
from functools import cache
from typing import Any

from pydantic import BaseModel, ValidationError

from hydrarch.core.base.units import QUANTITIES, System, show
from hydrarch.core.components.base import kinds
from hydrarch.core.plan.document import Conditions

SYSTEMS: tuple[System, ...] = ("metric", "us")

__all__ = ["BadFile", "explain", "explain_items", "number_of"]


class BadFile(ValueError):
    """A file that is not what it should be; `places` are pairs of where and what is wrong there."""

    def __init__(self, says: str, places: tuple[tuple[str, str], ...] = ()) -> None:
        self.says, self.places = says, places
        super().__init__("; ".join([says, *(f"{where}: {what}" for where, what in places[:5])]))


_FURTHEST = 1e9  # of a survey's grid, in m


def number_of(told: Any) -> float:
    """A coordinate of a foreign file; raises `ValueError` for one that is no number, or beyond any drawing."""
    if isinstance(told, bool) or not isinstance(told, int | float) or not abs(told) < _FURTHEST:
        raise ValueError("a coordinate is no number, or beyond any drawing")
    return float(told)


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


@cache
def _quantities() -> dict[str, str]:
    """The quantity of each field of a plan by its name, where all fields of that name have one."""
    found: dict[str, set[str]] = {}
    models: list[type[BaseModel]] = [Conditions, *(k.model for k in kinds().values())]
    for model in models:
        for name, field in model.model_fields.items():
            extra = field.json_schema_extra
            quantity = extra.get("quantity") if isinstance(extra, dict) else None
            found.setdefault(name, set()).add(str(quantity or ""))
    found |= {"ground": {"level"}, "depth": {"depth"}, "x": {"length"}, "y": {"length"}, "measured_length": {"length"}}
    return {name: next(iter(q)) for name, q in found.items() if len(q) == 1 and next(iter(q)) in QUANTITIES}


def _said(value: Any, item: dict[str, Any]) -> str:
    """A number in the units people use, both ways, where its field has a quantity; else as it is."""
    quantity = _quantities().get(str(item["loc"][-1])) if item.get("loc") else None
    if not isinstance(value, int | float) or isinstance(value, bool):
        return json.dumps(value, ensure_ascii=False, default=str)[:60]
    if quantity is None or not abs(value) < _FURTHEST:
        return f"{value:.6g}" if abs(value) < 1e300 else "beyond all measure"
    if quantity == "depth" and abs(value) >= 10:
        quantity = "length"
    if quantity == "length" and 0 < abs(value) < 0.1:
        quantity = "cut"
    metric, us = (str(show(float(value), quantity, system)) for system in SYSTEMS)
    return metric if metric == us else f"{metric} ({us})"


def _words(item: dict[str, Any]) -> str:
    kind, given, context = item["type"], item.get("input"), item.get("ctx", {})
    shown = (
        json.dumps(given, ensure_ascii=False, default=str)[:60] if not isinstance(given, dict | list) else "a structure"
    )
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
            return f"must be above {_said(context['gt'], item)}, not {_said(given, item)}"
        case "greater_than_equal":
            return f"must be {_said(context['ge'], item)} or more, not {_said(given, item)}"
        case "less_than_equal":
            return f"must be {_said(context['le'], item)} or less, not {_said(given, item)}"
        case "finite_number":
            return "must be a finite number"
        case "value_error":
            return str(item["msg"]).removeprefix("Value error, ")
        case "literal_error" | "union_tag_invalid":
            return f"must be one of {context.get('expected') or context.get('expected_tags')}, not {shown}"
        case _:
            return str(item["msg"])
