"""How a leg is led to what stands at its point: by the best way that holds what is needed there, or by the
crew's own.
"""

from __future__ import annotations

from dataclasses import replace

from hydrarch.core.catalogue.fittings import End
from hydrarch.core.catalogue.pipes import series
from hydrarch.core.joining.meeting import Leg, Meeting, metal_ends
from hydrarch.core.joining.served import NOTHING_MORE, Needs, served_stack, served_stacks
from hydrarch.core.joining.stacks import Limits, Stack
from hydrarch.core.joining.way_search import best_stack

__all__ = ["chosen_stack", "needs_of", "usual_stack"]


def needs_of(meeting: Meeting, leg: Leg) -> Needs:
    """What the way from a leg must hold: what the house puts beside a thing that is serviced, what closes between two
    pipes that are held.
    """
    fixed = leg.key == _last_held(meeting)
    if leg.coupled or leg.hung or leg.port not in meeting.serves or meeting.service == "none":
        return Needs(fixed=fixed)
    return Needs(meeting.service == "both" and leg.far_kind != "valve", leg.far_kind != "union", fixed)


def _last_held(meeting: Meeting) -> str | None:
    """The leg joined last where something new is put between two stiff pipes that were met; None where nothing
    is held.
    """
    if any(leg.closes for leg in meeting.legs):
        return meeting.legs[0].key
    held = [leg for leg in meeting.legs if leg.existing and not leg.coupled and series(leg.series).stick is not None]
    return held[-1].key if len(held) > 1 and not meeting.met else None


def usual_stack(meeting: Meeting, leg: Leg, start: End, stop: End) -> tuple[Stack | None, Needs]:
    """The best way with what it needs, or as much of that as can be had, and what of it is not."""
    needs, metal, limits = (
        needs_of(meeting, leg),
        metal_ends((leg,)),
        Limits(foreign=meeting.foreign, weak=meeting.weak),
    )
    for asked in dict.fromkeys((needs, replace(needs, fixed=False))):
        found = served_stack(start.name, stop.name, asked, limits, metal)
        if found is not None:
            return found, Needs(fixed=needs.fixed and not asked.fixed)
    return best_stack(start.name, stop.name, metal, limits), needs


def chosen_stack(meeting: Meeting, leg: Leg, start: End, stop: End, wanted: tuple[str, ...]) -> Stack | None:
    """The way of those fittings, by id, that the crew chose; None where it no longer fits.

    It may do without valve and union, or close between held ends.
    """
    limits, metal = Limits(foreign=meeting.foreign), metal_ends((leg,))
    mine = needs_of(meeting, leg)
    for needs in dict.fromkeys((mine, NOTHING_MORE, replace(mine, fixed=True))):
        for stack in served_stacks(start.name, stop.name, needs, limits, metal):
            if stack.ids() == wanted:
                return stack
    return None
