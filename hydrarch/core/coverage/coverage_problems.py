"""All that is told about water on the ground, in one place: of the drawing, and of what flows."""

from __future__ import annotations

from collections.abc import Mapping

from hydrarch.core.base.problems import Problem
from hydrarch.core.catalogue.pipes import Pipe
from hydrarch.core.coverage.driphead import driphead_problems
from hydrarch.core.coverage.emission import Emission, emission_problems, tubing_problems
from hydrarch.core.coverage.landing import Coverage, coverage_problems
from hydrarch.core.coverage.lowhead import lowhead_problems
from hydrarch.core.coverage.schedule import station_problems
from hydrarch.core.coverage.throws import nozzle_problems
from hydrarch.core.coverage.wire import Wire, wire_problems
from hydrarch.core.hydraulics.flow import Flow
from hydrarch.core.plan.document import Plan
from hydrarch.core.site.layout import Layout

__all__ = ["drawn_problems", "flowing_problems"]


def drawn_problems(plan: Plan, lay: Layout, found: Wire | None) -> tuple[Problem, ...]:
    """Drip whose head or tubing is not as it should be, zones that are not, wire that is too long."""
    return (
        *driphead_problems(plan, lay),
        *tubing_problems(plan, lay),
        *station_problems(plan),
        *wire_problems(plan, found),
    )


def flowing_problems(
    plan: Plan,
    lay: Layout,
    pipes: Mapping[str, Pipe],
    flows: Mapping[str, Flow],
    watered: dict[str, Coverage],
    dripped: Mapping[str, Mapping[str, Emission]],
) -> tuple[Problem, ...]:
    """Where water lands wrong, rows that are uneven, heads outside of their nozzle's table or below their pipe."""
    return (
        *coverage_problems(watered),
        *emission_problems(plan, lay, dripped),
        *nozzle_problems(plan, flows),
        *lowhead_problems(plan, lay, pipes),
    )
