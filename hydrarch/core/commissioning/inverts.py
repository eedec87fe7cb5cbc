"""Inverts of drains: what each joint is laid to, what was read there, and how the drain falls as it lies.

The invert is the lowest point of the bore, from which falls are measured.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from itertools import pairwise
from math import dist

from hydrarch.core.base.units import FOOT, System, show
from hydrarch.core.catalogue.pipes import Pipe
from hydrarch.core.hydraulics.drain_flow import DrainRun, fall_words
from hydrarch.core.joining.assembled import Joint
from hydrarch.core.plan.document import Plan
from hydrarch.core.record.spots import drawn_spot
from hydrarch.core.record.states import MADE, JointState
from hydrarch.core.site.layout import Layout

__all__ = ["DrainAsLaid", "InvertRead", "WantedInvert", "block_words", "drains_as_laid", "wanted_inverts"]

LEVEL_LONG = {"metric": 1.2, "us": 4 * FOOT}
"""m of the level that is held on a pipe: common practice."""
_FAR = 0.15
"""m off what is wanted from which a reading is asked about once more; half a foot, from memory."""
_SAME = 0.002
"""m within which a reading is as wanted: what a staff and a builder's level show."""


@dataclass(frozen=True, slots=True)
class WantedInvert:
    """What a joint of a drain is laid to: its invert (m), the cover over its pipe there (m), and the fall of its run,
    also as what lies under one end of a level. A reading below `low` or above `high` (m) is asked about before it is
    taken: a staff's foot or a wrong benchmark more likely than a drain laid so.
    """

    joint: str
    run: str
    invert: float
    cover: float
    falls: str
    block: str
    low: float
    high: float


@dataclass(frozen=True, slots=True)
class InvertRead:
    """What was read at a joint: the invert wanted and read (m), how that is off in words, by whom and when, and whether
    a joint of the same drain was made `since`.
    """

    joint: str
    place: str
    wanted: float
    read: float
    off: str
    by: str
    at: float
    since: bool


@dataclass(frozen=True, slots=True)
class DrainAsLaid:
    """A run of a drain by what was read in it, the upper end first; `falls` are those between one reading and the next,
    `rises` those places, in words, where it does not fall.
    """

    run: str
    upper: str
    lower: str
    wanted: str
    reads: tuple[InvertRead, ...]
    falls: tuple[str, ...]
    rises: tuple[str, ...]


def block_words(fall: float, units: System) -> str:
    """A fall (m/m) as what is laid under the lower end of a level, so that its bubble stands in the middle.

    >>> block_words(1 / 48, "us"), block_words(1 / 60, "metric")
    ('1 in under the lower end of a 4 ft level', '20 mm under the lower end of a 1.2 m level')
    """
    if fall <= 0:
        return ""
    long = LEVEL_LONG[units]
    told = f"{long / FOOT:.0f} ft" if units == "us" else f"{long:g} m"
    return f"{show(fall * long, 'takeoff', units)} under the lower end of a {told} level"


def wanted_inverts(
    plan: Plan, lay: Layout, drains: Iterable[DrainRun], pipes: Mapping[str, Pipe], joints: Iterable[Joint]
) -> dict[str, WantedInvert]:
    """What each joint of the drains is laid to, by joint."""
    by_run, found = {d.run: d for d in drains}, dict[str, WantedInvert]()
    for joint in joints:
        run = joint.run or lay.run_of.get(joint.end or "", "")
        drain = by_run.get(run)
        if drain is None:
            continue
        spot, item = drawn_spot(plan, joint), pipes[run]
        found[joint.id] = WantedInvert(
            joint=joint.id,
            run=run,
            invert=spot.level - item.bore / 2,
            cover=spot.depth - item.outside / 2,
            falls=drain.falls,
            block=block_words(drain.fall, plan.units),
            low=spot.level - item.bore / 2 - _FAR,
            high=spot.level - item.bore / 2 + _FAR,
        )
    return found


def drains_as_laid(
    plan: Plan,
    lay: Layout,
    drains: Iterable[DrainRun],
    wanted: Mapping[str, WantedInvert],
    joints: Mapping[str, Joint],
    states: Mapping[str, JointState],
) -> tuple[DrainAsLaid, ...]:
    """Each run of the drains in which an invert was read. A reading from before another joint of its drain was made is
    told: a length that is set down moves those before it.
    """
    made: dict[int, list[tuple[float, str]]] = {}
    for name, w in wanted.items():
        state = states.get(name)
        if state is not None and state.state in MADE and state.at is not None:
            made.setdefault(lay.systems.of[w.run], []).append((state.at, name))
    last = {system: sorted(times, reverse=True)[:2] for system, times in made.items()}
    found = []
    for drain in drains:
        mine = [n for n, w in wanted.items() if w.run == drain.run and (s := states.get(n)) and s.level is not None]
        upper = lay.places[drain.upper]
        mine.sort(key=lambda n: _along(plan, joints[n], upper))
        if not mine:
            continue
        reads, falls, rises = [], [], []
        for name in mine:
            state, w = states[name], wanted[name]
            assert state.level is not None
            assert state.level_at is not None
            reads.append(
                InvertRead(
                    joint=name,
                    place=joints[name].place,
                    wanted=w.invert,
                    read=state.level,
                    off=_off(state.level - w.invert, plan.units),
                    by=state.level_by,
                    at=state.level_at,
                    since=any(
                        at > state.level_at for at, other in last.get(lay.systems.of[drain.run], ()) if other != name
                    ),
                )
            )
        for one, two in pairwise(reads):
            far = _along(plan, joints[two.joint], upper) - _along(plan, joints[one.joint], upper)
            if far < _APART:
                continue
            fall = (one.read - two.read) / far
            falls.append(f"{fall_words(fall, plan.units)} from {one.place} to {two.place}")
            if fall <= 0:
                up = show(two.read - one.read, "takeoff", plan.units)
                rises.append(f"from {one.place} to {two.place} it {f'rises {up}' if fall < 0 else 'lies level'}")
        found.append(
            DrainAsLaid(
                run=drain.run,
                upper=plan.names[drain.upper],
                lower=plan.names[drain.lower],
                wanted=drain.falls,
                reads=tuple(reads),
                falls=tuple(falls),
                rises=tuple(rises),
            )
        )
    return tuple(found)


_APART = 0.3
"""m between two readings below which no fall is told: a staff's millimetre would be most of it."""


def _along(plan: Plan, joint: Joint, upper: tuple[float, float, float]) -> float:
    spot = drawn_spot(plan, joint)
    return dist((spot.x, spot.y, spot.level), upper)


def _off(off: float, units: System) -> str:
    if abs(off) <= _SAME:
        return "as wanted"
    return f"{show(abs(off), 'takeoff', units)} {'high' if off > 0 else 'low'}"
