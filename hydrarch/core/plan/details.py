"""Named details of a plan: a box cut out of it, and the side it is looked at from."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field, model_validator

from hydrarch.core.components.base import Model

__all__ = ["SEEN_FROM", "Detail", "SeenFrom"]

SeenFrom = Literal["above", "south", "east", "north", "west", "standing"]
SEEN_FROM: tuple[SeenFrom, ...] = ("above", "south", "east", "north", "west", "standing")
Corner = Annotated[tuple[float, float, float], Field(strict=False)]


class Detail(Model):
    """A part of the drawing under a name: what lies between two corners (east, north, level, in m), `seen` from
    a side.
    """

    name: Annotated[str, Field(min_length=1, max_length=80)]
    low: Corner
    high: Corner
    seen: SeenFrom = "standing"

    @model_validator(mode="after")
    def _is_a_box(self) -> Detail:
        if any(a >= b for a, b in zip(self.low, self.high, strict=True)):
            raise ValueError(f"the detail {self.name} has no size; choose again what it encloses")
        return self

    def holds(self, x: float, y: float, level: float) -> bool:
        """Whether a place lies within it."""
        return all(a <= v <= b for a, v, b in zip(self.low, (x, y, level), self.high, strict=True))
