"""The small working drawing a kind of job begins with, to be changed: a source, a line and what it goes to, so that
every stage answers at once.
"""

from __future__ import annotations

from collections.abc import Callable
from importlib.resources import files

from hydrarch.core.catalogue.beginnings import Beginning, beginnings
from hydrarch.core.editing.draft import Draft
from hydrarch.core.editing.drip_head import drip_head
from hydrarch.core.editing.groups import set_down
from hydrarch.core.editing.measures import read_measures
from hydrarch.core.measuring.drawn_line import draw_measures
from hydrarch.core.plan.document import Plan
from hydrarch.core.wells.droppipe import Duty, drop_pipes
from hydrarch.core.wells.hole import Hole
from hydrarch.core.wells.laid import lay_well

__all__ = ["begun"]

_HOLE = Hole(depth=50.0, casing=0.15, static=12.0, pump=40.0, test_flow=8e-4, test_drawdown=8.0)
"""A middling domestic well, to be put right; invented."""
_FLOW, _PRESSURE = 5e-4, 300e3
"""What the house is taken to draw (m³/s) at what pressure at the well head (Pa), to be put right; estimate."""


def begun(plan: Plan) -> Plan:
    """A plan with the small drawing of its kind of job drawn into it; as it is where that kind has none, or something
    is drawn already. Its figures are to be put right: it shows how such a line is drawn.
    """
    row = beginnings().get(plan.about)
    if row is None or plan.points:
        return plan
    return _SPECIAL.get(row.about, _by_words)(plan, row)


def _by_words(plan: Plan, row: Beginning) -> Plan:
    return draw_measures(plan, "", read_measures(row.drawn)).plan if row.drawn else plan


def _drip(plan: Plan, row: Beginning) -> Plan:
    """A hose tap with the head of a drip line behind it, and a row at the end of the tubing."""
    tap = draw_measures(plan, "", read_measures("mains called Hose tap"))
    head = drip_head(tap.plan, tap.end)
    return draw_measures(head.plan, head.chosen[-1], read_measures(row.drawn)).plan


def _well(plan: Plan, row: Beginning) -> Plan:
    """A well as the bench lays it, and a tap on its main to the vessel."""
    duty = Duty(flow=_FLOW, pressure=_PRESSURE, units=plan.units, market=plan.conditions.market)
    laid = lay_well(plan, _HOLE, duty, drop_pipes(_HOLE, duty))
    draft = Draft(laid)
    tee = draft.split(laid.runs[-1].id, 0.5, "J", {"kind": "junction"}, name="House")
    return draw_measures(draft.plan(), tee, read_measures(row.drawn)).plan


def _part(plan: Plan, row: Beginning) -> Plan:
    """Bodies of water with all that is let into their walls, which words do not draw: a part that lies in a file, set
    down.
    """
    text = files(__package__ or "").joinpath("data", f"{row.drawn}.json").read_text("utf-8")
    return set_down(plan, Plan.model_validate_json(text), 0.0, 0.0).plan


_SPECIAL: dict[str, Callable[[Plan, Beginning], Plan]] = {
    "drip": _drip,
    "well": _well,
    "pond": _part,
    "tub": _part,
    "tank": _part,
}
