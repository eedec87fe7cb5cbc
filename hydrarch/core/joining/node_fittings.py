"""What may stand at a point: one fitting, two elbows, a saddle on an uncut pipe, or the pipe's own bend.

Every honest choice is listed, the best first, so that a crew can overrule it. Fewest joints wins among those whose turn
fits; of two elbows the second is rolled round the first where no pair adds up to the turn.
"""

from __future__ import annotations

from dataclasses import dataclass
from itertools import permutations, product
from math import acos, cos, degrees, pi, radians, sin, sqrt
from typing import Literal

from hydrarch.core.base.cache import remembered
from hydrarch.core.base.units import nominal_diameter, size_value
from hydrarch.core.catalogue.fittings import Fitting, end, fittings
from hydrarch.core.catalogue.prices import ranking_price
from hydrarch.core.joining.stacks import FOREIGN, SPLITS, Limits, Stack, is_foreign, splits_over
from hydrarch.core.joining.way_search import find_stacks

__all__ = [
    "FREE_PORT",
    "GIVEN_PORT",
    "How",
    "MISFIT",
    "NodeFitting",
    "link_offsets",
    "saddles",
    "single_fittings",
    "turn_words",
    "two_elbows",
]

MISFIT = radians(5)  # how far a turn may be from its elbow before someone must decide
_MOST = 6
_MOST_OPEN = 60  # where what comes from beyond has a say

Metal = frozenset[str]
NO_METAL: Metal = frozenset()
Foreign = frozenset[str]
ALL_SOLD: Foreign = frozenset()
Weak = frozenset[str]
ALL_STRONG: Weak = frozenset()
How = Literal["fitting", "two elbows", "saddle", "own bend"]
_ELBOWS = ("elbow", "sweep elbow", "street elbow")
_TURNING = frozenset({*_ELBOWS, "side-outlet elbow", "tee", "wye", "cross"})
"""What a line is made of: of the very sizes of the pipes. A valve or the like may be of a size alike in nominal
diameter."""


@dataclass(frozen=True, slots=True)
class NodeFitting:
    """One choice for a point. `order` says which leg each open port takes, `stacks` how it gets there, in that order.

    `link` joins two elbows; `roll` (rad) is how far the second is turned round the pipe from the first's plane;
    `misfit` (rad) how far the whole is from the turn drawn.
    """

    how: How
    parts: tuple[Fitting, ...]
    order: tuple[int, ...]
    stacks: tuple[Stack, ...]
    link: Stack | None = None
    roll: float = 0.0
    misfit: float = 0.0
    foreign: Foreign = ALL_SOLD

    @property
    def joints(self) -> int:
        """All the joints it takes."""
        saddle = 1 if self.how == "saddle" else 0
        return sum(s.joints for s in self.stacks) + (self.link.joints if self.link else 0) + saddle

    @property
    def price(self) -> float:
        """What its fittings cost at starting prices."""
        stacks = sum(s.price for s in self.stacks) + (self.link.price if self.link else 0.0)
        return stacks + sum(ranking_price(p.id) for p in self.parts)

    def cost(self) -> tuple[float, ...]:
        """What ranks it: a turn that does not fit, joints with their penalties, detours, price, length."""
        whole = [s.cost() for s in (*self.stacks, *((self.link,) if self.link else ()))]
        joints, detours, _, lengths = (sum(c) for c in zip(*whole, strict=True)) if whole else (0, 0.0, 0.0, 0.0)
        return (
            round(self.misfit / MISFIT),
            joints
            + (1 if self.how == "saddle" else 0)
            + SPLITS * self.splits()
            + FOREIGN * sum(is_foreign(p, self.foreign) for p in self.parts),
            round(detours, 6),
            round(self.price, 2),
            lengths,
        )

    def splits(self) -> int:
        """How many of its plastic female openings go over a metal male."""
        if self.how != "fitting":
            return 0
        part = self.parts[0]
        return sum(splits_over(s, part.ports[port].end, part.material) for port, s in enumerate(self.stacks))

    def ids(self) -> tuple[str, ...]:
        """Its own fittings by id."""
        return tuple(p.id for p in self.parts)


FREE_PORT = "*"
"""What a leg asks for whose port is left to what comes from beyond: then the size it will be about."""
GIVEN_PORT = "="
"""The same where that end is known: then its name."""


def _stacks(legs: tuple[str, ...], ports: tuple[str, ...], metal: Metal, limits: Limits) -> tuple[Stack, ...] | None:
    found = tuple(s for a, b in zip(legs, ports, strict=True) for s in _to_port(a, b, metal, limits))
    return found if len(found) == len(ports) else None


@remembered()
def _to_port(leg: str, port: str, metal: Metal, limits: Limits) -> tuple[Stack, ...]:
    """The best way from a leg to a port; an open one where that port is for what comes from beyond."""
    if leg.startswith(FREE_PORT) or leg == GIVEN_PORT + port:
        return (Stack(end(port), end(port), (), open=True),)
    if leg.startswith(GIVEN_PORT):
        return ()
    return find_stacks(leg, port, 1, limits, metal & {leg})


def _size(leg: str) -> str:
    """The size a leg asks for."""
    if leg.startswith(FREE_PORT):
        return leg[len(FREE_PORT) :]
    return end(leg.removeprefix(GIVEN_PORT)).size


@remembered()
def _sizes() -> frozenset[str]:
    """Every nominal size of an inch or metric family that some fitting has."""
    return frozenset(p.end.size for f in fittings().values() for p in f.ports if nominal_diameter(p.end.size))


@remembered()
def _limits(foreign: Foreign, weak: Weak) -> Limits:
    return Limits(foreign=foreign, weak=weak)


@remembered()
def single_fittings(
    families: tuple[str, ...],
    legs: tuple[str, ...],
    turn: float,
    metal: Metal = NO_METAL,
    foreign: Foreign = ALL_SOLD,
    weak: Weak = ALL_STRONG,
) -> tuple[NodeFitting, ...]:
    """The single fittings of `families` that join legs (ends by name) with a turn (rad) between the first two, best
    first.

    `metal` names the legs that are metal, `weak` the fittings (by id) that are out. A leg may also leave its port to
    what comes from beyond (`FREE_PORT`, `GIVEN_PORT`).
    """
    sizes = {_size(name) for name in legs}
    alike = (
        sizes
        if _TURNING & set(families)
        else {s for s in _sizes() if nominal_diameter(s) in {nominal_diameter(x) for x in sizes}} | sizes
    )
    most = _MOST if not any(x.startswith(FREE_PORT) for x in legs) else _MOST_OPEN
    limits = _limits(foreign, weak)
    found = _fitted(families, legs, turn, metal, limits, alike, most)
    if len(legs) == 3 and "tee" in families and found and found[0].joints > len(legs):
        wide, narrow = sorted(
            (max(map(nominal_diameter, map(_size, legs[:2]))), nominal_diameter(_size(legs[2]))), reverse=True
        )
        between = {s for s in _sizes() if narrow <= nominal_diameter(s) <= wide}
        found += [f for f in _fitted(families, legs, turn, metal, limits, alike | between, most) if f not in found]
    found.sort(key=lambda h: (*h.cost(), h.ids()))
    return tuple(found[:most])


def _fitted(
    families: tuple[str, ...],
    legs: tuple[str, ...],
    turn: float,
    metal: Metal,
    limits: Limits,
    sizes: set[str],
    most: int,
) -> list[NodeFitting]:
    """The `most` best fittings of those families and sizes, each in its best order, the best first.

    What one ranks by is at least its misfit and the joints of its stacks: beyond the worst that is kept, none is looked
    at.
    """
    tried = []
    orders, known = _orders(len(legs)), [dict[str, tuple[Stack, ...]]() for _ in legs]
    for part in _of_families(families):
        if len(part.ports) != len(legs) or part.id in limits.weak or not all(p.end.size in sizes for p in part.ports):
            continue
        misfit = abs(part.angle - turn) if len(legs) > 1 else 0.0
        for n, order in enumerate(orders):
            stacks: list[Stack] = []
            for i, port in zip(order, part.ports, strict=True):
                name = port.end.name
                if name not in known[i]:
                    known[i][name] = _to_port(legs[i], name, metal, limits)
                stacks += known[i][name]
            if len(stacks) == len(legs):
                tried.append(
                    ((round(misfit / MISFIT), sum(s.cost()[0] for s in stacks)), part, n, order, tuple(stacks), misfit)
                )
    tried.sort(key=lambda t: t[0])
    best: dict[str, tuple[tuple[float, ...], int, NodeFitting]] = {}
    worst: tuple[float, ...] | None = None
    for at_least, part, n, order, ways, misfit in tried:
        if worst is not None and at_least > worst:
            break
        node = NodeFitting(
            how="fitting", parts=(part,), order=order, stacks=ways, misfit=misfit, foreign=limits.foreign
        )
        mine = node.cost(), n, node
        if part.id not in best or mine[:2] < best[part.id][:2]:
            best[part.id] = mine
            worst = sorted(b[0] for b in best.values())[most - 1][:2] if len(best) >= most else None
    return sorted((b[2] for b in best.values()), key=lambda h: (*h.cost(), h.ids()))[:most]


@remembered()
def _of_families(families: tuple[str, ...]) -> tuple[Fitting, ...]:
    return tuple(f for f in fittings().values() if f.family in families)


def _orders(count: int) -> tuple[tuple[int, ...], ...]:
    """Which leg goes to which port: the third leg of a tee or outlet elbow is always its branch."""
    if count == 4:
        return ((0, 1, 2, 3),)
    if count == 3:
        return ((0, 1, 2), (1, 0, 2))
    return tuple(permutations(range(count)))


@remembered()
def two_elbows(
    legs: tuple[str, str],
    turn: float,
    metal: Metal = NO_METAL,
    foreign: Foreign = ALL_SOLD,
    weak: Weak = ALL_STRONG,
) -> tuple[NodeFitting, ...]:
    """Pairs of elbows that make `turn` (rad), in one plane where they add up to it, else with the second rolled
    round.
    """
    sizes, limits = {end(name).size for name in legs}, _limits(foreign, weak)
    elbows = [
        p
        for p in fittings().values()
        if p.family in _ELBOWS and p.id not in weak and len(p.ports) == 2 and {x.end.size for x in p.ports} <= sizes
    ]
    found = []
    for one, two in product(elbows, elbows):
        total = one.angle + two.angle
        if total + MISFIT < turn or abs(one.angle - two.angle) - MISFIT > turn:
            continue
        misfit = max(0.0, turn - total, abs(one.angle - two.angle) - turn)
        roll = 0.0 if total - turn <= MISFIT else _roll(one.angle, two.angle, turn)
        misfit = abs(total - turn) if roll == 0.0 else misfit
        for (i, o), (j, q) in product(((0, 1), (1, 0)), repeat=2):
            stacks = _stacks(legs, (one.ports[i].end.name, two.ports[q].end.name), metal, limits)
            link = find_stacks(one.ports[o].end.name, two.ports[j].end.name, 1, limits)
            if stacks is not None and link and link[0].joints <= 2:
                node = NodeFitting(
                    how="two elbows",
                    parts=(one, two),
                    order=(0, 1),
                    stacks=stacks,
                    link=link[0],
                    roll=roll,
                    misfit=misfit,
                    foreign=foreign,
                )
                found.append(node)
    best: dict[tuple[str, ...], NodeFitting] = {}
    for node in sorted(found, key=lambda h: (h.roll > 0, *h.cost(), h.ids())):
        best.setdefault(tuple(sorted(f"{degrees(p.angle):.0f} {p.family}" for p in node.parts)), node)
    return tuple(best.values())[:_MOST]


def _roll(one: float, two: float, turn: float) -> float:
    """How far (rad) the second of two elbows is rolled from the first's plane so that both together turn by `turn`.

    cos θ = cos a·cos b − sin a·sin b·cos φ, spherical trigonometry of the three directions.
    """
    c = (cos(one) * cos(two) - cos(turn)) / (sin(one) * sin(two))
    return acos(max(-1.0, min(1.0, c)))


def link_offsets(one: float, two: float, turn: float, link: float) -> tuple[float, float, float]:
    """Where two elbows a centre distance `link` (m) apart sit: how far each is before the corner, and the side shift
    (m).

    With directions u0, u1, u2 of the three pipes: link·u1 = t1·u0 + t2·u2 + side. Angles in rad.
    """
    s2 = sin(turn) ** 2
    if s2 < 1e-9:
        return link / 2, link / 2, 0.0
    t1 = link * (cos(one) - cos(two) * cos(turn)) / s2
    t2 = link * (cos(two) - cos(one) * cos(turn)) / s2
    flat = t1**2 + t2**2 + 2 * t1 * t2 * cos(turn)
    return t1, t2, sqrt(max(0.0, link**2 - flat))


@remembered()
def saddles(
    outside: float,
    branch: str,
    metal: Metal = NO_METAL,
    foreign: Foreign = ALL_SOLD,
    weak: Weak = ALL_STRONG,
) -> tuple[NodeFitting, ...]:
    """Saddles that clamp on a pipe of that outside diameter (m) and take `branch` (an end by name)."""
    found = []
    for part in fittings().values():
        if part.family == "saddle" and part.id not in weak and abs(part.ports[0].end.diameter - outside) < 0.5e-3:
            stacks = _stacks((branch,), (part.ports[1].end.name,), metal, _limits(foreign, weak))
            if stacks is not None:
                found.append(NodeFitting(how="saddle", parts=(part,), order=(2,), stacks=stacks, foreign=foreign))
    wanted = size_value(_size(branch))
    found.sort(key=lambda h: (abs(size_value(h.parts[0].ports[1].end.size) - wanted), *h.cost(), h.ids()))
    return tuple(found[: 2 if not branch.startswith(FREE_PORT) else _MOST_OPEN])


def turn_words(node: NodeFitting) -> str:
    """How two elbows are set: in one plane, or the second rolled by so many degrees."""
    if node.how != "two elbows":
        return ""
    angles = " and ".join(f"{degrees(p.angle):.4g}°" for p in node.parts)
    if node.roll == 0.0:
        return f"{angles} in one plane"
    return f"{angles}, the second rolled {degrees(min(node.roll, 2 * pi - node.roll)):.0f}° round the pipe"
