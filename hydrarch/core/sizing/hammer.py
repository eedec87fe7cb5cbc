"""Water hammer in a plan: what the fastest closing valve or a tripping pump does to every run."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from math import ceil

from hydrarch.core.base.messages import tell
from hydrarch.core.base.problems import Problem, declare
from hydrarch.core.catalogue.pipes import Pipe, series
from hydrarch.core.components.sources import Lifter
from hydrarch.core.hydraulics.flow import Flow
from hydrarch.core.hydraulics.static import static_pressure
from hydrarch.core.hydraulics.surge import Surge, surge
from hydrarch.core.plan.document import Plan
from hydrarch.core.site.layout import Layout

__all__ = ["STILL", "Stopped", "all_surges", "closing_time", "hammer_problems", "size_surge"]

declare("size", "surge")

STILL = 1e-6  # m/s: below it nothing stops


def closing_time(plan: Plan) -> float:
    """How long (s) the fastest stop takes: the job's fastest valve, or at once where a pump may trip."""
    pumped = any(isinstance(p.what, Lifter) for p in plan.points)
    return 0.0 if pumped else plan.conditions.closing


def size_surge(
    plan: Plan, lay: Layout, run: str, item: Pipe, speed: float, rest: Mapping[str, float], closes: float
) -> Surge:
    """The surge in a run of that pipe when water of `speed` (m/s) stops there in `closes` (s); `rest` is the pressure
    (Pa) at rest by point.

    The water that stops is all that lies between the source and the run's far end.
    """
    line = lay.lines[run]
    working = max(rest.get(line.a, 0.0), rest.get(line.b, 0.0), 0.0)
    away = max(lay.distance.get(line.a, 0.0), lay.distance.get(line.b, 0.0), line.length)
    return surge(item, away, speed, working, lay.warm[run], closes)


def _fastest(run: str, flows: Mapping[str, Flow]) -> float:
    return max((f.runs[run].velocity for f in flows.values() if run in f.runs), default=0.0)


def all_surges(plan: Plan, lay: Layout, pipes: Mapping[str, Pipe], flows: Mapping[str, Flow]) -> dict[str, Surge]:
    """The surge in every run that water goes through, when it stops in its fastest scenario."""
    rest, closes = static_pressure(plan, lay), closing_time(plan)
    speeds = {run: _fastest(run, flows) for run in pipes}
    return {
        r: size_surge(plan, lay, r, pipes[r], v, rest, closes)
        for r, v in speeds.items()
        if v >= STILL and not lay.lines[r].coupled
    }


@dataclass(frozen=True, slots=True)
class Stopped:
    """What a sudden stop takes a run to, and what its pipe may see day after day (Pa)."""

    peak: float
    limit: float
    holds: bool


def hammer_problems(
    plan: Plan, lay: Layout, pipes: Mapping[str, Pipe], surges: Mapping[str, Surge]
) -> tuple[Problem, ...]:
    """The run of each series where a sudden stop goes furthest beyond what it may see day after day."""
    closes = closing_time(plan)
    worst: dict[str, tuple[float, str, Surge]] = {}
    for run, found in surges.items():
        name, over = pipes[run].series, found.peak / found.limit if found.limit > 0 else 0.0
        if over > 1 and over > worst.get(name, (0.0, "", found))[0] * (1 + 1e-9):  # of equals the first drawn
            worst[name] = over, run, found
    names = plan.names
    problems = []
    for name, (_, run, found) in worst.items():
        line, units = lay.lines[run], plan.units
        how = f"in {closes:g} s" if closes > 0 else "at once"
        slow = "Use a heavier class of pipe"
        if found.closing < 600:
            slow = f"Close valves over {max(ceil(found.closing * 10) / 10, 0.1):.1f} s or more"
        problems.append(
            tell(
                "surge/over" if found.peak > found.occasional else "surge",
                run,
                units,
                a=names[line.a],
                b=names[line.b],
                how=how,
                peak=found.peak,
                limit=found.limit,
                pipe=series(name).short,
                slow=slow,
            )
        )
    return tuple(problems)
