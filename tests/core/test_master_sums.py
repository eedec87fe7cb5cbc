"""Which size, which pipe, how long, when: what a master answers without thinking.

Common practice, unless a standard is named.
"""

import unittest
from dataclasses import replace
from math import cos, pi

from hydrarch.core.base.errors import HydrarchError
from hydrarch.core.base.units import FOOT, GALLON, INCH, PSI, show_apart
from hydrarch.core.commissioning.tightness import judge
from hydrarch.core.cutting.single import CutQuestion, EndOn, cut_one
from hydrarch.core.derivation.chain import derive
from hydrarch.core.making.waiting import waits
from hydrarch.core.record.events import Reading
from hydrarch.core.sizing.one_line import LineQuestion, line_sizes
from hydrarch.core.wells.droppipe import Duty, drop_pipes
from hydrarch.core.wells.hole import Hole
from tests.core.plans import tank_to_tap


class HowBig(unittest.TestCase):
    """Lines."""

    def test_a_long_thin_line_uphill(self) -> None:
        """8 gal/min over 1,000 ft of SIDR 15, 30 ft up, 60 psi at the foot, 20 wanted: not 3/4 but 1 in, which wants
        about 49.
        """
        line = LineQuestion(
            series="pe-sidr15",
            flow=8 * GALLON / 60,
            length=1000 * FOOT,
            rise=30 * FOOT,
            working=60 * PSI,
            wanted=20 * PSI,
            units="us",
            max_velocity=2.0,
        )
        found = line_sizes(line)
        rows = {r.size: r for r in found.rows}
        self.assertFalse(rows["3/4"].holds)
        self.assertAlmostEqual(rows["3/4"].pressure / PSI, 64, delta=6)
        self.assertEqual(found.pick, "1")
        self.assertAlmostEqual((rows["1"].pressure + 20 * PSI) / PSI, 49, delta=3)
        self.assertIn("psi at its foot to leave 20.0 psi at the end, and 60.0 psi is to hand", rows["3/4"].says)
        self.assertIn("at the far end", found.says)

    def test_no_pick_that_cannot_reach(self) -> None:
        """Where no size reaches the far end there is no pick, and what it wants is said."""
        found = line_sizes(LineQuestion("pvc40", 1e-3, 100, rise=60, working=400e3))
        self.assertIsNone(found.pick)
        self.assertIn("is to hand", found.says)

    def test_never_five_over_five(self) -> None:
        """Two numbers that are told against each other are told apart."""
        self.assertEqual(show_apart(1.5241, 1.524, "velocity", "us"), ("5.0003 ft/s", "5.0000 ft/s"))
        self.assertEqual(show_apart(2.0, 1.5, "velocity"), ("2.00 m/s", "1.50 m/s"))


class Wells(unittest.TestCase):
    """What hangs in a hole."""

    hole = Hole(
        depth=500 * FOOT,
        casing=6 * INCH,
        static=100 * FOOT,
        pump=450 * FOOT,
        test_flow=10 * GALLON / 60,
        test_drawdown=50 * FOOT,
    )
    duty = Duty(8 * GALLON / 60, 40 * PSI, shut_off=800 * FOOT, horsepower=1.5, hoist=True, units="us")

    def test_threads_at_half(self) -> None:
        """1 in schedule 80 sees 346 psi more inside than outside at 800 ft of shut-off head, on threads good for half:
        refused.
        """
        found = {(c.series, c.size): c for c in drop_pipes(self.hole, self.duty).candidates}
        pipe = found["pvc80", "1"]
        self.assertAlmostEqual(pipe.bottom_shut / PSI, 346, delta=2)
        self.assertAlmostEqual(pipe.rating / PSI, 315, delta=12)
        self.assertTrue(any("half of plain pipe for its threads" in r for r in pipe.rejected), pipe.rejected)

    def test_every_check_sees_the_shut_off_head(self) -> None:
        """A check at 250 ft under a pump with 800 ft of shut-off head sees 950 ft; none is given only its own depth."""
        checks = drop_pipes(self.hole, self.duty).checks
        self.assertGreater(len(checks), 1)
        for check in checks:
            self.assertGreater(check.depth + self.duty.shut_off - self.hole.static, 650 * FOOT)
            self.assertNotIn("600", check.body)

    def test_what_hands_lift_is_a_limit(self) -> None:
        """Without a hoist what hangs heavier than two people lift is refused, and with one it is not."""
        by_hand = drop_pipes(self.hole, replace(self.duty, hoist=False)).candidates
        self.assertTrue(all(any("without a hoist" in r for r in c.rejected) for c in by_hand if c.hanging > 60))
        self.assertFalse(
            any("without a hoist" in r for c in drop_pipes(self.hole, self.duty).candidates for r in c.rejected)
        )

    def test_a_test_is_not_carried_on(self) -> None:
        """60 L/min at 8 m down says nothing of 285: half as much again at the most, and that is why."""
        hole = Hole(depth=60, casing=0.15, static=10, pump=50, test_flow=1e-3, test_drawdown=8)
        self.assertAlmostEqual(hole.most(), 1.5e-3)
        with self.assertRaisesRegex(
            ValueError, "the test shows no more than 90.0 L/min: test the well at 120.0 L/min first"
        ):
            drop_pipes(hole, Duty(2e-3, 200e3))

    def test_the_outlet_is_asked(self) -> None:
        """A pipe of another size than the pump's thread is told what goes between."""
        for c in drop_pipes(self.hole, self.duty).candidates:
            self.assertEqual(any("1-1/4 outlet" in m for m in c.minds), c.size != "1-1/4", c.size)


class HowLong(unittest.TestCase):
    """Cuts and waits."""

    def test_an_offset_of_a_foot(self) -> None:
        """Two 45° elbows and 12 in aside: 16.97 in from centre to centre, less two take-offs."""
        elbow = EndOn("pvc-elbow-45-1")
        found = cut_one(CutQuestion("pvc40", "1", a=elbow, b=elbow, rise=12 * INCH, angle=pi / 4))
        self.assertAlmostEqual(found.centres / INCH, 16.97, delta=0.01)
        self.assertAlmostEqual(found.centres * cos(pi / 4), 12 * INCH, delta=1e-6)
        self.assertLess(found.length, found.centres)
        with self.assertRaisesRegex(HydrarchError, "90° and the offset by 45°: take elbows of that angle"):
            cut_one(CutQuestion("pvc40", "1", a=EndOn("pvc-elbow-90-1"), b=elbow, rise=12 * INCH, angle=pi / 4))

    def test_small_cold_and_damp(self) -> None:
        """3/4 in at 38 °F and 85 %: the table's 45 min is the least, crews wait an hour or two, and the can's own chart
        wins.
        """
        found = waits("solvent weld", "3/4", (38 + 459.67) * 5 / 9, 0.85, 60 * PSI, "us")
        table = next(s for s in found.schools if s.option == "table")
        self.assertEqual(table.test, 45 * 60)
        for words in ("is the least", "an hour or two", "own chart wins"):
            self.assertIn(words, found.says)

    def test_fused_just_now(self) -> None:
        """25 mm PPR takes pressure after the named guide's time, not at once."""
        found = waits("socket fusion", "25", 288.0, 0.5, 1e6)
        self.assertEqual(found.schools[0].test, 3600)
        self.assertIn("DVS 2207-11", found.source)
        self.assertIn("an hour", found.says)

    def test_three_seconds_are_no_test(self) -> None:
        """Four readings equal in 3 s: no verdict, and what is missing."""
        section = derive(tank_to_tap()).sections[0]
        found = judge([Reading(float(n), section.test) for n in range(4)], section)
        self.assertEqual((found.verdict, found.tight), ("no verdict yet", False))
        self.assertIn("read on", found.missing[0])


if __name__ == "__main__":
    unittest.main()
