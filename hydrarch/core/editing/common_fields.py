"""Several things given the same: depth or level, pipe, size, way of lying, wheels over it, and a practice of
their own.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence

from pydantic import Field

from hydrarch.core.base.errors import HydrarchError, Unknown
from hydrarch.core.base.units import show
from hydrarch.core.catalogue.guidance import practices
from hydrarch.core.components.base import Model
from hydrarch.core.editing.draft import Draft
from hydrarch.core.editing.groups import Edited, members, things
from hydrarch.core.plan.document import AT_A_PLACE, Plan, Situation

__all__ = ["GroupChange", "change_all"]


class GroupChange(Model):
    """What all of a group are given; None leaves a thing as each has it.

    `series` and `size` of "" leave them to Hydrarch again. `existing` is whether they are there already: what is known
    of each stays.

    `practice` is done the `way` of that name at all of them, "" as the rest of the job.
    """

    depth: float | None = Field(None, ge=-100, le=1500)
    level: float | None = Field(None, ge=-2000, le=9100)
    situation: Situation | None = None
    series: str | None = Field(None, max_length=80)
    size: str | None = Field(None, max_length=20)
    wheels: bool | None = None
    existing: bool | None = None
    practice: str | None = Field(None, max_length=40)
    way: str = Field("", max_length=40)


def change_all(plan: Plan, chosen: Iterable[str], change: GroupChange) -> Edited:
    """Give all of what is chosen the same: points a depth below ground or a level, runs their pipe, size, way of lying,
    or wheels over it; all of them whether they exist already.
    """
    points, runs = members(plan, chosen)
    if change.depth is not None and change.level is not None:
        raise HydrarchError("a depth below ground and a level are two things: give one of them")
    draft, told = Draft(plan), []
    for p in points:
        spot = draft.spots[p]
        if change.depth is not None:
            spot["depth"] = change.depth
        if change.level is not None:
            spot["depth"] = round(spot["ground"] - change.level, 6)
    if change.depth is not None:
        told.append(f"{things(points)} {show(change.depth, 'depth', plan.units)} below ground")
    if change.level is not None:
        told.append(f"{things(points)} at level {show(change.level, 'level', plan.units)}")
    pipe = {k: v or None for k in ("series", "size") if (v := getattr(change, k)) is not None}
    other = {k: v for k in ("situation", "wheels") if (v := getattr(change, k)) is not None}
    mine = set(runs)
    for r in draft.body["runs"]:
        if r["id"] in mine:
            r |= {**pipe, **other}
            if "series" in pipe and "size" not in pipe:
                r["size"] = None  # another pipe is made in other sizes
    if pipe or other:
        if not runs:
            raise HydrarchError("no pipe is chosen: choose both ends of it, or the pipe itself")
        told.append(f"{len(runs)} {'length' if len(runs) == 1 else 'lengths'} of pipe changed")
    if change.existing is not None:
        for thing in (*(draft.spots[p] for p in points), *(r for r in draft.body["runs"] if r["id"] in mine)):
            thing["existing"] = (thing["existing"] or {"known": ""}) if change.existing else None
        pipes = f"{len(runs)} {'length' if len(runs) == 1 else 'lengths'} of pipe"
        told.append(f"{things(points)} and {pipes} {'there already' if change.existing else 'new'}")
    if change.practice is not None:
        told.append(_practised(draft, points, change.practice, change.way))
    if not told:
        raise HydrarchError("say what they are to be given")
    return Edited(draft.plan(), tuple(points), f"{' and '.join(told)}.")


def _practised(draft: Draft, points: Sequence[str], question: str, way: str) -> str:
    """Have a practice done another way at some points than in the rest of the job, or as there again; what was done, in
    words.
    """
    asked = practices().get(question) if question in AT_A_PLACE else None
    if asked is None:
        raise Unknown("practice at a place", question, AT_A_PLACE)
    if way and way not in {o.option for o in asked.options}:
        raise Unknown(f"way of {asked.title.lower()}", way, [o.option for o in asked.options])
    for p in points:
        own = draft.spots[p]["practices"]
        own.pop(question, None)
        if way:
            own[question] = way
    says = next((o.says for o in asked.options if o.option == way), "as in the rest of the job")
    return f"{asked.title.lower()} at {things(points)}: {says}"
