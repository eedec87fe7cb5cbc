"""What is wrong with a file or a request, by place and in plain words."""

from __future__ import annotations

import json
from typing import Any

from pydantic import ValidationError

from hydrarch.core.kinds.base import kinds

__all__ = ["BadFile", "explain", "explain_items"]


class BadFile(ValueError):
    """A file that is not what it should be; `places` are pairs of where and what is wrong there."""

    def __init__(self, says: str, places: tuple[tuple[str, str], ...] = ()) -> None:
        self.says, self.places = says, places
        super().__init__("; ".join([says, *(f"{where}: {what}" for where, what in places[:5])]))


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
