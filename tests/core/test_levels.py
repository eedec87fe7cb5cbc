"""Levels of a whole line at once."""

import json
import unittest
from pathlib import Path

from hypothesis import given
from hypothesis import strategies as st

from hydrarch.core.base.errors import HydrarchError
from hydrarch.core.derivation.chain import derive
from hydrarch.core.editing.fixes import mended
from hydrarch.core.editing.grading import even_fall, follow_ground, read_slope
from hydrarch.core.plan.document import Plan
from hydrarch.core.plan.references import without
from tests.core.plans import codes, draw, point

PAGE = Path(__file__).parents[2] / "web/src/job/references.json"


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


class Rules(unittest.TestCase):
    """A line keeps the rule it was laid out by."""

    @staticmethod
    def moved(plan: Plan, name: str, down: float) -> Plan:
        """One point a little lower."""
        return plan.model_copy(
            update={
                "points": tuple(
                    p.model_copy(update={"depth": p.depth + down}) if p.id == name else p for p in plan.points
                )
            }
        )

    def test_what_no_longer_lies_on_it(self) -> None:
        """By each rule: nothing is reported as it was laid; a point that is moved 23 mm is reported by so much and
        which way; one press lays it again, and the plan is as before.
        """
        for laid in (
            even_fall(drain(), "G", "O"),
            even_fall(drain(), "G", "O", 0.01),
            follow_ground(drain(), "G", "O"),
        ):
            plan = laid.plan
            self.assertEqual(len(plan.rules), 1)
            self.assertNotIn("off-rule", codes(plan))
            for down, side in ((0.023, "low"), (-0.023, "high")):
                off = self.moved(plan, "A", down)
                told = next(p for p in derive(off).problems("survey") if p.code == "off-rule")
                self.assertEqual(told.where, "A")
                self.assertIn(f"23 mm too {side}", told.title)
                again = mended(off, told)
                assert again is not None
                self.assertEqual([round(p.level, 6) for p in again.points], [round(p.level, 6) for p in plan.points])
            self.assertNotIn("off-rule", codes(self.moved(plan, "A", 0.0019)))

    def test_moved_sideways(self) -> None:
        """A point moved along the ground makes the line longer there: by a slope, all that lies below it is off."""
        plan = even_fall(drain(), "G", "O", 0.01).plan
        aside = tuple(p.model_copy(update={"y": -10.0}) if p.id == "A" else p for p in plan.points)
        told = next(
            p for p in derive(plan.model_copy(update={"points": aside})).problems("survey") if p.code == "off-rule"
        )
        self.assertEqual(told.where, "O")  # 14.1 + 30 + 30 m where it was 60: 141 mm more to fall
        self.assertIn("141 mm too high", told.title)
        self.assertIn("2 more of its points", told.detail)

    def test_the_rule_goes_with_its_end(self) -> None:
        """Laid anew between the same points there is one rule, the newest; an end that is taken out takes its rule
        along, in core and by the page's table.
        """
        plan = follow_ground(even_fall(drain(), "G", "O").plan, "O", "G").plan
        self.assertEqual([(r.start, r.by) for r in plan.rules], [("O", "ground")])
        body = without(plan.model_dump(mode="json"), {"G"})
        self.assertEqual(body["rules"], [])
        table = {f["path"]: f["gone"] for f in json.loads(PAGE.read_text("utf-8"))["references"]}
        self.assertEqual((table["rules.start"], table["rules.stop"]), ("item", "item"))

    @given(
        st.lists(st.floats(0.2, 2.0), min_size=4, max_size=4),
        st.sampled_from(["G", "A", "B", "O"]),
        st.floats(-0.3, 0.3).filter(lambda x: abs(x) > 1e-6),
    )
    def test_moving_one_changes_the_falls_beside_it(self, depths: list[float], name: str, down: float) -> None:
        """Exactly the runs at a point change their fall when it alone is moved."""
        plan = drain()
        for p, depth in zip(("G", "A", "B", "O"), depths, strict=True):
            plan = self.moved(plan, p, depth - 0.5)
        before = {d.run: d.fall for d in derive(plan).drains}
        after = {d.run: d.fall for d in derive(self.moved(plan, name, down)).drains}
        beside = {r.id for r in plan.runs if name in r.points}
        self.assertEqual({r for r in before if abs(before[r] - after[r]) > 1e-9}, beside)


if __name__ == "__main__":
    unittest.main()
