"""All there is to tell of water that goes round in a plan, in one piece: its bodies, jets, air, what runs back, and
what is wrong.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from hydrarch.core.base.problems import Problem
from hydrarch.core.catalogue.pipes import Pipe
from hydrarch.core.circulation.airside import AirSide, air_sides, blown_problems
from hydrarch.core.circulation.bodies import BodyOfWater, bodies_of_water
from hydrarch.core.circulation.manifold import Manifold, manifolds
from hydrarch.core.circulation.overflow import Overflowing, RunsBack, overflowing, runs_back
from hydrarch.core.circulation.pits import Pit, pits
from hydrarch.core.circulation.round_problems import Jets, flowing_rounds, jets_of
from hydrarch.core.components.basins import Basin
from hydrarch.core.hydraulics.flow import Flow
from hydrarch.core.plan.document import Plan
from hydrarch.core.site.layout import Layout

__all__ = ["NO_ROUNDS", "Rounds", "rounds"]


@dataclass(frozen=True, slots=True)
class Rounds:
    """Bodies of water, jets, air, what runs back when pumps stop, pumps that feed several ways, and pits; empty where
    there is none of it.
    """

    bodies: tuple[BodyOfWater, ...]
    jets: tuple[Jets, ...]
    air: tuple[AirSide, ...]
    back: tuple[RunsBack, ...]
    drains: tuple[Overflowing, ...]
    manifolds: tuple[Manifold, ...]
    pits: tuple[Pit, ...]
    problems: tuple[Problem, ...]


NO_ROUNDS = Rounds(bodies=(), jets=(), air=(), back=(), drains=(), manifolds=(), pits=(), problems=())


def rounds(
    plan: Plan, lay: Layout, pipes: Mapping[str, Pipe], minor: Mapping[str, float], flows: Mapping[str, Flow]
) -> Rounds:
    """Work it out, flows by scenario; `minor` is the sum of loss coefficients K of each run."""
    lifted, wrong = pits(plan, lay, pipes, minor, flows)
    told = (*flowing_rounds(plan, lay, pipes, flows), *blown_problems(plan, lay, pipes), *wrong)
    if not any(isinstance(p.what, Basin) for p in plan.points):
        return Rounds(bodies=(), jets=(), air=(), back=(), drains=(), manifolds=(), pits=lifted, problems=told)
    return Rounds(
        bodies=bodies_of_water(plan, lay, flows),
        jets=jets_of(plan, lay, flows),
        air=air_sides(plan, lay, pipes),
        back=runs_back(plan, lay, pipes, flows),
        drains=overflowing(plan, lay, flows),
        manifolds=manifolds(plan, lay, flows),
        pits=lifted,
        problems=told,
    )
