"""Pipe that is in use until a changeover is over, and the order it is done in.

An old service is dead afterwards; a temporary loop is taken home again. Neither is ever bought for good, sized, tested
or handed over as laid, so they stand apart from the runs.
"""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field, model_validator

from hydrarch.core.base.identity import Names, Refers
from hydrarch.core.catalogue.pipes import pipe, series
from hydrarch.core.components.base import Model
from hydrarch.core.plan.conditions import known
from hydrarch.core.plan.names import AnyThing, Identity, PortName, Words

__all__ = ["ActKind", "ChangeoverAct", "Leaving", "LeavingEnd"]

ActKind = Literal["shut", "open", "let_down", "take_off", "join", "cap", "connect", "disconnect"]
"""What is done at one step: a valve turned, the pressure let down, the old pipe cut off, the new one joined, a dead end
capped, the temporary loop connected or taken off."""


class LeavingEnd(Model):
    """One end of pipe that leaves: who it is, and the thing and port it comes to."""

    id: Annotated[Identity, Names("end")]
    point: AnyThing
    port: PortName = ""


class Leaving(Model):
    """An `old` service that is dead after the changeover, or a temporary `loop` that feeds the house meanwhile.

    A loop without an end `b` comes from a supply that is not on the drawing, a neighbour's tap, with `pressure` (Pa,
    gauge) at rest; 0 where that was not read. `length` (m) is by the tape, None where the drawing's is taken.
    """

    id: Annotated[Identity, Names("thing")]
    what: Literal["old", "loop"]
    a: LeavingEnd
    b: LeavingEnd | None = None
    series: str | None = None
    size: str | None = None
    length: float | None = Field(None, gt=0, le=1e5)
    pressure: float = Field(0.0, ge=0, le=5e6)
    note: Words = ""

    @property
    def ends(self) -> tuple[LeavingEnd, ...]:
        """The ends it has on the drawing."""
        return (self.a,) if self.b is None else (self.a, self.b)

    @property
    def points(self) -> tuple[str, ...]:
        """The things it comes to, by id."""
        return tuple(e.point for e in self.ends)

    @model_validator(mode="after")
    def _holds_together(self) -> Leaving:
        if self.b is None and self.what == "old":
            raise ValueError(f"old pipe {self.id} has one end only; say where its other end is")
        if self.b is not None and self.a.point == self.b.point:
            raise ValueError(f"pipe {self.id} starts and ends at {self.a.point}; lead it to another point")
        if self.series is not None:
            known(lambda: series(self.series or ""), f"pipe {self.id}")
        if self.series is not None and self.size is not None:
            known(lambda: pipe(self.series or "", self.size or ""), f"pipe {self.id}")
        return self


class ChangeoverAct(Model):
    """One step of a changeover: what is `do`ne, at which `thing` (a valve, a tap) or `end` of a pipe. What it was done
    at may be gone from the drawing: then both are blank.
    """

    do: ActKind
    thing: Annotated[str, Field(max_length=40), Refers("thing")] = ""
    end: Annotated[str, Field(max_length=40), Refers("end")] = ""
