"""What is to be joined: a cut pipe or an open end."""

from __future__ import annotations

from dataclasses import dataclass

from hydrarch.core.base.errors import HydrarchError
from hydrarch.core.catalogue.fittings import End, end, pipe_ends
from hydrarch.core.catalogue.pipes import Series, series

__all__ = ["PipeOrEnd"]


@dataclass(frozen=True, slots=True)
class PipeOrEnd:
    """What is to be joined: a cut pipe (series and size), an open end by its name, or one end of a pipe by both."""

    series: str | None = None
    size: str | None = None
    end: str | None = None

    def ends(self) -> tuple[End, ...]:
        """The ends it offers; raises `Unknown` or `HydrarchError` with what is missing."""
        if self.end is not None:
            return (end(self.end),)
        family, size = self.pipe()
        offered = pipe_ends(family.id, size)
        if not offered:
            raise HydrarchError(f"no fitting of ours joins {family.name} {size}")
        return offered

    def pipe(self) -> tuple[Series, str]:
        """Its series and size; raises `HydrarchError` where it is no pipe."""
        if self.series is None or self.size is None:
            raise HydrarchError("name a pipe by series and size, or an end")
        return series(self.series), self.size

    @property
    def material(self) -> str:
        """The material of a pipe, "end" for an open end."""
        return series(self.series).material if self.series else "end"

    def words(self) -> str:
        """How a crew would say it."""
        if self.end is not None and self.series is None:
            return end(self.end).words()
        family, size = self.pipe()
        return f"{family.short} {size} pipe"
