"""What parts see at rest, and which fittings carry less than that: they are passed over where others do the same."""

from __future__ import annotations

from bisect import bisect_left
from collections.abc import Mapping
from dataclasses import replace

from hydrarch.core.base.cache import remembered
from hydrarch.core.catalogue.fittings import fittings
from hydrarch.core.catalogue.ratings import fitting_rating_at
from hydrarch.core.hydraulics.static import pressure_at
from hydrarch.core.joining.assembled import Part
from hydrarch.core.joining.choosing import join_meeting
from hydrarch.core.joining.meeting import Meeting
from hydrarch.core.joining.placing import Joined
from hydrarch.core.plan.document import Plan
from hydrarch.core.site.layout import Layout

__all__ = ["join_strong", "seen_by", "too_weak", "warmth_of"]

_MORE = 1
"""Joints more than the usual way takes, up to which a stronger one is taken without asking."""


def seen_by(plan: Plan, lay: Layout, pressures: Mapping[str, float], part: Part) -> float | None:
    """The gauge pressure (Pa) at rest of a part at a point, `pressures` those by point; None where none is known."""
    if part.point is None or part.point not in pressures:
        return None
    run = lay.run_of.get(part.end or "")
    if run is None:
        return pressures[part.point]
    whole = plan.run_by_id[run]
    own = pressure_at(plan, pressures, next(e for e in whole.ends if e.id == part.end), whole)
    return pressures[part.point] if own is None else own


def warmth_of(lay: Layout, part: Part) -> float:
    """The temperature (K) of the water in a part at a point: its run's, or the warmest that comes to the point."""
    run = lay.run_of.get(part.end or "")
    return lay.warmth(part.point or "") if run is None else lay.warm[run]


def too_weak(pressure: float, temperature: float) -> frozenset[str]:
    """The fittings (by id) that carry less than a gauge pressure (Pa) in water of a temperature (K).

    Pieces of pipe are not among them: they are cut from the line's own pipe, and carry what that does.
    """
    carry, _ = _by_strength(temperature)
    return _weakest(bisect_left(carry, pressure), temperature)


@remembered()
def _by_strength(temperature: float) -> tuple[tuple[float, ...], tuple[str, ...]]:
    """What fittings carry (Pa), the weakest first, and which they are."""
    rows = sorted((fitting_rating_at(f.id, temperature), f.id) for f in fittings().values() if f.material != "pipe")
    return tuple(r for r, _ in rows), tuple(name for _, name in rows)


@remembered()
def _weakest(many: int, temperature: float) -> frozenset[str]:
    return frozenset(_by_strength(temperature)[1][:many])


def join_strong(plan: Plan, lay: Layout, pressures: Mapping[str, float], meeting: Meeting) -> Joined:
    """Join what meets at a point; where that takes fittings that carry less than they see at rest, without those, if
    it can be done with hardly a joint more. Else it stays, and is told.
    """
    found = join_meeting(meeting)
    over = _over(plan, lay, pressures, found)
    if not over:
        return found
    weak = too_weak(max(seen for seen, _ in over), max(warm for _, warm in over))
    again = join_meeting(replace(meeting, weak=weak))
    stops = [sum(p.severity == "stop" for p in joined.problems) for joined in (found, again)]
    near = len(again.joints) <= len(found.joints) + _MORE and stops[1] <= stops[0]
    return again if near and len(_over(plan, lay, pressures, again)) < len(over) else found


def _over(plan: Plan, lay: Layout, pressures: Mapping[str, float], joined: Joined) -> list[tuple[float, float]]:
    """What each fitting that carries less than it sees does see (Pa), and its water's temperature (K)."""
    found = []
    for part in joined.parts:
        seen, warm = seen_by(plan, lay, pressures, part), warmth_of(lay, part)
        if seen is not None and fitting_rating_at(part.fitting, warm) < seen:
            found.append((seen, warm))
    return found
