"""Heads that are pushed harder, or less, than the table of their nozzle knows."""

from __future__ import annotations

from collections.abc import Iterator, Mapping

from hydrarch.core.base.problems import Problem, declare
from hydrarch.core.base.units import show
from hydrarch.core.catalogue.nozzles import nozzle_of
from hydrarch.core.components.outlets import Sprinkler
from hydrarch.core.hydraulics.flow import Flow
from hydrarch.core.plan.document import Plan

__all__ = ["nozzle_problems"]

declare("size", "nozzle-range", "nozzle-unknown")

_SLACK = 0.01


def nozzle_problems(plan: Plan, flows: Mapping[str, Flow]) -> Iterator[Problem]:
    """Each head once: a nozzle whose table is not in the job, or a pressure that its table does not go to."""
    told: set[str] = set()
    for flow in flows.values():
        for name, out in flow.outlets.items():
            what = plan.by_id[name].what
            if not isinstance(what, Sprinkler) or not what.nozzle or name in told or out.pressure <= 0:
                continue
            table, label = nozzle_of(what.nozzle, plan.nozzles), plan.names[name]
            if table is None:
                told.add(name)
                yield Problem(
                    code="nozzle-unknown",
                    severity="note",
                    where=name,
                    says=f"The table of nozzle {what.nozzle} at {label} is not in this job: its throw is reckoned "
                    "by rule.",
                    mend="Read its table in again, or give the head another nozzle.",
                )
            elif not table.low * (1 - _SLACK) <= out.pressure <= table.high * (1 + _SLACK):
                told.add(name)
                high, units = out.pressure > table.high, plan.units
                yield Problem(
                    code="nozzle-range",
                    severity="warn",
                    where=name,
                    says=f"{flow.name}: {label} has {show(out.pressure, 'pressure', units)}, "
                    f"{'above' if high else 'below'} the {show(table.low, 'pressure', units)} to "
                    f"{show(table.high, 'pressure', units)} that the table of {table.name} goes to: "
                    f"{'it mists' if high else 'it falls short'}.",
                    mend="Hold the pressure lower before it, or take a smaller nozzle."
                    if high
                    else "Bring more pressure to it: larger pipe, fewer at once, a smaller nozzle.",
                    scenario=flow.scenario,
                )
