"""What meets at a point: the legs that come to it, how the line turns there, and what the crew chose for it.

A `Place` is all that its fittings depend on, and nothing more: two equal places are joined alike, so an edit of a plan
joins again only the places it touches.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from hydrarch.core.catalogue.fittings import End, end, pipe_end
from hydrarch.core.catalogue.guidance import choose_practice
from hydrarch.core.catalogue.pipes import Pipe, pipe, series
from hydrarch.core.hydraulics.flow import riser_length, riser_pipe
from hydrarch.core.layout import Layout, turns_at
from hydrarch.core.plan import Outlet, Plan, Point, Tank
from hydrarch.core.units import System

__all__ = ["METALS", "RISER", "Leg", "Place", "places"]

RISER = "riser"
METALS = ("steel", "copper")


@dataclass(frozen=True, slots=True)
class Leg:
    """Something to be joined at a point: a run's pipe end, or the foot of a riser.

    `length` (m) is the run's, `beyond` whether water leaves by it, `drain` whether it is of a drain, `towards` the name of the point at its other end
    and `far_kind` the kind of the first point that way which is more than a bend.
    """

    key: str
    series: str
    size: str
    length: float
    beyond: bool
    towards: str
    far_kind: str
    drain: bool = False

    @property
    def pipe(self) -> Pipe:
        """Its pipe."""
        return pipe(self.series, self.size)

    @property
    def what(self) -> str:
        """It in words."""
        return f"threaded riser {self.size}" if self.key == RISER else f"{series(self.series).short} {self.size} pipe"

    @property
    def end(self) -> End:
        """The end it offers."""
        return end(f"npt:male:{self.size}") if self.key == RISER else pipe_end(self.series, self.size)

    @property
    def bore(self) -> float:
        """Its bore (m)."""
        return self.pipe.bore

    @property
    def metal(self) -> bool:
        """Whether a plastic female thread over it would split."""
        return self.key != RISER and series(self.series).material in METALS


@dataclass(frozen=True, slots=True)
class Place:
    """One point with all that decides its fittings. `kind` is the point's, or "foot_valve" where its pipe begins with one.

    `riser` is the upright pipe to its outlet, of no length where that sits on the line. `turns` (rad) are by pair of legs in their order, 0 straight on; `ways` and `hub` what the crew chose there, `stops` its
    own measured centre-to-stop distances (m) by fitting and port; `swing` is whether a head stands on a swing riser.
    """

    point: str
    name: str
    kind: str
    thread: str
    legs: tuple[Leg, ...]
    riser: Leg | None
    turns: tuple[tuple[str, str, float], ...]
    ways: tuple[tuple[str, tuple[str, ...]], ...]
    hub: tuple[str, tuple[str, ...]] | None
    stops: tuple[tuple[str, int, float], ...]
    saddles: bool
    swing: bool
    service: str
    units: System

    def turn(self, a: str, b: str) -> float:
        """The turn (rad) from one leg to another."""
        return next(t for one, two, t in self.turns if {one, two} == {a, b})


def places(plan: Plan, lay: Layout, pipes: dict[str, Pipe]) -> Iterator[Place]:
    """Every point that a run comes to, in the plan's order."""
    points, names, lines, drains = plan.by_id, plan.names, lay.lines, plan.drains
    ways: dict[str, tuple[tuple[str, tuple[str, ...]], ...]] = {}
    for c in plan.chosen:
        ways[c.point] = (*ways.get(c.point, ()), (c.run, c.fittings))
    hubs = {c.point: (c.how, c.fittings) for c in plan.hubs}
    stops = tuple((m.fitting, m.port, m.stop) for m in plan.measured)
    saddles, service = choose_practice(plan.practices, "branch") == "saddle", choose_practice(plan.practices, "service")
    swing = choose_practice(plan.practices, "riser") == "swing"
    for p in plan.points:
        here = p.id
        if not lay.at[here]:
            continue
        legs = []
        for run in lay.at[here]:
            line, item = lines[run], pipes[run]
            far = line.other(here)
            legs.append(Leg(
                run, item.series, item.size, line.length, _beyond(lay, here, far), names[far], _next_kind(points, lay, run, far), run in drains,
            ))  # fmt: skip
        legs.sort(key=lambda leg: (leg.beyond, leg.key))  # as the water comes and goes, not as the crew drew
        riser = None
        if isinstance(p.what, Outlet):
            item = riser_pipe(p)
            riser = Leg(RISER, item.series, item.size, riser_length(p), True, "the outlet", "")
        kind = "foot_valve" if isinstance(p.what, Tank) and p.what.intake == "foot valve" else p.what.kind
        yield Place(
            here, names[here], kind, getattr(p.what, "thread", ""), tuple(legs), riser, turns_at(lay, here), ways.get(here, ()),
            hubs.get(here), stops, saddles, swing and kind == "sprinkler", service, plan.units,
        )  # fmt: skip


def _next_kind(points: dict[str, Point], lay: Layout, run: str, far: str) -> str:
    """The kind of the first point beyond a run's far end that is more than a bend of the same line."""
    seen = {run}
    while points[far].what.kind in ("bend", "junction") and len(lay.at[far]) == 2:
        run = next((r for r in lay.at[far] if r not in seen), "")
        if not run:
            break
        seen.add(run)
        far = lay.lines[run].other(far)
    return points[far].what.kind


def _beyond(lay: Layout, here: str, far: str) -> bool:
    """Whether water that leaves a point by a run goes away from the source, or down the drain."""
    if here in lay.outfall and here not in lay.distance:
        return lay.outfall.get(far, 0.0) < lay.outfall[here]
    return lay.distance.get(far, 0.0) >= lay.distance.get(here, 0.0)
