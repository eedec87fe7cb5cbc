"""Heads given a nozzle: what they pass, throw and need by its table; and heads that are pushed outside of it."""

from __future__ import annotations

from collections.abc import Sequence

from hydrarch.core.base.errors import HydrarchError, Unknown
from hydrarch.core.base.units import show
from hydrarch.core.catalogue.nozzles import generic_nozzles, nozzle_of
from hydrarch.core.components.outlets import Sprinkler
from hydrarch.core.editing.draft import Draft
from hydrarch.core.editing.groups import Edited
from hydrarch.core.plan.document import Plan

__all__ = ["nozzled"]


def nozzled(plan: Plan, chosen: Sequence[str], name: str) -> Edited:
    """Give the chosen heads a nozzle of the generic set or the job's own; raises `HydrarchError` where no head is
    chosen.

    Flow and exponent are the law's that fits its table, throw that at its middle pressure, what it needs the least
    pressure it knows; its arc is taken where it has one.
    """
    table = nozzle_of(name, plan.nozzles)
    if table is None:
        raise Unknown("nozzle", name, [*(n.name for n in plan.nozzles), *generic_nozzles()])
    want = set(chosen)
    heads = [p.id for p in plan.points if p.id in want and isinstance(p.what, Sprinkler)]
    if not heads:
        raise HydrarchError("no sprinkler is chosen: choose the heads that get the nozzle")
    flow, at, exponent = table.law()
    draft = Draft(plan)
    for head in heads:
        draft.spots[head]["what"] |= {
            "flow": flow,
            "at_pressure": at,
            "exponent": exponent,
            "needs": table.low,
            "radius": table.throw(at),
            "nozzle": table.name,
        }
        if table.arc is not None:
            draft.spots[head]["what"]["arc"] = table.arc
    units = plan.units
    count = "1 head has" if len(heads) == 1 else f"{len(heads)} heads have"
    says = (
        f"{count} nozzle {table.name}: {show(flow, 'flow', units)} and "
        f"{show(table.throw(at), 'length', units)} of throw at {show(at, 'pressure', units)}, "
        f"from {show(table.low, 'pressure', units)} to {show(table.high, 'pressure', units)}."
    )
    return Edited(draft.plan(), tuple(heads), says)
