"""A ring of jets round a tub at one press: the jets in its wall, a tee behind each, a ring of pipe that joins them, and
one of air above it.
"""

from __future__ import annotations

from hydrarch.core.base.errors import HydrarchError
from hydrarch.core.base.units import show
from hydrarch.core.catalogue.pipes import series
from hydrarch.core.circulation.settling import all_round, outside
from hydrarch.core.components.base import kind_named
from hydrarch.core.components.basins import Basin
from hydrarch.core.editing.draft import Draft
from hydrarch.core.editing.groups import Edited
from hydrarch.core.plan.basin_shapes import shape_of
from hydrarch.core.plan.document import Plan

__all__ = ["MOST_JETS", "jet_ring"]

MOST_JETS = 24
_BEHIND, _AIR_UP, _DRY = 0.3, 0.2, 0.05
"""m that the ring lies outside of the wall, that the air's ring lies above the water's, and above the surface at the
least, so that it does not stand full of water: estimates, from memory."""


def jet_ring(plan: Plan, basin: str, jets: int, below: float, small: bool, air: bool) -> Edited:
    """Set so many jets evenly round a body of water, `below` (m) its water, and join them to a ring; with `air` a ring
    of air besides.

    Each ring has a tee to lead its pipe to. Raises `HydrarchError` where it is no body of water, or there is no room
    for them.
    """
    point = plan.by_id.get(basin)
    if point is None or not isinstance(point.what, Basin):
        raise HydrarchError("choose the tub, pond or tank that gets the jets")
    shape = shape_of(point)
    if shape.crosses:
        raise HydrarchError(f"correct the outline of {point.label} first: it crosses itself")
    surface = shape.rim - point.what.below_rim
    level = surface - below
    if not 2 <= jets <= MOST_JETS:
        raise HydrarchError(f"a ring has from 2 to {MOST_JETS} jets")
    if not shape.bottom < level < shape.rim:
        deep = show(surface - shape.bottom, "length", plan.units)
        raise HydrarchError(f"the water of {point.label} is {deep} deep: let the jets in higher than its floor")
    draft, ground = Draft(plan), point.ground
    kind = "small_jet" if small else "jet"
    soft = "pvc-flex" if series(plan.conditions.series).material == "pvc" else None  # rigid pipe follows no ring
    spots = all_round(shape, jets)
    made = []
    for x, y in spots:
        new = draft.add_point(
            "JT",
            x=_tidy(x),
            y=_tidy(y),
            ground=ground,
            depth=_tidy(ground - level),
            what=kind_named(kind).start.model_dump(mode="json"),
        )
        made.append(new)
    feeds = [_ring(draft, shape_of(point), spots, made, ground, level, "water", soft)]
    if air:
        feeds.append(
            _ring(draft, shape_of(point), spots, made, ground, max(level + _AIR_UP, surface + _DRY), "air", soft)
        )
    for feed, name in zip(feeds, ("Water ring", "Air ring"), strict=False):
        draft.spots[feed]["name"] = name if all(p.name != name for p in plan.points) else ""
    says = (
        f"{jets} jets round {point.label}, {show(below, 'cut', plan.units)} below its water, on a "
        f"ring{' of water and one of air' if air else ''}: lead the pipe to its tee."
    )
    return Edited(draft.plan(), (*made, feeds[0]), says)


def _ring(
    draft: Draft,
    shape: object,
    spots: list[tuple[float, float]],
    jets: list[str],
    ground: float,
    level: float,
    port: str,
    soft: str | None,
) -> str:
    """A tee behind each jet, the tee the ring is fed by, and the pipe between; gives the feeding tee."""
    tees = []
    for x, y in spots:
        u, v = outside(shape, x, y, _BEHIND)  # type: ignore[arg-type]
        tees.append(
            draft.add_point(
                "J", x=_tidy(u), y=_tidy(v), ground=ground, depth=_tidy(ground - level), what={"kind": "junction"}
            )
        )
    (a, b), (c, d) = ((draft.spots[t]["x"], draft.spots[t]["y"]) for t in (tees[-1], tees[0]))
    feed = draft.add_point(
        "J",
        x=_tidy((a + c) / 2),
        y=_tidy((b + d) / 2),
        ground=ground,
        depth=_tidy(ground - level),
        what={"kind": "junction"},
    )
    for one, two in zip([feed, *tees], [*tees, feed], strict=True):
        _pipe(draft, one, two, soft)
    for tee, jet in zip(tees, jets, strict=True):
        _pipe(draft, tee, jet, soft)["b"]["port"] = port
    return feed


def _pipe(draft: Draft, a: str, b: str, soft: str | None) -> dict[str, dict[str, str]]:
    name = draft.add_run(a, b)
    body: dict[str, dict[str, str]] = next(r for r in reversed(draft.body["runs"]) if r["id"] == name)
    body |= {"series": soft, "size": None, "situation": "on surface", "measured_length": None}  # type: ignore[dict-item]
    return body


def _tidy(number: float) -> float:
    return round(number, 4)
