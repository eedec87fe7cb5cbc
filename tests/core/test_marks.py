"""What is fixed on the site: where a run crosses it or comes too near."""

import unittest
from typing import Any

from hydrarch.core.derivation.chain import derive
from hydrarch.core.editing.fixes import mended
from hydrarch.core.editing.measures import read_measures
from hydrarch.core.measuring.drawn_line import draw_measures, heading_of
from hydrarch.core.plan.document import Plan
from tests.core.plans import draw, point


def line(*marks: dict[str, Any], **run: Any) -> Plan:
    """A tank and a tap 20 m east, buried 0.6 m, and marks."""
    points = [point("T", 0, 0, "tank", water_level=30.0, depth=0.6), point("K", 20, 0, "tap", depth=0.6), *marks]
    return draw(points, [("T", "K")], runs_more=[run])


def mark(what: str, x: float, y: float, depth: float = 0.6, **more: float) -> dict[str, Any]:
    """A mark with its name."""
    return {
        **point("X", x, y, "mark", depth=depth, name=f"the {what}", **more),
        "what": {"kind": "mark", "what": what, **more},
    }


def told(plan: Plan) -> dict[str, tuple[str, str]]:
    """What is said of marks: severity and words by code."""
    wanted = ("crosses-drive", "crosses-service", "crosses-wall", "near-mark")
    return {p.code: (p.severity, p.says) for p in derive(plan).problems() if p.code in wanted}


class Marks(unittest.TestCase):
    """By hand: a run from 0,0 to 20,0."""

    def test_a_cable_is_crossed(self) -> None:
        """At 8 m: at the same depth it is warned of, half a metre under it is a note with the figure; far off it is
        nothing.
        """
        severity, says = told(line(mark("cable", 8, -5, north=10.0)))["crosses-service"]
        self.assertEqual(severity, "warn")
        self.assertIn("8.00 m from", says)
        severity, says = told(line(mark("cable", 8, -5, depth=0.1, north=10.0)))["crosses-service"]
        self.assertEqual(severity, "note")
        self.assertIn("500 mm apart as drawn", says)
        self.assertEqual(told(line(mark("cable", 8, 0.4, north=10.0))), {})
        self.assertEqual(told(line(mark("cable", 8, -5, north=10.0), situation="on surface")), {})

    def test_too_near(self) -> None:
        """A tree 1.2 m off and a cable beside it 0.2 m off; a crew's own distance goes before the usual one."""
        self.assertIn("1.20 m from the tree", told(line(mark("tree", 12, 1.2)))["near-mark"][1])
        self.assertEqual(told(line(mark("tree", 12, 1.2, clear=1.0))), {})
        self.assertIn("0.20 m from the cable", told(line(mark("cable", 3, 0.2, east=10.0)))["near-mark"][1])
        self.assertEqual(told(line(mark("cable", 3, 0.2, depth=0.2, east=10.0))), {}, "0.4 m higher and 0.2 m aside")
        self.assertEqual(told(line(mark("corner", 3, 0.1))), {}, "a corner is only measured from")

    def test_a_drive_and_a_wall(self) -> None:
        """Under a drive no wheels were said; the mend says them and the warning goes. Through a wall it is sleeved."""
        plan = line(mark("drive", 10, -4, north=8.0, width=4.0))
        problem = next(p for p in derive(plan).problems() if p.code == "crosses-drive")
        after = mended(plan, problem)
        assert after is not None
        self.assertTrue(after.run_by_id["R1"].wheels)
        self.assertEqual(told(after), {})
        self.assertEqual(
            told(line(mark("drive", 10, 1.5, east=5.0, width=4.0)))["crosses-drive"][0], "warn", "within its width"
        )
        self.assertEqual(told(line(mark("wall", 10, -4, north=8.0), situation="in wall"))["crosses-wall"][0], "note")

    def test_what_was_met_lies_where_it_lies(self) -> None:
        """Nothing is said of pipe that is there, of a coupling without pipe, or where no mark is."""
        self.assertEqual(told(line(mark("cable", 8, -5, north=10.0), existing={"known": "old pipe"})), {})
        self.assertEqual(told(line()), {})


class MeasuredFrom(unittest.TestCase):
    """A mark is measured from; no pipe goes to it."""

    def test_from_a_corner(self) -> None:
        """3.2 east and 1.1 north of the corner, 0.9 above the ground, a tap: one point, no run, then pipe goes on."""
        plan = line(mark("corner", 2, 2))
        drawn = draw_measures(plan, "X", read_measures("3.2 e, 1.1 n, to 0.9 above the floor, tap, 2 e, valve"))
        new = [p for p in drawn.plan.points if p.id not in plan.by_id]
        self.assertEqual(
            [(p.what.kind, p.x, p.y, p.depth) for p in new], [("tap", 5.2, 3.1, -0.9), ("valve", 7.2, 3.1, -0.9)]
        )
        self.assertEqual(len(drawn.plan.runs), len(plan.runs) + 1)
        usual = draw_measures(plan, "X", read_measures("1 e, tap")).plan
        self.assertEqual(usual.points[-1].depth, 0.6, "as deep as what is drawn nearest")

    def test_along_a_wall_and_off_it(self) -> None:
        """A wall that goes north-east: on is along it, left is off it."""
        plan = line(mark("wall", 2, 2, east=3.0, north=4.0))
        steps = read_measures("5 on, 1 left, tap", heading=heading_of(plan, "X"))
        tap = draw_measures(plan, "X", steps).plan.points[-1]
        self.assertAlmostEqual(tap.x, 2 + 3 - 0.8)
        self.assertAlmostEqual(tap.y, 2 + 4 + 0.6)


if __name__ == "__main__":
    unittest.main()
