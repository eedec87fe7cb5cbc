"""What a line asks for once it is in the ground: traps refilled, filters cleaned, drained before frost, tested and
looked at in time.
"""

from __future__ import annotations

from calendar import timegm
from collections.abc import Iterable
from dataclasses import dataclass

from hydrarch.core.components.basins import Basin, SuctionCover
from hydrarch.core.components.devices import BackflowPreventer, Filter, Pump, Union
from hydrarch.core.components.drains import DrainInlet, Sump
from hydrarch.core.components.equipment import Vessel
from hydrarch.core.components.fixtures import GardenTap
from hydrarch.core.components.inlets import ChannelDrain, Downpipe, FloorDrain, LaundryStandpipe
from hydrarch.core.components.marks import Mark
from hydrarch.core.components.outlets import DripRow, Hydrant, Sprinkler, Tap
from hydrarch.core.components.protection import ExpansionTank
from hydrarch.core.components.sources import WellPump
from hydrarch.core.plan.document import Plan, Point
from hydrarch.core.record.log import Log
from hydrarch.core.site.clearances import how_near
from hydrarch.core.site.systems import systems

__all__ = ["Reminder", "reminders"]

_DAY = 86400.0
_YEAR = 365.2425 * _DAY
_FROST = (10, 1)
"""Month and day by which what freezes is drained, north of the equator; six months on in the south. Common practice:
before the first frost."""


@dataclass(frozen=True, slots=True)
class Reminder:
    """Something to be done again and again: at what, how often (days), when it is next due (s since 1970), and when it
    was last done and by whom.

    `source` says where how often comes from.
    """

    id: str
    where: str
    title: str
    says: str
    every: int
    due: float
    done_at: float | None
    done_by: str
    source: str


@dataclass(frozen=True, slots=True)
class _Rule:
    name: str
    of: tuple[type, ...]
    title: str
    says: str
    every: int
    source: str = "common practice"


_RULES = (
    _Rule(
        "trap",
        (DrainInlet, FloorDrain),
        "Refill the trap of {}",
        "A trap that stands dry lets sewer air in: pour in a jug of water where none has run for weeks.",
        30,
    ),
    _Rule(
        "trap",
        (LaundryStandpipe,),
        "Refill the trap of {}",
        "Where no water runs through it, it dries out in about three months: pour in a jug of water.",
        90,
    ),
    _Rule(
        "leaves",
        (Downpipe,),
        "Clear the gutter over {}",
        "Lift out leaves and what has settled, and flush its drain until the water runs clear at the other end.",
        182,
    ),
    _Rule(
        "standby",
        (Sump,),
        "Try {}",
        "Lift its float by hand until it runs and the water goes down; then unplug the one that runs first, and see that "
        "the one that stands by takes over and its alarm sounds. Note it here.",
        90,
        "common practice; makers say how often",
    ),
    _Rule(
        "clear",
        (DrainInlet, ChannelDrain, FloorDrain),
        "Clear {}",
        "Take the grate off, lift out what has settled, and flush the drain from its clean-out.",
        365,
    ),
    _Rule(
        "filter",
        (Filter,),
        "Clean {}",
        "Sooner where the gauge falls across it: shut, let the pressure off, wash the element, grease its O-ring.",
        90,
    ),
    _Rule(
        "preventer",
        (BackflowPreventer,),
        "Have {} tested",
        "Whoever the local code licenses tests it each year, and after every repair or frost.",
        365,
    ),
    _Rule(
        "o-rings",
        (Union,),
        "Look at the O-ring of {}",
        "Open it with the pressure off, wipe it, grease it with what suits rubber and drinking water, and "
        "turn it home by hand.",
        365,
    ),
    _Rule(
        "pump",
        (Pump, WellPump),
        "Look at {}",
        "Disconnect it in sight first. Strainer, unions and their O-rings, sound, and what it lifts against "
        "what it did.",
        365,
    ),
    _Rule(
        "vessel",
        (Vessel,),
        "Check the air in {}",
        "Empty of water, against the cut-in of its switch; pump up what is missing.",
        365,
    ),
    _Rule(
        "expansion",
        (ExpansionTank,),
        "Check the air in {}",
        "Shut off and empty of water, against the pressure of the line at rest; pump up what is missing. Lift the "
        "relief valve's lever and see that it closes again.",
        365,
    ),
    _Rule(
        "cover",
        (SuctionCover,),
        "Look at the cover of {}",
        "Fast on its screws, whole, and not past the date its maker set: replace a broken one before anybody bathes.",
        30,
    ),
    _Rule(
        "water",
        (Basin,),
        "Look at the water of {}",
        "Clear, at its level, and by the test strips of whoever uses it; skimmer and strainer emptied.",
        7,
    ),
)
_ROWS = _Rule(
    "rows",
    (DripRow,),
    "Flush {}",
    "Open each end while it runs until the water is clear, then look that the last emitters drip.",
    90,
)
"""All of a job's rows at once: there are many, and one walk sees to them."""
_ROOTS = 3.0
"""m from a tree within which its roots find the joints of a drain; from memory, twice as far for a thirsty one."""
_OUTDOORS = (Sprinkler, Hydrant, Tap, GardenTap, DripRow)


def reminders(plan: Plan, log: Log, now: float) -> tuple[Reminder, ...]:
    """What is to be done again at the things of a plan, the next due first.

    It is first due one interval after the last joint was made (or from now where none is); from then on after each time
    it was done.
    """
    made = [r.at for r in log.joints.values() if r.state == "made" and r.at is not None]
    since = max(made, default=now)
    found = [_of(rule, p, log, since) for rule in _RULES for p in plan.points if isinstance(p.what, rule.of)]
    rows = [p for p in plan.points if isinstance(p.what, DripRow)]
    if rows:
        found.append(
            _of(_ROWS, min(rows, key=lambda p: p.id), log, since, "the drip rows" if len(rows) > 1 else rows[0].label)
        )
    found += _frost(plan, log, since)
    found += _roots(plan, log, since)
    return tuple(sorted(found, key=lambda r: (r.due, r.id)))


def _of(rule: _Rule, point: Point, log: Log, since: float, called: str = "") -> Reminder:
    name = f"{rule.name} {point.id}"
    last = log.tended.get(name)
    begins = since if last is None else last.at
    return Reminder(
        id=name,
        where=point.id,
        title=rule.title.format(called or point.label),
        says=rule.says,
        every=rule.every,
        due=begins + rule.every * _DAY,
        done_at=None if last is None else last.at,
        done_by="" if last is None else last.by,
        source=rule.source,
    )


def _frost(plan: Plan, log: Log, since: float) -> Iterable[Reminder]:
    """Once a year, where anything lets water out in the open."""
    if not any(isinstance(p.what, _OUTDOORS) for p in plan.points):
        return
    last = log.tended.get("frost")
    after = since if last is None else last.at + 180 * _DAY
    year = 1970 + int(after / _YEAR) - 1
    while (due := float(timegm((year, *_FROST, 0, 0, 0)))) < after:
        year += 1
    says = (
        "Shut it off, open the lowest drain and the highest end, blow out or let run what lies shallow, and "
        "leave taps and hydrants open. "
        "South of the equator half a year on; a cold spell comes before any date."
    )
    yield Reminder(
        id="frost",
        where="",
        title="Drain down before frost",
        says=says,
        every=365,
        due=due,
        done_at=None if last is None else last.at,
        done_by="" if last is None else last.by,
        source="common practice",
    )


def _roots(plan: Plan, log: Log, since: float) -> Iterable[Reminder]:
    """Every seven years, where a tree stands by a drain that lies in the ground."""
    trees = [p for p in plan.points if isinstance(p.what, Mark) and p.what.what == "tree"]
    water = systems(plan) if trees else None
    lines = [
        tuple((plan.by_id[p].x, plan.by_id[p].y) for p in r.points)
        for r in plan.runs
        if water is not None and r.situation == "buried" and water.drain(r.id)
    ]
    near = sorted({plan.names[t.id] for t in trees for a, b in lines if how_near((t.x, t.y), a, b)[0] <= _ROOTS})
    if not near:
        return
    last = log.tended.get("roots")
    yield Reminder(
        id="roots",
        where="",
        title="Clear roots from the drains",
        says=f"They grow in at joints near {', '.join(near)}: rod or jet it from its clean-outs, every seven or eight "
        "years; sooner where it runs slowly.",
        every=2557,
        due=(since if last is None else last.at) + 2557 * _DAY,
        done_at=None if last is None else last.at,
        done_by="" if last is None else last.by,
        source="common practice",
    )
