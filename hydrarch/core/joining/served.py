"""Ways that must give more than a sound joint: a stop valve, a union, or a last joint between two ends that are
held.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace

from hydrarch.core.base.cache import remembered
from hydrarch.core.base.units import nominal_diameter
from hydrarch.core.catalogue.fittings import end, fittings
from hydrarch.core.joining.stacks import FREE, Limits, Stack, StackStep
from hydrarch.core.joining.way_search import find_stacks

__all__ = ["MOST_WAYS", "NOTHING_MORE", "Needs", "served_stack", "served_stacks"]

MOST_WAYS = 12  # how many ways a crew may choose among
_REACH = 3  # joints from a pipe's end to a valve or union beside a device, at the most
Metal = frozenset[str]
NO_METAL: Metal = frozenset()


@dataclass(frozen=True, slots=True)
class Needs:
    """What a way must hold: a stop `valve`, or one with a `waste` port, a `union`; or that it closes between two ends
    that are `fixed`.
    """

    valve: bool = False
    union: bool = False
    fixed: bool = False
    waste: bool = False

    def rows(self) -> Iterator[tuple[str, ...]]:
        """The families of fittings to pass, in order; a true-union valve is both valve and union."""
        if self.waste and (self.union or self.fixed):
            yield from (("valve with waste", "union"), ("union", "valve with waste"))
        elif self.waste:
            yield ("valve with waste",)
        elif self.valve and (self.union or self.fixed):
            yield from (("union valve",), ("valve", "union"), ("union", "valve"))
        elif self.valve:
            yield from (("valve",), ("union valve",))
        elif self.union:
            yield ("union",)


NOTHING_MORE = Needs()


def served_stack(start: str, stop: str, needs: Needs, limits: Limits = FREE, metal: Metal = NO_METAL) -> Stack | None:
    """The best way that holds what it needs; None where there is none."""
    return next(iter(served_stacks(start, stop, needs, limits, metal, 1)), None)


@remembered()
def served_stacks(
    start: str, stop: str, needs: Needs, limits: Limits = FREE, metal: Metal = NO_METAL, most: int = MOST_WAYS
) -> tuple[Stack, ...]:
    """The `most` best ways between two ends by name that hold what they need, best first; empty where none does."""
    rows = tuple(needs.rows())
    if not rows:
        return find_stacks(start, stop, most, replace(limits, fixed=limits.fixed or needs.fixed), metal)
    found = [s for row in rows if (s := _through(start, stop, row, limits, metal)) is not None]
    return tuple(sorted(found, key=lambda s: s.cost())[:most])


@remembered()
def _through(start: str, stop: str, families: tuple[str, ...], limits: Limits, metal: Metal) -> Stack | None:
    """The cheapest way that passes one fitting of each family, in that order."""
    plain = replace(limits, service=False, fixed=False)  # what is passed gives that
    if not families:
        return next(iter(find_stacks(start, stop, 1, plain, metal & {start, stop})), None)
    sizes = {nominal_diameter(end(start).size), nominal_diameter(end(stop).size)}
    best: Stack | None = None
    for part in fittings().values():
        if (
            part.family != families[0]
            or len(part.ports) != 2
            or not {nominal_diameter(p.end.size) for p in part.ports} & sizes
        ):
            continue
        if part.id in limits.weak or (limits.at_hand is not None and part.id not in limits.at_hand):
            continue
        for into, out in ((0, 1), (1, 0)):
            lead = next(iter(find_stacks(start, part.ports[into].end.name, 1, plain, metal & {start})), None)
            if lead is None or lead.joints > _REACH:
                continue
            rest = _through(part.ports[out].end.name, stop, families[1:], limits, metal)
            if rest is None:
                continue
            steps = (*lead.steps, StackStep(part, into, out), *rest.steps)
            whole = Stack(end(start), end(stop), steps, metal & {start, stop}, limits.foreign)
            if best is None or whole.cost() < best.cost():
                best = whole
    return best
