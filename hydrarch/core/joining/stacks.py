"""Ways from one open end to another: what a crew asks of them, their steps, and what ranks them.

Joints come first (a plastic female thread over a metal male counts as two more, since it splits), then how little sizes
stray on the way, then price, then length.
"""

from __future__ import annotations

import itertools
from dataclasses import dataclass
from functools import cached_property

from hydrarch.core.base.units import size_value
from hydrarch.core.catalogue.fittings import End, Fitting, mating_method
from hydrarch.core.catalogue.methods import methods_where
from hydrarch.core.catalogue.prices import ranking_price

__all__ = [
    "FOREIGN",
    "FREE",
    "PLASTIC",
    "SLIP",
    "SLIPS",
    "SPLITS",
    "UNIONS",
    "Limits",
    "Stack",
    "StackStep",
    "is_foreign",
    "is_soft",
    "ranked_price",
    "slips_off",
    "splits_over",
    "stopgap",
]

PLASTIC = ("pvc", "pvc80", "insert", "pp", "pe100", "drip")
"""Materials whose female threads split over a metal male."""

SLIPS = 1  # joints that one which is driven apart by pressure counts more
_NO_PRESSURE = frozenset({"gasket", "gasket-metric", "sewer", "dwv"})
# joints that a universal nut counts more: a coupling of two is taken after fittings made for the pipe, as many as one
# joint more
WIDE = 0.5  # and a fused joint in polyethylene: crews take the nut where both are made (common practice)
SPLITS = 2  # joints a crew would rather make than thread a plastic female over a metal male
FOREIGN = 3  # joints a crew would rather make than send for a fitting its shop does not sell
_BEHIND_METAL = 10.0  # more than a nipple of brass costs beside one of plastic


@dataclass(frozen=True, slots=True)
class Limits:
    """What a way may use: `barred` methods are out; with `at_hand` only those fittings (by id) are in.

    `service` asks for a way that comes apart again: a joint that can be undone, or a union. `drink` asks for fittings
    that may carry drinking water. `foreign` are the systems the shop does not sell: a fitting with such an end is taken
    last. `fixed` asks for a way that can be closed between two ends that neither turn nor move: by a nut, a sleeve, or
    a coupling without a stop. `weak` fittings (by id) are out: they carry less than they would see.
    """

    barred: frozenset[str] = frozenset()
    at_hand: frozenset[str] | None = None
    service: bool = False
    drink: bool = False
    foreign: frozenset[str] = frozenset()
    fixed: bool = False
    weak: frozenset[str] = frozenset()

    def serve(self, how: str, family: str = "") -> bool:
        """Whether a joint made by method `how`, or a fitting of that family, gives what is asked of the whole way."""
        apart = how in methods_where("undo", True) or family in UNIONS
        closes = how in methods_where("closes", True) or family in (*UNIONS, SLIP)
        return (apart or not self.service) and (closes or not self.fixed)


UNIONS = ("union", "union valve")
"""Families with a nut that is drawn up between two ends."""
SLIP = "slip coupling"
"""Couplings without a stop: slid onto one pipe and back over the gap."""


FREE = Limits()
"""No limits."""


@dataclass(frozen=True, slots=True)
class StackStep:
    """One fitting of a stack, entered by port `into` and left by port `out`."""

    fitting: Fitting
    into: int
    out: int

    @property
    def length(self) -> float:
        """What it adds to the line between stops (m)."""
        return self.fitting.ports[self.into].stop + self.fitting.ports[self.out].stop


@dataclass(frozen=True)  # no slots: what ranks it is worked out once
class Stack:
    """A chain of fittings from one end to another; no steps means that the ends mate as they are.

    `metal` names those of the two outer ends that are known to be metal, `foreign` the systems the shop does not sell.
    An `open` one is no way at all: the port is left for what is screwed into it from beyond.
    """

    start: End
    stop: End
    steps: tuple[StackStep, ...]
    metal: frozenset[str] = frozenset()
    foreign: frozenset[str] = frozenset()
    open: bool = False

    @property
    def joints(self) -> int:
        """How many joints it takes."""
        return 0 if self.open else len(self.steps) + 1

    @property
    def length(self) -> float:
        """Laid length between the two outer stops (m)."""
        return sum(s.length for s in self.steps)

    @property
    def price(self) -> float:
        """What its fittings cost at starting prices."""
        return sum(ranking_price(s.fitting.id) for s in self.steps)

    def ids(self) -> tuple[str, ...]:
        """Its fittings by id, from start to stop."""
        return tuple(s.fitting.id for s in self.steps)

    def ends(self) -> tuple[tuple[End, End], ...]:
        """The pair of ends of every joint, from start to stop."""
        if self.open:
            return ()
        open_end, pairs = self.start, []
        for s in self.steps:
            pairs.append((open_end, s.fitting.ports[s.into].end))
            open_end = s.fitting.ports[s.out].end
        return (*pairs, (open_end, self.stop))

    def cost(self) -> tuple[float, float, float, float]:
        """What ranks it: joints with their penalties, detours in size, price, then length (m)."""
        return self._ranked

    @cached_property
    def _ranked(self) -> tuple[float, float, float, float]:
        more = sum(stopgap(a, b) for a, b in self.ends())
        joints = self.joints + SPLITS * self.splits() + FOREIGN * self.sent_for() + more
        return joints, self.detour(), sum(ranked_price(s.fitting) for s in self.steps), self.length

    def detour(self) -> float:
        """How far sizes stray on the way beyond what the two ends ask: 0 where they change one way only."""
        sizes = [size_value(e.size) for pair in self.ends() for e in pair]
        if not sizes:
            return 0.0
        walked = sum(abs(b - a) for a, b in itertools.pairwise(sizes))
        return walked - abs(sizes[-1] - sizes[0])

    def splits(self) -> int:
        """How many plastic female threads go over metal males inside the stack."""
        if self.open:
            return 0
        outer = ["steel" if e.name in self.metal else None for e in (self.start, self.stop)]
        materials = [outer[0], *(s.fitting.material for s in self.steps), outer[1]]
        return sum(
            a is not None and b is not None and _splits(one, a, two, b)
            for (one, two), (a, b) in zip(self.ends(), itertools.pairwise(materials), strict=True)
        )

    def sent_for(self) -> int:
        """How many of its fittings the shop does not sell, or are pieces of soft tubing."""
        return sum(is_foreign(s.fitting, self.foreign) + is_soft(s.fitting) for s in self.steps)

    def turned(self) -> Stack:
        """The same way, walked from the other end."""
        back = tuple(StackStep(s.fitting, s.out, s.into) for s in reversed(self.steps))
        return Stack(self.stop, self.start, back, self.metal, self.foreign)


def ranked_price(part: Fitting) -> float:
    """What a fitting counts for in ranking: a plastic nipple stands behind one of metal, except where that would split
    what it enters.
    """
    return ranking_price(part.id) + (_BEHIND_METAL if part.family == "nipple" and part.material in PLASTIC else 0.0)


def slips_off(a: End, b: End) -> bool:
    """Whether two ends join in a way that water under pressure drives apart: it counts as one joint more, so what grips
    comes first.
    """
    return mating_method(a, b) in methods_where("grips", False) and not {a.system, b.system} & _NO_PRESSURE


def stopgap(a: End, b: End) -> float:
    """How many joints more a mating counts for than it is: one that pressure drives apart, a wide-range nut where no
    pipe is odd, or a fused one where the same pipe also takes a nut.
    """
    wide = mating_method(a, b) == "universal compression" or "pe-fusion" in (a.system, b.system)
    return SLIPS * slips_off(a, b) + WIDE * wide


def is_soft(part: Fitting) -> bool:
    """Whether a fitting is a piece of drip or vinyl tubing, which is no pipe to join two other things by."""
    return part.family == "stub" and part.ports[0].end.system.startswith(("drip-", "vinyl"))


def is_foreign(part: Fitting, foreign: frozenset[str]) -> bool:
    """Whether a fitting has an end of a system that is not sold; a piece of the crew's own pipe never has."""
    return bool(foreign) and part.material != "pipe" and any(p.end.system in foreign for p in part.ports)


def _splits(a: End, a_material: str, b: End, b_material: str) -> bool:
    """Whether a plastic female thread goes over a metal male here."""
    female, male = (a_material, b_material) if a.gender == "female" else (b_material, a_material)
    return {a.gender, b.gender} == {"female", "male"} and female in PLASTIC and male not in PLASTIC


def splits_over(stack: Stack, port: End, material: str) -> bool:
    """Whether the last joint of a stack puts a plastic female `port` of a body over a metal male."""
    if stack.steps:
        last = stack.steps[-1]
        return _splits(last.fitting.ports[last.out].end, last.fitting.material, port, material)
    return stack.start.name in stack.metal and _splits(stack.start, "steel", port, material)
