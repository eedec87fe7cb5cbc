"""The smallest size that keeps the velocity limit and leaves every outlet its pressure, in every scenario.

Sizes follow the flows until velocities hold, then grow until pressures hold (`search`); then each is tried one size
down (`shrinking`). So the answer is minimal run by run, and the limit that forbids the next size down is the reason for
each.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Mapping
from dataclasses import dataclass, replace

from hydrarch.core.base.graph import Edge, Graph
from hydrarch.core.base.messages import Case, tell
from hydrarch.core.base.problems import Problem, declare
from hydrarch.core.base.progress import Late, never
from hydrarch.core.catalogue.pipes import Pipe, pipe, series
from hydrarch.core.hydraulics.drain_flow import DrainRun, drain_runs
from hydrarch.core.hydraulics.flow import Flow, FlowModel, models
from hydrarch.core.hydraulics.static import rating_problems
from hydrarch.core.plan.document import Plan, Run
from hydrarch.core.site.layout import Layout
from hydrarch.core.sizing.search import FEW, Search, Trials
from hydrarch.core.sizing.shrinking import Reason, Why, shrink

__all__ = ["Choice", "Picked", "Sizes", "choose_sizes", "pick_sizes", "size_options", "solve_all"]

declare("size", "too-fast", holds=True)


@dataclass(frozen=True, slots=True)
class Choice:
    """Why a run has its size. `limit` says which limit forbids the next size down, in words in `says`."""

    run: str
    series: str
    size: str
    limit: Reason
    says: str
    scenario: str | None = None


@dataclass(frozen=True, slots=True)
class Sizes:
    """The pipe of every run, the flows that follow, and what could not be met."""

    choices: dict[str, Choice]
    flows: dict[str, Flow]
    problems: tuple[Problem, ...]

    def pipes(self) -> dict[str, Pipe]:
        """The pipe of every run."""
        return {c.run: pipe(c.series, c.size) for c in self.choices.values()}

    def fastest(self) -> dict[str, float]:
        """How fast (m/s) water runs in each run in the scenario that sends most through it."""
        found: dict[str, float] = {}
        for flow in self.flows.values():
            for run, state in flow.runs.items():
                found[run] = max(found.get(run, 0.0), abs(state.velocity))
        return found

    def through(self) -> dict[str, dict[str, float]]:
        """The flow (m³/s) of every run in every scenario."""
        return {s: {r: f.flow for r, f in flow.runs.items()} for s, flow in self.flows.items()}


class Picked:
    """Sizes that hold, before their flows are told in full: what `choose_sizes` goes through while fittings still
    change.

    Where `firm`, none is made smaller than it stands, and the reasons are looked for when they are asked for.
    """

    def __init__(self, search: Search, trials: Trials, firm: bool = False) -> None:
        self._search = search
        self._hopeless = search.beyond_any_pipe(trials)
        if not self._hopeless:
            trials = search.grow_for_pressure(trials)
        self._trials, self._why = trials, None
        if not firm:
            self._trials, self._why = shrink(search, trials, firm)

    @property
    def many(self) -> bool:
        """Whether there are so many sizes to choose that each round counts."""
        return len(self._search.reaches) > FEW

    def pipes(self) -> dict[str, Pipe]:
        """The pipe of every run."""
        return self._search.pipes()

    def again(self, minor: dict[str, float], firm: bool) -> Picked:
        """Sizes that hold with other losses, beginning at these; where `firm`, none becomes smaller, so that it comes
        to an end.
        """
        search = self._search.with_losses(minor)
        return Picked(search, search.grow_for_velocity(search.solve()), firm)

    def sizes(self) -> Sizes:
        """All about them."""
        search, plan = self._search, self._search.plan
        if self._why is None:
            self._trials, self._why = shrink(search, self._trials, firm=True)
        flows = {s: t.flow() for s, t in self._trials.items()}
        choices, pipes = {}, search.pipes()
        fast = _velocity_problems(search, flows)
        too_fast = {p.where for p in fast}
        for run in plan.runs:
            item = pipes[run.id]
            drain = search.drains.get(run.id)
            usual = Why("drain", drain.says) if drain else _only(search, run, item)
            reason, says, scenario = self._why.get(run.id, usual)
            if reason == "smallest" and run.id in too_fast:
                says = f"the smallest {series(item.series).short} made carries what its outlets ask for; more runs here"
            choices[run.id] = Choice(run.id, item.series, item.size, reason, says, scenario)
        problems = [*fast, *rating_problems(plan, search.lay, pipes), *self._hopeless]
        for flow in flows.values():
            problems += flow.problems
        return Sizes(choices, {s: replace(f, problems=()) for s, f in flows.items()}, tuple(problems))


def pick_sizes(
    plan: Plan,
    lay: Layout,
    minor: dict[str, float],
    ready: tuple[FlowModel, ...],
    drains: Mapping[str, DrainRun],
    late: Late = never,
) -> Picked:
    """As `choose_sizes`, with the scenarios made `ready` and the `drains` sized.

    Raises `TookTooLong` once it is `late`.

    Without `minor`, many sizes are only made large enough: what is too large is seen when fittings are known.
    """
    search = Search(plan, lay, minor, ready, drains, late)
    return Picked(search, search.start(), firm=not minor and len(search.reaches) > FEW)


def choose_sizes(plan: Plan, lay: Layout, minor: dict[str, float]) -> Sizes:
    """Give every run its pipe: fixed ones are checked, the others get the smallest size that holds.

    `minor` is the sum of loss coefficients K of each run. What cannot be met is a `Problem` with the run or outlet.
    """
    return pick_sizes(plan, lay, minor, models(plan, lay), drain_runs(plan, lay)).sizes()


def size_options(plan: Plan, lay: Layout) -> dict[str, tuple[Pipe, ...]]:
    """The sizes open to every run: its fixed one, or those of its series that stand the pressure at shut-off."""
    return Search(plan, lay, {}, (), drain_runs(plan, lay)).options


def solve_all(plan: Plan, lay: Layout, pipes: dict[str, Pipe], minor: dict[str, float]) -> dict[str, Flow]:
    """Every scenario solved with the same pipes."""
    return {m.scenario.id: m.solve(pipes, minor) for m in models(plan, lay)}


def _only(search: Search, run: Run, item: Pipe) -> Why:
    """Why a run has the one size it may have: the crew's, or the only one that carries what it sees at rest, if any
    does.
    """
    if run.size is not None:
        return Why("fixed", "chosen by the crew")
    short = series(item.series).short
    if (told := search.least.why((run.id,), item)) and search.stands(run, item):
        return Why(*told)
    if search.stands(run, item):
        return Why("rating", f"the only size of {short} that carries what it sees at rest")
    return Why("rating", f"no size of {short} carries what it sees at rest; the strongest was taken")


def _against_speed(search: Search, run: Run) -> str:
    """What helps a run that is too fast."""
    if run.size:
        return "Use a larger pipe."
    now, open_ = search.pipes()[run.id], search.options[run.id]
    if now != open_[-1]:
        return "More flows here than its outlets need, and it is sized by what they need: throttle it, or set a larger size."
    if now.size != series(now.series).sizes[-1].size:
        return "No larger size of this series carries the pressure there: use another series, or split the flow."
    return "No larger size of this series is made: use another series, or split the flow."


_READ = 1.01
"""How far a velocity is beyond its limit before it is told: less is not read off a chart (common practice)."""


def _velocity_problems(search: Search, flows: dict[str, Flow]) -> list[Problem]:
    """Runs that are too fast; of a stretch with the same water the first stands for the rest."""
    names = search.plan.names
    found: dict[str, Problem] = {}
    alike: dict[tuple[str, str], list[Edge[str]]] = defaultdict(list)
    for run in search.plan.runs:
        carrying = [f for f in flows.values() if run.id in f.runs]
        top = max(carrying, key=lambda f: f.runs[run.id].velocity, default=None)
        if top is None or top.runs[run.id].velocity <= search.limit * _READ:
            continue
        found[run.id] = tell(
            "too-fast",
            run.id,
            search.plan.units,
            scenario=Case(top.scenario, top.name),
            speed=top.runs[run.id].velocity,
            limit=search.limit,
            a=names[run.a.point],
            b=names[run.b.point],
            way=_against_speed(search, run),
        )
        alike[top.scenario, f"{top.runs[run.id].velocity:.3g}"].append(Edge(run.id, *run.points))
    for edges in (e for e in alike.values() if len(e) > 1):
        for _, stretch in Graph(edges).parts():
            first, *rest = sorted((e.name for e in stretch), key=list(found).index)
            found |= {r: replace(found[r], follows=found[first].key) for r in rest}
    return list(found.values())
