"""The bench's question "join this to that": ranked ways to join, the tempting wrong ways, and what to do where
none is.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, replace

from hydrarch.core.base.errors import HydrarchError
from hydrarch.core.base.units import System, show, size_value
from hydrarch.core.catalogue.fittings import End, Fitting, ends, fittings, mating_method
from hydrarch.core.catalogue.guidance import Caution, cautioned_at, cautions_for
from hydrarch.core.catalogue.methods import method
from hydrarch.core.catalogue.pipes import joined_rating, pipe, pressure_rating
from hydrarch.core.catalogue.prices import fitting_price, ranking_price
from hydrarch.core.catalogue.ratings import fitting_rating
from hydrarch.core.joining.belongings import belongings
from hydrarch.core.joining.branches import BranchWay
from hydrarch.core.joining.closing import closing_words
from hydrarch.core.joining.conditions_in_words import NOTHING_HEARD, Understood
from hydrarch.core.joining.constraints import Constraints
from hydrarch.core.joining.pipe_or_end import PipeOrEnd
from hydrarch.core.joining.question import Kind
from hydrarch.core.joining.served import served_stacks
from hydrarch.core.joining.stacks import Stack, slips_off
from hydrarch.core.joining.views import EndView, view
from hydrarch.core.joining.way_search import find_stacks
from hydrarch.core.joining.wrong import WrongWay, splitting, tempting

__all__ = ["JointView", "PartView", "Way", "Ways", "close_off", "join"]

_DRAINS = (
    "dwv",
    "sewer",
    "gasket",
    "gasket-metric",
    "band-dwv",
    "band-sewer",
    "band-fibre",
    "band-drain-metric",
    "corrugated",
    "fibre",
    "copper-dwv",
    "cast-iron",
)
_MOST_JOINTS = 7  # more than that is no way that anyone would build
_LOOKED = 12  # ways looked at for each pair of ends before limits of pressure leave some out


@dataclass(frozen=True, slots=True)
class PartView:
    """A part of a way: its two ends in the order of the way, the length between its stops (m), price and rating
    (Pa).
    """

    fitting: str | None
    name: str
    material: str
    left: EndView | None
    right: EndView | None
    length: float
    price: float
    rating: float | None


@dataclass(frozen=True, slots=True)
class JointView:
    """One joint of a way: its method, what goes into what, and the tools it takes."""

    method: str
    says: str
    tools: str
    can_undo: bool


@dataclass(frozen=True, slots=True)
class Way:
    """A way to join: parts from one thing to the other, its joints, and why it ranks where it does.

    `length` (m) is laid, `price` at starting prices, `rating` (Pa) that of its weakest part, named in `weakest`.
    `closes` is how it goes in where both ends are held, "" where they are not. `belongs` are the small parts its joints
    want beside the fittings: clamps, liners, washers, gaskets.
    """

    parts: tuple[PartView, ...]
    joints: tuple[JointView, ...]
    length: float
    price: float
    rating: float | None
    weakest: str
    can_undo: bool
    why: str
    cautions: tuple[Caution, ...]
    closes: str = ""
    belongs: tuple[str, ...] = ()

    @property
    def fittings(self) -> tuple[str, ...]:
        """Its fittings by id."""
        return tuple(p.fitting for p in self.parts if p.fitting is not None)


@dataclass(frozen=True, slots=True)
class Ways:
    """All the bench says to one question about `things`; `advice` goes with every way, `heard` is what was read from
    its words beside them. A question of `kind` "branch" is answered by `branches`, the others by `ways`.

    With no way, `nearest` names ends that join.
    """

    start: str
    stop: str
    ways: tuple[Way, ...]
    wrong: tuple[WrongWay, ...]
    says: str
    nearest: tuple[str, ...]
    weakest: float | None
    things: tuple[PipeOrEnd, ...]
    advice: str = ""
    heard: Understood = NOTHING_HEARD
    kind: Kind = "join"
    branches: tuple[BranchWay, ...] = ()


def join(
    start: PipeOrEnd,
    stop: PipeOrEnd,
    constraints: Constraints | None = None,
    most: int = 5,
    own: Mapping[str, float] | None = None,
) -> Ways:
    """The best ways from one thing to another, the tempting wrong ones, and what to do where there is none.

    `own` are the crew's prices by fitting id; ranking goes by starting prices all the same, so that it does not wander.
    Raises `Unknown` for a pipe or end that is not in the catalogue, `HydrarchError` for constraints no pipe meets.
    """
    asked = constraints or Constraints()
    weakest = _weakest(start, stop, asked)
    limits = asked.limits()
    metal = _metal_ends(start, stop)
    mine, theirs = _offered(start, stop), _offered(stop, start)
    found = [
        s for a in mine for b in theirs for s in served_stacks(a.name, b.name, asked.needs, limits, metal, _LOOKED)
    ]
    found = [s for s in found if s.joints <= _MOST_JOINTS]
    strong = [s for s in found if asked.pressure is None or _carries(s, start, stop, asked)]
    strong.sort(key=lambda s: (*s.cost(), s.ids()))
    each = dict[tuple[object, ...], Stack]()
    for s in strong:  # one pipe offers several ends: the same fittings by the same methods are one way, seen by any
        each.setdefault((s.ids(), *(mating_method(a, b) for a, b in s.ends())), s)
    strong = list(each.values())
    if start == stop:  # seen from the other side, it is the same way
        once = dict[tuple[str, ...], Stack]()
        for s in strong:
            once.setdefault(min(_seen_from(s), _seen_from(s, back=True)), s)
        strong = list(once.values())
    ways = tuple(
        _way(s, n, strong, start, stop, _outer(stop, s.stop, asked.temperature, first=False), asked, own)
        for n, s in enumerate(strong[:most])
    )
    a, b = start.ends()[0], stop.ends()[0]
    split = splitting(a, start.material, b, stop.material)
    wrong = (*tempting(a, b, asked.units), *((split,) if split else ()))
    says, nearest = ("", ()) if ways else _no_way(start, stop, asked, found)
    return Ways(
        start=start.words(),
        stop=stop.words(),
        ways=ways,
        wrong=wrong,
        says=says,
        nearest=nearest,
        weakest=weakest,
        things=(start, stop),
    )


def _seen_from(stack: Stack, *, back: bool = False) -> tuple[str, ...]:
    """A way from end to end as one comes to it: its outer ends and its fittings."""
    seen = (stack.start.name, *stack.ids(), stack.stop.name)
    return seen[::-1] if back else seen


def _metal_ends(*things: PipeOrEnd) -> frozenset[str]:
    """The ends of those things that are of metal."""
    return frozenset(e.name for t in things if t.material in ("steel", "copper") for e in t.ends())


def _offered(thing: PipeOrEnd, other: PipeOrEnd) -> tuple[End, ...]:
    """The ends a thing offers to another: schedule 40 goes into a building drain's sockets, too, but not under
    pressure.
    """
    pressed = other.series is not None and other.pipe()[0].kind in ("pressure", "drip")
    drain = not pressed and any(e.system in _DRAINS for e in other.ends())
    mine = tuple(e for e in thing.ends() if e.system not in _DRAINS)
    return thing.ends() if drain or not mine else mine


def _weakest(start: PipeOrEnd, stop: PipeOrEnd, asked: Constraints) -> float | None:
    """The lesser rating (Pa) of the two pipes; refuses limits that the pipes themselves break."""
    pipes = [t.pipe() for t in (start, stop) if t.series is not None]
    for family, size in pipes:
        if (
            asked.potable and not family.potable and family.kind != "met"
        ):  # what lies there is joined; that it should go is told
            raise HydrarchError(
                f"{family.name} {size} is not for drinking water: choose another pipe, or lift that limit"
            )
        if asked.buried and "buried" not in family.situations and family.kind != "met":
            raise HydrarchError(f"{family.name} {size} is not for burying: choose another pipe, or lift that limit")
    rated = [
        pressure_rating(pipe(family.id, size), asked.temperature) for family, size in pipes if family.kind != "met"
    ]
    weakest = min(rated, default=None)
    if weakest is not None and asked.pressure is not None and weakest < asked.pressure:
        have, want = (show(p, "pressure", asked.units) for p in (weakest, asked.pressure))
        raise HydrarchError(
            f"the weaker pipe carries {have} at this temperature, less than the {want} asked: choose a heavier one"
        )
    return weakest


def _rating(stack: Stack, temperature: float) -> float:
    return min((fitting_rating(name, temperature) for name in stack.ids()), default=float("inf"))


def _carries(stack: Stack, start: PipeOrEnd, stop: PipeOrEnd, asked: Constraints) -> bool:
    """Whether a way carries the pressure asked for: its fittings, and both pipes with what is cut on their ends."""
    warm, outer = asked.temperature, [(start, stack.start), (stop, stack.stop)]
    pipes = [(thing.pipe(), e) for thing, e in outer if thing.series is not None]
    rated = [joined_rating(pipe(family.id, size), warm, e.name) for (family, size), e in pipes if family.kind != "met"]
    return min([*rated, _rating(stack, warm)]) >= (asked.pressure or 0.0)


def _way(
    stack: Stack,
    rank: int,
    found: list[Stack],
    start: PipeOrEnd,
    stop: PipeOrEnd | None,
    last: PartView,
    asked: Constraints,
    own: Mapping[str, float] | None,
) -> Way:
    temperature = asked.temperature
    parts = [_outer(start, stack.start, temperature, first=True)]
    for s in stack.steps:
        into, out, part = s.fitting.ports[s.into].end, s.fitting.ports[s.out].end, s.fitting
        price = fitting_price(part.id, own)
        rating = fitting_rating(part.id, temperature)
        parts.append(
            PartView(
                fitting=part.id,
                name=part.name,
                material=part.material,
                left=view(into),
                right=view(out),
                length=s.length,
                price=price,
                rating=rating,
            )
        )
    parts.append(last)
    pipes = [t.pipe()[0].kind for t in (start, stop) if t is not None and t.series is not None]
    joints = []
    for n, (a, b) in enumerate(stack.ends()):
        how = method(mating_method(a, b) or "")
        joints.append(JointView(how.name, f"{parts[n].name} into {parts[n + 1].name}", how.tools, how.undo))
    weak = min((p for p in parts if p.rating is not None), key=lambda p: p.rating or 0.0, default=None)
    undone = any(j.can_undo for j in joints) or any(s.fitting.family == "union" for s in stack.steps)
    return Way(
        parts=tuple(parts),
        joints=tuple(joints),
        length=stack.length,
        price=sum(p.price for p in parts),
        rating=weak.rating if weak else None,
        weakest=weak.name if weak else "",
        can_undo=undone,
        why=_why(stack, rank, found, asked.units),
        cautions=cautions_for(
            *(place for j in joints for place in cautioned_at(j.method, pipes)), start.material, last.material
        ),
        closes=closing_words(stack, asked.units) if asked.fixed else "",
        belongs=belongings(stack, start, stop),
    )


def _outer(thing: PipeOrEnd, mine: End, temperature: float, first: bool) -> PartView:
    rating = None
    if thing.series is not None:
        family, size = thing.pipe()
        item = pipe(family.id, size)
        pressure_rating(item, temperature)  # refused where the water is too warm for it
        rating = joined_rating(item, temperature, mine.name) if family.kind != "met" else None
    left, right = (None, view(mine)) if first else (view(mine), None)
    return PartView(
        fitting=None,
        name=thing.words(),
        material=thing.material,
        left=left,
        right=right,
        length=0.0,
        price=0.0,
        rating=rating,
    )


def _why(stack: Stack, rank: int, found: list[Stack], units: System) -> str:
    if rank == 0:
        alone = len(found) == 1 or stack.cost()[0] < found[1].cost()[0]
        return "fewest joints" if alone else "fewest joints, and the straightest and cheapest of those"
    if any(slips_off(a, b) for a, b in stack.ends()):
        return "water drives it apart unless it is blocked or held: what grips comes first"
    best, more = found[0], stack.joints - found[0].joints
    wide = [any(mating_method(a, b) == "universal compression" for a, b in s.ends()) for s in (stack, best)]
    if wide == [True, False]:
        return "a wide-range nut: for odd and old pipe, where nothing is made for it"
    if stack.splits():
        return "threads a plastic female over a metal male, which splits: last resort"
    if more > 0:
        return f"{more} joint{'s' if more > 1 else ''} more than the best"
    if stack.detour() > best.detour() + 1e-9:
        return "as few joints, but it strays through other sizes"
    if stack.price > best.price + 0.05:
        return (
            f"as few joints, {stack.price / best.price:.1f} times the price"
            if best.price > 0
            else "as few joints, dearer"
        )
    more_length = stack.length - best.length
    if more_length > 1e-3:
        return f"as few joints, {show(more_length, 'takeoff', units)} longer"
    return "as few joints, as dear and as short"


def _no_way(start: PipeOrEnd, stop: PipeOrEnd, asked: Constraints, found: list[Stack]) -> tuple[str, tuple[str, ...]]:
    if found and asked.pressure is not None:
        best = max(found, key=lambda s: _rating(s, asked.temperature))
        have, want = (show(p, "pressure", asked.units) for p in (_rating(best, asked.temperature), asked.pressure))
        return (
            f"The strongest way carries {have}, less than the {want} asked: "
            f"{', '.join(s.fitting.name for s in best.steps)}.",
            (),
        )
    free = replace(
        asked,
        serviceable=False,
        no_hot_work=False,
        no_solvent=False,
        potable=False,
        buried=False,
        at_hand=None,
        fixed=False,
        valve=False,
        union=False,
        waste=False,
    )
    if asked != free and any(find_stacks(a.name, b.name, 1) for a in start.ends() for b in stop.ends()):
        return f"No way to join is left under these limits; {_lift(start, stop, asked)}.", ()
    reach = [e for e in ends().values() if any(find_stacks(a.name, e.name, 1) for a in start.ends())]
    wanted = stop.ends()[0]
    same = [
        e
        for e in reach
        if abs(size_value(e.size) - size_value(wanted.size)) < 1e-9 and e.system != start.ends()[0].system
    ]
    same.sort(key=lambda e: (e.threads_per_inch is None, e.system))
    nearest = tuple(dict.fromkeys(e.words() for e in same))[:6]
    return (
        f"No way to join {start.words()} to {stop.words()}: "
        f"{_punched(start, stop) or 'no fitting of ours spans them'}.",
        nearest,
    )


def _punched(start: PipeOrEnd, stop: PipeOrEnd) -> str:
    """Where a thin tubing goes into the side of a wide one, and not onto its end."""
    drips = [t.pipe() for t in (start, stop) if t.series is not None and t.pipe()[0].kind == "drip"]
    if len(drips) < 2 or drips[0][1] == drips[1][1]:
        return ""
    thin, wide = sorted(
        (f"{family.short} {size}" for family, size in drips), key=lambda words: size_value(words.split()[-1])
    )
    return f"{thin} is fed from the side of {wide}, by a hole punched in it and a transfer barb, not from its end"


_LIMITS: dict[str, str] = {
    "serviceable": "coming apart again",
    "no_hot_work": "no hot work",
    "no_solvent": "no solvent",
    "potable": "drinking water",
    "buried": "burying",
    "at_hand": "parts at hand",
    "fixed": "both ends held",
    "valve": "a valve between",
    "waste": "a stop-and-waste between",
    "union": "a union between",
}


def _lift(start: PipeOrEnd, stop: PipeOrEnd, asked: Constraints) -> str:
    """Which single limit, once lifted, leaves a way."""
    for name, words in _LIMITS.items():
        lifted = replace(asked, at_hand=None) if name == "at_hand" else replace(asked, **{name: False})  # type: ignore[arg-type]
        if lifted != asked and any(
            served_stacks(a.name, b.name, lifted.needs, lifted.limits(), most=1)
            for a in start.ends()
            for b in stop.ends()
        ):
            return f"lift one of them: without '{words}' there is a way"
    return "lift two or more of them"


def close_off(
    lines: Sequence[PipeOrEnd],
    constraints: Constraints | None = None,
    most: int = 4,
    own: Mapping[str, float] | None = None,
) -> Ways:
    """How one line is closed for good, or several in one trench: by a cap over it, or by a plug where it may go on.

    The best ways of one line, or the best of each of several in their order, with where their caps go. Raises `Unknown`
    and `HydrarchError` as `join` does.
    """
    asked = constraints or Constraints()
    ways: list[Way] = []
    for line in lines:
        _weakest(line, line, asked)
        found = sorted(_caps(line, asked), key=lambda c: (*c[0].cost(), ranking_price(c[1].id), c[1].id))
        found = [c for c in found if c[0].joints <= found[0][0].joints + 1]
        stacks = [s for s, _ in found]
        for n, (stack, cap) in enumerate(found[: most if len(lines) == 1 else 1]):
            rating, price = fitting_rating(cap.id, asked.temperature), fitting_price(cap.id, own)
            shut = PartView(
                fitting=cap.id,
                name=cap.name,
                material=cap.material,
                left=view(cap.ports[0].end),
                right=None,
                length=cap.ports[0].stop,
                price=price,
                rating=rating,
            )
            way = _way(stack, n, stacks, line, None, shut, asked, own)
            ways.append(
                replace(way, why=f"{way.why}; it unscrews again, where the line may go on")
                if n and cap.ports[0].end.threads_per_inch
                else way
            )
    says = "" if ways else f"No cap of ours closes {' or '.join(x.words() for x in lines)}."
    return Ways(
        start=" and ".join(x.words() for x in lines),
        stop="",
        ways=tuple(ways),
        wrong=(),
        says=says,
        nearest=(),
        weakest=None,
        things=tuple(lines),
        advice=_STAGGER if len(lines) > 1 else "",
    )


_STAGGER = (
    "Stagger the caps along the trench, half a metre (20 in) or so apart, so that each can be cut off and "
    "gone on from without cutting the other; "
    "the line likelier to go on, and the nearer its feed, gets the place that is easier to reach. Cap a line "
    "that stays under pressure with the "
    "same care and the same wait as any other joint, and mark both."
)


def _caps(line: PipeOrEnd, asked: Constraints) -> Iterator[tuple[Stack, Fitting]]:
    """Every cap with the best way to it from the line; a drain's cap only on a drain."""
    drain = line.series is not None and line.pipe()[0].kind == "drain"
    for cap in fittings().values():
        if cap.family != "cap" or (cap.ports[0].end.system in _DRAINS) != drain:
            continue
        found = [
            s
            for a in line.ends()
            for s in find_stacks(a.name, cap.ports[0].end.name, 1, asked.limits(), _metal_ends(line))
        ]
        best = min(found, key=lambda s: s.cost(), default=None)
        if best is not None and (
            asked.pressure is None
            or min(_rating(best, asked.temperature), fitting_rating(cap.id, asked.temperature)) >= asked.pressure
        ):
            yield best, cap
