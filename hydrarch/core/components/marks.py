"""Marks: what a crew measures from and keeps clear of, and nothing is joined to."""

from __future__ import annotations

from math import cos, sin
from typing import Literal

from pydantic import Field

from hydrarch.core.components.base import Kind, What, field, register

__all__ = ["Mark"]


class Mark(What):
    """A wall's corner, a tree, a cable: a fixed thing of the site, at its point, or from it `east` and `north` (m)
    where it is long.

    `clear` (m) is how far pipe keeps from it, None what is usual for what it is; `width` (m) is that of a drive.
    """

    kind: Literal["mark"] = "mark"
    what: Literal["corner", "door", "post", "tree", "wall", "drive", "cable", "other pipe", "controller"] = Field(
        "corner", title="What it is"
    )
    east: float = field(0.0, "It goes on east", "length", ge=-2000, le=2000)
    north: float = field(0.0, "and north", "length", ge=-2000, le=2000)
    width: float = field(3.0, "Width, of a drive", "length", ge=0, le=100)
    clear: float | None = field(None, "Keep clear of it by", "length", ge=0, le=50)

    @property
    def long(self) -> bool:
        """Whether it is a line, not a point."""
        return bool(self.east or self.north)

    def turned(self, angle: float) -> Mark:
        """It goes on another way."""
        east, north = self.east * cos(angle) - self.north * sin(angle), self.east * sin(angle) + self.north * cos(angle)
        return self.model_copy(update={"east": round(east, 6), "north": round(north, 6)})

    def mirrored(self, east_west: bool) -> Mark:
        """It goes on the other way."""
        return self.model_copy(update={"east": -self.east} if east_west else {"north": -self.north})


register(
    Kind(
        model=Mark,
        title="Mark to measure from",
        letter="X",
        role="mark",
        ports=(),
        needs="nothing: it is measured from",
    )
)
