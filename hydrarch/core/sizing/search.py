"""Where a search for sizes stands: the reaches that are sized as one, their sizes, and what makes them larger.

A reach is runs of one series joined end to end, with no branch, outlet or source between; all of it carries the same water. Sizes
first follow the flows until velocities hold, then grow until pressures hold, the steepest on the way to the worst outlet first.
"""

from __future__ import annotations

from bisect import bisect_left
from collections.abc import Iterable, Mapping
from copy import copy
from dataclasses import dataclass
from math import pi, sqrt
from typing import TypeAlias

import numpy as np
from numpy.typing import NDArray

from hydrarch.core.catalogue.pipes import Pipe, pipe, rating_at, series
from hydrarch.core.graph import Edge, Graph
from hydrarch.core.hydraulics.drains import DrainRun
from hydrarch.core.hydraulics.flow import ENOUGH, Model, Trial, draws
from hydrarch.core.hydraulics.static import static_pressure
from hydrarch.core.layout import Layout, path_between
from hydrarch.core.plan import Plan, Run
from hydrarch.core.problems import Problem, declare
from hydrarch.core.progress import Late, TookTooLong, never
from hydrarch.core.remember import remembered
from hydrarch.core.units import show

__all__ = ["Reach", "Search", "Trials"]

declare("size", "source-too-low")

Trials: TypeAlias = dict[str, Trial]
"""What every scenario came to with one set of sizes, by its name."""
Array: TypeAlias = NDArray[np.float64]

_ROUNDS_DOWN = 6
_NEARLY = 0.8  # reaches this near the steepest are enlarged with it
_KEEPS = 1 + 1e-9


@dataclass(frozen=True, slots=True)
class Reach:
    """Runs that are sized as one, and the sizes open to them with their bores (m), smallest first."""

    runs: tuple[str, ...]
    options: tuple[Pipe, ...]
    bores: tuple[float, ...]


class Search:
    """One search: its reaches, which size each has now (`at`, by the reach's number), and every scenario made ready."""

    def __init__(
        self, plan: Plan, lay: Layout, minor: Mapping[str, float], ready: tuple[Model, ...], drains: Mapping[str, DrainRun], late: Late = never,
    ) -> None:  # fmt: skip
        self.plan, self.lay, self.minor, self.models, self.drains, self.late = plan, lay, minor, ready, drains, late
        self.limit = plan.conditions.max_velocity
        self._static = static_pressure(plan, lay)
        self.options: dict[str, tuple[Pipe, ...]] = {r.id: self._options(r) for r in plan.runs}
        self._free = [r.id for r in plan.runs if len(self.options[r.id]) > 1]
        self.reaches = self._reaches()
        self.number = {r: i for i, reach in enumerate(self.reaches) for r in reach.runs}
        self.at = [0] * len(self.reaches)
        self._fixed = {r: o[0] for r, o in self.options.items() if len(o) == 1}
        self._reach_of = np.array([self.number[r] for r in self._free], dtype=np.int64)
        self._links = [np.array([m.link_of.get(r, -1) for r in self._free], dtype=np.int64) for m in ready]
        self._ways: dict[str, tuple[int, ...]] = {}

    def _options(self, run: Run) -> tuple[Pipe, ...]:
        if run.id in self.drains:
            return (pipe(self.drains[run.id].series, self.drains[run.id].size),)
        name = self.lay.systems.series_of(self.plan, run)
        if run.size is not None:
            return (pipe(name, run.size),)
        worst = max(self._static.get(p, 0.0) for p in run.points)
        return _strong_sizes(name, self.plan.conditions.water_temperature, worst)

    def _reaches(self) -> tuple[Reach, ...]:
        free, of = set(self._free), self.lay.systems.of
        joined = []
        for p in self.plan.points:
            here = self.lay.at[p.id]
            if len(here) != 2 or here[0] not in free or here[1] not in free or p.kind.role in ("source", "outlet"):
                continue
            if of.get(here[0]) == of.get(here[1]) and self.options[here[0]] == self.options[here[1]]:
                joined.append(Edge(p.id, *here))
        found = []
        for runs, _ in Graph(joined, self._free).parts():
            options = self.options[runs[0]]
            found.append(Reach(tuple(sorted(runs)), options, tuple(p.bore for p in options)))
        return tuple(found)

    def pipes(self) -> dict[str, Pipe]:
        """The pipe of every run, as it stands."""
        now = [reach.options[i] for reach, i in zip(self.reaches, self.at, strict=True)]
        return self._fixed | {r: now[i] for r, i in self.number.items()}

    def size(self, reach: int) -> Pipe:
        """The size a reach has now."""
        return self.reaches[reach].options[self.at[reach]]

    def can_grow(self, reach: int) -> bool:
        """Whether a larger size is open to it."""
        return self.at[reach] + 1 < len(self.reaches[reach].options)

    def solve(self) -> Trials:
        """Every scenario with the sizes as they stand. Raises `TookTooLong` once it is late."""
        if self.late():
            raise TookTooLong("the search for sizes")
        pipes = self.pipes()
        return {m.scenario.id: m.try_pipes(pipes, self.minor) for m in self.models}

    def with_losses(self, minor: Mapping[str, float]) -> Search:
        """The same search as it stands, with other losses."""
        other = copy(self)
        other.minor, other.at = minor, list(self.at)
        return other

    def bore_for(self, flow: float) -> float:
        """The bore (m) that carries a flow (m³/s) at the velocity limit."""
        return sqrt(4 * flow / (pi * self.limit * _KEEPS))

    def carries(self, item: Pipe) -> float:
        """The most (m³/s) a pipe carries at the velocity limit."""
        return pi * self.limit * _KEEPS * item.bore**2 / 4

    def most(self, flows: Iterable[tuple[int, Array]]) -> Array:
        """The most (m³/s) that any scenario, given by its number with the flows of its links, sends through each reach."""
        most = np.zeros(len(self.reaches))
        for i, q in flows:
            links = self._links[i]
            carried = np.where(links >= 0, np.abs(q[links]), 0.0) if len(q) else np.zeros(len(links))
            np.maximum.at(most, self._reach_of, carried)
        return most

    def carried(self, flows: Trials) -> Array:
        """The most (m³/s) that any scenario sends through each reach."""
        return self.most((i, t.found.q) for i, t in enumerate(flows.values()))

    def too_fast(self, most: Array) -> NDArray[np.bool_]:
        """Which reaches are faster than the limit with that most (m³/s) in them."""
        bores = np.array([reach.bores[i] for reach, i in zip(self.reaches, self.at, strict=True)])
        return np.asarray(most > np.pi * self.limit * _KEEPS * bores**2 / 4)

    def start(self) -> Trials:
        """Sizes by velocity: in a tree with one source from the flows wanted, else from above."""
        wanted = self._wanted()
        if wanted is None:
            return self.start_by_velocity()
        for i, reach in enumerate(self.reaches):
            self.at[i] = self._smallest_slow(i, max(wanted.get(r, 0.0) for r in reach.runs))
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
        self.at = [len(r.options) - 1 for r in self.reaches]
        flows = self.solve()
        for _ in range(_ROUNDS_DOWN):
            before = self.at
            self.at = [
                min(now, self._smallest_slow(i, q)) for i, (now, q) in enumerate(zip(before, self.carried(flows), strict=True))
            ]
            if self.at == before:
                break
            flows = self.solve()
        return self.grow_for_velocity(flows)

    def _smallest_slow(self, reach: int, flow: float) -> int:
        bores = self.reaches[reach].bores
        return min(bisect_left(bores, self.bore_for(flow)), len(bores) - 1)

    def grow_for_velocity(self, flows: Trials) -> Trials:
        """Enlarge every reach that is too fast, until none is or none can be."""
        while True:
            most, grown = self.carried(flows), False
            for i in np.flatnonzero(self.too_fast(most)).tolist():
                slow = self._smallest_slow(i, float(most[i]))
                grown = grown or slow > self.at[i]
                self.at[i] = max(self.at[i], slow)
            if not grown:
                return flows
            flows = self.solve()

    def grow_for_pressure(self, flows: Trials) -> Trials:
        """Enlarge the steepest reaches on the way to the worst outlet until every outlet has its pressure."""
        while (short := shortest(flows)) is not None:
            scenario, outlet = short
            losses = flows[scenario].losses()
            slope: dict[int, float] = {}
            for i in self._way_to(outlet):
                if self.can_grow(i):
                    lost = [losses[r] / self.lay.lines[r].length for r in self.reaches[i].runs if r in losses]
                    slope |= {i: max(lost)} if lost else {}
            if not slope:
                return flows
            steep = max(slope.values()) * _NEARLY
            for i, s in slope.items():
                if s >= steep:
                    self.at[i] += 1
            flows = self.grow_for_velocity(self.solve())
        return flows

    def beyond_any_pipe(self, flows: Trials) -> list[Problem]:
        """The outlets that would be short even with the largest pipe everywhere: more pipe is no answer there."""
        if not self.reaches or shortest(flows) is None:
            return []
        kept, self.at = self.at, [len(r.options) - 1 for r in self.reaches]
        largest, self.at = self.solve(), kept
        found = []
        for trial in largest.values():
            for (outlet, _, _, needs), margin in zip(trial.model.taps, trial.margins.tolist(), strict=False):
                if margin >= -ENOUGH:
                    continue
                best = show(max(margin + needs, 0.0), "pressure", self.plan.units)
                name, label = trial.model.scenario.name, trial.model.points[outlet].label
                found.append(Problem(
                    "source-too-low", "warn", outlet,
                    f"{name}: with the largest pipe wherever the size is open, {label} has {best}; sizes go by velocity.",
                    "Raise the source, open fewer at once, or ask for less.",
                ))  # fmt: skip
        return found

    def _way_to(self, outlet: str) -> tuple[int, ...]:
        """The reaches that may help an outlet: those on its way, and where lines close loops all of them."""
        if outlet not in self._ways:
            if len(self.plan.points) <= len(self.plan.runs):
                self._ways[outlet] = tuple(range(len(self.reaches)))
            else:
                ways = [path_between(self.lay, p.id, outlet) for p in self.plan.sources]
                nearest: tuple[str, ...] = min((w for w in ways if w), key=len, default=())
                self._ways[outlet] = tuple(dict.fromkeys(self.number[r] for r in nearest if r in self.number))
        return self._ways[outlet]


def shortest(flows: Trials) -> tuple[str, str] | None:
    """The scenario and the outlet that want most (Pa); None where none wants any."""
    short = [(*worst, s) for s, t in flows.items() if (worst := t.worst()) is not None and worst[0] < -ENOUGH]
    if not short:
        return None
    _, outlet, scenario = min(short, key=lambda x: (x[0], x[2], x[1]))
    return scenario, outlet


def family_of(reach: Reach) -> str:
    """What its pipe is called for short."""
    return series(reach.options[0].series).short


@remembered()
def _strong_sizes(name: str, temperature: float, worst: float) -> tuple[Pipe, ...]:
    """The sizes of a series that stand a pressure (Pa); those that carry most where none does."""
    carries = {s: rating_at(s, temperature) for s in series(name).sizes}
    least = min(worst, max(carries.values()))
    return tuple(s for s, most in carries.items() if most >= least)
