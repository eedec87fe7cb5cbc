"""Three ways to size, side by side: the crew's rule of thumb, the smallest that hold, and the least cost proved."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from functools import partial
from math import inf, pi
from typing import Literal

from hydrarch.core.catalogue.pipes import Pipe, pipe, series
from hydrarch.core.catalogue.prices import pipe_price
from hydrarch.core.errors import HydrarchError
from hydrarch.core.hydraulics.flow import Flow, Model, draws, models, riser_pipe, static_pressure
from hydrarch.core.hydraulics.friction import head_loss_darcy_weisbach, head_loss_hazen_williams, velocity
from hydrarch.core.hydraulics.network import PumpLink
from hydrarch.core.hydraulics.pumps import head_at, power
from hydrarch.core.layout import Layout
from hydrarch.core.plan import Outlet, Plan, Regulator, WellPump
from hydrarch.core.progress import Report, unheard
from hydrarch.core.sizing.bound import BOUND_SECONDS, LoopRun, LoopScenario, LoopSize, least_possible, lines_under
from hydrarch.core.sizing.hammer import STILL, closing_time, size_surge
from hydrarch.core.sizing.least_cost import SECONDS, Branch, Choice, Option, Path, cheapest_programme, cheapest_tree
from hydrarch.core.sizing.rules import rule_of_thumb
from hydrarch.core.sizing.select import Sizes, size_options
from hydrarch.core.units import STANDARD_GRAVITY, show, size_value

__all__ = ["Comparison", "CurvePoint", "WayToSize", "compare_sizes", "energy_cost"]

_ROUNDS = 4  # between sizes and the flows they leave, in loops
_SPARE = 4.0  # times its flow that a size too fast for the limit may carry in the bound


@dataclass(frozen=True, slots=True)
class CurvePoint:
    """With `head` (m) to spend on losses and lift, the cheapest tree costs `pipe`; raising that head costs `energy`."""

    head: float
    pipe: float
    energy: float


@dataclass(frozen=True, slots=True)
class WayToSize:
    """One way's answer: the size of every run and why, its cost in pipe, fittings and energy, what it leaves, and where.

    `margin` (Pa) is what the worst outlet has over what it needs, None where nothing is open; `proved` tells whether no
    cheaper choice exists under the limits, and `says` what is proved and what is not.
    """

    way: Literal["rule", "computed", "least cost"]
    sizes: dict[str, str]
    why: dict[str, str]
    pipe: float
    fittings: float
    energy: float
    margin: float | None
    worst: str | None
    holds: bool
    proved: bool
    says: str


@dataclass(frozen=True, slots=True)
class Comparison:
    """The three ways, the curve of cost against head in the scenario that governs, and the head there is (m)."""

    ways: tuple[WayToSize, ...]
    curve: tuple[CurvePoint, ...]
    governs: str
    head: float | None
    worth: str


def energy_cost(plan: Plan, flow: float, head: float) -> float:
    """What pumping `flow` (m³/s) against `head` (m) costs over the years reckoned with: power × hours × years × price."""
    c = plan.conditions
    if flow <= 0 or head <= 0:
        return 0.0
    return power(flow, head, c.pump_efficiency) / 1e3 * c.run_hours * c.years * c.energy_price


class _Costs:
    """What every size of every run costs and loses, and the tree the flows run through."""

    def __init__(self, plan: Plan, lay: Layout, minor: Mapping[str, float], computed: Sizes) -> None:
        self.plan, self.lay, self.minor = plan, lay, minor
        self.options = size_options(plan, lay)
        self.scenarios: tuple[Model, ...] = models(plan, lay)
        self.flows = computed.flows
        self.rest, self.closes = static_pressure(plan, lay), closing_time(plan)
        self._allowed: dict[str, tuple[Pipe, ...]] = {}

    def price(self, run: str, item: Pipe) -> float:
        """Pipe of a run, and its share of the fittings at its ends: one fitting a joint at this size's usual price."""
        line = self.lay.lines[run]
        return line.length * pipe_price(item, self.plan.prices) + self.fittings(run, item)

    def fittings(self, run: str, item: Pipe) -> float:
        """What the fittings at a run's two ends cost at this size, shared with the runs that meet there."""
        each = float(1.1 * size_value(item.size) ** 1.5)  # starting price of a plastic tee or elbow, prices.csv
        line = self.lay.lines[run]
        return each * sum(1 / len(self.lay.at[p]) for p in (line.a, line.b))

    def loss(self, run: str, item: Pipe, flow: float) -> float:
        """Head (m) a run loses at a flow, fittings included."""
        family, line = series(item.series), self.lay.lines[run]
        v = float(velocity(flow, item.bore))
        minor = self.minor.get(run, 0.0) * v * v / (2 * STANDARD_GRAVITY)
        if self.plan.conditions.friction == "hazen-williams":
            return head_loss_hazen_williams(flow, line.length, item.bore, family.hazen_williams_c) + minor
        wet = self.scenarios[0].wet
        friction = head_loss_darcy_weisbach(flow, line.length, item.bore, family.roughness, wet.density, wet.viscosity)
        return float(friction) + minor

    def allowed(self, run: str) -> tuple[Pipe, ...]:
        """The sizes of a run that keep the velocity limit and stand a sudden stop at the flows asked of it.

        Where none stands the stop, those that keep the velocity; where none keeps that, the largest.
        """
        if run not in self._allowed:
            most = max((abs(f.runs[run].flow) for f in self.flows.values() if run in f.runs), default=0.0)
            limit = self.plan.conditions.max_velocity * (1 + 1e-6)
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
                    most = max(most, *(_SPARE * abs(f.runs[run].flow) for f in self.flows.values() if run in f.runs))
                sizes.append(LoopSize(self.price(run, item), most, lines_under(partial(self.loss, run, item), most)))
            found.append(LoopRun(links[run].start, links[run].stop, tuple(sizes)))
        return found

    def stands(self, run: str, item: Pipe, speed: float) -> bool:
        """Whether a run of that pipe stands water of `speed` (m/s) stopping, day after day."""
        return speed < STILL or size_surge(self.plan, self.lay, run, item, speed, self.rest, self.closes).holds


def compare_sizes(plan: Plan, lay: Layout, minor: Mapping[str, float], computed: Sizes, report: Report = unheard) -> Comparison:
    """All three ways for a plan whose computed sizes and fittings are known.

    `minor` is the sum of loss coefficients K of each run; `report` is told how far the work is. What cannot be compared (no source, nothing open) is said in words.
    """
    costs = _Costs(plan, lay, minor, computed)
    pipes = computed.pipes()
    report("the rule of thumb and the computed sizes")
    ways = [
        _answer(costs, "rule", *_by_rule(costs)),
        _answer(costs, "computed", {r: p.size for r, p in pipes.items()}, {r: c.says for r, c in computed.choices.items()}, False,
                "the smallest that hold, run by run; no cheaper one run at a time"),
    ]  # fmt: skip
    if not costs.scenarios or not any(m.open for m in costs.scenarios):
        return Comparison(tuple(ways), (), "", None, "Nothing is open in any scenario, so there is nothing to weigh.")
    least = _least_cost(costs, report)
    return Comparison((*ways, least.way), least.curve, least.governs, least.head, least.worth)


def _by_rule(costs: _Costs) -> tuple[dict[str, str], dict[str, str], bool, str]:
    sizes, why = {}, {}
    beyond = 0
    for run, options in costs.options.items():
        most = max((abs(f.runs[run].flow) for f in costs.flows.values() if run in f.runs), default=0.0)
        rule = rule_of_thumb(most, costs.lay.lines[run].length)
        if len(options) == 1:
            sizes[run], why[run] = options[0].size, "chosen by the crew"
            continue
        wanted = size_value(rule.size) if rule else inf
        pick = next((p for p in options if size_value(p.size) >= wanted - 1e-9), options[-1])
        if rule is None:
            beyond += 1
            pick = next((p for p in options if size_value(p.size) > 1), options[-1])
            why[run] = "beyond the rule, which ends at 1 in: one size above it"
        else:
            flow, length = (show(x, q, costs.plan.units) for x, q in ((rule.flow, "flow"), (rule.length, "length")))
            why[run] = f"{rule.size} in carries {flow} over {length} by the rule"
        sizes[run] = pick.size
    ends = f"; the rule says nothing of {beyond} runs, being beyond 1 in" if beyond else ""
    return sizes, why, False, f"rule of thumb for drip mains, common practice: no sum stands behind it{ends}"


def _answer(
    costs: _Costs,
    way: Literal["rule", "computed", "least cost"],
    sizes: dict[str, str],
    why: dict[str, str],
    proved: bool,
    says: str,
) -> WayToSize:
    plan = costs.plan
    items = {r: pipe(costs.options[r][0].series, s) for r, s in sizes.items()}
    flows = [m.solve(items, dict(costs.minor)) for m in costs.scenarios]
    outlets = [(o.margin, o.point) for f in flows for o in f.outlets.values()]
    worst = min(outlets, default=None)
    fast = any(r.velocity > plan.conditions.max_velocity * (1 + 1e-6) for f in flows for r in f.runs.values())
    hammered = any(not costs.stands(r.run, items[r.run], r.velocity) for f in flows for r in f.runs.values())
    fittings = sum(costs.fittings(r, p) for r, p in items.items())
    pipe_cost = sum(costs.lay.lines[r].length * pipe_price(p, plan.prices) for r, p in items.items())
    short = worst is not None and worst[0] < -1.0
    faults = [
        told
        for told, wrong in (
            ("too fast somewhere", fast), ("an outlet is short", short), ("a sudden stop goes beyond what a pipe may see", hammered),
        )
        if wrong
    ]  # fmt: skip
    holds, told = not faults, "; ".join((says, *faults))
    return WayToSize(
        way, sizes, why, pipe_cost, fittings, _energy(costs, flows), worst[0] if worst else None, worst[1] if worst else None,
        holds, proved, told,
    )  # fmt: skip


def _energy(costs: _Costs, flows: list[Flow]) -> float:
    """What the pumps take over the years, the scenarios sharing the hours alike."""
    shares = []
    for model, flow in zip(costs.scenarios, flows, strict=True):
        lifted = 0.0
        for p in model.network.pumps:
            if not isinstance(costs.plan.point(p.id.removesuffix(".pump")).what, WellPump) or not flow.points:
                continue
            q = sum(o.flow for o in flow.outlets.values())
            lifted += energy_cost(costs.plan, q, flow.points[p.stop].head - model.network.heads[p.start])
        shares.append(lifted)
    return sum(shares) / len(shares) if shares else 0.0


@dataclass(frozen=True, slots=True)
class _Least:
    way: WayToSize
    curve: tuple[CurvePoint, ...]
    governs: str
    head: float | None
    worth: str


def _least_cost(costs: _Costs, report: Report) -> _Least:
    """The cheapest sizes for the flows wanted, over the tree nearest to the source; loops are settled by turns."""
    tree = _Tree(costs)
    sizes: dict[str, str] = {}
    proved, says = True, ""
    for n in range(_ROUNDS):
        again = f", with the flows of the loop for the {n + 1}. time" if n else ""
        report(f"the cheapest sizes for {len(costs.scenarios)} scenarios, at most {SECONDS:.0f} s{again}")
        curve, governs, head, sizes, proved, says = tree.solve()
        if not tree.chords or not sizes:
            break
        before = tree.taken
        tree.follow(sizes)
        if tree.taken == before:
            break
    if not sizes:
        told = "no choice of sizes leaves every outlet its pressure: the largest pipes were taken"
        sizes = {r: o[-1].size for r, o in costs.options.items()}
        return _Least(_answer(costs, "least cost", sizes, dict.fromkeys(sizes, told), False, told), curve, governs, head, told)
    if tree.chords:
        report(f"how far sizes of a loop may be from the cheapest, at most {BOUND_SECONDS:.0f} s")
        proved, says = _by_bound(costs, tree, sizes)
    why = {r: _why(costs, r, s) for r, s in sizes.items()}
    return _Least(_answer(costs, "least cost", sizes, why, proved, says), curve, governs, head, _worth(costs, curve, head))


def _by_bound(costs: _Costs, tree: _Tree, sizes: dict[str, str]) -> tuple[bool, str]:
    """Whether sizes found by turns are proved the cheapest, or what could still be saved at the most."""
    cost = sum(costs.price(r, pipe(costs.options[r][0].series, s)) for r, s in sizes.items())
    bound = least_possible(costs.loop_runs(), [tree.relaxed(s) for s in range(len(costs.scenarios))])
    gap = cost - bound
    if gap <= 1e-4 * cost:
        return True, "proved: no sizes cost less, whichever way the water goes round the loop"
    closing = f"{len(tree.chords)} run{'s' if len(tree.chords) > 1 else ''}"
    return False, (
        f"the cheapest for the flows the loop settles to, {closing} that close it keeping the computed size; not proved, but no "
        f"choice at all costs less than {bound:.2f}, so at most {gap:.2f} could still be saved"
    )


def _why(costs: _Costs, run: str, size: str) -> str:
    options = costs.options[run]
    if len(options) == 1:
        return "chosen by the crew"
    cheapest = min(costs.allowed(run), key=lambda p: costs.price(run, p))
    if size == cheapest.size:
        return "the cheapest that keeps the velocity limit and stands a sudden stop"
    return f"dearer than {cheapest.size}, which would lose head that costs more elsewhere"


def _worth(costs: _Costs, curve: tuple[CurvePoint, ...], head: float | None) -> str:
    """What a metre of head is worth: how much the tree gets cheaper with one more."""
    if head is None or not curve:
        return ""
    now = [c for c in curve if c.head <= head + 1e-9]
    more = [c for c in curve if c.head <= head + 1.0 + 1e-9]
    if not now:
        return ""
    saved = now[-1].pipe - more[-1].pipe
    metre = show(1.0, "head", costs.plan.units)
    return f"{metre} more head at the source would make the pipe {saved:.2f} cheaper."


class _Tree:
    """The runs that feed each point by the shortest way, each scenario's flows in them, and what each outlet may lose."""

    def __init__(self, costs: _Costs) -> None:
        self.costs, lay = costs, costs.lay
        self.feeder: dict[str, str] = {}
        for p in sorted(lay.fed, key=lambda n: lay.distance[n]):
            near = [r for r in lay.at[p] if lay.distance[lay.lines[r].other(p)] < lay.distance[p] - 1e-9]
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
                wanted = draws(self.costs.plan.point(name).what)
                here: str | None = name
                while here is not None and here in self.feeder:
                    run = self.feeder[here]
                    carried[run] = carried.get(run, 0.0) + wanted
                    here = self.up(here)
            found.append(carried)
        return found

    def _settled(self, flows: Mapping[str, Flow]) -> list[dict[str, float]]:
        return [{r: abs(f.flow) for r, f in flows[m.scenario.id].runs.items()} for m in self.costs.scenarios]

    def follow(self, sizes: dict[str, str]) -> None:
        """Take the flows that these sizes leave."""
        items = {r: pipe(self.costs.options[r][0].series, s) for r, s in sizes.items()}
        self.flows = self._settled({m.scenario.id: m.solve(items, dict(self.costs.minor)) for m in self.costs.scenarios})
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
        flow = sum(q for r, q in self.flows[scenario].items() if source in (self.costs.lay.lines[r].a, self.costs.lay.lines[r].b))
        pump = next((p for p in model.network.pumps if p.stop == source), None)
        if pump is None:
            return model.network.heads.get(source, -inf)
        return _lift(pump, flow) + model.network.heads[pump.start]

    def need(self, scenario: int, name: str) -> float:
        """Head (m) an open outlet wants where its riser leaves the line."""
        if name in self.held:
            return self.held[name]
        model = self.costs.scenarios[scenario]
        point = self.costs.plan.point(name)
        what = point.what
        assert isinstance(what, Outlet)
        want = point.ground + what.height + what.needs / model.wet.weight
        riser = next((p for p in model.links if p.id == f"{name}.riser"), None)
        if riser is None:
            return want
        item = riser_pipe(point)
        flow = what.flow
        v = float(velocity(flow, item.bore))
        minor = self.costs.minor.get(riser.id, 0.0) * v * v / (2 * STANDARD_GRAVITY)
        return want + minor + head_loss_hazen_williams(flow, riser.length, item.bore, series(item.series).hazen_williams_c)

    def relaxed(self, scenario: int) -> LoopScenario:
        """What one scenario asks, for the bound. With one source its pump carries at least what is wanted, so lifts no more than there."""
        model = self.costs.scenarios[scenario]
        wants = {name: draws(self.costs.plan.point(name).what) for name in model.open}
        whole = sum(wants.values()) if len(self.costs.plan.sources()) == 1 else 0.0
        lifts = []
        for p in model.network.pumps:
            least = whole if p.start in model.network.heads else 0.0
            lifts.append((p.start, p.stop, max(_lift(p, least), p.curve[-1][1])))
        held = tuple((r.start, r.stop, r.head) for r in model.network.regulators)
        needs = {name: self.need(scenario, name) for name in model.open}
        return LoopScenario(wants, needs, model.network.heads, tuple(lifts), held)

    def fixed_loss(self, scenario: int, run: str) -> float:
        """Head (m) lost in devices of a run, whatever its size: filters and the like. A pump before it gives head back."""
        q = self.flows[scenario].get(run, 0.0)
        model = self.costs.scenarios[scenario]
        link = next((p for p in model.links if p.id == run), None)
        if link is None:
            return 0.0
        pump = next((p for p in model.network.pumps if p.stop.endswith("@out") and p.stop in (link.start, link.stop)), None)
        return link.fixed * q * q - (_lift(pump, q) if pump else 0.0)

    def branches(self, scenario: int, source: str) -> list[Branch]:
        """The tree of one source in one scenario, for the exact curve."""
        costs, lay = self.costs, self.costs.lay
        below: dict[str, list[str]] = {}
        for p, run in self.feeder.items():
            below.setdefault(lay.lines[run].other(p), []).append(p)
        needs = {name: self.need(scenario, name) for name in self.ends(scenario)}
        made: dict[str, Branch] = {}
        order, stack = [], list(below.get(source, ()))
        while stack:
            p = stack.pop()
            order.append(p)
            stack += () if p in self.held else below.get(p, ())
        for p in reversed(order):
            run = self.feeder[p]
            q, fixed = self.flows[scenario].get(run, 0.0), self.fixed_loss(scenario, run)
            options = tuple(Option(o.size, costs.price(run, o), costs.loss(run, o, q) + fixed) for o in costs.allowed(run))
            children = () if p in self.held else tuple(made[c] for c in below.get(p, ()))
            made[p] = Branch(run, options, needs.get(p, -inf), children)
        return [made[p] for p in below.get(source, ())]

    def solve(self) -> tuple[tuple[CurvePoint, ...], str, float | None, dict[str, str], bool, str]:
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
        water = next((model.network.heads[p.start] for p in model.network.pumps if p.stop == source), None)
        curve = tuple(
            CurvePoint(x.head, x.cost, energy_cost(costs.plan, flow, x.head - water) if water is not None else 0.0)
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
                Choice(o.size, costs.price(run, o), tuple(costs.loss(run, o, f.get(run, 0.0)) for f in self.flows))
                for o in costs.allowed(run)
            )
            for run in dict.fromkeys(r for name in wanted for r in self.path(name))
        }
        paths = [
            Path(
                s, self.path(name),
                trees[s, self.source(name)][0] - self.need(s, name) - sum(self.fixed_loss(s, r) for r in self.path(name)),
            )
            for s in range(len(costs.scenarios))
            for name in self.ends(s)
        ]  # fmt: skip
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
