"""The fixtures of a room at one press: their places on the wall, hot beside cold, each at its usual height."""

from __future__ import annotations

from collections.abc import Sequence
from math import hypot

from hydrarch.core.base.errors import HydrarchError
from hydrarch.core.catalogue.demand import fixture_load
from hydrarch.core.components.base import kind_named, kinds
from hydrarch.core.components.fixtures import Fixture
from hydrarch.core.editing.draft import Draft
from hydrarch.core.editing.groups import Edited, Way
from hydrarch.core.plan.document import MAX_POINTS, Plan

__all__ = ["BETWEEN_SIDES", "MOST_FIXTURES", "room_set"]

MOST_FIXTURES = 30
BETWEEN_SIDES = 0.15
"""m from the hot wall plate to the cold one: what wall-mounted mixers have, common practice."""


def room_set(plan: Plan, start: str, fixtures: Sequence[str], by: Way, hot: bool) -> Edited:
    """Set the wall plates of these kinds of fixtures down, the first `by` so much (m) from a point and each next as far
    from the last; with `hot` those that have it get a hot side before the cold one.

    Heights are over the ground, or the floor, of the point they begin at. Raises `HydrarchError` where there are none
    or too many, or they would stand on each other.
    """
    point = plan.by_id.get(start)
    if point is None:
        raise HydrarchError("the point it begins at is not on the drawing any more: choose another one")
    known = {k.name: k for k in kinds().values() if issubclass(k.model, Fixture)}
    strange = [f for f in fixtures if f not in known]
    if strange:
        raise HydrarchError(f"{strange[0]} is no fixture; there are {', '.join(k.title for k in known.values())}")
    if not 1 <= len(fixtures) <= MOST_FIXTURES or len(plan.points) + 2 * len(fixtures) > MAX_POINTS:
        raise HydrarchError(f"choose from 1 to {MOST_FIXTURES} fixtures")
    east, north, _ = by
    step = hypot(east, north)
    if step < 2 * BETWEEN_SIDES:
        raise HydrarchError(
            "say how far apart they stand along the wall, at least twice the width of a mixer: 0.8 m east"
        )
    draft, made = Draft(plan), list[str]()
    back = (BETWEEN_SIDES * east / step, BETWEEN_SIDES * north / step)
    for n, name in enumerate(fixtures, 1):
        kind = known[name]
        model = kind.model
        assert issubclass(model, Fixture)
        base = _free(draft, kind.title)
        for side in ("cold", "hot"):
            if side == "hot" and not (hot and "hot" in model.sides):
                continue
            off = back if side == "hot" else (0.0, 0.0)
            made.append(
                draft.add_point(
                    kind.letter,
                    x=round(point.x + east * n - off[0], 4),
                    y=round(point.y + north * n - off[1], 4),
                    ground=point.ground,
                    depth=-fixture_load(name).plate,
                    what=kind_named(name).start.model_dump(mode="json") | {"side": side},
                    name=f"{base} {side}" if hot and "hot" in model.sides else base,
                )
            )
    told = ", ".join(known[f].title.lower() for f in fixtures)
    return Edited(draft.plan(), tuple(made), f"{len(made)} wall plates set down: {told}. Draw the pipe to each.")


def _free(draft: Draft, title: str) -> str:
    """A fixture's name with the next number that neither it nor one of its sides has."""
    taken = {p["name"] for p in draft.body["points"]}
    number = 1
    while taken & {f"{title} {number}{side}" for side in ("", " cold", " hot")}:
        number += 1
    return f"{title} {number}"
