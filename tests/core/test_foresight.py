"""Sizes of many runs, foreseen and settled, are as small as those tried one by one: a law over random plans."""

import random
import unittest
from dataclasses import replace
from typing import Any
from unittest.mock import patch

from hypothesis import example, given, settings

from hydrarch.core.base.messages import tell
from hydrarch.core.hydraulics.flow import models
from hydrarch.core.plan.document import Plan
from hydrarch.core.site.layout import layout
from hydrarch.core.sizing.search import Search, shortest, unsettled
from hydrarch.core.sizing.shrinking import shrink
from tests.core.plans import RANDOMS, draw, point


def wild(rng: random.Random, count: int = 30) -> Plan:
    """A tree with a loop or two now and then, from a tank, a pump or a mains, some behind a regulator."""
    source = rng.choice(["tank", "well_pump", "mains"])
    points = [point("K", 0, 0, source, **({"water_level": rng.uniform(15, 40)} if source == "tank" else {}))]
    runs, nodes = [("K", "N")], ["N"]
    if rng.random() < 0.4:
        points.append(point("G", 3, 0, "regulator", pressure=rng.uniform(150e3, 250e3)))
        runs = [("K", "G"), ("G", "N")]
    points.append(point("N", 6, 0, "junction"))
    for i in range(count):
        more: dict[str, Any] = {"height": 0.0, "flow": rng.uniform(5e-5, 2e-4)}
        kind = rng.choice(["junction", "junction", "tap", "sprinkler"])
        more = more if kind != "junction" else {}
        more |= {"needs": rng.choice([0.0, 50e3, 100e3])} if kind == "tap" else {}
        points.append(point(f"N{i}", rng.uniform(6, 60), rng.uniform(0, 40), kind, **more))
        runs.append((rng.choice(nodes[-4:]), f"N{i}"))
        nodes += [f"N{i}"] if kind == "junction" else []
    for _ in range(rng.choice([0, 0, 1, 2])):
        a, b = rng.choice(nodes), rng.choice(nodes)
        if a != b and (a, b) not in runs and (b, a) not in runs:
            runs.append((a, b))
    return draw(points, runs)


class Foreseen(unittest.TestCase):
    """shrink with all its trials solved, and with most of them foreseen."""

    def shrunk(self, plan: Plan, few: int) -> Search | None:
        """A search at its end; None where no size of pipe gives the outlets what they want."""
        lay = layout(plan)
        search = Search(plan, lay, {}, models(plan, lay), {})
        flows = search.start()
        if search.beyond_any_pipe(flows):
            return None
        flows = search.grow_for_pressure(flows)
        if shortest(flows) is not None or unsettled(flows):
            return None  # what does not settle is told, and no size of it made smaller
        with patch("hydrarch.core.sizing.shrinking.FEW", few):
            flows, why = shrink(search, flows, False)
        self.assertEqual(set(why), {run for reach in search.reaches for run in reach.runs})
        return search

    @settings(max_examples=40)
    @example(random.Random(0))
    @example(random.Random(4))
    @given(RANDOMS)
    def test_holds_and_none_may_be_smaller(self, rng: random.Random) -> None:
        """What is left holds, and one size less anywhere leaves an outlet short or a run too fast, both ways of
        trying.
        """
        plan = wild(rng)
        for few in (10**6, 0):
            search = self.shrunk(plan, few)
            if search is None:
                continue
            flows = search.solve()
            self.assertIsNone(shortest(flows), few)
            stuck = search.too_fast(search.carried(flows))
            for i, reach in enumerate(search.reaches):
                if search.at[i] == 0:
                    continue
                search.at[i] -= 1
                less = search.solve()
                faster = search.too_fast(search.carried(less)) & ~stuck
                search.at[i] += 1
                self.assertTrue(shortest(less) is not None or faster.any(), (few, reach.runs))

    def test_what_does_not_settle_is_left_as_it_is(self) -> None:
        """A trial that did not settle shows no outlet short, and is no leave to take a smaller size."""
        plan = wild(random.Random(4))
        lay = layout(plan)
        search = Search(plan, lay, {}, models(plan, lay), {})
        flows = search.grow_for_pressure(search.start())
        before = search.at.copy()
        fault = tell("not-settled", "", scenario=None, error="")
        broken = {s: replace(t, fault=fault) for s, t in flows.items()}
        self.assertIsNone(shortest(broken))
        for few in (10**6, 0):
            with patch("hydrarch.core.sizing.shrinking.FEW", few):
                _, why = shrink(search, broken, False)
            self.assertEqual(search.at.tolist(), before.tolist())
            self.assertTrue(why)

    def test_some_are_foreseen(self) -> None:
        """Foresight takes the place of most solves."""
        solved = {}
        for few in (10**6, 0):
            with patch.object(Search, "solve", autospec=True, side_effect=Search.solve) as solve:
                self.assertIsNotNone(self.shrunk(wild(random.Random(4), 60), few))
            solved[few] = solve.call_count
        self.assertLess(solved[0], 0.7 * solved[10**6], solved)


if __name__ == "__main__":
    unittest.main()
