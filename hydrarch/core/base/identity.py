"""Who a thing, a run's end, a part, a length of pipe and a joint is, so that each stays itself when the drawing
changes.

A plan names its things, runs and run ends. A run's end keeps its name when the run is split, joined, moved or turned
round, and all that is put on that end is named after it. Names made here hold a mark that no name of a plan may hold,
so that no two of them can meet; nobody takes one apart again.
"""

from __future__ import annotations

import secrets
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Literal, NewType

__all__ = [
    "RESERVED",
    "Names",
    "Refers",
    "EndId",
    "JointId",
    "PartId",
    "PipeId",
    "between_elbows",
    "head_joint",
    "length_joint",
    "length_part",
    "new_id",
    "node_part",
    "owner",
    "spoken",
    "pipe_of",
    "riser_end",
    "renamed",
    "row_joint",
    "riser_piece",
    "saddle_joint",
    "stack_joint",
    "stack_part",
    "stub_end",
    "swing_part",
    "upright_piece",
]

EndId = NewType("EndId", str)
"""One end of a run, or the foot of a riser."""
PartId = NewType("PartId", str)
"""One fitting in place."""
JointId = NewType("JointId", str)
"""One mating."""
PipeId = NewType("PipeId", str)
"""One length of pipe between two fittings."""

_MARK = "~"
RESERVED = frozenset({"riser", "between", "hub", "swing", "saddle", "head", "length", "part", "piece", "stub"})
"""Words that no thing, run or end may be called."""


Sort = Literal["thing", "end", "scenario", "nozzle"]
"""What an id or name stands for: a point or run, an end of a run, a scenario or zone, a nozzle table."""


@dataclass(frozen=True, slots=True)
class Names:
    """Marks a field of the plan that says what its item is called."""

    sort: Sort


@dataclass(frozen=True, slots=True)
class Refers:
    """Marks a field of the plan that names something else in it, or in a list of such names.

    Every edit follows these marks.

    `holds` says how long the reference stands where the thing becomes another kind of thing: always, while it is an
    outlet, or while it is the kind it was, as the choice of a fitting is.
    """

    sort: Sort
    holds: Literal["always", "outlet", "kind"] = "always"


_LETTERS = "0123456789abcdefghjkmnpqrstvwxyz"
_LONG = 12
"""Letters of an id: 32^12 is 2^60, so that two of a million ids are alike with a chance of one in two million."""


def new_id(stem: str) -> str:
    """Make an id that nothing has ever had: a letter that tells people what it is of, then 60 random bits.

    It is made where a thing is made, with or without a signal, and never again: what a record says of it is said of it
    alone.
    """
    return stem[:4] + "".join(secrets.choice(_LETTERS) for _ in range(_LONG))


def spoken(name: str) -> str:
    """An id as people may be shown it: one of a job from before ids were made at random ("T2"), else nothing."""
    return name if len(name) <= _LONG else ""


def owner(name: str) -> str:
    """The id of a plan that a name made here belongs to; an id is its own owner."""
    return name.partition(_MARK)[0]


def renamed(name: str, ids: Mapping[str, str]) -> str:
    """A name of a plan, or one made here, after its owner was given another id."""
    own, mark, rest = name.partition(_MARK)
    return f"{ids.get(own, own)}{mark}{rest}"


def _name(*parts: str | int) -> str:
    return _MARK.join(map(str, parts))


def riser_end(point: str) -> EndId:
    """The foot of the upright pipe to what stands at a point."""
    return EndId(_name(point, "riser"))


def between_elbows(point: str) -> EndId:
    """What joins the two elbows at a point."""
    return EndId(_name(point, "between"))


def node_part(point: str, number: int = 1) -> PartId:
    """The fitting that stands at a point, or one of two elbows there."""
    return PartId(_name(point, "hub", number))


def stub_end(point: str) -> EndId:
    """Where what stands at a point is led to the branch of a tee there."""
    return EndId(_name(point, "stub"))


def swing_part(point: str) -> PartId:
    """The swing riser under a head."""
    return PartId(_name(point, "swing"))


def stack_part(end: str, number: int) -> PartId:
    """A fitting of the stack on a run's end, counted from the pipe inward."""
    return PartId(_name(end, "part", number))


def length_part(end: str, number: int, step: int) -> PartId:
    """A fitting that couples a length of pipe, counted from its end."""
    return PartId(_name(end, "length", number, "part", step))


def stack_joint(end: str, number: int) -> JointId:
    """A joint on a run's end, counted from the pipe inward."""
    return JointId(_name(end, number))


def head_joint(point: str) -> JointId:
    """The joint that puts what stands at a point on its riser."""
    return JointId(_name(point, "head"))


def row_joint(point: str, number: int) -> JointId:
    """One of the kinds of small joint along the drip row that ends at a point."""
    return JointId(_name(point, "head", number))


def saddle_joint(point: str) -> JointId:
    """The joint of a saddle with the pipe it clamps on."""
    return JointId(_name(point, "saddle"))


def length_joint(end: str, number: int, step: int = 1) -> JointId:
    """A joint along a length of pipe, counted from one of its ends; it has one such name from each."""
    return JointId(_name(end, "length", number, step))


def pipe_of(end: str) -> PipeId:
    """The length of pipe that begins at a run's end."""
    return PipeId(_name(end, "piece"))


def upright_piece(point: str) -> PipeId:
    """The pipe a standpipe stands up as in its box."""
    return PipeId(_name(point, "upright", "piece"))


def riser_piece(point: str) -> PipeId:
    """The upright pipe to what stands at a point."""
    return PipeId(_name(point, "riser", "piece"))
