"""Where air gathers: the tops of humps that nothing lets out."""

from __future__ import annotations

from functools import singledispatch

from hydrarch.core.base.problems import Problem, declare
from hydrarch.core.base.units import show
from hydrarch.core.components.base import What
from hydrarch.core.components.devices import Vent
from hydrarch.core.plan.document import Plan
from hydrarch.core.site.layout import Layout

__all__ = ["air_problems", "lets_air_out"]

declare("size", "air-trap")

_HUMP = 0.3
"""m above both sides from which a hump is told; a lower one is swept out by the flush; from memory."""


@singledispatch
def lets_air_out(what: What) -> bool:
    """Whether air that gathers at a thing leaves by it."""
    return False


@lets_air_out.register
def _(what: Vent) -> bool:
    return True


def air_problems(plan: Plan, lay: Layout) -> tuple[Problem, ...]:
    """Points that stand higher than every neighbour and have no outlet or vent: air collects there and narrows the
    line.
    """
    levels = {p.id: p.level for p in plan.points}
    found = []
    for p in plan.points:
        lines = [lay.lines[r] for r in lay.at[p.id] if r in lay.lines]
        if len(lines) < 2 or p.kind.role in ("outlet", "source") or lets_air_out(p.what):
            continue
        over = min(p.level - levels[line.b if line.a == p.id else line.a] for line in lines)
        if over >= _HUMP:
            found.append(
                Problem(
                    code="air-trap",
                    severity="note",
                    where=p.id,
                    says=f"{p.label} stands {show(over, 'level', plan.units)} or more above all beside it: air "
                    "collects there.",
                    mend="Put a vent there, or lay the line so that it rises all the way to an outlet.",
                )
            )
    return tuple(found)
