"""The cheapest sizes: proved by trying everything, by an integer programme, and by laws."""

import random
import unittest
from itertools import product
from math import inf

from hypothesis import given, settings
from hypothesis import strategies as st

from hydrarch.core.base.errors import HydrarchError
from hydrarch.core.base.units import FOOT, GALLON
from hydrarch.core.derivation.chain import derive
from hydrarch.core.hydraulics.friction import head_loss_darcy_weisbach, head_loss_hazen_williams
from hydrarch.core.hydraulics.water import water
from hydrarch.core.plan.document import Plan
from hydrarch.core.site.layout import layout
from hydrarch.core.sizing.bound import LoopRun, LoopScenario, LoopSize, least_possible, lines_under
from hydrarch.core.sizing.compare import compare_sizes
from hydrarch.core.sizing.feeding import Costs, FeedTree, energy_cost
from hydrarch.core.sizing.least_cost import Option, Path, SizeOption, TreeRun, cheapest_programme, cheapest_tree
from hydrarch.core.sizing.rules import rule_of_thumb
from hydrarch.core.sizing.select import choose_sizes
from tests.core.plans import RANDOMS, draw, make_plan, point, tree

BORES = (0.016, 0.021, 0.027, 0.035, 0.041, 0.053, 0.063, 0.078)


def grown(runs: int, sizes: int, rng: random.Random) -> TreeRun:
    """A random tree of runs with losses by Hazen-Williams and prices that grow with the bore."""
    children: list[list[int]] = [[] for _ in range(runs)]
    for i in range(1, runs):
        children[rng.randrange(max(0, i - 3), i)].append(i)

    def make(i: int) -> tuple[TreeRun, float]:
        below = [make(c) for c in children[i]]
        flow = rng.uniform(2e-5, 2e-4) + sum(q for _, q in below)
        length = rng.uniform(5, 30)
        options = tuple(
            Option(f"{n}", length * (1000 * b) ** 1.5 / 40, 10.67 * length * flow**1.852 / (150**1.852 * b**4.8704))
            for n, b in enumerate(BORES[:sizes])
        )
        return TreeRun(f"R{i}", options, rng.uniform(5, 20), tuple(b for b, _ in below)), flow

    return make(0)[0]


def every(branch: TreeRun) -> list[TreeRun]:
    """A tree's branches."""
    return [branch, *(b for c in branch.children for b in every(c))]


def lost(branch: TreeRun, sizes: dict[str, str], head: float) -> bool:
    """Whether these sizes leave every place its head."""
    after = head - next(o.loss for o in branch.options if o.name == sizes[branch.run])
    return after >= branch.need - 1e-9 and all(lost(c, sizes, after) for c in branch.children)


def price(branch: TreeRun, sizes: dict[str, str]) -> float:
    """What sizes cost."""
    return sum(next(o.cost for o in b.options if o.name == sizes[b.run]) for b in every(branch))


class Exact(unittest.TestCase):
    """Trees."""

    @settings(max_examples=25, deadline=None)
    @given(RANDOMS, st.integers(2, 6), st.floats(21, 60))
    def test_nothing_cheaper_exists(self, rng: random.Random, runs: int, head: float) -> None:
        """Trying every combination of sizes of a small tree finds none cheaper that leaves every outlet its head."""
        branch = grown(runs, 3, rng)
        names = [b.run for b in every(branch)]
        able = [
            price(branch, s)
            for c in product("012", repeat=runs)
            if lost(branch, s := dict(zip(names, c, strict=True)), head)
        ]
        found = cheapest_tree([branch])
        row = found.within(head)
        if not able:
            self.assertIsNone(row)
            return
        assert row is not None
        self.assertAlmostEqual(found.steps[row].cost, min(able), places=6)
        self.assertTrue(lost(branch, found.sizes(row), head))
        self.assertAlmostEqual(price(branch, found.sizes(row)), found.steps[row].cost, places=6)

    @settings(max_examples=20, deadline=None)
    @given(RANDOMS, st.integers(5, 40))
    def test_the_curve_falls(self, rng: random.Random, runs: int) -> None:
        """More head never costs more, and every step's own sizes need just its head."""
        branch = grown(runs, 8, rng)
        steps = cheapest_tree([branch]).steps
        self.assertEqual([s.head for s in steps], sorted(s.head for s in steps))
        self.assertEqual([s.cost for s in steps], sorted((s.cost for s in steps), reverse=True))

    def test_against_an_integer_programme(self) -> None:
        """SciPy's HiGHS finds the same cost on trees of 12 runs and 5 sizes."""
        for seed in range(6):
            branch = grown(12, 5, random.Random(seed))
            found = cheapest_tree([branch])
            head = found.steps[len(found.steps) // 2].head
            runs = {b.run: tuple(SizeOption(o.name, o.cost, (o.loss,)) for o in b.options) for b in every(branch)}
            paths: list[Path] = []

            def walk(b: TreeRun, way: tuple[str, ...], head: float = head, paths: list[Path] = paths) -> None:
                paths.append(Path(0, (*way, b.run), head - b.need))
                for c in b.children:
                    walk(c, (*way, b.run), head, paths)

            walk(branch, ())
            other = cheapest_programme(runs, paths)
            row = found.within(head)
            assert row is not None
            self.assertTrue(other.proved)
            self.assertAlmostEqual(other.cost, found.steps[row].cost, places=4)

    def test_a_run_without_sizes_is_refused(self) -> None:
        """A run that has nothing to choose from is named."""
        with self.assertRaisesRegex(HydrarchError, "run R9 has no size"):
            cheapest_tree([TreeRun("R9", ())])

    def test_an_impossible_programme(self) -> None:
        """Where no choice is enough, there are no sizes and that is proved."""
        found = cheapest_programme({"R": (SizeOption("1", 1.0, (5.0,)),)}, [Path(0, ("R",), 2.0)])
        self.assertEqual((found.sizes, found.proved, found.cost), ({}, True, inf))


def loop(flow: float, rng: random.Random | None = None) -> Plan:
    """A tank that feeds a ring of three runs with a tap across from it; at random where `rng` is given."""
    x, y, level = (rng.uniform(10, 60), rng.uniform(-40, 40), rng.uniform(14, 30)) if rng else (40, 30, 20)
    spots = [
        point("A", 0, 0, "tank", water_level=level),
        point("J", 5, 0, "junction"),
        point("B", x, y, "bend"),
        point("S", 50, 0, "tap", flow=flow, height=0.0),
    ]
    fixed = {"series": "pvc40", "size": "2"}
    return make_plan(spots, [("A", "J"), ("J", "B"), ("B", "S"), ("S", "J")], runs_more=[fixed, {}, {}, {}])


class Loops(unittest.TestCase):
    """The bound where flows may go either way."""

    def test_nothing_cheaper_works(self) -> None:
        """Of every combination of sizes that the solver finds to work on small rings, none costs less than the
        bound.
        """
        rng = random.Random(11)
        tight = near = 0
        for flow in (2e-4, 5e-4, 9e-4, 1.4e-3):
            plan = loop(flow, rng)
            lay = layout(plan)
            costs = Costs(plan, lay, {}, choose_sizes(plan, lay, {}))
            bound = least_possible(costs.loop_runs(), [FeedTree(costs).relaxed(0)])
            works = []
            for sizes in product(*(costs.options[r] for r in ("R2", "R3", "R4"))):
                pipes = {"R1": costs.options["R1"][0], **dict(zip(("R2", "R3", "R4"), sizes, strict=True))}
                found = costs.scenarios[0].solve(pipes, {})
                slow = all(r.velocity <= plan.conditions.max_velocity for r in found.runs.values())
                if slow and all(o.margin >= 0 for o in found.outlets.values()):
                    works.append(sum(costs.price(r, p) for r, p in pipes.items()))
            if works:
                self.assertLessEqual(bound, min(works) * (1 + 1e-6))
                least = compare_sizes(plan, lay, {}, choose_sizes(plan, lay, {})).ways[2]
                self.assertTrue(least.holds)
                self.assertGreaterEqual(least.pipe + least.fittings, min(works) * (1 - 1e-6))
                near += least.pipe + least.fittings <= 1.1 * min(works)
                tight += bound > 0.8 * min(works)
            else:
                self.assertGreater(bound, 0.0)
        self.assertGreaterEqual(tight, 2)
        self.assertGreaterEqual(near, 3)

    @settings(max_examples=40, deadline=None)
    @given(st.floats(0.01, 0.08), st.floats(1, 500), st.floats(1e-5, 5e-3), st.booleans())
    def test_lines_lie_under(self, bore: float, length: float, most: float, darcy: bool) -> None:
        """Lines under a loss curve are under it at every flow, whichever formula, and one comes near its far end."""
        wet = water(288.15)

        def loss(q: float) -> float:
            if darcy:
                return float(head_loss_darcy_weisbach(q, length, bore, 1.5e-6, wet.density, wet.viscosity))
            return head_loss_hazen_williams(q, length, bore, 150)

        lines = lines_under(loss, most)
        for share in range(101):
            q = most * share / 100
            self.assertLessEqual(max((a * q + b for a, b in lines), default=0.0), loss(q) + 1e-9 * loss(most))
        self.assertGreater(max(a * most + b for a, b in lines), 0.9 * loss(most))

    def test_what_cannot_be(self) -> None:
        """Where no size leaves the head that is needed, the bound is without end."""
        size = LoopSize(5.0, 1e-3, lines_under(lambda q: 1e8 * q * q, 1e-3))
        ring = [LoopRun("A", "B", (size,))]
        asked = LoopScenario({"B": 5e-4}, {"B": 9.0}, {"A": 10.0})
        self.assertEqual(least_possible(ring, [asked]), inf)
        self.assertAlmostEqual(least_possible(ring, [LoopScenario({"B": 5e-4}, {"B": -40.0}, {"A": 10.0})]), 5.0)


class ThreeWays(unittest.TestCase):
    """Rule, computed and least cost on one plan."""

    def test_rule_of_thumb(self) -> None:
        """1/2 in carries 200 gal/h over 200 ft, 3/4 480 over 480, 1 in 960 over 960, and beyond it says nothing (common
        practice).
        """
        for gallons, size in ((30, "1/4"), (200, "1/2"), (480, "3/4"), (960, "1")):
            rule = rule_of_thumb(gallons * GALLON / 3600, gallons * FOOT)
            self.assertEqual(rule.size if rule else None, size)
        self.assertIsNone(rule_of_thumb(2e-3, 10))

    def test_a_tree_is_proved(self) -> None:
        """On a tree with one scenario the least cost is proved, is no dearer than the computed sizes, and holds when
        solved.
        """
        plan = tree(12)
        done = derive(plan)
        found = {w.way: w for w in compare_sizes(plan, done.layout, done.assembly.minor, done.sizes).ways}
        least, computed = found["least cost"], found["computed"]
        self.assertTrue(least.proved and least.holds)
        self.assertLessEqual(least.pipe + least.fittings, computed.pipe + computed.fittings + 1e-6)
        self.assertEqual(set(least.why), set(least.sizes))

    def test_two_scenarios_go_to_the_programme(self) -> None:
        """With scenarios that differ all are kept at once, and that is proved too."""
        spots = [
            point("A", 0, 0, "tank", water_level=25.0),
            point("J", 60, 0, "junction"),
            point("B", 120, 0, "tap", flow=6e-4, height=0.0),
            point("C", 60, 80, "tap", flow=6e-4, height=0.0),
        ]
        scenarios = [{"id": "b", "name": "B", "open": ["B"]}, {"id": "c", "name": "C", "open": ["C"]}]
        plan = make_plan(spots, [("A", "J"), ("J", "B"), ("J", "C")], scenarios=scenarios)
        done = derive(plan)
        found = compare_sizes(plan, done.layout, done.assembly.minor, done.sizes)
        self.assertIn("proved over all scenarios together", found.ways[2].says)
        self.assertTrue(found.ways[2].holds)

    def test_a_loop_tells_what_is_proved(self) -> None:
        """Where runs close a loop, it is proved that nothing is cheaper, or said how much could still be saved."""
        for flow, word in ((1.4e-4, "proved: no sizes cost less"), (9e-4, "could still be saved")):
            plan = loop(flow)
            done = derive(plan)
            least = compare_sizes(plan, done.layout, done.assembly.minor, done.sizes).ways[2]
            self.assertEqual(least.proved, word.startswith("proved"))
            self.assertIn(word, least.says)

    def test_a_sudden_stop_bars_a_size(self) -> None:
        """A size that would burst when water stops at once is not taken; with a valve that closes slowly it is."""
        run = {"series": "pvc-sdr26"}
        for closing, holds in ((0.0, False), (60.0, True)):
            spots = [point("A", 0, 0, "tank", water_level=62.0), point("B", 400, 0, "tap", flow=2.2e-3, height=0.0)]
            plan = make_plan(spots, [("A", "B")], runs_more=[run], conditions={"closing": closing, "max_velocity": 2.5})
            done = derive(plan)
            ways = {w.way: w for w in compare_sizes(plan, done.layout, done.assembly.minor, done.sizes).ways}
            self.assertEqual("sudden stop" not in ways["computed"].says, holds)
            self.assertNotIn("sudden stop", ways["least cost"].says)
            bigger = ways["least cost"].pipe > ways["computed"].pipe + 1e-6
            self.assertEqual(bigger, not holds)

    def test_nothing_open(self) -> None:
        """With nothing open there is nothing to weigh, in words."""
        plan = make_plan([point("A", 0, 0, "tank"), point("B", 9, 0, "cap")], [("A", "B")])
        done = derive(plan)
        found = compare_sizes(plan, done.layout, done.assembly.minor, done.sizes)
        self.assertEqual(([w.way for w in found.ways], found.curve), (["rule", "computed"], ()))
        self.assertIn("nothing to weigh", found.worth)

    def test_energy(self) -> None:
        """1 L/s against 50 m at 45 % for 400 h a year over 15 years at 0.30: 1.088 kW × 6,000 h × 0.30."""
        self.assertAlmostEqual(energy_cost(tree(1), 1e-3, 50.0), 1.0876 * 6000 * 0.3, delta=3)

    def test_every_pump_takes_energy(self) -> None:
        """A pump in the line from a tank is counted as a well's is, by its own flow and lift."""
        spots = [
            point("A", 0, 0, "tank", water_level=1.0),
            point("P", 5, 0, "pump"),
            point("B", 50, 0, "tap", flow=5e-4, height=0.0),
        ]
        plan = draw(spots, [("A", "P"), ("P", "B")])
        done = derive(plan)
        (flow,) = done.sizes.flows.values()
        q, lift = flow.lifts["P"]
        self.assertAlmostEqual(q, 5e-4, delta=1e-6)
        self.assertGreater(lift, 20.0)
        ways = {w.way: w for w in compare_sizes(plan, done.layout, done.assembly.minor, done.sizes).ways}
        self.assertAlmostEqual(ways["computed"].energy, energy_cost(plan, q, lift), delta=1e-6)


if __name__ == "__main__":
    unittest.main()
