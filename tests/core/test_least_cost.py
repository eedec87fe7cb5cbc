"""The cheapest sizes: proved by trying everything, by an integer programme, and by laws."""

import random
import unittest
from itertools import product
from math import inf

from hypothesis import given, settings
from hypothesis import strategies as st

from hydrarch.core.chain import derive
from hydrarch.core.errors import HydrarchError
from hydrarch.core.sizing.compare import compare_sizes, energy_cost
from hydrarch.core.sizing.least_cost import Branch, Choice, Option, Path, cheapest_programme, cheapest_tree
from hydrarch.core.sizing.rules import rule_of_thumb
from hydrarch.core.units import FOOT, GALLON
from tests.core.plans import make_plan, point, tree

BORES = (0.016, 0.021, 0.027, 0.035, 0.041, 0.053, 0.063, 0.078)


def grown(runs: int, sizes: int, seed: int) -> Branch:
    """A random tree of runs with losses by Hazen-Williams and prices that grow with the bore."""
    rng = random.Random(seed)
    children: list[list[int]] = [[] for _ in range(runs)]
    for i in range(1, runs):
        children[rng.randrange(max(0, i - 3), i)].append(i)

    def make(i: int) -> tuple[Branch, float]:
        below = [make(c) for c in children[i]]
        flow = rng.uniform(2e-5, 2e-4) + sum(q for _, q in below)
        length = rng.uniform(5, 30)
        options = tuple(
            Option(f"{n}", length * (1000 * b) ** 1.5 / 40, 10.67 * length * flow**1.852 / (150**1.852 * b**4.8704))
            for n, b in enumerate(BORES[:sizes])
        )
        return Branch(f"R{i}", options, rng.uniform(5, 20), tuple(b for b, _ in below)), flow

    return make(0)[0]


def every(branch: Branch) -> list[Branch]:
    """A tree's branches."""
    return [branch, *(b for c in branch.children for b in every(c))]


def lost(branch: Branch, sizes: dict[str, str], head: float) -> bool:
    """Whether these sizes leave every place its head."""
    after = head - next(o.loss for o in branch.options if o.name == sizes[branch.run])
    return after >= branch.need - 1e-9 and all(lost(c, sizes, after) for c in branch.children)


def price(branch: Branch, sizes: dict[str, str]) -> float:
    """What sizes cost."""
    return sum(next(o.cost for o in b.options if o.name == sizes[b.run]) for b in every(branch))


class Exact(unittest.TestCase):
    """Trees."""

    @settings(max_examples=25, deadline=None)
    @given(st.integers(0, 10_000), st.integers(2, 6), st.floats(21, 60))
    def test_nothing_cheaper_exists(self, seed: int, runs: int, head: float) -> None:
        """Trying every combination of sizes of a small tree finds none cheaper that leaves every outlet its head."""
        branch = grown(runs, 3, seed)
        names = [b.run for b in every(branch)]
        able = [
            price(branch, s) for c in product("012", repeat=runs) if lost(branch, s := dict(zip(names, c, strict=True)), head)
        ]  # fmt: skip
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
    @given(st.integers(0, 10_000), st.integers(5, 40))
    def test_the_curve_falls(self, seed: int, runs: int) -> None:
        """More head never costs more, and every step's own sizes need just its head."""
        branch = grown(runs, 8, seed)
        steps = cheapest_tree([branch]).steps
        self.assertEqual([s.head for s in steps], sorted(s.head for s in steps))
        self.assertEqual([s.cost for s in steps], sorted((s.cost for s in steps), reverse=True))

    def test_against_an_integer_programme(self) -> None:
        """SciPy's HiGHS finds the same cost on trees of 12 runs and 5 sizes."""
        for seed in range(6):
            branch = grown(12, 5, seed)
            found = cheapest_tree([branch])
            head = found.steps[len(found.steps) // 2].head
            runs = {b.run: tuple(Choice(o.name, o.cost, (o.loss,)) for o in b.options) for b in every(branch)}
            paths: list[Path] = []

            def walk(b: Branch, way: tuple[str, ...], head: float = head, paths: list[Path] = paths) -> None:
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
            cheapest_tree([Branch("R9", ())])

    def test_an_impossible_programme(self) -> None:
        """Where no choice is enough, there are no sizes and that is proved."""
        found = cheapest_programme({"R": (Choice("1", 1.0, (5.0,)),)}, [Path(0, ("R",), 2.0)])
        self.assertEqual((found.sizes, found.proved, found.cost), ({}, True, inf))


class ThreeWays(unittest.TestCase):
    """Rule, computed and least cost on one plan."""

    def test_rule_of_thumb(self) -> None:
        """1/2 in carries 200 gal/h over 200 ft, 3/4 480 over 480, 1 in 960 over 960, and beyond it says nothing (common practice)."""
        for gallons, size in ((30, "1/4"), (200, "1/2"), (480, "3/4"), (960, "1")):
            rule = rule_of_thumb(gallons * GALLON / 3600, gallons * FOOT)
            self.assertEqual(rule.size if rule else None, size)
        self.assertIsNone(rule_of_thumb(2e-3, 10))

    def test_a_tree_is_proved(self) -> None:
        """On a tree with one scenario the least cost is proved, is no dearer than the computed sizes, and holds when solved."""
        plan = tree(12)
        done = derive(plan)
        found = {w.way: w for w in compare_sizes(plan, done.layout, done.assembly.minor, done.sizes).ways}
        least, computed = found["least cost"], found["computed"]
        self.assertTrue(least.proved and least.holds)
        self.assertLessEqual(least.pipe + least.fittings, computed.pipe + computed.fittings + 1e-6)
        self.assertEqual(set(least.why), set(least.sizes))

    def test_two_scenarios_go_to_the_programme(self) -> None:
        """With scenarios that differ all are kept at once, and that is proved too."""
        spots = [point("A", 0, 0, "tank", water_level=25.0), point("J", 60, 0, "junction"),
                 point("B", 120, 0, "tap", flow=6e-4, height=0.0), point("C", 60, 80, "tap", flow=6e-4, height=0.0)]  # fmt: skip
        scenarios = [{"id": "b", "name": "B", "open": ["B"]}, {"id": "c", "name": "C", "open": ["C"]}]
        plan = make_plan(spots, [("A", "J"), ("J", "B"), ("J", "C")], scenarios=scenarios)
        done = derive(plan)
        found = compare_sizes(plan, done.layout, done.assembly.minor, done.sizes)
        self.assertIn("proved over all scenarios together", found.ways[2].says)
        self.assertTrue(found.ways[2].holds)

    def test_a_loop_is_not_called_proved(self) -> None:
        """Where runs close a loop, the answer says that it is not proved."""
        spots = [point("A", 0, 0, "tank", water_level=40.0), point("J", 10, 0, "junction"), point("B", 40, 0, "bend"),
                 point("S", 40, 30, "sprinkler", height=0.0), point("D", 10, 30, "bend")]  # fmt: skip
        plan = make_plan(spots, [("A", "J"), ("J", "B"), ("B", "S"), ("S", "D"), ("D", "J")])
        done = derive(plan)
        least = compare_sizes(plan, done.layout, done.assembly.minor, done.sizes).ways[2]
        self.assertFalse(least.proved)
        self.assertIn("not proved", least.says)

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
