"""Faults a line may have, each a change to its network with one magnitude within what is physically possible."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from hydrarch.core.base.errors import HydrarchError
from hydrarch.core.base.graph import Edge, Graph
from hydrarch.core.catalogue.pipes import Pipe
from hydrarch.core.components.basins import Basin
from hydrarch.core.components.devices import CheckValve, Filter, Valve
from hydrarch.core.components.equipment import Vessel
from hydrarch.core.components.outlets import DripRow, Outlet
from hydrarch.core.components.sources import Lifter
from hydrarch.core.diagnosis.faults import PRIORS, TOLD_BY_SIGNS, FaultKind
from hydrarch.core.hydraulics.acting import SHUT_COEFFICIENT
from hydrarch.core.hydraulics.flow import FlowModel
from hydrarch.core.hydraulics.foresight import Foresight
from hydrarch.core.hydraulics.gravity import most_flow
from hydrarch.core.hydraulics.links import PumpLink, RegulatorLink
from hydrarch.core.hydraulics.network import Network, RunsDry, Solver
from hydrarch.core.hydraulics.regulated import make_solver
from hydrarch.core.plan.document import Plan

__all__ = [
    "FaultyLine",
    "Found",
    "PossibleFault",
    "blocked_coefficient",
    "pump_curve_of",
]

CONTRACTION = 0.62
"""Share of a sharp opening that the jet behind it fills (Weisbach's sharp orifice, in any handbook of hydraulics)."""
_GRID = 7
_NARROWED = ("valve partly shut", "check valve stuck", "filter clogged")
_PUMPS: tuple[FaultKind, ...] = ("pump worn", "pump slow", "suction air")
_IN_DRAINS: tuple[FaultKind, ...] = ("roots", "belly")
_PRESSED = 0.5  # m of water at a pump's inlet that keep air out; from memory
_NEAR_TOP = 0.3  # m below the highest place of the pipe where air still gathers; from memory
_STILL, _LEAST_FLOW = 1e-7, 2e-4
"""m³/s, 12 L/min: what a leak is a share of where nothing is open."""


def blocked_coefficient(share: float) -> float:
    """Loss coefficient of pipe narrowed to a share of its bore, by sudden enlargement behind the jet: K = (1 / (0.62
    share²) − 1)², of the pipe's own velocity. Borda-Carnot; `share` above 0 and up to 1.
    """
    return max(1 / (CONTRACTION * share**2) - 1, 0.0) ** 2


@dataclass(frozen=True, slots=True)
class PossibleFault:
    """A fault that may be: its kind, the point or run it is at, and how likely it is before anything is read."""

    kind: FaultKind
    where: str
    prior: float


_NO_FAULT = PossibleFault("leak", "", 0.0)


@dataclass(frozen=True)
class Found:
    """A line with one fault of one size, solved: heads (m) by node and flow (m³/s) by link."""

    heads: Mapping[str, float]
    flows: Mapping[str, float]


class FaultyLine:
    """A scenario of a plan with its runs parted in the middle, to be solved with faults in it.

    Outlets give what the pressure there drives through them. `weights` is how many joints each run counts for, more
    where they were not looked at. With `signs`, faults that only signs tell are candidates too; where it was seen what
    drains take, `falls` (m/m) of their runs say what each carries.
    """

    def __init__(
        self,
        plan: Plan,
        model: FlowModel,
        pipes: Mapping[str, Pipe],
        minor: Mapping[str, float],
        weights: Mapping[str, float],
        signs: bool = False,
        falls: Mapping[str, float] | None = None,
    ) -> None:
        self.plan, self.model, self.weights, self._signs = plan, model, weights, signs
        self._laid = {r: (pipes[r], fall) for r, fall in (falls or {}).items() if fall > 0 and r in pipes}
        sized = model.sized(pipes, minor)
        links = []
        for p in sized.pipes:
            if p.id in model.lay.lines:
                half = replace(p, length=p.length / 2, minor=p.minor / 2, fixed=p.fixed / 2)
                links += [replace(half, stop=_middle(p.id)), replace(half, id=f"{p.id}~rest", start=_middle(p.id))]
            else:
                links.append(p)
        self.network: Network = replace(sized, pipes=tuple(links))
        self.place = {p.id: i for i, p in enumerate(self.network.pipes)}
        self._solver = make_solver(self.network, model.wet, plan.conditions.friction)
        self._bores = np.array([p.bore for p in links])
        self._c = np.array([p.hazen_williams_c for p in links])
        self._roughness = np.array([p.roughness for p in links])
        self._minor = np.array([p.minor for p in links])
        self._below: dict[str, frozenset[str]] = {}
        self._too_much: dict[str, float] = {}
        """Of a leak's place, the least flow (m³/s) that was found to leave no pressure there."""
        self._known: dict[tuple[tuple[tuple[PossibleFault, float], ...], str], Found | None] = {}
        self.rest = self._as_it_is()
        self.total = max(sum(v for k, v in self.rest.flows.items() if k in self._emitters), _LEAST_FLOW)

    @cached_property
    def _emitters(self) -> dict[str, int]:
        return {e.id: i for i, e in enumerate(self.network.emitters)}

    def _as_it_is(self) -> Found:
        found = self._solver.solve()
        self._ahead = found.foresight()
        return Found(found.heads, found.flows)

    @cached_property
    def _every_one(self) -> tuple[PossibleFault, ...]:
        found = list(self._every())
        whole = sum(f.prior for f in found) or 1.0
        return tuple(replace(f, prior=f.prior / whole) for f in found)

    def candidates(self) -> tuple[PossibleFault, ...]:
        """Every fault this line may have, with its prior; together they come to 1."""
        return self._every_one

    def _every(self) -> Iterator[PossibleFault]:
        lay, plan = self.model.lay, self.plan
        runs = [r.id for r in self.model.runs if not r.coupled]
        joints = sum(self.weights.get(r, 2.0) for r in runs) or 1.0
        long = sum(lay.lines[r].length for r in runs) or 1.0
        for r in runs:
            yield PossibleFault("leak", r, PRIORS["leak"] * self.weights.get(r, 2.0) / joints)
            if self._runs(r):
                yield PossibleFault("blocked pipe", r, PRIORS["blocked pipe"] * lay.lines[r].length / long)
        for kind, model in (
            ("valve partly shut", Valve),
            ("check valve stuck", CheckValve),
            ("filter clogged", Filter),
        ):
            mine = [p.id for p in plan.of_kind(model) if p.id in self.model.points and self._runs(self.out_of(p.id))]
            for p in mine:
                yield PossibleFault(kind, p, PRIORS[kind] / len(mine))  # type: ignore[arg-type]
        emitting = [p for p in self.model.open if f"{p}~head" in self._emitters]
        for p in emitting:
            yield PossibleFault("worn", p, PRIORS["worn"] / len(emitting))
            yield PossibleFault("clogged", p, PRIORS["clogged"] / len(emitting))
        sources = [p.id for p in plan.sources if p.id in self.model.points]
        for p in sources:
            yield PossibleFault("weak source", p, PRIORS["weak source"] / len(sources))
        yield from self._driven()
        if self._signs:
            yield from self._by_signs()

    @cached_property
    def _running(self) -> tuple[str, ...]:
        """The points of pumps that run in the line; what a network has as the curve of a mains is none."""
        lifters = {p.id for p in self.plan.of_kind(Lifter)}
        return tuple(p for p in self._at(self.network.pumps) if p in lifters)

    @cached_property
    def _lifting(self) -> frozenset[str]:
        """Those of them that water is not pressed into: only there can air be drawn in."""
        links = {p: x for x in self.network.pumps if (p := x.id.partition("~")[0]) in self._running}
        pressed = {p: self.rest.heads[x.start] - self.plan.by_id[p].level for p, x in links.items()}
        return frozenset(p for p, head in pressed.items() if head < _PRESSED)

    def _driven(self) -> Iterator[PossibleFault]:
        """What ails the pumps that run, and the regulators."""
        for p in self._running:
            for kind in _PUMPS:
                if kind != "suction air" or p in self._lifting:
                    yield PossibleFault(kind, p, PRIORS[kind] / len(self._running))
        held = self._at(self.network.regulators)
        for p in held:
            yield PossibleFault("regulator off", p, PRIORS["regulator off"] / len(held))

    def _at(self, links: Sequence[PumpLink | RegulatorLink]) -> list[str]:
        """The points that links of pumps or regulators stand for."""
        return [p for x in links if (p := x.id.partition("~")[0]) in self.plan.by_id]

    def _by_signs(self) -> Iterator[PossibleFault]:
        """Faults that no pressure or flow shows, wherever on the plan they may be."""
        plan, lay = self.plan, self.model.lay
        drains = [r.id for r in plan.runs if lay.systems.drain(r.id)]
        standing = [p.id for p in plan.of_kind(Lifter) if p.id not in self._running]
        inside = [p for p in self.model.points.values() if p.kind.role == "line"]
        top = max((p.level for p in inside), default=0.0)
        places: dict[FaultKind, list[str]] = {
            "vessel waterlogged": [p.id for p in plan.of_kind(Vessel)],
            "check valve passing": [p.id for p in plan.of_kind(CheckValve)],
            "valve passing": [p.id for p in plan.of_kind(Valve)],
            "suction air": standing,
            "air trapped": [p.id for p in inside if p.level >= top - _NEAR_TOP],
            "roots": drains,
            "belly": drains,
            "liner leak": [p.id for p in plan.of_kind(Basin)],
            "siphon": [p.id for p in plan.of_kind(Basin)],
        }
        for kind, mine in places.items():
            for where in mine:
                yield PossibleFault(kind, where, PRIORS[kind] / len(mine))

    def runs_below(self, place: str) -> frozenset[str]:
        """The drain runs that water from a point or run passes on its way down, that run among them."""
        if place not in self._below:
            self._below[place] = self._runs_below(place)
        return self._below[place]

    def _runs_below(self, place: str) -> frozenset[str]:
        plan, lay = self.plan, self.model.lay
        first = plan.run_by_id.get(place)
        found = {place} if first is not None else set[str]()
        waiting = [place]
        if first is not None:
            waiting = [min((e.point for e in first.ends), key=lambda p: plan.by_id[p].level)]
        seen = set[str]()
        while waiting:
            point = waiting.pop()
            if point in seen:
                continue
            seen.add(point)
            for r in lay.at.get(point, ()):
                (far,) = [e.point for e in plan.run_by_id[r].ends if e.point != point] or [point]
                if lay.systems.drain(r) and plan.by_id[far].level <= plan.by_id[point].level + 1e-9:
                    found.add(r)
                    waiting.append(far)
        return frozenset(found)

    def out_of(self, point: str) -> str | None:
        """The run at a device's outlet."""
        return next(
            (r.id for r in self.model.runs for e in r.ends if e.point == point and self.plan.port_name(e) == "out"),
            None,
        )

    def solves(self, fault: PossibleFault) -> bool:
        """Whether a fault changes what is worked out, so that figures tell of it."""
        if self.in_drain(fault):
            return fault.where in self._laid
        return fault.kind not in TOLD_BY_SIGNS and (fault.kind != "suction air" or fault.where in self._lifting)

    def in_drain(self, fault: PossibleFault) -> bool:
        """Whether a fault is one of a drain."""
        return fault.kind in _IN_DRAINS

    def bore_of(self, run: str) -> float:
        """The bore (m) of a drain run whose fall is known."""
        return self._laid[run][0].bore

    def pours(self) -> tuple[str, ...]:
        """The points where water can be poured into a drain: what it takes in by, and its clean-outs."""
        return tuple(
            p.id
            for p in self.plan.points
            if p.kind.role in ("drain", "end")
            and any(self._falls_from(p.id, r) for r in self.model.lay.at.get(p.id, ()))
        )

    def _falls_from(self, point: str, run: str) -> bool:
        """Whether a run is of a drain whose fall is known, and leads down from a point."""
        levels = self.plan.by_id
        return run in self._laid and all(
            levels[e.point].level <= levels[point].level + 1e-9 for e in self.plan.run_by_id[run].ends
        )

    @cached_property
    def _carries(self) -> dict[str, float]:
        """The most (m³/s) that each drain run carries, with its whole bore."""
        return {r: most_flow(*laid) for r, laid in self._laid.items()}

    def takes(self, faults: Sequence[tuple[PossibleFault, float]], point: str) -> float | None:
        """The most (m³/s) that may be poured into a drain at a point before it backs up, with these faults in it; None
        where no drain falls from there.
        """
        left: dict[str, float] = {f.where: size for f, size in faults if f.kind in _IN_DRAINS}
        carry = [
            most_flow(*self._laid[r], left[r]) if r in left else self._carries[r]
            for r in self.runs_below(point)
            if r in self._laid
        ]
        return min(carry, default=None)

    def _runs(self, run: str | None) -> bool:
        """Whether water runs in a run as the scenario is: what narrows it shows in nothing where none does."""
        return run is not None and abs(self.rest.flows.get(run, 0.0)) > _STILL

    def sizes_of(self, fault: PossibleFault) -> NDArray[np.float64]:
        """The magnitudes that are tried: of a leak its flow (m³/s), of what is blocked the share of the bore left, of
        an opening how many times it passes, of a source how much of its head is gone, of a worn pump how much of its
        most flow runs back inside it, of a slow one how much of its speed is gone, of one with air in it how much of
        its head, of a regulator how many times what it should hold; 1 for what changes no flow.
        """
        if not self.solves(fault):
            return np.ones(2)
        if fault.kind == "leak":
            return np.geomspace(0.01, 3.0, _GRID) * self.total
        if fault.kind in ("worn", "clogged"):
            return np.geomspace(1.15, 3.0, _GRID) if fault.kind == "worn" else np.geomspace(0.1, 0.87, _GRID)
        if fault.kind in ("weak source", *_PUMPS):
            most = {"pump worn": 0.8, "suction air": 0.95}.get(fault.kind, 0.6)
            return np.geomspace(0.03, most, _GRID)
        if fault.kind == "regulator off":
            return np.geomspace(0.3, 2.5, _GRID)
        return np.linspace(0.12, 0.75, _GRID)

    def with_faults(self, *faults: tuple[PossibleFault, float], shut: str = "") -> Found | None:
        """The line solved with faults of these magnitudes in it, and a valve `shut` meanwhile where one is named; None
        where that cannot be: a leak where no pressure is left, or what does not settle.
        """
        faults = tuple(f for f in faults if self.solves(f[0]) and not self.in_drain(f[0]))
        if not faults and not shut:
            return self.rest
        (first, size), *others = faults or ((_NO_FAULT, 0.0),)
        alone = first.kind == "leak" and not others and not shut
        if alone and size >= self._too_much.get(first.where, np.inf):
            return None  # a larger leak leaves less pressure still
        key = (faults, shut)
        if key not in self._known:
            self._known[key] = self._tried(faults, shut)
        return self._known[key]

    def valves(self) -> tuple[str, ...]:
        """The valves that may be shut to see what changes."""
        return tuple(
            p.id
            for p in self.plan.of_kind(Valve)
            if isinstance(p.what, Valve) and p.what.opening > 0 and p.id in self.model.points and self.out_of(p.id)
        )

    def _cut_off(self, shut: str) -> frozenset[str]:
        """The nodes no source reaches with a valve shut."""
        closed = self.out_of(shut)
        ways = [Edge(p.id, p.start, p.stop) for p in self.network.pipes if p.id != closed]
        ways += [Edge(p.id, p.start, p.stop) for p in self.network.pumps]
        ways += [Edge(r.id, r.start, r.stop) for r in self.network.regulators]
        graph = Graph(ways, self.network.heads)
        reach = graph.from_nodes(list(self.network.heads))
        return frozenset(n for w in ways for n in (w.a, w.b) if n not in reach.distance)

    def _tried(self, faults: tuple[tuple[PossibleFault, float], ...], shut: str = "") -> Found | None:
        cut_off = self._cut_off(shut) if shut else frozenset[str]()
        minor, times = self._minor.copy(), np.ones(len(self.network.emitters))
        drawn: dict[str, float] = {}
        dry: dict[str, float] = {}
        heads: dict[str, float] = {}
        driven: dict[str, tuple[FaultKind, float]] = {}
        if shut:
            minor[self.place[self.out_of(shut) or ""]] += SHUT_COEFFICIENT
        for fault, size in faults:
            if fault.kind == "leak" and _middle(fault.where) in cut_off:
                continue  # it runs dry
            if fault.kind == "leak":
                line = self.model.lay.lines[fault.where]
                drawn[_middle(fault.where)] = drawn.get(_middle(fault.where), 0.0) + size
                dry[_middle(fault.where)] = (self.plan.by_id[line.a].level + self.plan.by_id[line.b].level) / 2
            elif fault.kind in ("worn", "clogged"):
                times[self._emitters[f"{fault.where}~head"]] *= size
            elif fault.kind == "weak source":
                for node, head in self._source_heads(fault.where).items():
                    heads[node] = head - size * self._drive(fault.where)
            elif fault.kind in (*_PUMPS, "regulator off"):
                driven[fault.where] = (fault.kind, size)
            else:
                minor[self.place[self._narrowed(fault) or ""]] += blocked_coefficient(size)
        try:
            found = self._solved(minor, times, drawn, heads, driven, dry)
            for node, level in dry.items():
                if found.heads.get(node, level) <= level:
                    raise RunsDry(node)
        except RunsDry:
            if len(faults) == 1 and not shut:
                (fault, size) = faults[0]
                self._too_much[fault.where] = min(self._too_much.get(fault.where, np.inf), size)
            return None
        except HydrarchError:
            return None
        return found

    def foreseen(self, faults: Sequence[PossibleFault], point: str) -> list[float | None]:
        """By how much the pressure (Pa) at a point changes with each fault, foreseen without solving again: of a leak
        or an outlet for each m³/s, of what is blocked at half its bore. None where that cannot be foreseen.
        """
        told: list[float | None] = [None] * len(faults)
        node = self.model.state_node.get(point, "")
        if not isinstance(self._solver, Solver) or not isinstance(self._ahead, Foresight):
            return told
        at = self._solver.place(node)
        drawn = {"leak": 1.0, "worn": 1.0, "clogged": -1.0}
        leaks = [
            (n, place)
            for n, f in enumerate(faults)
            if f.kind in drawn and (place := self._solver.place(self._drawn_at(f))) >= 0
        ]
        heads = (
            self._ahead.drawn(np.array([place for _, place in leaks], dtype=np.int64)) if leaks else np.zeros((1, 0))
        )
        for column, (n, _) in enumerate(leaks):
            told[n] = float(heads[at, column]) * drawn[faults[n].kind] * self.model.wet.weight if at >= 0 else 0.0
        narrowed = [(n, self.place[run]) for n, f in enumerate(faults) if (run := self._narrowed(f)) is not None]
        more = blocked_coefficient(0.5)
        parts = [
            (
                np.array([i], dtype=np.int64),
                (self._bores[[i]], self._c[[i]], self._roughness[[i]], self._minor[[i]] + more),
            )
            for _, i in narrowed
        ]
        for (n, _), found in zip(narrowed, self._ahead.changes(parts), strict=True):
            if found is not None:
                change = 0.0 if found.heads is None or at < 0 else float(found.heads[at])
                told[n] = change * self.model.wet.weight
        return told

    def _drawn_at(self, fault: PossibleFault) -> str:
        if fault.kind == "leak":
            return _middle(fault.where)
        return self.network.emitters[self._emitters[f"{fault.where}~head"]].node

    def _narrowed(self, fault: PossibleFault) -> str | None:
        """The run a fault narrows, None where it narrows none."""
        if fault.kind == "blocked pipe":
            return fault.where
        return self.out_of(fault.where) if fault.kind in _NARROWED else None

    def _source_heads(self, point: str) -> dict[str, float]:
        return {n: h for n, h in self.network.heads.items() if n == point or n.startswith(f"{point}~")}

    def _drive(self, point: str) -> float:
        """What a source lifts above the open outlets (m): what a share of its head is a share of."""
        at = [self.rest.heads[n] for n in (point, f"{point}~out") if n in self.rest.heads]
        outlets = [e.elevation for e in self.network.emitters] or [self.plan.by_id[point].level]
        return max((max(at) if at else 0.0) - sum(outlets) / len(outlets), 1.0)

    def _solved(
        self,
        minor: NDArray[np.float64],
        times: NDArray[np.float64],
        drawn: Mapping[str, float],
        heads: Mapping[str, float],
        driven: Mapping[str, tuple[FaultKind, float]],
        dry: Mapping[str, float],
    ) -> Found:
        solver = self._solver
        if isinstance(solver, Solver) and not driven:
            solver.resize((self._bores, self._c, self._roughness, minor))
            solver.ease(times)
            solver.draw(drawn)
            solver.stand({**self.network.heads, **heads})
            found = solver.solve(dry)
            return Found({**found.heads, **heads}, found.flows)
        network = replace(
            self.network,
            pipes=tuple(replace(p, minor=float(k)) for p, k in zip(self.network.pipes, minor, strict=True)),
            emitters=tuple(replace(e, k=e.k * float(t)) for e, t in zip(self.network.emitters, times, strict=True)),
            demands={n: self.network.demands.get(n, 0.0) + drawn.get(n, 0.0) for n in {*self.network.demands, *drawn}},
            heads={**self.network.heads, **heads},
            pumps=tuple(_ailing(p, driven) for p in self.network.pumps),
            regulators=tuple(self._held(r, driven) for r in self.network.regulators),
        )
        found = make_solver(network, self.model.wet, self.plan.conditions.friction).solve()
        return Found(found.heads, found.flows)

    def _held(self, link: RegulatorLink, driven: Mapping[str, tuple[FaultKind, float]]) -> RegulatorLink:
        """A regulator that holds so many times the pressure it should."""
        point = link.id.partition("~")[0]
        if point not in driven:
            return link
        level = self.plan.by_id[point].level
        return replace(link, head=level + (link.head - level) * driven[point][1])

    def pressure(self, found: Found, point: str) -> float | None:
        """Gauge pressure (Pa) of the pipe at a point; None where no water was worked out."""
        node = self.model.state_node.get(point)
        head = found.heads.get(node or "")
        return None if head is None else (head - self.plan.by_id[point].level) * self.model.wet.weight

    def flow(self, found: Found, point: str) -> float | None:
        """Flow (m³/s) that an outlet gives, or a source; None for what is neither, or not open."""
        if f"{point}~head" in found.flows:
            return found.flows[f"{point}~head"]
        what = self.plan.by_id[point].what
        if isinstance(what, Outlet | DripRow):
            return None
        nodes = set(self._source_heads(point))
        if not nodes:
            return None
        ways = [(x.id, x.start, x.stop) for x in self.network.pipes]
        ways += [(x.id, x.start, x.stop) for x in self.network.pumps]
        return sum(
            found.flows[name] * (1 if start in nodes else -1)
            for name, start, stop in ways
            if (start in nodes) != (stop in nodes)
        )


def _ailing(pump: PumpLink, driven: Mapping[str, tuple[FaultKind, float]]) -> PumpLink:
    """A pump with what is wrong with it, where something is."""
    kind, size = driven.get(pump.id.partition("~")[0], ("", 0.0))
    return replace(pump, curve=pump_curve_of(kind, size, pump.curve)) if kind in _PUMPS else pump


def pump_curve_of(kind: str, size: float, curve: Sequence[tuple[float, float]]) -> tuple[tuple[float, float], ...]:
    """The curve of (flow, head) points of a pump that is worn or slow, by `size`, a share from 0 up to 1.

    Slow, as with the wrong speed or the wrong way round, it follows the affinity laws: flow as the speed, head as its
    square. Worn, so much of its most flow runs back inside it through rings and clearances, and what leaves it is less
    by that at each head. Both laws are in any handbook of pumps. With air drawn in, it loses so much of its head at
    each flow: what it churns is lighter, and a few parts of air in a hundred take most of it; the form is from memory.
    """
    if kind == "suction air":
        return tuple((q, h * (1 - size)) for q, h in curve)
    if kind == "pump slow":
        return tuple((q * (1 - size), h * (1 - size) ** 2) for q, h in curve)
    flows, heads = [q for q, _ in curve], [h for _, h in curve]
    back = size * flows[-1]
    first = (0.0, float(np.interp(back, flows, heads)))
    return (first, *((q - back, h) for q, h in curve if q - back > 1e-9))


def _middle(run: str) -> str:
    return f"{run}~middle"
