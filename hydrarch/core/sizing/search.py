"""Where a search for sizes stands: the reaches that are sized as one, their sizes, and what makes them larger.

A reach is runs of one series joined end to end, with no branch, outlet or source between; all of it carries the same
water. Sizes first follow the flows until velocities hold, then grow until pressures hold, the steepest on the way to
the worst outlet first.
"""

from __future__ import annotations

from bisect import bisect_left
from collections.abc import Iterable, Iterator, Mapping
from copy import copy
from dataclasses import dataclass
from math import pi, sqrt
from typing import NamedTuple, TypeAlias

import numpy as np
from numpy.typing import NDArray

from hydrarch.core.base.cache import remembered
from hydrarch.core.base.graph import Edge, Graph
from hydrarch.core.base.messages import tell
from hydrarch.core.base.problems import Problem, declare
from hydrarch.core.base.progress import Late, TookTooLong, never
from hydrarch.core.catalogue.pipes import Pipe, laid_rating, pipe, series
from hydrarch.core.hydraulics.drain_flow import DrainRun
from hydrarch.core.hydraulics.flow import ENOUGH, FlowModel, Trial, draws
from hydrarch.core.hydraulics.links import Array, Rows, Sizes
from hydrarch.core.hydraulics.round_flow import alike
from hydrarch.core.hydraulics.static import pressing
from hydrarch.core.plan.document import Plan, Run
from hydrarch.core.site.layout import Layout, path_between
from hydrarch.core.site.systems import water_at
from hydrarch.core.sizing.least import Least
from hydrarch.core.sizing.standby import standby_flows

__all__ = ["FEW", "Hint", "Stretch", "Search", "Trials", "shortest", "unsettled"]

declare("size", "source-too-low")

Trials: TypeAlias = dict[str, Trial]
"""What every scenario came to with one set of sizes, by its name."""

_ROUNDS_DOWN = 6
_NEARLY = 0.8  # reaches this near the steepest are enlarged with it
FEW = 48
"""Reaches, up to which each is tried one by one."""
_KEEPS = 1 + 1e-9


@dataclass(frozen=True, slots=True)
class Stretch:
    """Runs that are sized as one, and the sizes open to them with their bores (m), smallest first."""

    runs: tuple[str, ...]
    options: tuple[Pipe, ...]
    bores: tuple[float, ...]


class Hint(NamedTuple):
    """That with one size less of a reach an outlet's margin would fall by so much (Pa), at this flow (m³/s) and sum of
    K in it.
    """

    model: int
    tap: int
    fall: float
    flow: float
    minor: float


class Search:
    """One search: its reaches, which size each has now (`at`, by the reach's number), and every scenario made ready."""

    def __init__(
        self,
        plan: Plan,
        lay: Layout,
        minor: Mapping[str, float],
        ready: tuple[FlowModel, ...],
        drains: Mapping[str, DrainRun],
        late: Late = never,
    ) -> None:
        self.plan, self.lay, self.minor, self.models, self.drains, self.late = plan, lay, minor, ready, drains, late
        self.limit = plan.conditions.max_velocity
        self.least = Least(plan, lay)
        self.options: dict[str, tuple[Pipe, ...]] = {r.id: self._options(r) for r in plan.runs}
        self._free = [r.id for r in plan.runs if len(self.options[r.id]) > 1]
        self.reaches = self._reaches()
        self.number = {r: i for i, reach in enumerate(self.reaches) for r in reach.runs}
        self.at = np.zeros(len(self.reaches), dtype=np.int64)
        self.last = np.array([len(r.options) - 1 for r in self.reaches], dtype=np.int64)
        self._bores = (
            np.array(
                [[r.bores[min(i, len(r.bores) - 1)] for i in range(int(self.last.max()) + 1)] for r in self.reaches]
            )
            if self.reaches
            else np.zeros((0, 1))
        )
        self._numbers = np.arange(len(self.reaches))
        self._fixed = {r: o[0] for r, o in self.options.items() if len(o) == 1}
        pipes = self.pipes()
        self._fits = [_Fit(m, self, pipes) for m in ready]
        self._ways: dict[str, Rows] = {}
        standby = standby_flows(plan, lay)
        self._standby = np.array([max(standby.get(r, 0.0) for r in reach.runs) for reach in self.reaches])
        self.wanted = self._wanted()
        self.hints: dict[tuple[int, int], Hint] = {}

    def _options(self, run: Run) -> tuple[Pipe, ...]:
        if run.id in self.drains:
            return (pipe(self.drains[run.id].series, self.drains[run.id].size),)
        name = self.lay.systems.series_of(self.plan, run)
        if run.size is not None:
            return (pipe(name, run.size),)
        sizes = _strong_sizes(name, self.lay.warm[run.id], self._pressing(run), run.situation)
        return sizes[self.least.place(run.id, sizes) :]

    def _pressing(self, run: Run) -> float:
        return pressing(self.plan, self.lay, run)

    def stands(self, run: Run, item: Pipe) -> bool:
        """Whether a pipe carries what a run sees at rest, in water as warm as it gets there."""
        return laid_rating(item, self.lay.warm[run.id], run.situation) >= self._pressing(run)

    def _reaches(self) -> tuple[Stretch, ...]:
        free, of = set(self._free), self.lay.systems.of
        joined = []
        for p in self.plan.points:
            here = self.lay.at[p.id]
            if len(here) != 2 or here[0] not in free or here[1] not in free or p.kind.role in ("source", "outlet"):
                continue
            if of.get(here[0]) == of.get(here[1]) and self.options[here[0]] == self.options[here[1]]:
                joined.append(Edge(p.id, *here))
        joined += self._rings(free)
        found = []
        for runs, _ in Graph(joined, self._free).parts():
            options = self.options[runs[0]]
            found.append(Stretch(tuple(sorted(runs)), options, tuple(p.bore for p in options)))
        return tuple(
            sorted(found, key=lambda r: r.runs)
        )  # where two do alike, it is not the order of drawing that says which

    def _rings(self, free: set[str]) -> Iterator[Edge[str]]:
        """A ring main has one size all round, and so have the suctions and the returns of a loop: their runs of one
        series are of one reach.
        """
        for ring in Graph(
            Edge(r.id, water_at(self.plan, r.a), water_at(self.plan, r.b)) for r in self.plan.runs
        ).rings():
            first: dict[tuple[Pipe, ...], str] = {}
            for run in free.intersection(ring):
                other = first.setdefault(self.options[run], run)
                if other != run:
                    yield Edge(run, other, run)
        for group in alike(self.plan, self.lay):
            head: dict[tuple[Pipe, ...], str] = {}
            for run in sorted(free.intersection(group)):
                other = head.setdefault(self.options[run], run)
                if other != run:
                    yield Edge(f"{run}~alike", other, run)

    def pipes(self) -> dict[str, Pipe]:
        """The pipe of every run, as it stands."""
        now = [reach.options[i] for reach, i in zip(self.reaches, self.at.tolist(), strict=True)]
        return self._fixed | {r: now[i] for r, i in self.number.items()}

    def size(self, reach: int) -> Pipe:
        """The size a reach has now."""
        return self.reaches[reach].options[int(self.at[reach])]

    def bores(self) -> Array:
        """The bore (m) of each reach, as it stands."""
        return np.asarray(self._bores[self._numbers, self.at])

    def solve(self) -> Trials:
        """Every scenario with the sizes as they stand. Raises `TookTooLong` once it is late."""
        if self.late():
            raise TookTooLong("the search for sizes")
        bores = self.bores()
        return {m.scenario.id: m.try_sizes(fit.sizes(bores)) for m, fit in zip(self.models, self._fits, strict=True)}

    def smaller(self, model: int, reach: int) -> tuple[Rows, Sizes]:
        """The links of a reach in the network of the model of that number, with their sizes if it were one smaller."""
        return self._fits[model].of(reach, float(self._bores[reach, self.at[reach] - 1]))

    def loses(self, reach: int) -> float:
        """The sum of loss coefficients K in a reach."""
        return sum(self.minor.get(r, 0.0) for r in self.reaches[reach].runs)

    def with_losses(self, minor: Mapping[str, float]) -> Search:
        """The same search as it stands, with other losses."""
        other = copy(self)
        other.minor, other.at = minor, self.at.copy()
        pipes = other.pipes()
        other._fits = [_Fit(m, other, pipes) for m in self.models]
        return other

    def bore_for(self, flow: float) -> float:
        """The bore (m) that carries a flow (m³/s) at the velocity limit."""
        return sqrt(4 * flow / (pi * self.limit * _KEEPS))

    def carries(self, item: Pipe) -> float:
        """The most (m³/s) a pipe carries at the velocity limit."""
        return pi * self.limit * _KEEPS * item.bore**2 / 4

    def most(self, flows: Iterable[tuple[int, Array]]) -> Array:
        """The most (m³/s) that any scenario, given by its number with the flows of its links, sends through each reach.

        It is never less than what the reach must carry when a vessel fills or a shut outlet is opened.
        """
        most = self._standby.copy()
        for i, q in flows:
            if len(q):
                fit = self._fits[i]
                np.maximum.at(most, fit.reach, np.abs(q[fit.links]))
        return most

    def carried(self, flows: Trials) -> Array:
        """The most (m³/s) that any scenario sends through each reach."""
        return self.most((i, t.found.q) for i, t in enumerate(flows.values()))

    def too_fast(self, most: Array) -> NDArray[np.bool_]:
        """Which reaches are faster than the limit with that most (m³/s) in them."""
        return np.asarray(most > np.pi * self.limit * _KEEPS * self.bores() ** 2 / 4)

    def start(self) -> Trials:
        """Sizes by velocity: in a tree with one source from the flows wanted, else from above."""
        if self.wanted is None:
            return self.start_by_velocity()
        for i, flow in enumerate(self.wanted.tolist()):
            self.at[i] = self._smallest_slow(i, flow)
        return self.grow_for_velocity(self.solve())

    def _wanted(self) -> Array | None:
        """The most (m³/s) any scenario wants through each reach of a tree with one source; None where runs
        close loops.
        """
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
        wanted = np.array([max(most.get(r, 0.0) for r in reach.runs) for reach in self.reaches])
        return np.asarray(np.maximum(self._standby, wanted))

    def start_by_velocity(self) -> Trials:
        """Sizes by velocity, from above: flows through the largest pipes are the most there can be; follow them
        down.
        """
        self.at = self.last.copy()
        flows = self.solve()
        for _ in range(_ROUNDS_DOWN):
            before = self.at
            slow = [self._smallest_slow(i, q) for i, q in enumerate(self.carried(flows).tolist())]
            self.at = np.minimum(before, np.array(slow, dtype=np.int64))
            if (self.at == before).all():
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
        """Enlarge the steepest reaches on the way to the worst outlet until every outlet has its pressure.

        Where there are many reaches, the outlets that want nearly as much are helped in the same round.
        """
        while (short := shortest(flows)) is not None:
            grown = False
            for scenario, outlet in self._worst(flows) if len(self.reaches) > FEW else (short,):
                grown = self._grow_toward(outlet, self._slopes(flows, scenario)) or grown
            if not grown:
                return flows
            flows = self.grow_for_velocity(self.solve())
        return flows

    def _worst(self, flows: Trials) -> list[tuple[str, str]]:
        """The scenarios and outlets that want most, and those that want nearly as much."""
        wanting = [
            (m, s, t.model.taps[i][0])
            for s, t in flows.items()
            for i, m in enumerate(t.margins.tolist())
            if m < -ENOUGH
        ]
        least = min(wanting)[0] * _NEARLY
        return [(s, outlet) for m, s, outlet in sorted(wanting) if m <= least]

    def _slopes(self, flows: Trials, scenario: str) -> Array:
        """How steeply (m/m) the head falls along each reach at its steepest."""
        number = next(i for i, m in enumerate(self.models) if m.scenario.id == scenario)
        fit, lost, slope = self._fits[number], flows[scenario].found.lost, np.full(len(self.reaches), -1.0)
        if len(lost):
            np.maximum.at(slope, fit.reach, np.abs(lost[fit.links]) / fit.length)
        return slope

    def _grow_toward(self, outlet: str, slope: Array) -> bool:
        can = self._way_to(outlet)
        can = can[(self.at[can] < self.last[can]) & (slope[can] >= 0)]
        if not len(can):
            return False
        steep = can[slope[can] >= float(slope[can].max()) * _NEARLY]
        slope[steep] = -1.0  # once in a round
        self.at[steep] += 1
        return True

    def beyond_any_pipe(self, flows: Trials) -> list[Problem]:
        """The outlets that would be short even with the largest pipe everywhere: more pipe is no answer there."""
        if not self.reaches or shortest(flows) is None:
            return []
        kept, self.at = self.at, self.last.copy()
        largest, self.at = self.solve(), kept
        found = []
        for trial in largest.values():
            for (outlet, _, _, needs), margin in zip(trial.model.taps, trial.margins.tolist(), strict=False):
                if margin >= -ENOUGH:
                    continue
                found.append(
                    tell(
                        "source-too-low",
                        outlet,
                        self.plan.units,
                        scenario=trial.model.scenario,
                        outlet=trial.model.points[outlet].label,
                        best=max(margin + needs, 0.0),
                    )
                )
        return found

    def _way_to(self, outlet: str) -> Rows:
        """The reaches that may help an outlet: those on its way, and where lines close loops all of them."""
        if outlet not in self._ways:
            if len(self.plan.points) <= len(self.plan.runs):
                self._ways[outlet] = self._numbers
            else:
                ways = [path_between(self.lay, p.id, outlet) for p in self.plan.sources]
                nearest: tuple[str, ...] = min((w for w in ways if w), key=len, default=())
                on_way = dict.fromkeys(self.number[r] for r in nearest if r in self.number)
                self._ways[outlet] = np.array(list(on_way), dtype=np.int64)
        return self._ways[outlet]


class _Fit:
    """One scenario's network with the search's sizes written into it: which of its links are of which reach."""

    def __init__(self, model: FlowModel, search: Search, pipes: Mapping[str, Pipe]) -> None:
        pairs = [(model.link_of[r], i) for r, i in search.number.items() if r in model.link_of]
        self.links, self.reach = np.array(pairs, dtype=np.int64).reshape(-1, 2).T
        self.length = np.array([model.links[i].length for i in self.links.tolist()])
        self._given = model.sizes_of([pipes[r.id] for r in model.runs], search.minor)
        self._of: dict[int, list[int]] = {}
        for link, i in pairs:
            self._of.setdefault(i, []).append(link)

    def sizes(self, bores: Array) -> Sizes:
        """The sizes of all links where the reaches have these bores (m)."""
        bore, c, roughness, minor = self._given
        bore = bore.copy()
        bore[self.links] = bores[self.reach]
        return bore, c, roughness, minor

    def of(self, reach: int, bore: float) -> tuple[Rows, Sizes]:
        """The links of a reach, and their sizes if they had that bore (m)."""
        links = np.array(self._of.get(reach, ()), dtype=np.int64)
        _, c, roughness, minor = self._given
        return links, (np.full(len(links), bore), c[links], roughness[links], minor[links])


def shortest(flows: Trials) -> tuple[str, str] | None:
    """The scenario and the outlet that want most (Pa); None where none wants any."""
    short = [(*worst, s) for s, t in flows.items() if (worst := t.worst()) is not None and worst[0] < -ENOUGH]
    if not short:
        return None
    _, outlet, scenario = min(short, key=lambda x: (x[0], x[2], x[1]))
    return scenario, outlet


def unsettled(flows: Trials) -> bool:
    """Whether a scenario did not settle: nothing is known of its outlets then, which is no sign that they have what
    they want.
    """
    return any(t.fault is not None for t in flows.values())


@remembered()
def _strong_sizes(name: str, temperature: float, worst: float, situation: str) -> tuple[Pipe, ...]:
    """The sizes of a series that stand a pressure (Pa); those that carry most where none does."""
    carries = {s: laid_rating(s, temperature, situation) for s in series(name).sizes}
    least = min(worst, max(carries.values()))
    return tuple(s for s, most in carries.items() if most >= least)
