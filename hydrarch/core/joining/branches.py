"""The bench's question "take a branch off this line": tees that fit, and saddles on the uncut pipe."""

from __future__ import annotations

from dataclasses import dataclass, replace

from hydrarch.core.base.units import size_value
from hydrarch.core.catalogue.fittings import End, fittings
from hydrarch.core.catalogue.pipes import Series, pipe
from hydrarch.core.catalogue.prices import ranking_price
from hydrarch.core.catalogue.ratings import fitting_rating
from hydrarch.core.joining.constraints import Constraints
from hydrarch.core.joining.pipe_or_end import PipeOrEnd
from hydrarch.core.joining.served import Needs, served_stacks
from hydrarch.core.joining.stacks import Limits, Stack, is_foreign
from hydrarch.core.joining.way_search import find_stacks

__all__ = ["BranchWay", "branch"]


@dataclass(frozen=True, slots=True)
class BranchWay:
    """A way to branch off a line: its parts in words, how many joints, the price, and whether the line is cut."""

    says: str
    joints: int
    price: float
    cuts_line: bool
    why: str


def branch(
    line: PipeOrEnd, off: PipeOrEnd, constraints: Constraints | None = None, most: int = 6
) -> tuple[BranchWay, ...]:
    """Ways to take `off` from the middle of a pipe `line`, fewest joints first: tees that fit, and saddles; a drain
    is branched by a wye that runs with the flow before a tee that is square.

    `constraints` hold for every joint and part; a valve or a union is wanted in the branch, and a line that is `fixed`
    takes a tee only by slip couplings beside it, so that such ways come last.

    Raises `HydrarchError` where `line` is no pipe, `Unknown` for what is not in the catalogue.
    """
    asked = constraints or Constraints()
    limits, needs = asked.limits(), replace(asked.needs, fixed=False)
    through = replace(limits, service=False)
    family, size = line.pipe()
    outside = pipe(family.id, size).outside
    wanted = min(size_value(e.size) for e in off.ends())
    found: list[tuple[bool, int, float, str, bool, bool]] = []
    for part in fittings().values():
        wye = part.family == "wye" and family.kind == "drain"
        if (wye or part.family == "tee") and len(part.ports) == 3:
            sides = [_shortest(line, p.end, through) for p in part.ports[:2]]
            if any(s is None or s.joints > 1 for s in sides):
                continue
            joints, price = 2, 0.0
        elif (part.family == "saddle" and abs(part.ports[0].end.diameter - outside) < 0.5e-3 and _clamps(family)) or (
            part.family == "adapter" and family.kind == "drip" and part.ports[0].end.system == "punch"
        ):
            joints, price = 1, 0.0
        else:
            continue
        if asked.pressure is not None and fitting_rating(part.id, asked.temperature) < asked.pressure:
            continue
        if asked.at_hand is not None and part.id not in asked.at_hand:
            continue
        stack = _served(off, part.ports[-1].end, needs, limits, asked)
        if stack is not None:
            names = " + ".join([part.name, *(s.fitting.name for s in reversed(stack.steps))])
            price += ranking_price(part.id) + stack.price
            narrow = size_value(part.ports[-1].end.size) < wanted - 1e-9
            cut = wye or part.family == "tee"
            last = narrow or (part.family == "saddle" and family.material == "steel")
            last = last or (asked.fixed and cut) or (cut and not wye and family.kind == "drain")
            last = last or any(is_foreign(f, limits.foreign) for f in (part, *(s.fitting for s in stack.steps)))
            found.append((last, joints + stack.joints, price, names, cut, narrow))
    found.sort()
    best = found[0] if found else None
    return tuple(
        BranchWay(names, joints, price, cut, _branch_why(joints, best[1], cut, narrow, asked.fixed))
        for _, joints, price, names, cut, narrow in found[:most]
        if best is not None
    )


def _clamps(family: Series) -> bool:
    """Whether a bolted saddle holds on a pipe: on PPR, which gives way in the heat, it does not."""
    return family.kind == "pressure" and family.material != "ppr"


def _branch_why(joints: int, best: int, cut: bool, narrow: bool, fixed: bool) -> str:
    more = joints - best
    words = (
        "fewest joints" if more == 0 else f"{more} joint{'s' if more > 1 else ''} more" if more > 0 else "fewer joints"
    )
    if narrow:
        words += "; its outlet is narrower than the branch, which then gets less"
    if cut and fixed:
        return f"{words}; the line cannot move, so that a tee also takes a piece and two slip or gripping couplings"
    return words if cut else f"{words}; the line is drilled or punched, not cut"


def _shortest(thing: PipeOrEnd, to: End, limits: Limits) -> Stack | None:
    found = [s for a in thing.ends() for s in find_stacks(a.name, to.name, 1, limits)]
    return min(found, key=lambda s: s.cost(), default=None)


def _served(thing: PipeOrEnd, to: End, needs: Needs, limits: Limits, asked: Constraints) -> Stack | None:
    """The best way from a thing to a branch's outlet that gives what is needed and stands the pressure asked for."""
    found = [s for a in thing.ends() for s in served_stacks(a.name, to.name, needs, limits, most=4)]
    if asked.pressure is not None:
        least = asked.pressure
        found = [s for s in found if all(fitting_rating(n, asked.temperature) >= least for n in s.ids())]
    return min(found, key=lambda s: s.cost(), default=None)
