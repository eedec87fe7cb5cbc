"""What sizes cost and lose in a plan, and the tree its water runs through, for sizing by least cost."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from functools import partial
from math import inf, pi

from hydrarch.core.base.errors import HydrarchError
from hydrarch.core.base.identity import riser_end
from hydrarch.core.base.units import STANDARD_GRAVITY, size_value
from hydrarch.core.catalogue.pipes import Pipe, Series, pipe, series
from hydrarch.core.catalogue.prices import pipe_price
from hydrarch.core.components.devices import Regulator
from hydrarch.core.components.outlets import DripRow, Outlet
from hydrarch.core.hydraulics.flow import KEEPS, Flow, FlowModel, draws, models
from hydrarch.core.hydraulics.friction import METHODS, velocity
from hydrarch.core.hydraulics.links import PumpLink
from hydrarch.core.hydraulics.pumps import head_at, power
from hydrarch.core.hydraulics.spread import spread
from hydrarch.core.hydraulics.static import static_pressure
from hydrarch.core.plan.document import Plan
from hydrarch.core.site.layout import Layout
from hydrarch.core.site.risers import mouth_level, riser_pipe
from hydrarch.core.sizing.bound import LoopRun, LoopScenario, LoopSize, lines_under
from hydrarch.core.sizing.hammer import STILL, closing_time, size_surge
from hydrarch.core.sizing.least_cost import Option, Path, SizeOption, TreeRun, cheapest_programme, cheapest_tree
from hydrarch.core.sizing.select import Sizes, size_options

__all__ = ["Costs", "CostPoint", "FeedTree", "energy_cost"]

_SPARE = 4.0  # times its flow that a size too fast for the limit may carry in the bound


@dataclass(frozen=True, slots=True)
class CostPoint:
    """With `head` (m) to spend on losses and lift, the cheapest tree costs `pipe`; raising that head costs `energy`."""

    head: float
    pipe: float
    energy: float


def energy_cost(plan: Plan, flow: float, head: float) -> float:
    """What pumping `flow` (m³/s) against `head` (m) costs over the years counted: power × hours × years ×
    price.
    """
    c = plan.conditions
    if flow <= 0 or head <= 0:
        return 0.0
    return power(flow, head, c.pump_efficiency) / 1e3 * c.run_hours * c.years * c.energy_price


class Costs:
    """What every size of every run costs and loses, and the tree the flows run through."""

    def __init__(self, plan: Plan, lay: Layout, minor: Mapping[str, float], computed: Sizes) -> None:
        self.plan, self.lay, self.minor = plan, lay, minor
        self.options = size_options(plan, lay)
        self.scenarios: tuple[FlowModel, ...] = models(plan, lay)
        self.flows = computed.flows
        self.computed = {r: c.size for r, c in computed.choices.items()}
        self.rest, self.closes = static_pressure(plan, lay), closing_time(plan)
        self._thinner = spread(plan, lay, [p.id for p in plan.of_kind(DripRow)])
        self._allowed: dict[str, tuple[Pipe, ...]] = {}

    def price(self, run: str, item: Pipe) -> float:
        """Pipe of a run, and its share of the fittings at its ends: one fitting a joint at this size's usual price."""
        return self.pipe_cost(run, item) + self.fittings(run, item)

    def pipe_cost(self, run: str, item: Pipe) -> float:
        """What its pipe costs; nothing where it exists already, or where there is none."""
        line = self.lay.lines[run]
        bought = not line.coupled and self.plan.run_by_id[run].existing is None
        return line.length * pipe_price(item, self.plan.prices) if bought else 0.0

    def fittings(self, run: str, item: Pipe) -> float:
        """What the fittings at a run's two ends cost at this size, shared with the runs that meet there."""
        each = float(1.1 * size_value(item.size) ** 1.5)  # starting price of a plastic tee or elbow, prices.csv
        line = self.lay.lines[run]
        return each * sum(1 / len(self.lay.at[p]) for p in (line.a, line.b))

    def loss(self, run: str, item: Pipe, flow: float) -> float:
        """Head (m) a run loses at a flow, fittings included; one of a row at what goes into it there."""
        family, long = series(item.series), self.lay.lines[run].length * self._thinner.get(run, 1.0)
        v = float(velocity(flow, item.bore))
        fittings = self.minor.get(run, 0.0) * v * v / (2 * STANDARD_GRAVITY)
        return self.friction(flow, long, item.bore, family) + fittings

    def friction(self, flow: float, length: float, bore: float, family: Series) -> float:
        """Head (m) that pipe loses by friction, by the method of the plan."""
        wet, method = self.scenarios[0].wet, METHODS[self.plan.conditions.friction]
        return float(
            method.loss(flow, length, bore, family.hazen_williams_c, family.roughness, wet.density, wet.viscosity)
        )

    def allowed(self, run: str) -> tuple[Pipe, ...]:
        """The sizes of a run that keep the velocity limit and stand a sudden stop at the flows asked of it.

        Where none stands the stop, those that keep the velocity; where none keeps that, the largest.
        """
        if run not in self._allowed:
            most = max((abs(f.runs[run].flow) for f in self.flows.values() if run in f.runs), default=0.0)
            limit = self.plan.conditions.max_velocity * KEEPS
            speeds = {p: float(velocity(most, p.bore)) for p in self.options[run]}
            slow = tuple(p for p, v in speeds.items() if v <= limit) or self.options[run][-1:]
            self._allowed[run] = tuple(p for p in slow if self.stands(run, p, speeds[p])) or slow
        return self._allowed[run]

    def loop_runs(self) -> list[LoopRun]:
        """Every run with its sizes, for the bound where flows may go either way."""
        links, found = {p.id: p for p in self.scenarios[0].links}, []
        for run in (r.id for r in self.scenarios[0].runs):
            sizes = []
            for item in self.options[run]:
                most = self.plan.conditions.max_velocity * pi * item.bore**2 / 4
                if item == self.allowed(run)[-1]:  # taken at any speed where none keeps the limit
                    most = max([most, *(_SPARE * abs(f.runs[run].flow) for f in self.flows.values() if run in f.runs)])
                sizes.append(LoopSize(self.price(run, item), most, lines_under(partial(self.loss, run, item), most)))
            found.append(LoopRun(links[run].start, links[run].stop, tuple(sizes)))
        return found

    def stands(self, run: str, item: Pipe, speed: float) -> bool:
        """Whether a run of that pipe stands water of `speed` (m/s) stopping, day after day."""
        return speed < STILL or size_surge(self.plan, self.lay, run, item, speed, self.rest, self.closes).holds


class FeedTree:
    """The runs that feed each point by the shortest way, each scenario's flows in them, and what each outlet
    may lose.
    """

    def __init__(self, costs: Costs) -> None:
        self.costs, lay = costs, costs.lay
        self.feeder: dict[str, str] = {}
        for p in sorted(lay.fed, key=lambda n: lay.distance[n]):
            near = [r for r in lay.at[p] if lay.distance.get(lay.lines[r].other(p), inf) < lay.distance[p] - 1e-9]
            if near:
                self.feeder[p] = min(near, key=lambda r: lay.distance[lay.lines[r].other(p)] + lay.lines[r].length)
        self.held = {
            p.id: p.level + p.what.pressure / costs.scenarios[0].wet.weight
            for p in costs.plan.points
            if isinstance(p.what, Regulator) and len(lay.at[p.id]) == 2
        }
        used = set(self.feeder.values())
        self.chords = tuple(r for r in costs.options if r not in used and lay.lines[r].a in lay.fed)
        self.flows = self._wanted() if not self.chords else self._settled(costs.flows)
        self.taken = {r: costs.options[r][0].size for r in self.chords}

    def _wanted(self) -> list[dict[str, float]]:
        """In a tree every run carries what the open outlets beyond it want."""
        found = []
        for model in self.costs.scenarios:
            carried: dict[str, float] = {}
            for name in model.open:
                wanted = self._draws(model, name)
                here: str | None = name
                while here is not None and here in self.feeder:
                    run = self.feeder[here]
                    carried[run] = carried.get(run, 0.0) + wanted
                    here = self.up(here)
            found.append(carried)
        return found

    def _draws(self, model: FlowModel, name: str) -> float:
        """What an open outlet wants (m³/s); a row whose emitters do not compensate passes more, and is taken at what it
        passes as computed.
        """
        what = model.points[name].what
        found = draws(what)
        if (
            isinstance(what, DripRow)
            and what.exponent > 0
            and name in (outlets := self.costs.flows[model.scenario.id].outlets)
        ):
            found = max(found, outlets[name].flow)
        return found

    def _settled(self, flows: Mapping[str, Flow]) -> list[dict[str, float]]:
        return [{r: abs(f.flow) for r, f in flows[m.scenario.id].runs.items()} for m in self.costs.scenarios]

    def follow(self, sizes: dict[str, str]) -> None:
        """Take the flows that these sizes leave."""
        items = {r: pipe(self.costs.options[r][0].series, s) for r, s in sizes.items()}
        self.flows = self._settled(
            {m.scenario.id: m.solve(items, dict(self.costs.minor)) for m in self.costs.scenarios}
        )
        self.taken = {r: sizes[r] for r in self.chords}

    def up(self, point: str) -> str | None:
        """The next point towards the source; None at a source."""
        run = self.feeder.get(point)
        if run is None:
            return None
        return self.costs.lay.lines[run].other(point)

    def path(self, point: str) -> tuple[str, ...]:
        """The runs to a point from the source, or from the regulator that feeds it."""
        way = []
        here: str | None = point
        while here is not None and here in self.feeder:
            way.append(self.feeder[here])
            here = self.up(here)
            if here in self.held:
                break
        return tuple(reversed(way))

    def source(self, point: str) -> str:
        """The point its water starts from: a source, or a regulator."""
        here = point
        while (before := self.up(here)) is not None:
            here = before
            if here in self.held:
                break
        return here

    def ends(self, scenario: int) -> tuple[str, ...]:
        """The open outlets, and the regulators they hang on, which want the head they hold."""
        found = dict.fromkeys(self.costs.scenarios[scenario].open)
        for name in tuple(found):
            here = self.source(name)
            while here in self.held:
                found[here] = None
                here = self.source(here)
        return tuple(found)

    def head(self, scenario: int, source: str) -> float:
        """Head (m) a source gives at the flow wanted of it; −inf beyond the end of its curve."""
        model = self.costs.scenarios[scenario]
        if source in self.held:
            return self.held[source]
        flow = sum(
            q
            for r, q in self.flows[scenario].items()
            if source in (self.costs.lay.lines[r].a, self.costs.lay.lines[r].b)
        )
        at = model.state_node.get(source, source)
        pump = next((p for p in model.network.pumps if p.stop == at), None)
        if pump is None:
            return model.network.heads.get(at, -inf)
        return _lift(pump, flow) + model.network.heads[pump.start]

    def need(self, scenario: int, name: str) -> float:
        """Head (m) an open outlet wants where its riser leaves the line."""
        if name in self.held:
            return self.held[name]
        model = self.costs.scenarios[scenario]
        point = model.points[name]
        what = point.what
        assert isinstance(what, Outlet)
        want = mouth_level(point) + what.needs / model.wet.weight
        riser = next((p for p in model.links if p.id == riser_end(name)), None)
        if riser is None:
            return want
        item = riser_pipe(self.costs.plan, point)
        flow = what.flow
        v = float(velocity(flow, item.bore))
        fittings = self.costs.minor.get(riser.id, 0.0) * v * v / (2 * STANDARD_GRAVITY)
        return want + fittings + self.costs.friction(flow, riser.length, item.bore, series(item.series))

    def relaxed(self, scenario: int) -> LoopScenario:
        """What one scenario asks, for the bound.

        With one source its pump carries at least what is wanted, so lifts no more than there.
        """
        model = self.costs.scenarios[scenario]
        wants = {name: draws(model.points[name].what) for name in model.open}
        whole = sum(wants.values()) if len(self.costs.plan.sources) == 1 else 0.0
        lifts = []
        for p in model.network.pumps:
            least = whole if p.start in model.network.heads else 0.0
            lifts.append((p.start, p.stop, max(_lift(p, least), p.curve[-1][1])))
        held = tuple((r.start, r.stop, r.head) for r in model.network.regulators)
        needs = {name: self.need(scenario, name) for name in model.open}
        return LoopScenario(wants, needs, model.network.heads, tuple(lifts), held)

    def fixed_loss(self, scenario: int, run: str) -> float:
        """Head (m) lost in devices of a run, whatever its size: filters and the like.

        A pump before it gives head back.
        """
        q = self.flows[scenario].get(run, 0.0)
        model = self.costs.scenarios[scenario]
        link = next((p for p in model.links if p.id == run), None)
        if link is None:
            return 0.0
        pump = next(
            (
                p
                for p in model.network.pumps
                if p.start not in model.network.heads and p.stop in (link.start, link.stop)
            ),
            None,
        )
        return link.fixed * q * q - (_lift(pump, q) if pump else 0.0)

    def branches(self, scenario: int, source: str) -> list[TreeRun]:
        """The tree of one source in one scenario, for the exact curve."""
        costs, lay = self.costs, self.costs.lay
        below: dict[str, list[str]] = {}
        for p, run in self.feeder.items():
            below.setdefault(lay.lines[run].other(p), []).append(p)
        needs = {name: self.need(scenario, name) for name in self.ends(scenario)}
        made: dict[str, TreeRun] = {}
        order, stack = [], list(below.get(source, ()))
        while stack:
            p = stack.pop()
            order.append(p)
            stack += () if p in self.held else below.get(p, ())
        for p in reversed(order):
            run = self.feeder[p]
            q, fixed = self.flows[scenario].get(run, 0.0), self.fixed_loss(scenario, run)
            options = tuple(
                Option(o.size, costs.price(run, o), costs.loss(run, o, q) + fixed) for o in costs.allowed(run)
            )
            children = () if p in self.held else tuple(made[c] for c in below.get(p, ()))
            made[p] = TreeRun(run, options, needs.get(p, -inf), children)
        return [made[p] for p in below.get(source, ())]

    def solve(self) -> tuple[tuple[CostPoint, ...], str, float | None, dict[str, str], bool, str]:
        """The curve of the scenario that governs, its head, and the cheapest sizes for all scenarios together."""
        costs = self.costs
        best: tuple[float, int, str] | None = None
        trees = {}
        for s in range(len(costs.scenarios)):
            for source in dict.fromkeys(self.source(name) for name in self.ends(s)):
                tree = cheapest_tree(self.branches(s, source))
                head = self.head(s, source)
                row = tree.within(head)
                cost = inf if row is None else tree.steps[row].cost
                trees[s, source] = (tree, head, row)
                if best is None or cost > best[0]:
                    best = (cost, s, source)
        if best is None:
            return (), "", None, {}, False, "nothing is open"
        _, s, source = best
        tree, head, row = trees[s, source]
        model = costs.scenarios[s]
        flow = sum(q for r, q in self.flows[s].items() if source in (costs.lay.lines[r].a, costs.lay.lines[r].b))
        water = next(
            (
                model.network.heads[p.start]
                for p in model.network.pumps
                if p.stop == model.state_node.get(source, source)
            ),
            None,
        )
        curve = tuple(
            CostPoint(x.head, x.cost, energy_cost(costs.plan, flow, x.head - water) if water is not None else 0.0)
            for x in tree.steps
        )
        governs = model.scenario.name
        if any(r is None for _, _, r in trees.values()):
            return curve, governs, head, {}, False, "no sizes hold"
        kept = {r: self.taken[r] for r in self.chords}
        if len(trees) == 1 and row is not None:
            return (
                curve,
                governs,
                head,
                {**tree.sizes(row), **self._idle(), **kept},
                True,
                "proved: no cheaper sizes leave every outlet its pressure",
            )
        sizes, proved, says = self._programme({k: (h, r) for k, (_, h, r) in trees.items()})
        return curve, governs, head, {**self._idle(), **sizes, **kept} if sizes else {}, proved, says

    def _idle(self) -> dict[str, str]:
        """Runs through which no water goes in any scenario take their cheapest."""
        return {r: min(self.costs.allowed(r), key=lambda p: self.costs.price(r, p)).size for r in self.feeder.values()}

    def _programme(self, trees: Mapping[tuple[int, str], tuple[float, int | None]]) -> tuple[dict[str, str], bool, str]:
        """All scenarios together, by integer programme."""
        costs = self.costs
        wanted = dict.fromkeys(name for s in range(len(costs.scenarios)) for name in self.ends(s))
        runs = {
            run: tuple(
                SizeOption(o.size, costs.price(run, o), tuple(costs.loss(run, o, f.get(run, 0.0)) for f in self.flows))
                for o in costs.allowed(run)
            )
            for run in dict.fromkeys(r for name in wanted for r in self.path(name))
        }
        paths = [
            Path(
                s,
                self.path(name),
                trees[s, self.source(name)][0]
                - self.need(s, name)
                - sum(self.fixed_loss(s, r) for r in self.path(name)),
            )
            for s in range(len(costs.scenarios))
            for name in self.ends(s)
        ]
        found = cheapest_programme(runs, paths)
        if not found.sizes:
            return {}, False, "no sizes hold in all scenarios together"
        gap = found.cost - found.bound
        says = (
            "proved over all scenarios together: no cheaper sizes leave every outlet its pressure"
            if found.proved
            else f"not proved: at most {gap:.2f} could still be saved"
        )
        return found.sizes, found.proved, says


def _lift(pump: PumpLink, flow: float) -> float:
    try:
        return head_at(pump.curve, flow)
    except HydrarchError:
        return -inf
