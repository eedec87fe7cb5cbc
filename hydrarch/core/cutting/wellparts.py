"""What goes down a well beside its pipe."""

from __future__ import annotations

from math import ceil

from hydrarch.core.base.units import show
from hydrarch.core.components.sources import WellPump
from hydrarch.core.cutting.billrow import BillRow
from hydrarch.core.plan.document import Plan

__all__ = ["beside_strings"]

_SPARE_DOWN = 3.0
"""m of cable and rope beyond the pump's depth, for the head of the well and a new splice; estimate."""
_TIED = 3.0
"""m between the ties that hold cable and rope to the pipe; from memory."""


def beside_strings(plan: Plan) -> list[BillRow]:
    """What goes down a well beside its pipe: cable, rope and the ties, for each pump that is new."""
    rows = []
    for p in plan.of_kind(WellPump):
        if p.existing is not None or p.depth <= 0:
            continue
        long = show(p.depth + _SPARE_DOWN, "length", plan.units)
        rows += [
            BillRow(
                group="equipment",
                item=f"well {item}",
                name=name,
                count=count,
                unit=unit,
                detail=f"for {p.label}: {detail}",
            )
            for item, name, count, unit, detail in (
                (
                    "cable",
                    "Submersible pump cable",
                    1,
                    "length",
                    f"{long}; cores and size by the pump maker's table and a licensed electrician",
                ),
                (
                    "rope",
                    "Safety rope that does not rot",
                    1,
                    "length",
                    f"{long}; rated for the pump, its pipe and water",
                ),
                (
                    "ties",
                    "Ties for cable and rope",
                    ceil(p.depth / _TIED),
                    "",
                    f"one every {show(_TIED, 'length', plan.units)} of pipe",
                ),
            )
        ]
    return rows
