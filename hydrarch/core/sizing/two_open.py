"""Every two fixtures of a house open together, by themselves: whether upstairs and downstairs each have what they need.

What is expected to run together sizes the pipe; this shows what people notice, a shower that weakens when a tap opens.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from itertools import combinations

from hydrarch.core.base.progress import Report, unheard
from hydrarch.core.catalogue.pipes import Pipe
from hydrarch.core.components.fixtures import Fixture
from hydrarch.core.hydraulics.flow import ENOUGH, FlowModel
from hydrarch.core.plan.document import Plan, Scenario
from hydrarch.core.site.layout import Layout

__all__ = ["MOST_PAIRS", "PairsOpen", "TwoOpen", "two_open"]

MOST_PAIRS = 400
"""Solves at the most: 28 sides of fixtures. It is said how many pairs there are beyond them."""


@dataclass(frozen=True, slots=True)
class TwoOpen:
    """Two outlets open together: what each has over what it needs (Pa), how much the first loses when the second opens
    beside it, and the second by the first (Pa), and whether either is short.
    """

    one: str
    two: str
    margins: tuple[float, float]
    drops: tuple[float, float]
    short: bool


@dataclass(frozen=True, slots=True)
class PairsOpen:
    """Every pair, the worst placed first; how many of them are short, and how many pairs were left out."""

    pairs: tuple[TwoOpen, ...]
    short: int
    left_out: int


def two_open(
    plan: Plan, lay: Layout, pipes: Mapping[str, Pipe], minor: Mapping[str, float], report: Report = unheard
) -> PairsOpen:
    """Each fixture by itself, then every two of them, solved with these pipes and the loss coefficients K of each run.

    A pair that does not settle is left out, and counted there.
    """
    mine = [p.id for p in plan.of_kind(Fixture) if p.id in lay.fed]
    alone: dict[str, float] = {}
    for name in mine:
        outlets = _solved(plan, lay, pipes, minor, (name,))
        if name in outlets:
            alone[name] = outlets[name]
    every = list(combinations(mine, 2))
    found, unsettled = list[TwoOpen](), 0
    report(f"{len(every[:MOST_PAIRS])} pairs of fixtures")
    for one, two in every[:MOST_PAIRS]:
        outlets = _solved(plan, lay, pipes, minor, (one, two))
        if one not in alone or two not in alone or len(outlets) < 2:
            unsettled += 1
            continue
        margins = (outlets[one], outlets[two])
        drops = (max(alone[one] - outlets[one], 0.0), max(alone[two] - outlets[two], 0.0))
        found.append(TwoOpen(one, two, margins, drops, min(margins) < -ENOUGH))
    found.sort(key=lambda x: min(x.margins))
    return PairsOpen(tuple(found), sum(x.short for x in found), unsettled + len(every[MOST_PAIRS:]))


def _solved(
    plan: Plan, lay: Layout, pipes: Mapping[str, Pipe], minor: Mapping[str, float], opened: tuple[str, ...]
) -> dict[str, float]:
    """What each has over what it needs (Pa), of those that are open alone."""
    scenario = Scenario(id="two", name="Two open", open=opened)
    flow = FlowModel(plan, lay, scenario).solve(pipes, minor)
    return {name: o.margin for name, o in flow.outlets.items()}
