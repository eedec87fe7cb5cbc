"""What pressure does to joints that only push together: how hard it drives them apart, and what has to hold them."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from math import pi

from hydrarch.core.base.messages import tell
from hydrarch.core.base.problems import Problem, declare
from hydrarch.core.catalogue.fittings import end
from hydrarch.core.catalogue.methods import methods_where
from hydrarch.core.commissioning.sections import Section
from hydrarch.core.joining.assembled import Assembly
from hydrarch.core.joining.stacks import slips_off
from hydrarch.core.plan.document import Plan

__all__ = ["FIRM", "thrust", "thrust_problems"]

declare("join", "thrust")

FIRM = 100e3
"""Pa that firm undisturbed ground bears behind a block: about 2,000 lb/ft², handbook value for sand and stiff clay,
from memory."""


def thrust(pressure: float, diameter: float) -> float:
    """Force (N) that `pressure` (Pa) puts on a dead end of outside `diameter` (m): p π D² / 4.

    A bend of 90° sees 1.41 times that.

    >>> round(thrust(1e6, 0.1))
    7854
    """
    return pressure * pi * diameter**2 / 4


def thrust_problems(plan: Plan, assembly: Assembly, parts: Iterable[Section]) -> Iterator[Problem]:
    """A `Problem` at every place with a joint that water under the section's test, or a main's own pressure, would
    drive apart, with the force and the block.
    """
    if not any(j.method in methods_where("grips", False) for j in assembly.joints):
        return
    tests = {j: max(s.test, s.working) for s in parts if s.sort == "pressure" or s.live for j in s.joints}
    worst: dict[str, tuple[float, str]] = {}
    for joint in assembly.joints:
        a, b = end(joint.a.end), end(joint.b.end)
        where = joint.point or joint.run or ""
        if joint.id in tests and slips_off(a, b):
            force = thrust(tests[joint.id], min(a.diameter, b.diameter))  # water presses on what the seal closes round
            worst[where] = max(worst.get(where, (0.0, "")), (force, joint.place))
    for where, (force, place) in worst.items():
        yield tell("thrust", where, plan.units, place=place, weight=force / 9.80665, side=(force / FIRM) ** 0.5)
