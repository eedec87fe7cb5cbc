"""Where air gathers: the tops of humps that nothing lets out."""

from __future__ import annotations

from collections.abc import Iterable
from functools import singledispatch

from hydrarch.core.base.messages import tell
from hydrarch.core.base.problems import Problem, declare
from hydrarch.core.components.base import What
from hydrarch.core.components.devices import Pump, Vent
from hydrarch.core.hydraulics.flow import Flow
from hydrarch.core.hydraulics.static import suction_runs
from hydrarch.core.plan.document import Plan
from hydrarch.core.site.layout import Layout

__all__ = ["air_problems", "lets_air_out"]

declare("size", "air-trap", "vent-breaks")
declare("size", "vent-sucks", holds=True)

_HUMP = 0.3
"""m above both sides from which a hump is told; a lower one is swept out by the flush; from memory."""


@singledispatch
def lets_air_out(what: What) -> bool:
    """Whether air that gathers at a thing leaves by it."""
    return False


@lets_air_out.register
def _(what: Vent) -> bool:
    return True


def air_problems(plan: Plan, lay: Layout, flows: Iterable[Flow] = ()) -> tuple[Problem, ...]:
    """Points that stand higher than every neighbour and have no outlet or vent: air collects there and narrows the
    line.

    A vent opens where the pressure is above the air's; where a pump draws or a siphon runs it would let air in, so
    none is put there, and one that stands there is told.
    """
    levels = {p.id: p.level for p in plan.points}
    sucked = {e.point for r in suction_runs(plan, lay) for e in plan.run_by_id[r].ends}
    sucked |= {name for flow in flows for name, at in flow.points.items() if at.pressure < 0}
    # in what a pump lifts out of a pit or a washer it is there to let air in
    breaks = {p for s in lay.systems.found if s.sort == "pumped drain" for p in s.points}
    found = []
    for p in plan.points:
        lines = [lay.lines[r] for r in lay.at[p.id] if r in lay.lines]
        if lets_air_out(p.what) and p.id in sucked and lines:
            found.append(tell("vent-breaks" if p.id in breaks else "vent-sucks", p.id, place=p.label))
        if len(lines) < 2 or p.kind.role in ("outlet", "source") or lets_air_out(p.what) or isinstance(p.what, Pump):
            continue
        over = min(p.level - levels[line.b if line.a == p.id else line.a] for line in lines)
        if over >= _HUMP:
            found.append(
                tell("air-trap/suction" if p.id in sucked else "air-trap", p.id, plan.units, place=p.label, over=over)
            )
    return tuple(found)
