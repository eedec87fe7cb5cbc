"""What stands where runs meet: an elbow or the pipe's own bend at a turn, a tee or a saddle at a branch, a device, an
end.

Each leg is then led to its port of what stands there by the stack with the fewest joints.
"""

from __future__ import annotations

from dataclasses import replace
from itertools import combinations
from math import cos, degrees, radians, tan

from hydrarch.core.base.cache import remembered
from hydrarch.core.base.identity import stub_end
from hydrarch.core.base.problems import declare
from hydrarch.core.base.units import nominal_diameter
from hydrarch.core.catalogue.fittings import Fitting, end, fittings
from hydrarch.core.catalogue.pipes import bend_radius, series
from hydrarch.core.catalogue.prices import ranking_price
from hydrarch.core.components.base import kind_named
from hydrarch.core.joining.assembled import ColdBend
from hydrarch.core.joining.meeting import Leg, Meeting, metal_ends
from hydrarch.core.joining.node_fittings import MISFIT, NodeFitting, saddles, single_fittings, two_elbows
from hydrarch.core.joining.placing import RIGID_BEND, Joined, Placing

__all__ = ["REMEMBERED", "join_meeting"]

_BY_HAND = 30.0  # outside diameters of bend, down to which pipe is bent by hand where it is joined
declare("join", "tee-angle", "turn-at-device", "too-many-runs", "outlet-on-junction", "nothing-between", holds=True)
declare("join", "square-branch", "no-saddle")

REMEMBERED = 1 << 14  # meetings; three times the most points a plan may have

SWING_REACH = 0.5  # m from the line to the head, as far as a swing riser is turned up; from memory
_ELBOW_BESIDE = 2
"""Joints that an elbow beside a tee takes: more than that is not spent on turning within the tee itself."""
_INTO_DEVICE = radians(45)
"""How far a coiled pipe is bent round at what stands in it: more of a turn strains the nuts; estimate, from memory."""
STRAIGHT = radians(3)  # a turn no one can see: the pipe takes it

_ELBOWS = ("elbow", "sweep elbow", "street elbow")


@remembered(REMEMBERED)
def join_meeting(meeting: Meeting) -> Joined:
    """Choose what stands at a point and put it in. What cannot be joined is a `Problem` there."""
    here, kind = Placing(meeting), kind_named(meeting.kind)
    for leg in meeting.legs:
        if leg.port in meeting.falls:
            here.open_end(leg)
    legs = tuple(leg for leg in meeting.legs if leg.port not in meeting.falls)
    if len(legs) < len(meeting.legs):
        meeting = replace(meeting, legs=legs)
    if not legs:
        return here.joined()
    if kind.stands:
        _outlet(here, meeting)
    elif not kind.joined:
        for leg in legs:
            here.open_end(leg)
    elif not kind.plain and any(name for _, name in meeting.ends) and not _stands_for(meeting):
        _equipment(here, meeting)
    elif meeting.families and len(legs) == 2 and len(meeting.ends) == 1:
        _on_branch(here, meeting)
    elif meeting.families and len(legs) == _ports(meeting):
        _suited(here, meeting)
    else:
        _line(here, meeting)
    return here.joined()


def _ports(meeting: Meeting) -> int:
    """How many legs what stands there wants: one at each port, and of a tank's only those that are joined."""
    used = {leg.port for leg in meeting.legs}
    return len(meeting.ends) if kind_named(meeting.kind).role == "device" else len(used)


def _equipment(here: Placing, meeting: Meeting) -> None:
    """Lead every leg to its own port of a thing that has ends of its own; a second leg at one port has nowhere
    to go.
    """
    taken: set[str] = set()
    for leg in meeting.legs:
        inlet = meeting.end_at(leg.port)
        if leg.asks:
            pass  # what is beyond comes to it
        elif inlet and leg.port not in taken:
            here.device(leg, end(inlet))
        else:
            here.open_end(leg)
        taken.add(leg.port)


def _suited(here: Placing, meeting: Meeting) -> None:
    """A fitting of the catalogue that stands for the thing and suits its legs."""
    legs, families = meeting.legs, meeting.families
    if len(legs) == 3:
        _tee(here, meeting, families)
        return
    here.node(legs, f"a {families[0]}", _fittings(meeting, families, legs))
    if len(legs) == 2:
        _expect_straight(here, meeting, legs)


def _on_branch(here: Placing, meeting: Meeting) -> None:
    """A fitting with one opening stands on the branch of a tee, where the line passes it."""
    a, b = meeting.legs
    turn = meeting.turn(a.key, b.key)
    found: list[tuple[NodeFitting, Fitting, tuple[Leg, ...]]] = []
    for part in fittings().values():
        if part.family not in meeting.families or len(part.ports) != 1:
            continue
        stub = replace(
            a,
            key=stub_end(meeting.point),
            run=None,
            port="",
            offers=part.ports[0].end.name,
            towards=meeting.name,
            beyond=True,
        )
        whole: tuple[Leg, ...] = (a, b, stub)
        found += [(tee, part, whole) for tee in _branchings(meeting, whole, turn)[:1]]
    if not found:
        here.no_way(f"{a.what} and {b.what}", f"a tee for {meeting.name}")
        return
    _, part, whole = min(found, key=lambda f: (f[0].cost()[:2], ranking_price(f[1].id) + f[0].price, f[1].id))
    here.stand(part)
    here.node(whole, "a tee", _branchings(meeting, whole, turn))
    _expect_straight(here, meeting, whole)


def _line(here: Placing, meeting: Meeting) -> None:
    match len(meeting.legs):
        case 1:
            here.open_end(meeting.legs[0])
        case 2:
            _two(here, meeting)
        case 3:
            _tee(here, meeting)
        case 4:
            _cross(here, meeting)
        case count:
            here.problem("too-many-runs", count=count)


def _outlet(here: Placing, meeting: Meeting) -> None:
    riser, legs = meeting.riser, meeting.legs
    assert riser is not None
    inlet = end(meeting.ends[0][1] or f"{riser.end.system}:female:{riser.size}")
    upright = riser.length > 0
    if len(legs) == 1 and not upright:
        here.device(legs[0], inlet)
        return
    if meeting.swing and upright:
        here.swing(riser, SWING_REACH)
    whole = (*legs, riser)
    if len(legs) == 1:
        here.node(whole, "an elbow", _fittings(meeting, ("elbow",), whole, radians(90)))
    elif len(legs) == 2:
        turn = meeting.turn(legs[0].key, legs[1].key)
        square = abs(turn - radians(90)) <= MISFIT and not all(_gives(x, turn / 2) for x in legs)
        corner = _fittings(meeting, ("side-outlet elbow",), whole, turn) if square else ()
        tees = _branchings(meeting, whole, turn)
        if corner and (not tees or corner[0].joints <= tees[0].joints + _ELBOW_BESIDE):
            here.node(whole, "an outlet elbow", corner)
        else:
            here.node(whole, "a tee", tees)
            _expect_straight(here, meeting, legs)
    else:
        here.problem("outlet-on-junction", count=len(legs))
        return
    if upright:
        here.head(riser, inlet)


def _two(here: Placing, meeting: Meeting) -> None:
    a, b = meeting.legs
    turn = meeting.turn(a.key, b.key)
    if turn > STRAIGHT:
        own = _cold_bend(meeting, turn)
        here.node(meeting.legs, "an elbow", _turnings(meeting, turn, own), own)
    elif a.coupled or b.coupled:
        here.problem("nothing-between", towards=(a if a.coupled else b).towards)
    elif a.pipe == b.pipe and a.existing == b.existing:
        here.bend(ColdBend(meeting.point, (a.key, b.key), turn, 0.0, 0.0, 0.0))
    else:
        here.change(a, b)


def _turnings(meeting: Meeting, turn: float, own: ColdBend | None) -> tuple[NodeFitting, ...]:
    """Every way to turn a corner: by the pipe itself where it may, an elbow, or two."""
    legs = meeting.legs
    single = _fittings(meeting, _ELBOWS, legs, turn)
    fits = tuple(h for h in single if h.misfit <= MISFIT)
    names = (legs[0].wants, legs[1].wants)
    pairs = (
        ()
        if fits or any(leg.coupled for leg in legs)
        else two_elbows(names, _rounded(turn), metal_ends(legs), meeting.foreign, meeting.barred)
    )
    bend = (NodeFitting(how="own bend", parts=(), order=(), stacks=()),) if own else ()
    return (*bend, *fits) or (*pairs, *single)


def _cold_bend(meeting: Meeting, turn: float) -> ColdBend | None:
    """The bend two like pipes make of themselves, where their radius and the lengths on both sides allow it."""
    a, b = meeting.legs
    item = a.pipe
    limit = RIGID_BEND if series(item.series).stick is not None else radians(100)
    if item != b.pipe or turn > limit or a.coupled or b.coupled or a.existing != b.existing:
        return None
    radius = bend_radius(item)
    tangent = radius * tan(turn / 2)
    if tangent > 0.5 * min(a.length, b.length):
        return None
    widening = radius * (1 / cos(turn / 2) - 1)
    return ColdBend(meeting.point, (a.key, b.key), turn, radius, widening, 2 * tangent - radius * turn)


def _branchings(
    meeting: Meeting, legs: tuple[Leg, ...], through: float, families: tuple[str, ...] = ("tee",)
) -> tuple[NodeFitting, ...]:
    """Every way to branch off: tees or wyes, and saddles where the line runs on straight in one pipe."""
    tees = _fittings(meeting, families, legs)
    one, two, branch = legs
    if one.pipe != two.pipe or through > STRAIGHT or one.coupled or two.coupled:
        return tees
    clamped = saddles(round(one.pipe.outside, 6), branch.wants, metal_ends((branch,)), meeting.foreign, meeting.barred)
    whole = tuple(s for s in clamped if meeting.saddles and not _narrows(s, branch))
    return (*whole, *tees, *(s for s in clamped if s not in whole))


def _narrows(saddle: NodeFitting, branch: Leg) -> bool:
    """Whether a saddle's outlet is narrower than what branches off, which then gets less than it was sized for."""
    return nominal_diameter(saddle.parts[0].ports[1].end.size) < nominal_diameter(branch.size)


def _tee(here: Placing, meeting: Meeting, families: tuple[str, ...] = ()) -> None:
    through, one, two = min(
        ((meeting.turn(a.key, b.key), a, b) for a, b in combinations(meeting.legs, 2)), key=lambda pair: pair[0]
    )
    branch = next(x for x in meeting.legs if x not in (one, two))
    whole = (one, two, branch)
    aside, with_it = min((meeting.turn(x.key, branch.key), x.beyond) for x in (one, two))
    slants = abs(aside - radians(45)) <= RIGID_BEND
    if families:
        here.node(whole, f"a {families[0]}", _fittings(meeting, families, whole))
    else:
        wyes = _branchings(meeting, whole, through, ("wye",)) if slants else ()
        found = wyes or _branchings(meeting, whole, through)
        here.node(whole, "a tee", found)
        slants = bool(wyes)
        if meeting.saddles and meeting.node is None and not branch.drain and found and found[0].how != "saddle":
            here.problem("no-saddle", pipe=one.what, size=branch.size)
    skew, along = abs(aside - radians(90)), through <= RIGID_BEND
    if not along and _gives(one, through / 2) and _gives(two, through / 2):  # both are bent into the tee
        skew, along = min(skew, abs(skew - through / 2)), True
    if not along or (skew > RIGID_BEND and not slants and not _gives(branch, skew)):
        here.problem("tee-angle", through=degrees(through), aside=degrees(aside))
    if branch.drain and not families and not (slants and with_it):  # a three-way valve is square as it is made
        here.problem("square-branch", how="against the flow" if slants else "square")


def _stands_for(meeting: Meeting) -> bool:
    """Whether a fitting of the catalogue may stand for what has these ends; else it is a piece of equipment as its
    maker made it.
    """
    wanted = {name for _, name in meeting.ends if name}
    made = (f for f in fittings().values() if f.family in meeting.families)
    return bool(meeting.families) and any(wanted <= {p.end.name for p in f.ports} for f in made)


def _gives(leg: Leg, turn: float) -> bool:
    """Whether a leg is pipe that bends by so much (rad) within its own length, as flexible pipe between the tees of a
    ring does.
    """
    soft = not leg.coupled and not leg.riser and series(leg.series).bend_radius <= _BY_HAND
    return soft and bend_radius(leg.pipe) * tan(turn / 2) <= 0.45 * leg.length


def _cross(here: Placing, meeting: Meeting) -> None:
    first, *rest = meeting.legs
    facing = min(rest, key=lambda x: meeting.turn(first.key, x.key))
    whole = (first, facing, *(x for x in rest if x is not facing))
    here.node(whole, "a cross", _fittings(meeting, ("cross",), whole))
    _expect_straight(here, meeting, whole)


def _expect_straight(here: Placing, meeting: Meeting, legs: tuple[Leg, ...]) -> None:
    turn = meeting.turn(legs[0].key, legs[1].key)
    stands = kind_named(meeting.kind).stands
    if turn > RIGID_BEND and not ((stands or turn <= _INTO_DEVICE) and all(_gives(x, turn / 2) for x in legs[:2])):
        here.problem("turn-at-device", turn=degrees(turn))


def _fittings(
    meeting: Meeting, families: tuple[str, ...], legs: tuple[Leg, ...], turn: float = 0.0
) -> tuple[NodeFitting, ...]:
    found = single_fittings(
        families, tuple(leg.wants for leg in legs), _rounded(turn), metal_ends(legs), meeting.foreign, meeting.barred
    )
    wanted = [meeting.end_at(leg.port) for leg in legs]
    if not any(wanted) or not meeting.families:
        return found
    return tuple(
        f for f in found if all(not w or f.parts[0].ports[f.order.index(i)].end.name == w for i, w in enumerate(wanted))
    )


def _rounded(turn: float) -> float:
    """A turn rounded so that what was found for it is remembered."""
    return round(turn, 4)
