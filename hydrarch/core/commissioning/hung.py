"""A well's string under a test from above: what it reaches, and what the water over it adds."""

from __future__ import annotations

from collections.abc import Iterable, Mapping

from hydrarch.core.catalogue.pipes import HUNG
from hydrarch.core.components.devices import CheckValve
from hydrarch.core.hydraulics.water import water
from hydrarch.core.joining.assembled import Assembly, Joint
from hydrarch.core.plan.document import Plan, Point
from hydrarch.core.site.layout import Layout

__all__ = ["below_the_check", "down_the_well", "on_its_string", "string_check"]


def string_check(plan: Plan, lay: Layout, runs: Iterable[str], sunk: Iterable[Point]) -> dict[str, str]:
    """The runs of a well's string from its pump up to the highest check valve on it, each with that valve: a test from
    above ends there.
    """
    hung = [plan.run_by_id[r] for r in runs if plan.run_by_id[r].situation == HUNG]
    found: dict[str, str] = {}
    for pump in sunk:
        string, left = {pump.id}, [pump.id]
        while left:
            here = left.pop()
            new = {p for r in hung if here in r.points for p in r.points} - string
            string |= new
            left += new
        valves = [p for p in string if isinstance(plan.by_id[p].what, CheckValve)]
        if valves:
            top = max(valves, key=lambda p: (lay.places[p][2], p))
            level = lay.places[top][2]
            under = (
                r for r in hung if string.issuperset(r.points) and all(lay.places[p][2] <= level for p in r.points)
            )
            found |= dict.fromkeys((r.id for r in under), top)
    return found


def below_the_check(
    plan: Plan, assembly: Assembly, lay: Layout, joints: Iterable[str], ends_at: Mapping[str, str]
) -> tuple[str, ...]:
    """The joints of a section from the check valve of a well's string down to its pump."""
    under = {p for r in ends_at for p in plan.run_by_id[r].points} - set(ends_at.values())

    def is_below(joint: Joint) -> bool:
        return joint.point in under or (joint.run or lay.run_of.get(joint.end or "", "")) in ends_at

    return tuple(j for j in joints if is_below(assembly.named[j]))


def on_its_string(plan: Plan, pump: Point, ends_at: Mapping[str, str]) -> str:
    """What is done with a well's pump for a test: it stays where it hangs."""
    valves = [plan.by_id[v].label for r, v in ends_at.items() if pump.id in plan.run_by_id[r].points]
    end = valves[0] if valves else "the check valve on it"
    return f"leave {pump.label} on its string: the test goes down to {end}"


def down_the_well(plan: Plan, lay: Layout, runs: tuple[str, ...], spots: Iterable[str]) -> dict[str, float]:
    """What the water over them adds (Pa) at a section's points that hang in a well, below the highest of the well's."""
    hung = [r for r in runs if plan.run_by_id[r].situation == HUNG]
    if not hung:
        return {}
    top = max(lay.places[p][2] for r in hung for p in plan.run_by_id[r].points)
    weight = water(plan.conditions.water_temperature).weight
    mine = (p for p in spots if all(r in hung for r in lay.at[p] if r in runs))
    return {p: (top - lay.places[p][2]) * weight for p in mine if lay.places[p][2] < top}
