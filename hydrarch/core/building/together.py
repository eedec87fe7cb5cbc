"""What runs together in a house: the flow that is expected in each pipe, and the scenarios that sizes are judged by.

A pipe that feeds many fixtures never sees all of them at once. A published method gives what it sees at the most. Such
flows do not add up at a tee, so each fixture has a scenario of its own: it is open, and on its way from the source each
pipe carries what is expected of it, because what branches off draws the difference.
"""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Collection, Iterable, Mapping
from dataclasses import dataclass
from math import dist, isnan, nan
from typing import Literal, cast

from pydantic import PrivateAttr

from hydrarch.core.base.graph import Edge, Graph, Reach
from hydrarch.core.catalogue.demand import LOADING_UNIT, fixture_load, loads_together, units_together
from hydrarch.core.catalogue.guidance import choose_practice, practices
from hydrarch.core.components.fixtures import Fixture
from hydrarch.core.components.outlets import Outlet
from hydrarch.core.plan.document import Plan, RunEnd, Scenario

__all__ = ["ExpectedFlow", "Method", "RunsTogether", "all_scenarios", "expected_flows", "method_used"]

Method = Literal["units", "loads", "all"]
_LEAST = 1e-9  # m³/s: below it nothing is drawn


class RunsTogether(Scenario):
    """What runs together while one fixture is open: the share of its flow that each outlet draws."""

    _shares: dict[str, float] = PrivateAttr(default_factory=dict)

    @property
    def shares(self) -> Mapping[str, float]:
        """By outlet, where it is not all of its flow."""
        return self._shares


@dataclass(frozen=True, slots=True)
class ExpectedFlow:
    """What is expected in a run: the fixtures beyond it, what they count for (`units`, of the method's kind), the flow
    (m³/s) and what they would draw all at once. `beyond_table` says that no row of the method goes so far, and all of
    it is taken.
    """

    run: str
    fixtures: int
    units: float
    flow: float
    all_open: float
    beyond_table: bool


def all_scenarios(plan: Plan) -> tuple[Scenario, ...]:
    """What sizes are judged by: the crew's scenarios and each zone, and in a house what runs together on the way to
    each fixture; everything at once where the crew's standard is that, or no water comes to a fixture.
    """
    method = _method(plan)
    if method == "all" or not any(isinstance(p.what, Fixture) for p in plan.points):
        return plan.written_scenarios()
    ways = _Ways(plan)
    found = _unlike(ways.scenario(p.id, method) for p in plan.of_kind(Fixture) if ways.to.get(p.id))
    if not found:
        return plan.written_scenarios()
    written = plan.written_scenarios()
    if plan.scenarios:
        return (*found, *written)
    zones = {z.id for z in plan.zones}
    opened = {p for s in (*found, *(s for s in written if s.id in zones)) for p in s.open}
    rest = tuple(p.id for p in plan.outlets if p.id not in opened)
    other = (Scenario(id="all", name="All else open", open=rest),) if rest else ()
    return (*found, *other, *(s for s in written if s.id in zones))


def _unlike(found: Iterable[RunsTogether]) -> tuple[RunsTogether, ...]:
    """Those in which something else is drawn than in all before."""
    kept = dict[frozenset[tuple[str, float]], RunsTogether]()
    for scenario in found:
        kept.setdefault(frozenset((p, round(scenario.shares.get(p, 1.0), 6)) for p in scenario.open), scenario)
    return tuple(kept.values())


def expected_flows(plan: Plan) -> tuple[ExpectedFlow, ...]:
    """What is expected in each run on the way to a fixture, in the plan's order."""
    method, ways = _method(plan), _Ways(plan)
    return tuple(
        _expected(plan, r.id, [f for f in ways.beyond[r.id] if isinstance(plan.by_id[f].what, Fixture)], method)
        for r in plan.runs
        if any(isinstance(plan.by_id[f].what, Fixture) for f in ways.beyond.get(r.id, ()))
    )


def method_used(plan: Plan) -> str:
    """The method by which that is worked out, in words."""
    practice = practices()["design_flow"]
    return next(o.says for o in practice.options if o.option == _method(plan))


def _method(plan: Plan) -> Method:
    return cast(Method, choose_practice(plan.practices, "design_flow"))


def _expected(plan: Plan, run: str, fixtures: Collection[str], method: Method) -> ExpectedFlow:
    units, flow = together([cast(Fixture, plan.by_id[f].what) for f in fixtures], method)
    whole = sum(cast(Fixture, plan.by_id[f].what).flow for f in fixtures)
    return ExpectedFlow(run, len(fixtures), units, whole if isnan(flow) else flow, whole, isnan(flow))


def together(fixtures: Iterable[Fixture], method: Method) -> tuple[float, float]:
    """What fixtures count for, and the flow (m³/s) expected of them by a method; nan where no row of it goes so far.

    It is never less than the largest of them draws, and never more than all of them do. A hot and a cold side of one
    kind count together as the one fixture they are.
    """
    all_ = list(fixtures)
    whole, largest = sum(f.flow for f in all_), max((f.flow for f in all_), default=0.0)
    if method == "all":
        return float(len(all_)), whole
    if method == "loads":
        units = sum(fixture_load(f.kind).loading for f in all_)
        flow = loads_together(units * LOADING_UNIT)
    else:
        units = _units(all_)
        flow = units_together(units)
    return units, nan if isnan(flow) else min(max(flow, largest), whole)


def _units(fixtures: Iterable[Fixture]) -> float:
    """Fixture units of what hangs on one pipe."""
    sides = Counter((f.kind, f.side) for f in fixtures)
    found = 0.0
    for kind in sorted({k for k, _ in sides}):
        load, cold, hot = fixture_load(kind), sides[kind, "cold"], sides[kind, "hot"]
        both = min(cold, hot)
        single = load.cold if isnan(load.hot) else load.hot
        found += both * load.both + (cold - both) * load.cold + (hot - both) * single
    return found


class _Ways:
    """The shortest way of water to every outlet that is in no zone, and what hangs on each run of it; each way begins
    with its source, by "~" and its id.
    """

    def __init__(self, plan: Plan) -> None:
        self.plan = plan
        edges = [Edge(r.id, self._at(r.a), self._at(r.b), self._long(r.points)) for r in plan.runs]
        graph = Graph(edges)
        starts = [n for e in edges for n in (e.a, e.b) if plan.by_id[n[0]].kind.role == "source"]
        reach = graph.from_nodes(sorted(set(starts)))
        zoned = {h for z in plan.zones for h in z.heads}
        self.to: dict[str, tuple[str, ...]] = {}
        for p in plan.of_kind(Outlet):
            if p.id not in zoned and (way := reach.way((p.id, ""))):
                self.to[p.id] = (f"~{self._start(reach, (p.id, ''))}", *way)
        beyond = defaultdict[str, list[str]](list)
        for name, way in self.to.items():
            for run in way:
                beyond[run].append(name)
        self.beyond: dict[str, tuple[str, ...]] = {run: tuple(names) for run, names in beyond.items()}
        self._known: dict[tuple[str, Method], float] = {}

    @staticmethod
    def _start(reach: Reach[tuple[str, str]], node: tuple[str, str]) -> str:
        """The source that a node's water starts from."""
        while node in reach.before:
            node = reach.before[node][1]
        return node[0]

    def _at(self, end: RunEnd) -> tuple[str, str]:
        """The node a run's end comes to, parted where a thing holds its ports' waters apart."""
        point = self.plan.by_id[end.point]
        return (end.point, self.plan.port_name(end)) if point.kind.apart else (end.point, "")

    def _long(self, ends: tuple[str, str]) -> float:
        a, b = (self.plan.by_id[p] for p in ends)
        return max(dist((a.x, a.y, a.level), (b.x, b.y, b.level)), 1e-3)

    def scenario(self, fixture: str, method: Method) -> RunsTogether:
        """What runs together while a fixture is open."""
        plan, way = self.plan, self.to[fixture]
        shares, opened = {fixture: 1.0}, [fixture]
        for n, run in enumerate(way):
            further = set(self.beyond[way[n + 1]]) if n + 1 < len(way) else {fixture}
            side = [p for p in self.beyond[run] if p not in further]
            fixtures = [p for p in side if isinstance(plan.by_id[p].what, Fixture)]
            opened += [p for p in side if p not in fixtures]
            beyond = self._carries(way[n + 1], method) if n + 1 < len(way) else self._flow(further, method)
            draws = self._carries(run, method) - beyond
            whole = sum(cast(Fixture, plan.by_id[p].what).flow for p in fixtures)
            if draws > _LEAST and whole > 0:
                shares |= dict.fromkeys(fixtures, draws / whole)
                opened += fixtures
        point = plan.by_id[fixture]
        found = RunsTogether(
            id=f"expected-{fixture[-30:]}", name=f"Expected, to {point.label}"[:60], open=tuple(opened)
        )
        found._shares = shares
        return found

    def _carries(self, run: str, method: Method) -> float:
        """What is expected in a run; worked out once."""
        if (run, method) not in self._known:
            self._known[run, method] = self._flow(self.beyond[run], method)
        return self._known[run, method]

    def _flow(self, outlets: Iterable[str], method: Method) -> float:
        mine = [f for p in sorted(outlets) if isinstance(f := self.plan.by_id[p].what, Fixture)]
        flow = together(mine, method)[1]
        return sum(f.flow for f in mine) if isnan(flow) else flow
