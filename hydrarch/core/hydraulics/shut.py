"""What a tap or hydrant that is shut would give if it were opened too, in each scenario."""

from __future__ import annotations

from collections.abc import Mapping

from hydrarch.core.building.together import all_scenarios
from hydrarch.core.catalogue.pipes import Pipe
from hydrarch.core.components.fixtures import Fixture
from hydrarch.core.components.outlets import Hydrant, Tap
from hydrarch.core.hydraulics.flow import FlowModel, OutletFlow
from hydrarch.core.plan.document import Plan, Scenario
from hydrarch.core.site.layout import Layout

__all__ = ["would_give"]

_MOST = 60
"""Solves at the most; beyond them no more is foretold."""


def would_give(
    plan: Plan, lay: Layout, pipes: Mapping[str, Pipe], minor: Mapping[str, float], flows: Mapping[str, object]
) -> dict[str, dict[str, OutletFlow]]:
    """By scenario and by what is shut in it, how it would stand opened beside all that is open: each solved anew, one
    at a time.
    """
    mine = [p.id for p in plan.of_kind(Hydrant, Tap, Fixture) if p.id in lay.fed]
    found: dict[str, dict[str, OutletFlow]] = {}
    count = 0
    for s in all_scenarios(plan):
        for name in mine:
            if name in s.open or s.id not in flows or count >= _MOST:
                continue
            count += 1
            also = FlowModel(plan, lay, Scenario(id=s.id, name=s.name, open=(*s.open, name))).solve(pipes, minor)
            if name in also.outlets:
                found.setdefault(s.id, {})[name] = also.outlets[name]
    return found
