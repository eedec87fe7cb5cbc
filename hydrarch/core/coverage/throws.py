"""Heads that are pushed harder, or less, than the table of their nozzle knows."""

from __future__ import annotations

from collections.abc import Iterator, Mapping

from hydrarch.core.base.messages import Case, tell
from hydrarch.core.base.problems import Problem, declare
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
                yield tell("nozzle-unknown", name, nozzle=what.nozzle, head=label)
            elif not table.low * (1 - _SLACK) <= out.pressure <= table.high * (1 + _SLACK):
                told.add(name)
                high = out.pressure > table.high
                yield tell(
                    "nozzle-range/high" if high else "nozzle-range",
                    name,
                    plan.units,
                    scenario=Case(flow.scenario, flow.name),
                    head=label,
                    nozzle=table.name,
                    has=out.pressure,
                    low=table.low,
                    high=table.high,
                )
