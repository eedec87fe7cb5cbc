"""A loop beside the same outlets on a tree."""

import unittest

from hydrarch.core.base.errors import HydrarchError
from hydrarch.core.derivation.chain import derive
from hydrarch.core.plan.document import Plan
from hydrarch.core.report.loops import as_tree, closes_a_loop, loop_beside_tree
from hydrarch.demo import tent_meadow
from tests.core.plans import draw, point


def ring() -> Plan:
    """A mains and a square ring with a tap at three corners: a tee where it is fed, a plain bend at none of them."""
    points = [
        point("M", -10, 0, "mains", pressure=400e3),
        point("J", 0, 0, "junction"),
        point("A", 0, 40, "tap"),
        point("B", 40, 40, "tap"),
        point("C", 40, 0, "tap"),
    ]
    more = [{"series": "pvc40", "size": "1"}] * 5
    return draw(points, [("M", "J"), ("J", "A"), ("A", "B"), ("B", "C"), ("C", "J")], runs_more=more)


class LoopOrTree(unittest.TestCase):
    """Both shapes of one line."""

    def test_where_it_is_opened(self) -> None:
        """By hand: on a ring fed at one corner least flows on one of the two far sides; without it nothing is
        cut off.
        """
        plan = ring()
        self.assertTrue(closes_a_loop(plan))
        tree, left = as_tree(plan, derive(plan).sizes.flows)
        self.assertEqual(len(left), 1)
        self.assertIn(left[0], ("R3", "R4"))
        self.assertFalse(closes_a_loop(tree))
        self.assertEqual({p.id for p in tree.outlets}, {"A", "B", "C"})
        self.assertEqual(derive(tree).layout.fed, frozenset("MJABC"))

    def test_a_tree_never_gives_more_of_the_same_pipe(self) -> None:
        """With one size all round, the far tap has more to spare on the ring than on the tree, and the ring takes 40 m
        more of pipe.
        """
        found = loop_beside_tree(ring())
        self.assertGreater(found.loop.worst["all"][1], found.tree.worst["all"][1])
        self.assertAlmostEqual(found.loop.pipe - found.tree.pipe, 40.0, delta=0.5)
        self.assertGreater(found.loop.price, found.tree.price)

    def test_what_leads_to_nothing_goes(self) -> None:
        """Of the meadow's loop a side between two corners goes, and with it both corners: no stub of pipe is left."""
        plan = tent_meadow()
        tree, left = as_tree(plan, derive(plan).sizes.flows)
        self.assertEqual(len(left), 3)
        count = {p.id: sum(p.id in r.points for r in tree.runs) for p in tree.points}
        self.assertFalse([p.id for p in tree.points if p.what.kind == "bend" and count[p.id] < 2])
        self.assertEqual(len(tree.outlets), len(plan.outlets))

    def test_no_loop(self) -> None:
        """It is said where there is none."""
        line = draw([point("M", 0, 0, "mains"), point("T", 5, 0, "tap")], [("M", "T")])
        with self.assertRaisesRegex(HydrarchError, "no loop"):
            loop_beside_tree(line)


if __name__ == "__main__":
    unittest.main()
