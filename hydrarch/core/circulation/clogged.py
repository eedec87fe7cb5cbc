"""What a filter that is due for cleaning does to what hangs on it: what had enough with a clean one may not have it
then.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from math import floor

from hydrarch.core.base.messages import tell
from hydrarch.core.base.problems import Problem, declare
from hydrarch.core.base.units import show
from hydrarch.core.building.together import all_scenarios
from hydrarch.core.catalogue.pipes import Pipe
from hydrarch.core.circulation.bodies import comes_in
from hydrarch.core.components.basins import Heater
from hydrarch.core.components.devices import Filter
from hydrarch.core.hydraulics.flow import Flow, FlowModel
from hydrarch.core.plan.document import Plan
from hydrarch.core.site.layout import Layout

__all__ = ["clogged_problems"]

declare("size", "filter-due")

_MATTERS = 0.9
"""The share of the pressure it wants below which an outlet is told to lack it: a twentieth less water; estimate."""


def clogged_problems(
    plan: Plan, lay: Layout, pipes: Mapping[str, Pipe], minor: Mapping[str, float], flows: Mapping[str, Flow]
) -> Iterator[Problem]:
    """Of each filter the outlet and the heater that are worst off when it is due for cleaning, where a clean one lets
    enough through: every scenario is solved once more with all filters of the plan as they are then.
    """
    clean = [p for p in plan.of_kind(Filter) if isinstance(p.what, Filter) and p.what.dirt < 1]
    if not clean:
        return
    due = {p.id: p.model_copy(update={"what": p.what.model_copy(update={"dirt": 1.0})}) for p in clean}
    dirty = plan.model_copy(update={"points": tuple(due.get(p.id, p) for p in plan.points)})
    told = set[str]()
    for scenario in all_scenarios(plan):
        before = flows.get(scenario.id)
        if before is None or not before.runs:
            continue
        after = FlowModel(dirty, lay, scenario).solve(pipes, minor)
        if not after.runs:
            continue
        for point in clean:
            system = next((s for s in lay.systems.found if point.id in s.points), None)
            if system is None or point.id in told:
                continue
            says = _outlets(plan, set(system.points), before, after) or (
                _heater(dirty, set(system.points), before, after) if system.sort == "circulation" else ""
            )
            if says:
                told.add(point.id)
                yield tell("filter-due", point.id, plan.units, scenario=scenario, filter=point.label, what=says)


def _outlets(plan: Plan, here: set[str], before: Flow, after: Flow) -> str:
    """What the worst of the outlets that had enough gets then; "" where all have enough."""
    few = (o for o in after.outlets.values() if o.point in here and o.pressure < _MATTERS * o.needs)
    short = [o for o in few if not before.outlets[o.point].short]
    if not short:
        return ""
    worst = min(short, key=lambda o: (o.margin, o.point))
    share = floor(max(worst.pressure, 0.0) / worst.needs * 100)
    more = f", and {len(short) - 1} more have too little" if len(short) > 1 else ""
    return f"{plan.names[worst.point]} gets {share}% of the pressure it needs{more}"


def _heater(plan: Plan, here: set[str], before: Flow, after: Flow) -> str:
    """The heater through which less goes then than it wants; "" where enough does."""
    for point in plan.of_kind(Heater):
        if point.id in here and isinstance(point.what, Heater):
            was, now = (abs(comes_in(plan, f, point)) for f in (before, after))
            if now < point.what.least <= was:
                have, want = (show(q, "flow", plan.units) for q in (now, point.what.least))
                return f"{point.label} gets {have}; it needs {want}"
    return ""
