"""What an assembly is made of: parts, joints, where pipes stop, and bends the pipe takes by itself."""

from __future__ import annotations

from dataclasses import dataclass

from hydrarch.core.catalogue.fittings import fittings
from hydrarch.core.problems import Problem
from hydrarch.core.units import size_value

__all__ = ["Assembly", "Chain", "Joint", "Laid", "Part", "Side", "SoftBend", "parts_list"]


@dataclass(frozen=True, slots=True)
class Part:
    """One fitting in place. `run` is the run whose stack it is in, None for the hub of its point."""

    id: str
    fitting: str
    name: str
    point: str
    run: str | None


@dataclass(frozen=True, slots=True)
class Side:
    """One side of a joint: the part or pipe it belongs to, in words, and the name of its end."""

    what: str
    part: str | None
    end: str


@dataclass(frozen=True, slots=True)
class Joint:
    """One mating; `depth` (m) is what the socket or thread takes.

    `place` is the point or run it belongs to, `towards` where its run leads, so that two alike can be told apart.
    """

    id: str
    point: str | None
    run: str | None
    method: str
    size: str
    a: Side
    b: Side
    depth: float
    place: str
    towards: str

    @property
    def to_pipe(self) -> bool:
        """Whether it leads to the bare pipe of another run at its point, not to a part or to what stands there."""
        return self.point is not None and self.b.part is None and self.b.what != self.place

    @property
    def signature(self) -> str:
        """What changes when its own definition does, and not when its place is only called something else."""
        return "|".join((self.method, *(s.end if s.what == self.place else s.what for s in (self.a, self.b))))


@dataclass(frozen=True, slots=True)
class Laid:
    """Where a run's pipe stops short of a point: `offset` (m) from the point's centre, and the end it offers."""

    run: str
    point: str
    offset: float
    takes: str


@dataclass(frozen=True, slots=True)
class SoftBend:
    """A turn the pipe takes by itself: `turn` (rad) on radius `radius` (m); the trench opens by `widening` (m)."""

    point: str
    runs: tuple[str, str]
    turn: float
    radius: float
    widening: float
    saved: float


@dataclass(frozen=True, slots=True)
class Chain:
    """The runs one length of pipe goes through, from `start`, the end nearer the source, to `stop`.

    `centres` (m) is their length between the points' centres, `saved` (m) what soft bends shorten.
    """

    runs: tuple[str, ...]
    start: str
    stop: str
    centres: float
    saved: float


@dataclass(frozen=True, slots=True)
class Assembly:
    """The whole plan joined. `minor` is the sum of loss coefficients K of each run (and of `point.riser`)."""

    parts: tuple[Part, ...]
    joints: tuple[Joint, ...]
    laid: dict[tuple[str, str], Laid]
    bends: tuple[SoftBend, ...]
    chains: tuple[Chain, ...]
    minor: dict[str, float]
    problems: tuple[Problem, ...]


def parts_list(assembly: Assembly) -> dict[str, int]:
    """How many of each fitting, by fitting id, in the order of size within family."""
    counts: dict[str, int] = {}
    for part in assembly.parts:
        counts[part.fitting] = counts.get(part.fitting, 0) + 1
    known = fittings()
    return dict(sorted(counts.items(), key=lambda c: (known[c[0]].family, -size_value(known[c[0]].ports[0].end.size), c[0])))
