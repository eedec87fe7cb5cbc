"""Water hammer in a plan: what the fastest closing valve or a tripping pump does to every run."""

from __future__ import annotations

from collections.abc import Mapping

from hydrarch.core.catalogue.pipes import Pipe, series
from hydrarch.core.hydraulics.flow import Flow, static_pressure
from hydrarch.core.hydraulics.surge import Surge, surge
from hydrarch.core.layout import Layout, label
from hydrarch.core.plan import Plan
from hydrarch.core.problems import Problem
from hydrarch.core.units import show

__all__ = ["hammer_problems", "run_surge"]


def run_surge(plan: Plan, lay: Layout, run: str, item: Pipe, flows: Mapping[str, Flow]) -> Surge | None:
    """The surge in a run when its water stops at once: length from the source, its fastest scenario, pressure at rest.

    None where no water goes through it.
    """
    line = lay.lines[run]
    fastest = max((f.runs[run].velocity for f in flows.values() if run in f.runs), default=0.0)
    if fastest < 1e-6:
        return None
    rest = static_pressure(plan, lay)
    working = max(rest.get(line.a, 0.0), rest.get(line.b, 0.0), 0.0)
    away = max(lay.distance.get(line.a, 0.0), lay.distance.get(line.b, 0.0), line.length)
    return surge(item, away, fastest, working, plan.conditions.water_temperature)


def hammer_problems(plan: Plan, lay: Layout, pipes: Mapping[str, Pipe], flows: Mapping[str, Flow]) -> tuple[Problem, ...]:
    """The run of each pipe where a sudden stop goes furthest beyond what its series may see day after day."""
    rest = static_pressure(plan, lay)
    weather = plan.conditions.water_temperature
    worst: dict[str, tuple[float, str, Surge]] = {}
    for run, item in pipes.items():
        line = lay.lines[run]
        if line.a not in rest:
            continue
        fastest = max((f.runs[run].velocity for f in flows.values() if run in f.runs), default=0.0)
        if fastest < 1e-6:
            continue
        away = max(lay.distance.get(line.a, 0.0), lay.distance.get(line.b, 0.0), line.length)
        found = surge(item, away, fastest, max(rest[line.a], rest[line.b], 0.0), weather)
        over = found.peak / found.limit if found.limit > 0 else 0.0
        if over > 1 and over > worst.get(item.series, (0.0, "", found))[0]:
            worst[item.series] = over, run, found
    names = {p.id: label(p) for p in plan.points}
    problems = []
    for name, (_, run, found) in worst.items():
        line, units = lay.lines[run], plan.units
        peak, limit = (show(p, "pressure", units) for p in (found.peak, found.limit))
        slow = f"Close valves over {found.closing:.1f} s or more" if found.closing < 600 else "Take a heavier series"
        problems.append(Problem(
            "surge", "warn" if found.peak > found.occasional else "note", run,
            f"Stopped at once, the water from {names[line.a]} to {names[line.b]} goes to {peak}; {series(name).short} may see {limit} day after day.",
            f"{slow}, or put a vessel or a slow valve on the line.",
        ))  # fmt: skip
    return tuple(problems)
