"""How to make a joint of a way at the bench: the same steps as in a job, with no job."""

from __future__ import annotations

from hydrarch.core.base.errors import OutOfRange
from hydrarch.core.base.identity import JointId, PartId
from hydrarch.core.base.units import System
from hydrarch.core.catalogue.fittings import end, joint_depth
from hydrarch.core.catalogue.markets import Market
from hydrarch.core.joining.assembled import Joint, Side
from hydrarch.core.joining.pipe_or_end import PipeOrEnd
from hydrarch.core.joining.ways import PartView, Way
from hydrarch.core.making.steps import Procedure, procedure
from hydrarch.core.plan.document import Conditions, Plan

__all__ = ["steps_at_bench"]


def steps_at_bench(
    way: Way,
    things: tuple[PipeOrEnd, ...],
    number: int,
    pressure: float = 0.0,
    units: System = "metric",
    market: Market = "both",
) -> Procedure:
    """The steps of joint `number` (0 for the first) of a way between two things, for a test at a pressure (Pa), by the
    crew standards that is usual and in the weather a new job begins with.

    Raises `OutOfRange` for a joint that the way has not.
    """
    if not 0 <= number < len(way.joints):
        raise OutOfRange("the number of the joint", number, 0, len(way.joints) - 1)
    one, two = way.parts[number], way.parts[number + 1]
    first = _side(one, number, one.right.name if one.right else "", things[0] if number == 0 else None)
    last = _side(two, number + 1, two.left.name if two.left else "", things[-1] if two is way.parts[-1] else None)
    if _goes_in(last) > _goes_in(first):
        first, last = last, first
    a, b = end(first.end), end(last.end)
    joint = Joint(
        id=JointId(f"bench~{number + 1}"),
        also=None,
        role="stack",
        point=None,
        end=None,
        run=None,
        number=number + 1,
        method=way.joints[number].method,
        size=a.size,
        a=first,
        b=last,
        depth=joint_depth(a, b),
        place="the bench",
        towards="",
    )
    return procedure(Plan(name="bench", units=units, conditions=Conditions(market=market)), joint, pressure)


def _side(part: PartView, number: int, name: str, thing: PipeOrEnd | None) -> Side:
    pipe = f"{thing.series} {thing.size}" if thing is not None and thing.series is not None else None
    mine = None if part.fitting is None else PartId(f"bench~part~{number}")
    return Side(part.name, name, mine, part.fitting, pipe if part.fitting is None else None)


def _goes_in(side: Side) -> tuple[bool, bool]:
    """What makes a side the one that goes into the other: being pipe, or an inner end."""
    return side.pipe is not None, end(side.end).enters
