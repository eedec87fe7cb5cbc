"""The smallest size a run may have for what it is joined to: jets, whose own ends say it, existing pipe, from which it
goes on, and a pit's pump, whose outlet leads its riser.
"""

from __future__ import annotations

from typing import Literal

from hydrarch.core.base.units import INCH, nominal_diameter, size_value
from hydrarch.core.catalogue.fittings import end
from hydrarch.core.catalogue.guidance import choose_practice
from hydrarch.core.catalogue.pipes import Pipe, pipe, series
from hydrarch.core.circulation.pits import riser_of
from hydrarch.core.components.drains import Sump
from hydrarch.core.hydraulics.round_flow import jets_on
from hydrarch.core.plan.document import Plan
from hydrarch.core.site.layout import Layout
from hydrarch.core.site.systems import repair_pieces

__all__ = ["Least"]


class Least:
    """What a plan's runs are joined to that says how small they may be."""

    def __init__(self, plan: Plan, lay: Layout) -> None:
        self._names, self._jets, self._met = plan.names, jets_on(plan, lay), _goes_on(plan, lay)
        self._line, self._outlets = _repaired(plan, lay), _risers(plan, lay)

    def place(self, run: str, sizes: tuple[Pipe, ...]) -> int:
        """The place among some sizes of the smallest that a run may have: that of the smallest jet it leads to, or of
        what it goes on from.
        """
        jets, met = {size for _, size in self._jets.get(run, ())}, self._met.get(run, ())
        of_jets = min((n for n, p in enumerate(sizes) if p.size in jets), default=0)
        old = self._line.get(run)
        wide = 0 if old is None else next((n for n, p in enumerate(sizes) if _no_narrower(p, old)), len(sizes) - 1)
        outlet = self._outlets.get(run, "")
        as_outlet = next((n for n, p in enumerate(sizes) if _as_wide(p, outlet)), len(sizes) - 1) if outlet else 0
        return max((of_jets, wide, as_outlet, *(n for n, p in enumerate(sizes) if (p.series, p.size) in met)))

    def why(self, runs: tuple[str, ...], item: Pipe) -> tuple[Literal["jet", "met"], str] | None:
        """Why runs that are sized as one are no smaller than a pipe, in a word and in words; None where it is for none
        of this.
        """
        jet = min((j for r in runs for j, size in self._jets.get(r, ()) if size == item.size), default="")
        if jet:
            return "jet", f"{self._names[jet]} takes {item.size} itself"
        if any((item.series, item.size) in self._met.get(r, ()) for r in runs):
            return "met", f"it goes on from {item.size} that exists already"
        outlet = next((self._outlets[r] for r in runs if r in self._outlets), "")
        if outlet and nominal_diameter(item.size) == nominal_diameter(outlet):
            return "met", f"no narrower than the pump's outlet, {outlet}"
        old = next((self._line[r] for r in runs if r in self._line), None)
        if old is not None:
            return "met", f"it repairs {series(old.series).short} {old.size}, and is no narrower"
        return None


def _repaired(plan: Plan, lay: Layout) -> dict[str, Pipe]:
    """For each new run between two existing ones the wider of those, where what is laid is of another series."""
    found = dict[str, Pipe]()
    for runs, *both in repair_pieces(plan):
        pipes = [pipe(lay.systems.series_of(plan, r), r.size) for r in both if r.size is not None]
        if pipes:
            found |= dict.fromkeys(runs, max(pipes, key=lambda p: p.bore))
    return found


def _risers(plan: Plan, lay: Layout) -> dict[str, str]:
    """The size of its pump's outlet for each run of a pit's riser, unless the crew lets that be computed."""
    found = dict[str, str]()
    if choose_practice(plan.practices, "pit_riser") != "outlet":
        return found
    for pump in plan.of_kind(Sump):
        name = plan.end_at(pump, next(p for p in pump.kind.ports_of(pump.what) if p.name == "out"))
        if name is not None:
            found |= dict.fromkeys(riser_of(plan, lay, pump.id)[0], end(name).size)
    return found


def _as_wide(item: Pipe, outlet: str) -> bool:
    """Whether pipe is as wide as an outlet of that size, by what both are called; by bore where one has no such size."""
    here, there = nominal_diameter(item.size), nominal_diameter(outlet)
    return here >= there if here and there else item.bore >= 0.9 * size_value(outlet) * INCH


def _no_narrower(item: Pipe, old: Pipe) -> bool:
    """Whether pipe is no narrower than the line it repairs: by what both are called, or within a tenth of its bore."""
    here, there = nominal_diameter(item.size), nominal_diameter(old.size)
    return bool(here and there and here >= there) or item.bore >= 0.9 * old.bore


def _goes_on(plan: Plan, lay: Layout) -> dict[str, tuple[tuple[str, str], ...]]:
    """For each new run that goes on from existing pipe, with no branch between: the makes and sizes of that.

    A repair is not smaller than its line (common practice).
    """
    found: dict[str, tuple[tuple[str, str], ...]] = {}
    for old in plan.runs:
        if old.existing is None or old.size is None:
            continue
        met = (lay.systems.series_of(plan, old), old.size)
        for side in old.ends:
            run, here = old.id, side.point
            while len(lay.at[here]) == 2 and plan.by_id[here].kind.role not in ("source", "outlet", "end"):
                run = next(r for r in lay.at[here] if r != run)
                if plan.run_by_id[run].existing is not None or met in found.get(run, ()):
                    break
                found[run] = (*found.get(run, ()), met)
                here = lay.lines[run].other(here)
    return found
