"""What an assembly is made of: parts, joints, take-offs, and the bends the pipe takes by itself."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property
from typing import Literal

from hydrarch.core.base.identity import EndId, JointId, PartId
from hydrarch.core.base.problems import Problem
from hydrarch.core.base.units import size_value
from hydrarch.core.catalogue.fittings import fittings

__all__ = ["Assembly", "ColdBend", "Joint", "JointRole", "Part", "PipeLength", "Side", "TakeOff", "parts_list"]

JointRole = Literal["stack", "head", "saddle", "between", "length"]


@dataclass(frozen=True, slots=True)
class Part:
    """One fitting in place, at a point or along a run.

    `end` is the run's end whose stack it is in, None for what stands at its point.
    """

    id: PartId
    fitting: str
    name: str
    point: str | None
    end: EndId | None


@dataclass(frozen=True, slots=True)
class Side:
    """One side of a joint: the name of its end, and what offers it.

    That is a part (with its fitting's id), or a pipe ("series size", with the run's end it is) or, with neither, the
    thing that stands there. `what` says it in words, for people only.
    """

    what: str
    end: str
    part: PartId | None = None
    fitting: str | None = None
    pipe: str | None = None
    of: EndId | None = None

    @property
    def definition(self) -> str:
        """What it is by ids: no word of it changes when a row of the catalogue is called something else."""
        return f"{self.end}@{self.fitting or self.pipe or 'thing'}"


@dataclass(frozen=True, slots=True)
class Joint:
    """One mating; `depth` (m) is what the socket or thread takes.

    `point` and `end` are where it is at a thing, `run` the run whose pipe it is on or along; `also` is its other name
    where it has two. `place` is the point or run it belongs to, `towards` where its run leads, in words. One along a
    run lies at a `share` of it from its end `a` (0 to 1). It stands for `count` alike ones, made one after the other.
    """

    id: JointId
    also: JointId | None
    role: JointRole
    point: str | None
    end: EndId | None
    run: str | None
    number: int
    method: str
    size: str
    a: Side
    b: Side
    depth: float
    place: str
    towards: str
    share: float | None = None
    count: int = 1

    @property
    def names(self) -> tuple[JointId, ...]:
        """Every name it goes by."""
        return (self.id,) if self.also is None else (self.id, self.also)

    @property
    def to_pipe(self) -> bool:
        """Whether it leads to the bare pipe of another run at its point, not to a part or to what stands there."""
        return self.role == "stack" and self.b.pipe is not None

    @property
    def signature(self) -> str:
        """What changes when its own definition does, and not when anything is only called something else or looked at
        from beyond.
        """
        sides = "|".join(sorted((self.a.definition, self.b.definition)))
        return sides if self.count == 1 else f"{sides}|{self.count}"


@dataclass(frozen=True, slots=True)
class TakeOff:
    """Where a run's pipe stops short of a point: `offset` (m) from the point's centre, and what takes it, in words (""
    for nothing).
    """

    end: EndId
    point: str
    offset: float
    takes: str


@dataclass(frozen=True, slots=True)
class ColdBend:
    """A turn the pipe takes by itself between two of its ends: `turn` (rad) on `radius` (m); the trench opens by
    `widening` (m).
    """

    point: str
    ends: tuple[EndId, EndId]
    turn: float
    radius: float
    widening: float
    saved: float


@dataclass(frozen=True, slots=True)
class PipeLength:
    """The runs one length of pipe goes through, from `start`, its end nearer the source, to `stop`, both ends of runs.

    `centres` (m) is its length between the points' centres, `saved` (m) what cold bends shorten.
    """

    runs: tuple[str, ...]
    start: EndId
    stop: EndId
    centres: float
    saved: float


@dataclass(frozen=True)
class Assembly:
    """The whole plan joined. `minor` is the sum of loss coefficients K of each run (and of each riser, by its foot)."""

    parts: tuple[Part, ...]
    joints: tuple[Joint, ...]
    taken: dict[EndId, TakeOff]
    bends: tuple[ColdBend, ...]
    lengths: tuple[PipeLength, ...]
    minor: dict[str, float]
    problems: tuple[Problem, ...]

    @cached_property
    def named(self) -> dict[str, Joint]:
        """Its joints by their ids."""
        return {j.id: j for j in self.joints}


def parts_list(assembly: Assembly) -> dict[str, int]:
    """How many of each fitting, by fitting id, in the order of size within family."""
    counts: dict[str, int] = {}
    for part in assembly.parts:
        counts[part.fitting] = counts.get(part.fitting, 0) + 1
    known = fittings()
    return dict(
        sorted(counts.items(), key=lambda c: (known[c[0]].family, -size_value(known[c[0]].ports[0].end.size), c[0]))
    )
