"""The smallest size that keeps the velocity limit and leaves every outlet its pressure, in every scenario.

Sizes first follow the flows down until velocities just hold, then grow until pressures hold (the steepest losses on the
way to the worst outlet first), then every run is tried one size down. So the answer is minimal run by run, and the limit that
forbids the next size down is the reason for each.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Literal

from hydrarch.core.catalogue.pipes import Pipe, pipe, pressure_rating, series
from hydrarch.core.hydraulics.flow import Flow, rating_problems, solve, static_pressure
from hydrarch.core.hydraulics.friction import velocity
from hydrarch.core.layout import Layout, label, path_between
from hydrarch.core.plan import Outlet, Plan
from hydrarch.core.problems import Problem
from hydrarch.core.units import show

__all__ = ["Choice", "Sizes", "choose_sizes", "solve_all"]

_ROUNDS_DOWN = 6
_SURE = 1.15  # a size this far over the velocity limit at today's flow needs no trial
_NEARLY = 0.8  # runs this near the steepest are enlarged with it

Reason = Literal["fixed", "velocity", "pressure", "rating", "smallest", "largest", "no flow"]


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


class _Search:
    def __init__(self, plan: Plan, lay: Layout, minor: dict[str, float]) -> None:
        self.plan, self.lay, self.minor = plan, lay, minor
        self.limit = plan.conditions.max_velocity
        self.static = static_pressure(plan, lay)
        self.options: dict[str, tuple[Pipe, ...]] = {r.id: self._options(r.id) for r in plan.runs}
        self.at = dict.fromkeys(self.options, 0)
        self.free = [r.id for r in plan.runs if len(self.options[r.id]) > 1]
        self.reach = self._reaches()

    def _options(self, run_id: str) -> tuple[Pipe, ...]:
        run = next(r for r in self.plan.runs if r.id == run_id)
        family = series(self.plan.series_of(run))
        if run.size is not None:
            return (pipe(family.id, run.size),)
        worst = max(self.static.get(run.a, 0.0), self.static.get(run.b, 0.0))
        strong = tuple(s for s in family.sizes if pressure_rating(s, self.plan.conditions.water_temperature) >= worst)
        return strong or family.sizes[:1]

    def _reaches(self) -> dict[str, tuple[str, ...]]:
        """Free runs of one series joined end to end, with no branch or outlet between, are sized as one."""
        reach = {r: [r] for r in self.free}
        for p in self.plan.points:
            pair = [r for r in self.lay.at[p.id] if r in reach]
            if len(pair) != 2 or len(self.lay.at[p.id]) != 2 or isinstance(p.what, Outlet):
                continue
            one, two = reach[pair[0]], reach[pair[1]]
            if one is not two and self.options[pair[0]] == self.options[pair[1]]:
                one += two
                for r in two:
                    reach[r] = one
        return {r: tuple(sorted(mine)) for r, mine in reach.items()}

    def _step(self, run: str, by: int) -> None:
        for r in self.reach[run]:
            self.at[r] += by

    def pipes(self) -> dict[str, Pipe]:
        return {r: self.options[r][i] for r, i in self.at.items()}

    def solve(self) -> dict[str, Flow]:
        return solve_all(self.plan, self.lay, self.pipes(), self.minor)

    def start_by_velocity(self) -> dict[str, Flow]:
        """Sizes by velocity, from above: flows through the largest pipes are the most there can be; follow them down."""
        self.at = {r: len(o) - 1 for r, o in self.options.items()}
        flows = self.solve()
        for _ in range(_ROUNDS_DOWN):
            before = dict(self.at)
            for run in self.free:
                wanted = max(self._smallest_slow(r, flows) for r in self.reach[run])
                for r in self.reach[run]:
                    self.at[r] = min(self.at[r], wanted)
            if self.at == before:
                break
            flows = self.solve()
        return self.grow_for_velocity(flows)

    def start_from(self, answer: Sizes) -> dict[str, Flow]:
        """Begin at an earlier answer's sizes, enlarged where they are too fast now."""
        for run, choice in answer.choices.items():
            sizes = [p.size for p in self.options[run]]
            self.at[run] = sizes.index(choice.size) if choice.size in sizes else 0
        return self.grow_for_velocity(self.solve())

    def _smallest_slow(self, run: str, flows: dict[str, Flow]) -> int:
        last = len(self.options[run]) - 1
        return next((i for i in range(last) if not self._too_fast(run, flows, i)), last)

    def grow_for_velocity(self, flows: dict[str, Flow]) -> dict[str, Flow]:
        """Enlarge every free run that is too fast, until none is or none can be."""
        while True:
            fast = [r for r in self.free if self._too_fast(r, flows, self.at[r]) and self.at[r] + 1 < len(self.options[r])]
            if not fast:
                return flows
            for r in fast:
                while self._too_fast(r, flows, self.at[r]) and self.at[r] + 1 < len(self.options[r]):
                    self._step(r, 1)
            flows = self.solve()

    def _too_fast(self, run: str, flows: dict[str, Flow], index: int) -> bool:
        bore = self.options[run][index].bore
        return any(
            float(velocity(abs(f.runs[run].flow), bore)) > self.limit * (1 + 1e-9) for f in flows.values() if run in f.runs
        )

    def grow_for_pressure(self, flows: dict[str, Flow]) -> dict[str, Flow]:
        """Enlarge the steepest runs on the way to the worst outlet until every outlet has its pressure."""
        while (short := self._shortest(flows)) is not None:
            scenario, outlet = short
            way = self._way_to(outlet)
            can = [r for r in way if self.at[r] + 1 < len(self.options[r]) and r in flows[scenario].runs]
            if not can:
                return flows
            slope = {r: flows[scenario].runs[r].loss / self.lay.lines[r].length for r in can}
            steep = max(slope.values()) * _NEARLY
            for reach in {self.reach[r] for r in can if slope[r] >= steep}:
                self._step(reach[0], 1)
            flows = self.grow_for_velocity(self.solve())
        return flows

    def beyond_any_pipe(self, flows: dict[str, Flow]) -> list[Problem]:
        """The outlets that would be short even with the largest pipe everywhere: more pipe is no answer there."""
        if not self.free or self._shortest(flows) is None:
            return []
        kept, self.at = self.at, {r: len(o) - 1 for r, o in self.options.items()}
        largest, self.at = self.solve(), kept
        found = []
        for flow in largest.values():
            for o in flow.outlets.values():
                if o.margin < -1.0:
                    name, best = label(self.plan.point(o.point)), show(max(o.pressure, 0.0), "pressure", self.plan.units)
                    says = (
                        f"{flow.name}: with the largest pipe wherever the size is open, {name} has {best}; sizes go by velocity."
                    )
                    found.append(
                        Problem("source-too-low", "warn", o.point, says, "Raise the source, open fewer at once, or ask for less.")
                    )
        return found

    def _shortest(self, flows: dict[str, Flow]) -> tuple[str, str] | None:
        short = [(o.margin, s, o.point) for s, f in flows.items() for o in f.outlets.values() if o.margin < -1.0]
        return min(short)[1:] if short else None

    def _way_to(self, outlet: str) -> tuple[str, ...]:
        ways = [path_between(self.lay, p.id, outlet) for p in self.plan.sources()]
        nearest: tuple[str, ...] = min((w for w in ways if w), key=len, default=())
        way = set(nearest)
        if len(self.plan.points) <= len(self.plan.runs):  # loops: any run that carries water may help
            way |= set(self.free)
        return tuple(r for r in self.free if r in way)

    def shrink(self, flows: dict[str, Flow]) -> tuple[dict[str, Flow], dict[str, tuple[Reason, str, str | None]]]:
        """Try every free run one size down, the largest first; note what forbids it."""
        why: dict[str, tuple[Reason, str, str | None]] = {}
        met = self._shortest(flows) is None
        for run in sorted(self.free, key=lambda r: -self.options[r][self.at[r]].bore):
            while run not in why:
                if self.at[run] == 0:
                    why[run] = self._at_smallest(run, flows)
                elif (fast := self._fast_below(run, flows, _SURE)) is not None:
                    why[run] = fast
                elif not met:
                    why[run] = ("pressure", "an outlet beyond still wants pressure", None)
                else:
                    self._step(run, -1)
                    tried = self.solve()
                    short = self._shortest(tried)
                    slow = not any(self._too_fast(r, tried, self.at[r]) for r in self.free)
                    if short is None and slow:
                        flows = tried
                        continue
                    why[run] = self._forbidden(run, tried, short)
                    self._step(run, 1)
            for r in self.reach[run]:
                why.setdefault(r, why[run])
        return flows, why

    def _at_smallest(self, run: str, flows: dict[str, Flow]) -> tuple[Reason, str, str | None]:
        family = series(self.options[run][0].series)
        if self.options[run][0] is not family.sizes[0]:
            return "rating", f"smaller {family.short} is rated below the pressure at shut-off", None
        if not any(run in f.runs and abs(f.runs[run].flow) > 1e-6 for f in flows.values()):
            return "no flow", "no scenario sends water through it, so the smallest made was taken", None
        return "smallest", f"the smallest {family.short} made is enough", None

    def _fast_below(self, run: str, flows: dict[str, Flow], over: float) -> tuple[Reason, str, str | None] | None:
        below = self.options[run][self.at[run] - 1]
        flow = max((f for f in flows.values() if run in f.runs), key=lambda f: abs(f.runs[run].flow), default=None)
        if flow is None:
            return None
        v = float(velocity(abs(flow.runs[run].flow), below.bore))
        if v <= self.limit * over:  # smaller pipe passes less through sprinklers: too near to say without trying
            return None
        speed, limit = (show(s, "velocity", self.plan.units) for s in (v, self.limit))
        return "velocity", f"{below.size} would run at {speed}, over the limit of {limit}", flow.scenario

    def _forbidden(self, run: str, tried: dict[str, Flow], short: tuple[str, str] | None) -> tuple[Reason, str, str | None]:
        below = self.options[run][self.at[run]]
        if short is None:
            top = max((f for f in tried.values() if run in f.runs), key=lambda f: f.runs[run].velocity)
            if top.runs[run].velocity <= self.limit:
                return "velocity", f"with {below.size} here another run would be too fast", None
            speed, limit = (show(v, "velocity", self.plan.units) for v in (top.runs[run].velocity, self.limit))
            return "velocity", f"{below.size} would run at {speed}, over the limit of {limit}", top.scenario
        scenario, outlet = short
        o = tried[scenario].outlets[outlet]
        name = label(self.plan.point(outlet))
        return "pressure", f"with {below.size}, {name} would have {max(o.pressure, 0) / o.needs:.1%} of what it wants", scenario


def choose_sizes(plan: Plan, lay: Layout, minor: dict[str, float], start: Sizes | None = None) -> Sizes:
    """Give every run its pipe: fixed ones are checked, the others get the smallest size that holds.

    `minor` is the sum of loss coefficients K of each run. What cannot be met is a `Problem` with the run or outlet.
    `start` is an earlier answer to begin from, as when only the losses have changed.
    """
    search = _Search(plan, lay, minor)
    flows = search.start_by_velocity() if start is None else search.start_from(start)
    hopeless = search.beyond_any_pipe(flows)
    if not hopeless:
        flows = search.grow_for_pressure(flows)
    flows, why = search.shrink(flows)
    choices = {}
    for run in plan.runs:
        item = search.options[run.id][search.at[run.id]]
        reason, says, scenario = why.get(run.id, ("fixed", "chosen by the crew", None))
        choices[run.id] = Choice(run.id, item.series, item.size, reason, says, scenario)
    problems = [*_velocity_problems(search, flows), *rating_problems(plan, lay, search.pipes()), *hopeless]
    for flow in flows.values():
        problems += flow.problems
    return Sizes(choices, {s: replace(f, problems=()) for s, f in flows.items()}, tuple(problems))


def solve_all(plan: Plan, lay: Layout, pipes: dict[str, Pipe], minor: dict[str, float]) -> dict[str, Flow]:
    """Every scenario solved with the same pipes."""
    if not plan.sources():
        return {}
    return {s.id: solve(plan, lay, pipes, minor, s) for s in plan.all_scenarios()}


def _velocity_problems(search: _Search, flows: dict[str, Flow]) -> list[Problem]:
    names = {p.id: label(p) for p in search.plan.points}
    found = []
    for run in search.plan.runs:
        carrying = [f for f in flows.values() if run.id in f.runs]
        top = max(carrying, key=lambda f: f.runs[run.id].velocity, default=None)
        if top is None or top.runs[run.id].velocity <= search.limit * (1 + 1e-9):
            continue
        speed, limit = (show(v, "velocity", search.plan.units) for v in (top.runs[run.id].velocity, search.limit))
        says = f"{top.name}: {speed} from {names[run.a]} to {names[run.b]}, over the limit of {limit}."
        mend = (
            "Take a larger size." if run.size else "No larger size of this series is made; change the series or split the flow."
        )
        found.append(Problem("too-fast", "warn", run.id, says, mend))
    return found
