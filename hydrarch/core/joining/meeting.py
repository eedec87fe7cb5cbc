"""What stands where runs meet: an elbow or the pipe's own bend at a turn, a tee or a saddle at a branch, a device, an end.

Each leg is then led to its port of what stands there by the stack with the fewest joints.
"""

from __future__ import annotations

from functools import lru_cache
from itertools import combinations
from math import cos, degrees, radians, tan

from hydrarch.core.catalogue.fittings import end
from hydrarch.core.catalogue.pipes import bend_radius, series
from hydrarch.core.joining.hubs import MISFIT, Hub, fitting_hubs, saddle_hubs, two_elbows
from hydrarch.core.joining.place import Leg, Place
from hydrarch.core.joining.placing import RIGID_BEND, Joined, Placing, metal_ends
from hydrarch.core.joining.records import SoftBend

__all__ = ["REMEMBERED", "join_place"]

REMEMBERED = 1 << 14  # places; three times the most points a plan may have

SWING_REACH = 0.5  # m from the line to the head, as far as a swing riser is turned up; from memory
STRAIGHT = radians(3)  # a turn no one can see: the pipe takes it

_ELBOWS = ("elbow", "sweep elbow", "street elbow")
_ENDED = ("well_pump", "mains", "tank", "vessel")
_IN_LINE = ("pump", "regulator")
_OUTLETS = ("tap", "sprinkler", "drip")
_DEVICE_FAMILY: dict[str, tuple[str, ...]] = {
    "valve": ("valve", "union valve"), "check_valve": ("check valve",), "union": ("union",), "filter": ("filter",),
    "backflow": ("backflow preventer",), "vent": ("vacuum breaker",),
}  # fmt: skip


@lru_cache(REMEMBERED)
def join_place(place: Place) -> Joined:
    """Choose what stands at a place and put it in. What cannot be joined is a `Problem` there."""
    here, legs = Placing(place), place.legs
    match place.kind, len(legs):
        case kind, 1 if kind in _ENDED:
            here.device(legs[0], end(f"npt:female:{place.thread}"))
        case "cap" | "foot_valve" as ending, 1:
            family = ending.replace("_", " ")
            here.hub(legs, f"a {family}", _fittings((family,), legs))
        case kind, _ if kind in _OUTLETS:
            _outlet(here, place)
        case kind, 2 if kind in _IN_LINE:
            for leg in legs:
                here.device(leg, end(f"npt:female:{place.thread}"))
        case "three_way", 3:
            _tee(here, place, ("three-way valve",))
        case kind, 2 if kind in _DEVICE_FAMILY:
            families = _DEVICE_FAMILY[kind]
            here.hub(legs, f"a {families[0]}", _fittings(families, legs))
            _expect_straight(here, place, legs)
        case _, 1:
            here.open_end(legs[0])
        case _, 2:
            _two(here, place)
        case _, 3:
            _tee(here, place)
        case _, 4:
            _cross(here, place)
        case _, count:
            here.problem(
                "too-many-runs", f"{count} runs meet at {place.name}.", "Part them over two points, a foot or more apart.",
            )  # fmt: skip
    return here.joined()


def _outlet(here: Placing, place: Place) -> None:
    riser, legs = place.riser, place.legs
    assert riser is not None
    inlet = end(f"npt:female:{place.thread}")
    upright = riser.length > 0
    if len(legs) == 1 and not upright:
        here.device(legs[0], inlet)
        return
    if place.swing and upright:
        here.swing(riser, SWING_REACH)
    whole = (*legs, riser)
    if len(legs) == 1:
        here.hub(whole, "an elbow", _fittings(("elbow",), whole, radians(90)))
    elif len(legs) == 2:
        turn = place.turn(legs[0].key, legs[1].key)
        if abs(turn - radians(90)) <= MISFIT:
            here.hub(whole, "an outlet elbow", _fittings(("side-outlet elbow",), whole, turn))
        else:
            here.hub(whole, "a tee", _branchings(place, whole, turn))
            _expect_straight(here, place, legs)
    else:
        here.problem(
            "outlet-on-junction", f"{place.name} stands where {len(legs)} runs meet.",
            "Move it along one of them, so that it has a tee of its own.",
        )  # fmt: skip
        return
    if upright:
        here.head(riser, inlet)


def _two(here: Placing, place: Place) -> None:
    a, b = place.legs
    turn = place.turn(a.key, b.key)
    if turn > STRAIGHT:
        own = _soft_bend(place, turn)
        here.hub(place.legs, "an elbow", _turnings(place.legs, turn, own), own)
    elif a.pipe == b.pipe:
        here.bend(SoftBend(place.point, (a.key, b.key), turn, 0.0, 0.0, 0.0))
    else:
        here.change(a, b)


def _turnings(legs: tuple[Leg, ...], turn: float, own: SoftBend | None) -> tuple[Hub, ...]:
    """Every way to turn a corner: by the pipe itself where it may, an elbow, or two."""
    single = _fittings(_ELBOWS, legs, turn)
    fits = tuple(h for h in single if h.misfit <= MISFIT)
    names = (legs[0].end.name, legs[1].end.name)
    pairs = () if fits else two_elbows(names, _rounded(turn), metal_ends(legs))
    bend = (Hub("own bend", (), (), ()),) if own else ()
    return (*bend, *fits) or (*pairs, *single)


def _soft_bend(place: Place, turn: float) -> SoftBend | None:
    """The bend two like pipes make of themselves, where their radius and the lengths on both sides allow it."""
    a, b = place.legs
    item = a.pipe
    limit = RIGID_BEND if series(item.series).stick is not None else radians(100)
    if item != b.pipe or turn > limit:
        return None
    radius = bend_radius(item)
    tangent = radius * tan(turn / 2)
    if tangent > 0.5 * min(a.length, b.length):
        return None
    widening = radius * (1 / cos(turn / 2) - 1)
    return SoftBend(place.point, (a.key, b.key), turn, radius, widening, 2 * tangent - radius * turn)


def _branchings(place: Place, legs: tuple[Leg, ...], through: float, families: tuple[str, ...] = ("tee",)) -> tuple[Hub, ...]:
    """Every way to branch off: tees or wyes, and saddles where the line runs on straight in one pipe."""
    tees = _fittings(families, legs)
    one, two, branch = legs
    if one.pipe != two.pipe or through > STRAIGHT:
        return tees
    saddles = saddle_hubs(round(one.pipe.outside, 6), branch.end.name, metal_ends((branch,)))
    return (*saddles, *tees) if place.saddles else (*tees, *saddles)


def _tee(here: Placing, place: Place, families: tuple[str, ...] = ()) -> None:
    through, one, two = min(((place.turn(a.key, b.key), a, b) for a, b in combinations(place.legs, 2)), key=lambda pair: pair[0])
    branch = next(x for x in place.legs if x not in (one, two))
    whole = (one, two, branch)
    aside, with_it = min((place.turn(x.key, branch.key), x.beyond) for x in (one, two))
    slants = abs(aside - radians(45)) <= RIGID_BEND
    if families:
        here.hub(whole, f"a {families[0]}", _fittings(families, whole))
    else:
        wyes = _branchings(place, whole, through, ("wye",)) if slants else ()
        here.hub(whole, "a tee", wyes or _branchings(place, whole, through))
        slants = bool(wyes)
    if through > RIGID_BEND or (abs(aside - radians(90)) > RIGID_BEND and not slants):
        here.problem(
            "tee-angle",
            f"The runs at {place.name} do not make a tee: {degrees(through):.0f}° off straight, branch at {degrees(aside):.0f}°.",
            "Draw two of them straight through and the third square to them, with a bend further on.",
        )
    if branch.drain and not (slants and with_it):
        here.problem(
            "square-branch", f"A drain comes into another at {place.name} {'against the flow' if slants else 'square'}: dirt gathers there.",
            "Bring it in at 45° the way the water runs, and turn it further back.", "note",
        )  # fmt: skip


def _cross(here: Placing, place: Place) -> None:
    first, *rest = place.legs
    facing = min(rest, key=lambda x: place.turn(first.key, x.key))
    whole = (first, facing, *(x for x in rest if x is not facing))
    here.hub(whole, "a cross", _fittings(("cross",), whole))
    _expect_straight(here, place, whole)


def _expect_straight(here: Placing, place: Place, legs: tuple[Leg, ...]) -> None:
    turn = place.turn(legs[0].key, legs[1].key)
    if turn > RIGID_BEND:
        here.problem(
            "turn-at-device", f"The line turns {degrees(turn):.0f}° at {place.name}, which is straight.",
            "Put the bend at a point of its own.",
        )  # fmt: skip


def _fittings(families: tuple[str, ...], legs: tuple[Leg, ...], turn: float = 0.0) -> tuple[Hub, ...]:
    return fitting_hubs(families, tuple(leg.end.name for leg in legs), _rounded(turn), metal_ends(legs))


def _rounded(turn: float) -> float:
    """A turn rounded so that what was found for it is remembered."""
    return round(turn, 4)
