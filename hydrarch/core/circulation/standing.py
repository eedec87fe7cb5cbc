"""Bodies of water and their loops as they stand at one moment: levels, what is stopped or wrong, and what then moves
where.

The network of what pumps move is built once for each way things can stand, and solved for the levels of that moment;
what falls over the open ends of standpipes is calculated apart, since it answers at once to a level.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace
from math import inf, sqrt
from typing import TypeAlias

import numpy as np
from numpy.typing import NDArray

from hydrarch.core.base.errors import HydrarchError
from hydrarch.core.catalogue.pipes import Pipe
from hydrarch.core.circulation.bodies import WaterBody, body_at
from hydrarch.core.circulation.laws import hole, standpipe
from hydrarch.core.circulation.overflow import stands_open
from hydrarch.core.components.basins import Basin, InWall, Returns, Standpipe, TopUp, Waters
from hydrarch.core.components.devices import Filter, Pump, Valve
from hydrarch.core.components.drains import DrainEnd
from hydrarch.core.components.outlets import Outlet
from hydrarch.core.hydraulics.flow import FlowModel
from hydrarch.core.hydraulics.network import Solver
from hydrarch.core.hydraulics.round_flow import loops
from hydrarch.core.plan.basin_shapes import filled_by
from hydrarch.core.plan.document import Plan, Point, Scenario
from hydrarch.core.site.layout import Layout, layout

__all__ = ["Array", "BREAKS", "Drain", "WaterStanding"]

Array: TypeAlias = NDArray[np.float64]
BREAKS, _DRAWS_AIR = -0.25, -0.15
"""How far under its open end, in bores, water stands where a siphon breaks, and where it begins to draw air; estimates,
from memory."""
_CLOGGED = 30.0  # times the loss of a filter that is due for cleaning: next to nothing comes through


@dataclass
class Drain:
    """A standpipe in time: from which body to which, its open end, and by how much its pipe carries: q =
    carries·√(drop).
    """

    point: str
    start: int
    stop: int | None
    opens: float
    bore: float
    works: str
    carries: float
    ends: float
    siphons: bool = False
    blocked: bool = False

    def wet(self, level: float) -> float:
        """What share of a siphon's bore water fills with the level (m) there: all of it, none below where it breaks,
        between them less.
        """
        return min(max(((level - self.opens) / self.bore - BREAKS) / (_DRAWS_AIR - BREAKS), 0.0), 1.0)


@dataclass
class Net:
    model: FlowModel
    known: dict[str, int]


class WaterStanding:
    """A plan's open water at a moment, `time` (s): volumes (m³) and levels (m) of its bodies by number, what is stopped
    and what is wrong.
    """

    def __init__(self, plan: Plan, pipes: Mapping[str, Pipe], minor: Mapping[str, float]) -> None:
        self.plan, self.pipes, self.minor = plan, pipes, minor
        self.opened: frozenset[str] = frozenset()
        self.lay = layout(plan)
        self.round = self._part(drains=False)
        self.pumped = {p for s in loops(*self.round) for p in s.points}
        self.bodies: list[WaterBody] = [body_at(plan, p.id) for p in plan.points if isinstance(p.what, Basin)]
        crossed = next((b.point.label for b in self.bodies if b.shape.crosses), "")
        if crossed:
            raise HydrarchError(
                f"correct the outline of {crossed} first: it crosses itself, or there is nothing within it"
            )
        self.number = {b.point.id: i for i, b in enumerate(self.bodies)}
        self.volumes = np.array([b.water for b in self.bodies])
        self.levels = np.array([b.level for b in self.bodies])
        self.pumps = [p for p in plan.points if isinstance(p.what, Pump)]
        self.nets: dict[tuple[frozenset[str], ...], Net] = {}
        self.drains = self._drains()
        self.floats = self._floats()
        self.time = 0.0
        self.stopped: frozenset[str] = frozenset()
        self.wrong: frozenset[str] = frozenset()

    def _part(self, drains: bool) -> tuple[Plan, Layout]:
        """The part of the plan in which water goes round: what pumps move, or what falls over the open ends of
        standpipes.
        """
        runs = {
            r
            for s in self.lay.systems.found
            if s.sort == "circulation"
            and drains == any(isinstance(self.plan.by_id[p].what, Standpipe) for p in s.points)
            for r in s.runs
        }
        there = {e.point for r in self.plan.runs if r.id in runs for e in r.ends}
        update = {
            "runs": tuple(r for r in self.plan.runs if r.id in runs),
            "points": tuple(p for p in self.plan.points if p.id in there or isinstance(p.what, Basin)),
            "scenarios": (),
            "zones": (),
        }
        part = self.plan.model_copy(update=update)
        return part, layout(part)

    def _drains(self) -> list[Drain]:
        found = []
        part, lay = self._part(drains=True)
        flows = FlowModel(part, lay, self._scenario()).solve(self.pipes, self.minor)
        for p in self.plan.points:
            if not isinstance(p.what, Standpipe) or p.what.waters is None or not self.lay.at[p.id]:
                continue
            system = next(s for s in self.lay.systems.found if p.id in s.points)
            stop, ends = self._end_of(system.points, p.id)
            flow = sum(abs(flows.runs[r].flow) for r in self.lay.at[p.id] if r in flows.runs)
            drop = flows.points[p.id].head - ends if p.id in flows.points else 0.0
            carries = flow / sqrt(drop) if flow > 0 and drop > 1e-6 else inf
            found.append(
                Drain(
                    point=p.id,
                    start=self.number[p.what.waters.basin],
                    stop=stop,
                    opens=stands_open(p),
                    bore=p.what.bore,
                    works=p.what.works,
                    carries=carries,
                    ends=ends,
                )
            )
        return found

    def _end_of(self, points: tuple[str, ...], drain: str) -> tuple[int | None, float]:
        """Into which body a drain runs, None for out of the job, and the level (m) its end stands at the least."""
        for n in points:
            p = self.plan.by_id[n]
            if isinstance(p.what, InWall) and n != drain and p.kind.role != "source" and p.what.waters is not None:
                return self.number[p.what.waters.basin], p.level
        out = [self.plan.by_id[n].level for n in points if isinstance(self.plan.by_id[n].what, DrainEnd)]
        return None, min(out, default=self.plan.by_id[drain].level)

    def _floats(self) -> list[tuple[str, int, float, float]]:
        """Each float valve: its body, the flow it lets in, the level at which it shuts."""
        found = []
        for p in self.plan.points:
            if isinstance(p.what, TopUp) and (name := filled_by(self.plan.points, p)) is not None and self.lay.at[p.id]:
                body = self.bodies[self.number[name]]
                found.append((p.id, self.number[name], p.what.flow, body.shape.rim - p.what.stops))
        return found

    def _scenario(self) -> Scenario:
        opened = sorted(o for o in self.opened if isinstance(self.plan.by_id[o].what, Outlet))
        return Scenario(id="round", name="Round", open=tuple(opened))

    def stands_full(self, run: str) -> bool:
        """Whether a run is full of water that stands: no end of it higher than the water of a body its line
        leads to.
        """
        of = self.plan.run_by_id[run]
        line = next((s.points for s in self.lay.systems.found if run in s.runs), ())
        homes = [
            self.number[w.basin]
            for n in line
            if isinstance(what := self.plan.by_id[n].what, InWall) and (w := what.waters) is not None
        ]
        stands = max((float(self.levels[h]) for h in homes), default=-inf)
        return max(self.plan.by_id[e.point].level for e in of.ends) < stands

    def under_now(self) -> frozenset[str]:
        """The fittings that lie under water now; a return with a hole counts until the water falls to that."""
        found = []
        for b, level in zip(self.bodies, self.levels.tolist(), strict=True):
            for p in b.inside:
                below = p.what.draws_below if isinstance(p.what, InWall) else 0.0
                air = p.level + (p.what.hole if isinstance(p.what, Returns) else -below)
                if isinstance(p.what, InWall) and not isinstance(p.what, Standpipe) and level > air + 1e-9:
                    found.append(p.id)
        return frozenset(found)

    def net(self, under: frozenset[str]) -> Net:
        """The network as things stand; kept for when they stand so again."""
        key = (self.stopped, under, self.wrong, self.opened)
        if key not in self.nets:
            self.nets[key] = self._build(under)
        return self.nets[key]

    def _build(self, under: frozenset[str]) -> Net:
        plan, lay = self.round
        plan = plan.model_copy(update={"points": tuple(self._as_it_stands(p, p.id in under) for p in plan.points)})
        model = FlowModel(plan, lay, self._scenario())
        model.solver.resize(model.sizes_of(model.items(self.pipes), self.minor))
        known = {
            node: self.number[home]
            for p in plan.points
            if isinstance(p.what, InWall)
            and p.what.waters is not None
            and not isinstance(p.what, Standpipe)
            and p.id in under - self.wrong
            for node in model.network.heads
            if node in (p.id, f"{p.id}~water")
            for home in (p.what.waters.basin,)
        }
        return Net(model, known)

    def _as_it_stands(self, p: Point, under: bool) -> Point:
        what = p.what
        if isinstance(what, Pump) and p.id in self.stopped:
            what = Filter(
                loss=500.0, dirty_loss=500.0, at_flow=max(what.curve[-1].flow, 1e-6)
            )  # its wheel stands, and lets water by
        elif isinstance(what, InWall) and what.waters is not None and not isinstance(what, Standpipe):
            level = (
                p.level - what.draws_below + (1.0 if under else -1.0) * 1e-3
            )  # only which side of it the water stands
            what = what.let_in(replace(what.waters, level=level))
        if p.id in self.opened and isinstance(what, Valve):
            what = what.model_copy(update={"opening": 1.0})
        if p.id in self.wrong:
            if isinstance(what, Valve):
                what = what.model_copy(update={"opening": 0.0})
            elif isinstance(what, Filter):
                clogged = what.dirty_loss * _CLOGGED
                what = what.model_copy(update={"loss": clogged, "dirty_loss": clogged})
            elif isinstance(what, InWall) and p.kind.role != "source":
                what = what.let_in(Waters("", p.level - 1.0, p.level, p.level - 1.0))  # it ends in the open
        return p if what is p.what else p.model_copy(update={"what": what})

    def moved(self, under: frozenset[str]) -> tuple[Array, dict[str, float], float]:
        """Into each body by the network (m³/s), through each pump, and out of the job."""
        net = self.net(under)
        solver = net.model.solver
        if not isinstance(solver, Solver):
            raise HydrarchError("a regulator stands in a circulation; a run over time cannot include one")
        solver.stand({node: float(self.levels[i]) for node, i in net.known.items()})
        found = net.model.rows.settle(solver)
        into, out = np.zeros(len(self.bodies)), 0.0
        flows = found.flows
        pumps = {net.model.acting.pump_at[p.id]: flows[p.id] for p in net.model.network.pumps}
        for run, forward in zip(net.model.links, net.model.forward, strict=True):
            if run.id not in self.lay.lines:
                continue
            q = flows[run.id] if forward else -flows[run.id]
            of = self.plan.run_by_id[run.id]
            for end, sign in ((of.a, -1.0), (of.b, 1.0)):
                here = self.plan.by_id[end.point]
                if end.point in self.opened and isinstance(here.what, Outlet):
                    out += sign * q
                    continue
                if isinstance(here.what, Standpipe) or not isinstance(here.what, InWall):
                    continue
                port = self.plan.port(end)
                if port is None or port.role not in ("in", "suction"):
                    continue
                if here.what.waters is None or end.point in self.wrong:
                    out += sign * q
                else:
                    into[self.number[here.what.waters.basin]] += sign * q
        off = float(into.sum()) + out
        if (
            off
        ):  # what the solver's rounding leaves is laid on the largest flow, so that the books are those of the water
            into[int(np.argmax(np.abs(into)))] -= off
        for p in self.pumps:
            if p.id not in pumps:
                ends = [
                    (r, e)
                    for r in self.plan.runs
                    for e in r.ends
                    if e.point == p.id and (port := self.plan.port(e)) is not None and port.name == "in"
                ]
                pumps[p.id] = sum(
                    (1 if r.b.id == e.id else -1)
                    * (found.flows.get(r.id, 0.0) * (1 if net.model.forward[net.model.link_of[r.id]] else -1))
                    for r, e in ends
                )
        return into, pumps, out

    def falls(self, drain: Drain, levels: Array) -> tuple[float, float]:
        """What a standpipe takes (m³/s) at these levels (m), and how that grows with the one above it (m²/s)."""
        if drain.blocked:
            return 0.0, 0.0
        level = float(levels[drain.start])
        low = drain.ends if drain.stop is None else max(drain.ends, float(levels[drain.stop]))
        full = drain.carries * sqrt(max(level - low, 0.0)) if drain.carries < inf else inf

        def takes(at: float) -> float:
            head = at - drain.opens
            if drain.siphons:  # where less comes than it takes, it draws air with the water, and takes what comes
                return min(full, hole(max(head + drain.bore, 0.0), drain.bore)) * drain.wet(at)
            return min(standpipe(head, drain.bore), full)

        q = takes(level)
        return q, max((takes(level + 1e-5) - q) / 1e-5, 0.0)
