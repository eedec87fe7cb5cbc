"""The air of a tub: a system of its own, from a blower over a loop above the water and a check valve to the jets.

Air is taken as it is at one atmosphere; what little it is pressed is left out.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass

from hydrarch.core.base.graph import Edge, Graph
from hydrarch.core.base.messages import tell
from hydrarch.core.base.problems import Problem, declare
from hydrarch.core.base.units import FOOT, show
from hydrarch.core.catalogue.pipes import Pipe
from hydrarch.core.components.basins import Blower, Jet
from hydrarch.core.components.devices import CheckValve
from hydrarch.core.hydraulics.friction import head_loss_darcy_weisbach, velocity
from hydrarch.core.hydraulics.round_flow import AIR_SPEED, air_carried
from hydrarch.core.plan.document import Plan, Run
from hydrarch.core.site.layout import Layout
from hydrarch.core.site.systems import System

__all__ = ["AirSide", "air_side_problems", "air_sides", "blown_problems"]

declare("survey", "air-low", "air-no-check", holds=True)
declare("survey", "air-unfed")
declare("size", "air-short")

_ABOVE = FOOT
"""m above the water that the blower's line rises to before it falls: a foot; common practice, the blower's maker wins.
"""
_DENSE, _THICK = 1.20, 1.81e-5  # kg/m³ and Pa·s of air at 20 °C: handbook values
_WATER = 998.0


def _aired(plan: Plan, lay: Layout) -> Iterator[tuple[System, list[str], list[str]]]:
    """Each system of air with its blowers and its jets."""
    for system in lay.systems.found:
        if system.sort == "air":
            blowers = [p for p in system.points if isinstance(plan.by_id[p].what, Blower)]
            yield system, blowers, [p for p in system.points if isinstance(plan.by_id[p].what, Jet)]


def _water(plan: Plan, jet: str) -> float:
    what = plan.by_id[jet].what
    assert isinstance(what, Jet)
    return plan.by_id[jet].level if what.water_level is None else what.water_level


def air_side_problems(plan: Plan, lay: Layout) -> Iterator[Problem]:
    """Air lines by which water comes back to the blower."""
    for system, blowers, jets in _aired(plan, lay):
        if not jets:
            continue
        if not blowers:
            yield tell("air-unfed", min(jets), jet=plan.names[min(jets)])
            continue
        water = max(_water(plan, j) for j in jets)
        under = {p for p in system.points if lay.places[p][2] < water + _ABOVE - 1e-9}
        low = _reached(plan, system, blowers, jets, under.__contains__, one_way=False)
        if low is not None:
            blower, top = plan.by_id[low], _highest_on_the_way(plan, lay, system, low, jets)
            yield tell(
                "air-low" if top >= water else "air-low/under",
                blower.id,
                plan.units,
                blower=blower.label,
                height=abs(top - water),
                least=_ABOVE,
            )
        back = _reached(plan, system, blowers, jets, lambda _: True, one_way=True)
        if back is not None:
            blower = plan.by_id[back]
            turned = any(isinstance(plan.by_id[p].what, CheckValve) for p in system.points)
            yield tell("air-no-check/turned" if turned else "air-no-check", blower.id, blower=blower.label)


def _reached(
    plan: Plan, system: System, blowers: list[str], jets: list[str], open_: Callable[[str], bool], one_way: bool
) -> str | None:
    """The first blower that water from a jet comes to, over points that are `open_` to it; None where it comes to none.

    With `one_way`, a check valve lets it pass from its inlet to its outlet alone; else it passes every one, as one that
    leaks does.
    """
    at: dict[str, list[Run]] = {}
    for run in (plan.run_by_id[r] for r in system.runs):
        for end in run.ends:
            at.setdefault(end.point, []).append(run)
    seen: set[tuple[str, str]] = set()
    todo = [(jet, "") for jet in jets]
    while todo:
        here, port = todo.pop()
        if (here, port) in seen:
            continue
        seen.add((here, port))
        if here in blowers and open_(here):
            return here
        point = plan.by_id[here]
        if here not in jets and not open_(here):
            continue
        for run in at.get(here, ()):
            mine, far = (run.a, run.b) if run.a.point == here else (run.b, run.a)
            if one_way and point.kind.one_way and port == "out" and plan.port_name(mine) != "out":
                continue  # come to from its outlet: it is shut
            todo.append((far.point, plan.port_name(far) if plan.by_id[far.point].kind.one_way else ""))
    return None


def _highest_on_the_way(plan: Plan, lay: Layout, system: System, blower: str, jets: list[str]) -> float:
    """The level (m) that water must rise to before it comes to a blower, by the lowest way there."""
    level = {p: lay.places[p][2] for p in system.points}
    for top in sorted(set(level.values())):
        if _reached(plan, system, [blower], jets, {p for p in level if level[p] <= top}.__contains__, one_way=False):
            return top
    return max(level.values())


@dataclass(frozen=True, slots=True)
class AirSide:
    """The air of a tub: what its jets take and what comes (m³/s), the head of water (m) it is blown against, and the
    line for it.
    """

    system: str
    wanted: float
    comes: float
    against: float
    says: str


def air_sides(plan: Plan, lay: Layout, pipes: Mapping[str, Pipe]) -> tuple[AirSide, ...]:
    """What every blower gives against the water over its deepest jet and what the pipe loses on the way there."""
    carried = air_carried(plan, lay)
    found = []
    for system, blowers, jets in _aired(plan, lay):
        if not blowers or not jets:
            continue
        graph = Graph[str](Edge(r, lay.lines[r].a, lay.lines[r].b, lay.lines[r].length) for r in system.runs)
        reach = graph.from_nodes(blowers)
        wanted = sum(w.air for j in jets if isinstance(w := plan.by_id[j].what, Jet))
        against = 0.0
        for jet in jets:
            lost = sum(
                float(
                    head_loss_darcy_weisbach(
                        carried.get(r, 0.0), lay.lines[r].length, pipes[r].bore, 1.5e-6, _DENSE, _THICK
                    )
                )
                for r in reach.way(jet)
                if r in pipes and carried.get(r, 0.0) > 0 and not lay.lines[r].coupled
            )
            against = max(against, _water(plan, jet) - plan.by_id[jet].level + lost * _DENSE / _WATER)
        comes = 0.0
        for name in blowers:
            what = plan.by_id[name].what
            assert isinstance(what, Blower)
            comes += max(what.flow * (1 - against / what.most), 0.0)
        fast = max(
            (float(velocity(carried[r], pipes[r].bore)) for r in system.runs if carried.get(r) and r in pipes),
            default=0.0,
        )
        says = (
            f"{len(jets)} jets take {show(wanted, 'air', plan.units)} of air; against "
            f"{show(against, 'cut', plan.units)} of water "
            f"{' and '.join(plan.names[b] for b in blowers)} gives {show(comes, 'air', plan.units)}, "
            f"{show(fast, 'velocity', plan.units)} at the fastest."
        )
        found.append(AirSide(system.id, wanted, comes, against, says))
    return tuple(found)


def blown_problems(plan: Plan, lay: Layout, pipes: Mapping[str, Pipe]) -> Iterator[Problem]:
    """Blowers that are too weak, and lines of air that are too thin for it."""
    carried = air_carried(plan, lay)
    for side in air_sides(plan, lay, pipes):
        system = next(s for s in lay.systems.found if s.id == side.system)
        blower = next(p for p in system.points if isinstance(plan.by_id[p].what, Blower))
        thin = [
            r
            for r in system.runs
            if r in pipes and float(velocity(carried.get(r, 0.0), pipes[r].bore)) > AIR_SPEED * 1.02
        ]
        if side.comes < side.wanted * 0.999:
            yield tell("air-short", blower, blower=plan.names[blower], why=side.says)
        elif thin:
            yield tell("air-short/fast", thin[0], plan.units, limit=AIR_SPEED)
