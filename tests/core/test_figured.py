"""Questions of size, length and time as crews say them: answered by the bench's own functions, figures read back."""

import unittest
from math import sqrt

from hydrarch.core.base.errors import HydrarchError
from hydrarch.core.base.units import FOOT, GALLON, PSI
from hydrarch.core.catalogue.pipes import pipe
from hydrarch.core.hydraulics.friction import head_loss_hazen_williams
from hydrarch.core.report.asked import Figured, figured


def ask(words: str, units: str = "us") -> Figured:
    """The answer to a question of figures."""
    found = figured(words, units)  # type: ignore[arg-type]
    assert found is not None, words
    return found


class Asked(unittest.TestCase):
    """What a master answers without thinking; common practice."""

    def test_a_line(self) -> None:
        """8 US gal/min over 1,000 ft of SIDR 15, 30 ft up: 3/4 wants some 84 psi at the foot to leave 20, 1 in about
        49 (Hazen-Williams, C 150, checked here by hand).
        """
        found = ask("8 US gal/min over 1,000 ft of SIDR 15, 30 ft up, 60 psi at the foot, 20 psi wanted")
        self.assertEqual((found.bench, found.ignored), ("line", ()))
        self.assertTrue(found.first.startswith("Polyethylene SIDR 15 1: the smallest that holds, "))
        self.assertIn("3/4 wants 84.0 psi", found.first)
        bore = pipe("pe-sidr15", "3/4").bore
        lost = head_loss_hazen_williams(8 * GALLON / 60, 1000 * FOOT, bore, 150)
        foot = (lost + 30 * FOOT) * 9790 / PSI + 20
        self.assertAlmostEqual(foot, 84.0, delta=1.0)
        for told in ("8.0 gpm", "1000.0 ft long, 30.0 ft up", "60.0 psi to hand, 20.0 psi wanted"):
            self.assertTrue(any(told in r for r in found.read), found.read)

    def test_either_way_round(self) -> None:
        """The same line in metric, with its figures in another order, and one that falls."""
        for words in (
            "25 l/min over 300 m of PE100 SDR 11, 9 m up, 4 bar at the foot, 1.5 bar wanted",
            "PE100 SDR 11, 4 bar at the foot and 1.5 bar wanted, 25 litres per minute through 300 m, rising 9 m",
        ):
            self.assertIn("metric 32: the smallest that holds", ask(words, "metric").first)
        down = ask("25 l/min over 300 m of PE100 SDR 11, 9 m down, 1 bar at the foot, 1 bar wanted", "metric")
        self.assertIn("9.00 m down", " ".join(down.read))

    def test_a_well(self) -> None:
        """Threads at half the plain rating refuse schedule 80 at 800 ft of shut-off head; a check valve low down sees
        that head (0.433 psi a foot).
        """
        found = ask("500 ft well, 800 ft shut-off, schedule 80 1 in")
        self.assertTrue(found.first.startswith("Refused: PVC schedule 80 1 hung in a well carries 315.0 psi"))
        self.assertIn("check valve low on the string sees what the pump makes at shut-off: 346", found.says[0])
        self.assertNotIn("Refused", ask("300 ft well, 400 ft shut-off, schedule 80 1 in").first)

    def test_an_offset(self) -> None:
        """Two 45° elbows for 12 in: the travel is 12 √2, less two take-offs."""
        found = ask("two 45° for a 12 in offset in 1 in sch 40")
        self.assertTrue(found.first.startswith("1 ft 5 in centre to centre"), found.first)
        self.assertAlmostEqual(12 * sqrt(2), 17.0, delta=0.04)
        self.assertIn("431 mm centre to centre", ask("two 45° for a 305 mm offset in 32 mm pvc").first)
        self.assertIn("elbow 45°", found.says[1])

    def test_a_weld(self) -> None:
        """3/4 at 38 °F and 85 % damp: 30 min and half as much again, as the least; the crews' longer waits beside it,
        and the maker's chart wins.
        """
        found = ask("3/4 sch 40, 38 °F, 85 % damp, 60 psi; when full test")
        self.assertIn("45 min before its full test, at the least", found.first)
        self.assertTrue(any(s.startswith("2 h before the test where the practice is") for s in found.says))
        self.assertTrue(any("chart wins" in s for s in found.says))

    def test_a_fusion(self) -> None:
        """The guide's time, named, not at once."""
        found = ask("PPR 25 mm, fused now; when pressure")
        self.assertIn("60 min before its full test", found.first)
        self.assertTrue(any("DVS 2207" in s for s in found.says))

    def test_readings_without_figures(self) -> None:
        """Four equal readings in three seconds are no verdict; what is missing is said."""
        found = ask("four readings equal in 3 s; is it tight")
        self.assertTrue(found.first.startswith("No verdict yet"))
        self.assertIn("Still needed", found.says[0])

    def test_what_is_wanting_is_asked_back(self) -> None:
        """No figure is made up: a flow, both pressures, a length, cold, damp, a pipe."""
        for words, asks in (
            ("8 gpm over 1000 ft of SIDR 15", "say both pressures"),
            ("8 gpm over 1000 ft of SIDR 15, 60 psi at the foot", "say both pressures"),
            ("8 gpm of SIDR 15, 60 psi at the foot, 20 psi wanted", "say how long"),
            ("8 gpm over 1000 ft, 60 psi at the foot, 20 psi wanted", "names no pipe"),
            ("2 in pvc, 85 % damp, 60 psi; when test", "say how cold"),
            ("2 in pvc, 50 °F, 60 psi; when test", "say how damp"),
            ("well, 800 ft shut-off, schedule 80 1 in", "say how deep"),
            ("12 in offset in 1 in sch 40", "say the angle"),
        ):
            with self.subTest(words), self.assertRaisesRegex(HydrarchError, asks):
                figured(words, "us")

    def test_no_word_is_dropped(self) -> None:
        """A word nothing was read from is reported."""
        words = "8 gpm over 1000 ft of SIDR 15 wobbly, 30 ft up, 60 psi at the foot, 20 psi wanted"
        self.assertEqual(ask(words).ignored, ("wobbly",))

    def test_no_figure_is_dropped(self) -> None:
        """A size and the water's warmth are used and read back; a figure that nothing uses is told as ignored."""
        line = "8 gpm over 1000 ft of {} SIDR 15, 30 ft up, 60 psi at the foot, 20 psi wanted"
        self.assertTrue(ask(line.format("3/4 in")).first.startswith("Polyethylene SIDR 15 3/4 wants 84.0 psi"))
        self.assertIn("water of 100 °F", " ".join(ask(f"{line.format('')}, 100 °F").read))
        self.assertEqual(ask(f"{line.format('')}, 15 min").ignored, ("15 min",))
        with self.assertRaisesRegex(HydrarchError, "not made in 7 in"):
            figured(line.format("7 in"), "us")

    def test_no_wait_that_is_not(self) -> None:
        """Pipe that is not cemented has no cure, pipe that is not fused no cooling; an offset of zero is none."""
        for words in (
            "1 in poly, 38 °F, 85 % damp, 60 psi; when full test",
            "1 in galvanized, 38 °F, 85 % damp, 60 psi; when full test",
            "110 mm drain, 38 °F, 85 % damp, 60 psi; when full test",
            "1 in pvc, fused now; when pressure",
        ):
            with self.subTest(words), self.assertRaisesRegex(HydrarchError, "is not joined by a"):
                figured(words, "us")
        with self.assertRaisesRegex(HydrarchError, "say the angle and the offset"):
            figured("two 45° for a 0 in offset in 1 in sch 40", "us")
        fell = ask("readings 60, 58, 55, 50 psi over 30 min, is it tight")
        self.assertNotIn("equal", fell.first)

    def test_what_asks_to_join(self) -> None:
        """Questions to join things are none of these."""
        for words in ("1 in pvc to 1 in poly", "cap a 1 in pvc line", "hose tap 3/4 to .620 drip at 50 psi"):
            self.assertIsNone(figured(words, "us"))


if __name__ == "__main__":
    unittest.main()
