"""The shape of an answer that is written as JSON already, for the API's document alone."""

from __future__ import annotations

from collections.abc import Callable
from typing import Annotated, Any

from pydantic import GetCoreSchemaHandler, GetJsonSchemaHandler, TypeAdapter
from pydantic.json_schema import JsonSchemaValue
from pydantic_core import CoreSchema, core_schema

__all__ = ["written_as"]


class _Shape:
    """Stands for a type that is worked out when the document is asked for, not whenever a server starts."""

    def __init__(self, shape: Callable[[], Any]) -> None:
        self.shape = shape

    def __get_pydantic_core_schema__(self, source: Any, handler: GetCoreSchemaHandler) -> CoreSchema:
        return core_schema.any_schema()

    def __get_pydantic_json_schema__(self, schema: CoreSchema, handler: GetJsonSchemaHandler) -> JsonSchemaValue:
        shape = self.shape()
        whole = TypeAdapter(shape).core_schema
        if whole["type"] == "dataclass":  # under its own name, as the framework would have it
            name = f"{shape.__module__}.{shape.__qualname__}:{id(shape)}"
            whole = core_schema.definitions_schema(
                core_schema.definition_reference_schema(name), [{**whole, "ref": name}]
            )
        return handler(whole)


def written_as(shape: Any) -> Any:
    """A `response_model` for a route that gives a `Response` with that shape in it: a type, or what gives one."""
    return Annotated[Any, _Shape((lambda: shape) if isinstance(shape, type) else shape)]
