"""Short pieces of pipe that join fitting to fitting: which pipe each is cut from, and what it carries."""

from __future__ import annotations

from collections.abc import Iterator, Mapping

from hydrarch.core.catalogue.fittings import fitting
from hydrarch.core.catalogue.pipes import Pipe, rating_at, series, series_list
from hydrarch.core.catalogue.ratings import fitting_rating_at
from hydrarch.core.joining.assembled import Assembly, Part
from hydrarch.core.plan.document import Plan
from hydrarch.core.site.layout import Layout

__all__ = ["cut_from", "part_rating", "short_pieces"]


def short_pieces(assembly: Assembly) -> Iterator[Part]:
    """The parts that are pieces of pipe."""
    return (p for p in assembly.parts if fitting(p.fitting).material == "pipe")


def cut_from(plan: Plan, lay: Layout, pipes: Mapping[str, Pipe], part: Part) -> Pipe | None:
    """The pipe a short piece is cut from: of the make of its own line where that is made in its size, or of another
    line's, or the job's.

    Else it is of any that is made so; None where none is, and for what is no piece of pipe.
    """
    if fitting(part.fitting).material != "pipe":
        return None
    end = fitting(part.fitting).ports[0].end
    kind = f"{end.system}:{end.gender}"
    for name in dict.fromkeys(_makes(plan, lay, pipes, part)):
        family = series(name)
        if kind in family.ends and (family.stick or family.coil):
            for item in family.sizes:
                if item.size == end.size:
                    return item
    return None


def _makes(plan: Plan, lay: Layout, pipes: Mapping[str, Pipe], part: Part) -> Iterator[str]:
    """The makes of pipe a piece may be cut from, the likeliest first."""
    own = lay.run_of.get(part.end or "", "")
    yield from (
        pipes[r].series for r in ([own] if own in pipes else sorted(lay.at.get(part.point or "", ()))) if r in pipes
    )
    yield from sorted({p.series for p in pipes.values()})
    yield plan.conditions.series
    yield from (s.id for s in series_list())


def part_rating(plan: Plan, lay: Layout, pipes: Mapping[str, Pipe], part: Part, temperature: float) -> float:
    """What a part carries (Pa) in water of a temperature (K): a piece of pipe as the pipe it is cut from."""
    item = cut_from(plan, lay, pipes, part)
    return fitting_rating_at(part.fitting, temperature) if item is None else rating_at(item, temperature)
