"""Levels of a whole line at once."""

import unittest

from hydrarch.core.base.errors import HydrarchError
from hydrarch.core.derivation.chain import derive
from hydrarch.core.editing.grading import even_fall, follow_ground, read_slope
from hydrarch.core.plan.document import Plan
from tests.core.plans import draw, point


def drain() -> Plan:
    """A drain of three runs over uneven ground, every point 0.5 m deep."""
    spots = [
        point("G", 0, 0, "drain_inlet", ground=10.0, depth=0.5),
        point("A", 10, 0, "bend", ground=10.4, depth=0.5),
        point("B", 10, 20, "bend", ground=9.6, depth=0.5),
        point("O", 40, 20, "outfall", ground=9.0, depth=0.5),
    ]
    return draw(spots, [("G:out", "A"), ("A", "B"), ("B", "O")], runs_more=[{"series": "sewer-sdr35", "size": "4"}] * 3)


class Levels(unittest.TestCase):
    """Graded in one move."""

    def test_slopes_as_crews_write_them(self) -> None:
        """1 in 70, percent, a quarter inch to the foot (1 in 48), millimetres to the metre; anything else is
        told how.
        """
        cases = {
            "1 in 70": 1 / 70,
            "2 %": 0.02,
            "1,5%": 0.015,
            "1/4 in per ft": 1 / 48,
            "0.25 in/ft": 1 / 48,
            "10 mm/m": 0.01,
            "1 IN 40": 0.025,
        }
        for text, slope in cases.items():
            self.assertAlmostEqual(read_slope(text), slope, msg=text)
        for text in ("steep", "1 in 0", "", "70"):
            with self.assertRaises(HydrarchError):
                read_slope(text)

    def test_an_even_fall_between_two_levels(self) -> None:
        """From 9.5 to 8.5 over 60 m, level: 1 in 60, each point by how far along it is; the ends and the ground
        stay.
        """
        done = even_fall(drain(), "G", "O")
        levels = {p.id: round(p.level, 6) for p in done.plan.points}
        self.assertEqual(levels, {"G": 9.5, "A": round(9.5 - 10 / 60, 6), "B": 9.0, "O": 8.5})
        self.assertEqual([p.ground for p in done.plan.points], [p.ground for p in drain().points])
        self.assertEqual(done.says, "Falls 1000 mm, 1 in 60, from drain inlet G to outfall O, over 4 points.")

    def test_a_slope_from_the_first(self) -> None:
        """1 in 100 from the inlet takes the outfall 0.6 m down, and every run of the drain falls so."""
        done = even_fall(drain(), "G", "O", read_slope("1 in 100"))
        self.assertAlmostEqual(done.plan.by_id["O"].level, 8.9)
        lines = derive(done.plan).layout.lines
        for line in lines.values():
            self.assertAlmostEqual(abs(line.rise) / line.length, 0.01, places=4)
        self.assertNotIn("no-fall", [p.code for p in derive(done.plan).problems()])

    def test_with_the_ground(self) -> None:
        """As deep everywhere as at the first point: depth and level are never mixed up."""
        plan = even_fall(drain(), "G", "O").plan
        done = follow_ground(plan, "G", "O")
        self.assertEqual({p.depth for p in done.plan.points}, {0.5})

    def test_what_cannot_be_graded(self) -> None:
        """One point twice, a point that is gone, two lines that are not joined, a line that stands upright: each is
        told.
        """
        plan = drain()
        for start, stop, says in (("G", "G", "two different"), ("G", "gone", "not on the drawing any more")):
            with self.assertRaisesRegex(HydrarchError, says):
                even_fall(plan, start, stop)
        apart = draw([point("M", 0, 0, "mains"), point("T", 9, 0, "tap")], [])
        with self.assertRaisesRegex(HydrarchError, "draw it first"):
            even_fall(apart, "M", "T")
        upright = draw([point("M", 0, 0, "mains", depth=2.0), point("C", 0, 0, "cap", depth=0.0)], [("M", "C")])
        with self.assertRaisesRegex(HydrarchError, "stands upright"):
            even_fall(upright, "M", "C")


if __name__ == "__main__":
    unittest.main()
