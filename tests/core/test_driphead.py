"""The head of a drip line: what is told of its order and of what lacks, and that a right one is left alone."""

import unittest
from itertools import pairwise

from hydrarch.core.derivation.chain import derive
from hydrarch.core.editing.fixes import mended
from hydrarch.core.plan.document import Plan
from tests.core.plans import draw, point

CODES = ("drip-order", "drip-filter", "drip-pressure")


def line(*kinds: str, pressure: float = 350e3, end: str = "drip") -> Plan:
    """A mains, devices in that order, and a drip zone."""
    things = [("M", "mains"), *((f"P{n}", k) for n, k in enumerate(kinds)), ("D", end)]
    points = [
        point(n, 3.0 * x, 0, k, **({"pressure": pressure} if k == "mains" else {})) for x, (n, k) in enumerate(things)
    ]
    return draw(points, [(a, b) for (a, _), (b, _) in pairwise(things)])


def told(plan: Plan) -> dict[str, str]:
    """What is said of the head of its drip line."""
    return {p.code: p.says for p in derive(plan).problems() if p.code in CODES}


class Head(unittest.TestCase):
    """Preventer, filter, regulator (common practice)."""

    def test_a_right_head_is_left_alone(self) -> None:
        """In its order, with a valve before it or not; and nothing is asked of a line that waters no drip."""
        self.assertEqual(told(line("backflow", "filter", "regulator")), {})
        self.assertEqual(told(line("valve", "backflow", "filter", "regulator")), {})
        self.assertEqual(told(line("regulator", "filter", end="sprinkler")), {})
        self.assertEqual(told(line("backflow", "filter", pressure=200e3)), {}, "two bar need no regulator")

    def test_each_wrong_order(self) -> None:
        """Both that stand the wrong way round are named."""
        says = "regulator P1 is before filter P2 on the way to drip D. The filter comes first."
        self.assertEqual(told(line("backflow", "regulator", "filter")), {"drip-order": says})
        self.assertIn("The preventer comes first", told(line("filter", "backflow", "regulator"))["drip-order"])

    def test_what_lacks(self) -> None:
        """No filter, and no regulator at 3.5 bar, each with its figure; laid out by the mends it is a right head,
        wherever one begins.
        """
        self.assertEqual(set(told(line("backflow"))), {"drip-filter", "drip-pressure"})
        self.assertIn("3.50 bar at drip D", told(line("backflow"))["drip-pressure"])
        for kinds in ((), ("backflow",), ("valve",), ("regulator", "filter", "backflow")):
            plan = line(*kinds)
            for _ in range(6):
                problem = next((p for p in derive(plan).problems() if p.code in CODES), None)
                if problem is None:
                    break
                after = mended(plan, problem)
                assert after is not None
                plan = after
            self.assertEqual(told(plan), {}, kinds)
            self.assertFalse([p for p in derive(plan).problems() if p.code == "faces-source"], kinds)


if __name__ == "__main__":
    unittest.main()
