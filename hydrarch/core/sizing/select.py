"""The smallest size that keeps the velocity limit and leaves every outlet its pressure, in every scenario.

Sizes first follow the flows down until velocities just hold, then grow until pressures hold (the steepest losses on the
way to the worst outlet first), then every run is tried one size down. So the answer is minimal run by run, and the limit that
forbids the next size down is the reason for each.
"""

from __future__ import annotations

from bisect import bisect_left
from collections.abc import Mapping
from copy import copy
from dataclasses import dataclass, replace
from functools import cache
from math import pi, sqrt
from typing import Literal

from hydrarch.core.catalogue.pipes import Pipe, pipe, rating_at, series
from hydrarch.core.hydraulics.drains import DrainRun, drain_runs
from hydrarch.core.hydraulics.flow import ENOUGH, Flow, Model, Trial, draws, models
from hydrarch.core.hydraulics.friction import velocity
from hydrarch.core.hydraulics.static import rating_problems, static_pressure
from hydrarch.core.kinds.outlets import Outlet
from hydrarch.core.layout import Layout, path_between
from hydrarch.core.plan import Plan, Run
from hydrarch.core.problems import Problem, declare
from hydrarch.core.progress import Late, TookTooLong, never
from hydrarch.core.units import show

__all__ = ["Choice", "Picked", "Sizes", "choose_sizes", "pick_sizes", "size_options", "solve_all"]

declare("size", "too-fast", holds=True)
declare("size", "source-too-low")

_ROUNDS_DOWN = 6
_SURE = 1.15  # a size this far over the velocity limit at today's flow needs no trial
_NEARLY = 0.8  # runs this near the steepest are enlarged with it

Reason = Literal["fixed", "velocity", "pressure", "rating", "smallest", "largest", "no flow", "drain"]


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

    def through(self) -> dict[str, dict[str, float]]:
        """The flow (m³/s) of every run in every scenario."""
        return {s: {r: f.flow for r, f in flow.runs.items()} for s, flow in self.flows.items()}


_UNDONE: tuple[Reason, str, str | None] = ("pressure", "a smaller one holds, but not with the fittings it needs", None)
Trials = dict[str, Trial]


class _Search:
    def __init__(
        self,
        plan: Plan,
        lay: Layout,
        minor: dict[str, float],
        ready: tuple[Model, ...],
        drains: Mapping[str, DrainRun],
        late: Late = never,
    ) -> None:
        self.late = late
        self.plan, self.lay, self.minor, self.models = plan, lay, minor, ready
        self.limit = plan.conditions.max_velocity
        self.static = static_pressure(plan, lay)
        self.drains = drains
        self.options: dict[str, tuple[Pipe, ...]] = {r.id: self._options(r) for r in plan.runs}
        self.bores = {r: [p.bore for p in o] for r, o in self.options.items()}
        self.at = dict.fromkeys(self.options, 0)
        self.free = [r.id for r in plan.runs if len(self.options[r.id]) > 1]
        self.reach = self._reaches()

    def _options(self, run: Run) -> tuple[Pipe, ...]:
        if run.id in self.drains:
            return (pipe(self.drains[run.id].series, self.drains[run.id].size),)
        name = self.lay.systems.series_of(self.plan, run)
        if run.size is not None:
            return (pipe(name, run.size),)
        worst = max(self.static.get(p, 0.0) for p in run.points)
        return _strong_sizes(name, self.plan.conditions.water_temperature, worst)

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

    def solve(self) -> Trials:
        if self.late():
            raise TookTooLong("the search for sizes")
        pipes = self.pipes()
        return {m.scenario.id: m.try_pipes(pipes, self.minor) for m in self.models}

    def least_bores(self, flows: Trials) -> dict[str, float]:
        """The bore (m) each free run must have to keep the velocity limit in every scenario."""
        most = dict.fromkeys(self.free, 0.0)
        for trial in flows.values():
            carried = trial.found.flows
            for r, so_far in most.items():
                flow = abs(carried.get(r, 0.0))
                if flow > so_far:
                    most[r] = flow
        scale = 4 / (pi * self.limit * (1 + 1e-9))
        return {r: sqrt(scale * q) for r, q in most.items()}

    def start(self) -> Trials:
        """Sizes by velocity: in a tree with one source from the flows wanted, else from above."""
        wanted = self._wanted()
        if wanted is None:
            return self.start_by_velocity()
        scale = 4 / (pi * self.limit)
        for reach in set(self.reach.values()):
            size = max(self._smallest_slow(r, sqrt(scale * wanted.get(r, 0.0))) for r in reach)
            for r in reach:
                self.at[r] = size
        return self.grow_for_velocity(self.solve())

    def _wanted(self) -> dict[str, float] | None:
        """The most any scenario wants through each run of a tree with one source; None where runs close loops."""
        lay = self.lay
        carried = [r for r in lay.lines.values() if r.a in lay.fed]
        if len(self.plan.sources) != 1 or len(carried) != len(lay.fed) - 1:
            return None
        feeder = {r.a if lay.distance[r.a] > lay.distance[r.b] else r.b: r for r in carried}
        far = sorted(lay.fed, key=lambda p: -lay.distance[p])
        most: dict[str, float] = {}
        for model in self.models:
            through = {p: draws(model.points[p].what) for p in model.open}
            for p in far:
                line, flow = feeder.get(p), through.get(p, 0.0)
                if line is not None and flow > 0:
                    before = line.other(p)
                    through[before] = through.get(before, 0.0) + flow
                    most[line.run] = max(most.get(line.run, 0.0), flow)
        return most

    def start_by_velocity(self) -> Trials:
        """Sizes by velocity, from above: flows through the largest pipes are the most there can be; follow them down."""
        self.at = {r: len(o) - 1 for r, o in self.options.items()}
        flows = self.solve()
        for _ in range(_ROUNDS_DOWN):
            before = dict(self.at)
            need = self.least_bores(flows)
            for reach in set(self.reach.values()):
                wanted = max(self._smallest_slow(r, need[r]) for r in reach)
                for r in reach:
                    self.at[r] = min(self.at[r], wanted)
            if self.at == before:
                break
            flows = self.solve()
        return self.grow_for_velocity(flows)

    def with_losses(self, minor: dict[str, float]) -> _Search:
        """The same search as it stands, with other losses."""
        other = copy(self)
        other.minor, other.at = minor, dict(self.at)
        return other

    def _smallest_slow(self, run: str, need: float) -> int:
        return min(bisect_left(self.bores[run], need), len(self.bores[run]) - 1)

    def grow_for_velocity(self, flows: Trials) -> Trials:
        """Enlarge every free run that is too fast, until none is or none can be."""
        while True:
            need = self.least_bores(flows)
            grown = False
            for r in self.free:
                while self.bores[r][self.at[r]] < need[r] and self.at[r] + 1 < len(self.options[r]):
                    self._step(r, 1)
                    grown = True
            if not grown:
                return flows
            flows = self.solve()

    def grow_for_pressure(self, flows: Trials) -> Trials:
        """Enlarge the steepest runs on the way to the worst outlet until every outlet has its pressure."""
        while (short := self._shortest(flows)) is not None:
            scenario, outlet = short
            losses = flows[scenario].losses()
            can = [r for r in self._way_to(outlet) if self.at[r] + 1 < len(self.options[r]) and r in losses]
            if not can:
                return flows
            slope = {r: losses[r] / self.lay.lines[r].length for r in can}
            steep = max(slope.values()) * _NEARLY
            for reach in {self.reach[r] for r in can if slope[r] >= steep}:
                self._step(reach[0], 1)
            flows = self.grow_for_velocity(self.solve())
        return flows

    def beyond_any_pipe(self, flows: Trials) -> list[Problem]:
        """The outlets that would be short even with the largest pipe everywhere: more pipe is no answer there."""
        if not self.free or self._shortest(flows) is None:
            return []
        kept, self.at = self.at, {r: len(o) - 1 for r, o in self.options.items()}
        largest, self.at = self.solve(), kept
        found = []
        for trial in largest.values():
            for outlet, margin in trial.margins().items():
                if margin >= -ENOUGH:
                    continue
                point = trial.model.points[outlet]
                assert isinstance(point.what, Outlet)
                best = show(max(margin + point.what.needs, 0.0), "pressure", self.plan.units)
                name = trial.model.scenario.name
                found.append(Problem(
                    "source-too-low", "warn", outlet,
                    f"{name}: with the largest pipe wherever the size is open, {point.label} has {best}; sizes go by velocity.",
                    "Raise the source, open fewer at once, or ask for less.",
                ))  # fmt: skip
        return found

    def _shortest(self, flows: Trials) -> tuple[str, str] | None:
        short = [(m, s, p) for s, t in flows.items() for p, m in t.margins().items() if m < -ENOUGH]
        return min(short)[1:] if short else None

    def _way_to(self, outlet: str) -> tuple[str, ...]:
        ways = [path_between(self.lay, p.id, outlet) for p in self.plan.sources]
        nearest: tuple[str, ...] = min((w for w in ways if w), key=len, default=())
        way = set(nearest)
        if len(self.plan.points) <= len(self.plan.runs):  # loops: any run that carries water may help
            way |= set(self.free)
        return tuple(r for r in self.free if r in way)

    def shrink(self, flows: Trials, firm: bool) -> tuple[Trials, dict[str, tuple[Reason, str, str | None]]]:
        """Try every free run one size down, the largest first; note what forbids it. Where `firm`, none is kept smaller."""
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
                    need = self.least_bores(tried)
                    slow = not any(self.bores[r][self.at[r]] < need[r] for r in self.free)
                    if short is None and slow and not firm:
                        flows = tried
                        continue
                    why[run] = _UNDONE if short is None and slow else self._forbidden(run, tried, short)
                    self._step(run, 1)
            for r in self.reach[run]:
                why.setdefault(r, why[run])
        return flows, why

    def _at_smallest(self, run: str, flows: Trials) -> tuple[Reason, str, str | None]:
        family = series(self.options[run][0].series)
        if self.options[run][0] is not family.sizes[0]:
            return "rating", f"smaller {family.short} is rated below the pressure at shut-off", None
        if not any(t.through(run) > 1e-6 for t in flows.values()):
            return "no flow", "no scenario sends water through it, so the smallest made was taken", None
        return "smallest", f"the smallest {family.short} made is enough", None

    def _fast_below(self, run: str, flows: Trials, over: float) -> tuple[Reason, str, str | None] | None:
        below = self.options[run][self.at[run] - 1]
        top = max(flows.values(), key=lambda t: t.through(run), default=None)
        if top is None:
            return None
        v = float(velocity(top.through(run), below.bore))
        if v <= self.limit * over:  # smaller pipe passes less through sprinklers: too near to say without trying
            return None
        speed, limit = (show(s, "velocity", self.plan.units) for s in (v, self.limit))
        return "velocity", f"{below.size} would run at {speed}, over the limit of {limit}", top.model.scenario.id

    def _forbidden(self, run: str, tried: Trials, short: tuple[str, str] | None) -> tuple[Reason, str, str | None]:
        below = self.options[run][self.at[run]]
        if short is None:
            top = max(tried.values(), key=lambda t: t.through(run))
            v = float(velocity(top.through(run), below.bore))
            if v <= self.limit:
                return "velocity", f"with {below.size} here another run would be too fast", None
            speed, limit = (show(x, "velocity", self.plan.units) for x in (v, self.limit))
            return "velocity", f"{below.size} would run at {speed}, over the limit of {limit}", top.model.scenario.id
        scenario, outlet = short
        o = tried[scenario].flow().outlets[outlet]
        name = self.plan.point(outlet).label
        return "pressure", f"with {below.size}, {name} would have {max(o.pressure, 0) / o.needs:.1%} of what it wants", scenario


@cache
def _strong_sizes(name: str, temperature: float, worst: float) -> tuple[Pipe, ...]:
    """The sizes of a series that stand a pressure (Pa); the smallest where none does."""
    strong = tuple(s for s in series(name).sizes if rating_at(s, temperature) >= worst)
    return strong or series(name).sizes[:1]


class Picked:
    """Sizes that hold, before their flows are told in full: what `choose_sizes` goes through while fittings still change."""

    def __init__(self, search: _Search, trials: Trials, firm: bool = False) -> None:
        self._search = search
        self._hopeless = search.beyond_any_pipe(trials)
        if not self._hopeless:
            trials = search.grow_for_pressure(trials)
        self._trials, self._why = search.shrink(trials, firm)

    def pipes(self) -> dict[str, Pipe]:
        """The pipe of every run."""
        return self._search.pipes()

    def again(self, minor: dict[str, float], firm: bool) -> Picked:
        """Sizes that hold with other losses, beginning at these; where `firm`, none becomes smaller, so that it comes to an end."""
        search = self._search.with_losses(minor)
        return Picked(search, search.grow_for_velocity(search.solve()), firm)

    def sizes(self) -> Sizes:
        """All about them."""
        search, plan = self._search, self._search.plan
        flows = {s: t.flow() for s, t in self._trials.items()}
        choices = {}
        for run in plan.runs:
            item = search.options[run.id][search.at[run.id]]
            drain = search.drains.get(run.id)
            usual: tuple[Reason, str, str | None] = (
                ("drain", drain.says, None) if drain else ("fixed", "chosen by the crew", None)
            )
            reason, says, scenario = self._why.get(run.id, usual)
            choices[run.id] = Choice(run.id, item.series, item.size, reason, says, scenario)
        problems = [*_velocity_problems(search, flows), *rating_problems(plan, search.lay, search.pipes()), *self._hopeless]
        for flow in flows.values():
            problems += flow.problems
        return Sizes(choices, {s: replace(f, problems=()) for s, f in flows.items()}, tuple(problems))


def pick_sizes(
    plan: Plan, lay: Layout, minor: dict[str, float], ready: tuple[Model, ...], drains: Mapping[str, DrainRun], late: Late = never
) -> Picked:
    """As `choose_sizes`, with the scenarios made `ready` and the `drains` sized. Raises `TookTooLong` once it is `late`."""
    search = _Search(plan, lay, minor, ready, drains, late)
    return Picked(search, search.start())


def choose_sizes(plan: Plan, lay: Layout, minor: dict[str, float]) -> Sizes:
    """Give every run its pipe: fixed ones are checked, the others get the smallest size that holds.

    `minor` is the sum of loss coefficients K of each run. What cannot be met is a `Problem` with the run or outlet.
    """
    return pick_sizes(plan, lay, minor, models(plan, lay), drain_runs(plan, lay)).sizes()


def size_options(plan: Plan, lay: Layout) -> dict[str, tuple[Pipe, ...]]:
    """The sizes open to every run: its fixed one, or those of its series that stand the pressure at shut-off."""
    return _Search(plan, lay, {}, (), drain_runs(plan, lay)).options


def solve_all(plan: Plan, lay: Layout, pipes: dict[str, Pipe], minor: dict[str, float]) -> dict[str, Flow]:
    """Every scenario solved with the same pipes."""
    return {m.scenario.id: m.solve(pipes, minor) for m in models(plan, lay)}


def _velocity_problems(search: _Search, flows: dict[str, Flow]) -> list[Problem]:
    names = search.plan.names
    found = []
    for run in search.plan.runs:
        carrying = [f for f in flows.values() if run.id in f.runs]
        top = max(carrying, key=lambda f: f.runs[run.id].velocity, default=None)
        if top is None or top.runs[run.id].velocity <= search.limit * (1 + 1e-9):
            continue
        speed, limit = (show(v, "velocity", search.plan.units) for v in (top.runs[run.id].velocity, search.limit))
        says = f"{top.name}: {speed} from {names[run.a.point]} to {names[run.b.point]}, over the limit of {limit}."
        mend = (
            "Take a larger size." if run.size else "No larger size of this series is made; change the series or split the flow."
        )
        found.append(Problem("too-fast", "warn", run.id, says, mend))
    return found
