"""Which pipe, or which thread, was met: ranked by what a caliper reads."""

import unittest

from hypothesis import given, settings
from hypothesis import strategies as st

from hydrarch.core.base.errors import HydrarchError, OutOfRange
from hydrarch.core.base.units import INCH
from hydrarch.core.catalogue.identify import Measured, identify
from hydrarch.core.catalogue.pipes import pipe, series_list
from hydrarch.devices.caliper import SimulatedCaliper

PIPES = [(s.id, p.size) for s in series_list() for p in s.sizes]


class Identify(unittest.TestCase):
    """From a caliper to a pipe."""

    def test_facts_of_the_trade(self) -> None:
        """1/2 in pipe is a little over 3/4 in outside, 1 in a little over 1-1/4 in (common practice)."""
        for outside, size in ((0.84, "1/2"), (1.315, "1")):
            self.assertEqual({c.size for c in identify(Measured(outside=outside * INCH)).candidates[:4]}, {size})

    def test_wall_tells_thin_from_schedule_40(self) -> None:
        """On the same outside, a wall near 1/16 in is thin-wall pipe, 1/8 in and more is not; the warning comes
        along.
        """
        thin = identify(Measured(outside=1.315 * INCH, wall=0.073 * INCH, colour="white")).candidates[0]
        self.assertEqual(thin.series, "pvc-sdr21")
        self.assertIn("no sun", thin.warning)
        usual = identify(
            Measured(outside=1.315 * INCH, wall=0.143 * INCH, colour="white", situation="in wall")
        ).candidates[0]
        self.assertEqual(usual.series, "pvc40")
        unsure = identify(Measured(outside=1.315 * INCH, wall=0.143 * INCH, colour="white"))
        self.assertIn("bend it by hand: of these only Flexible PVC", unsure.next)

    def test_threads_are_told_by_pitch_and_crest(self) -> None:
        """14 to the inch over 0.840 in is 1/2 NPT; over 0.825 BSP, and the two are too near for a rule (ASME B1.20.1,
        ISO 7-1 from memory).
        """
        found = identify(Measured(outside=1.315 * INCH, threads_per_inch=11.5))
        self.assertEqual(found.candidates[0].end, "npt:male:1")
        by_pitch = identify(Measured(outside=1.315 * INCH, pitch=2.209e-3))  # 25.4 / 11.5 = 2.2087 mm
        self.assertEqual([c.end for c in by_pitch.candidates], [c.end for c in found.candidates])
        near = identify(Measured(outside=0.83 * INCH, threads_per_inch=14))
        self.assertLessEqual({"npt:male:1/2", "bsp:male:1/2"}, {c.end for c in near.candidates})
        self.assertIn("a gauge", near.next)
        self.assertIn("across the crests", identify(Measured(threads_per_inch=11)).next)

    def test_metal_is_told_by_what_it_is_not_by_bending(self) -> None:
        """Metal at 1.23 in is scratched, not bent; 16 mm dripline is not copper before the wall is measured: common
        practice.
        """
        old = identify(Measured(outside=1.23 * INCH, colour="metal"))
        self.assertIn("lead is soft", old.next)
        self.assertIn("Do not bend old pipe", old.next)
        self.assertNotIn("by hand", old.next)
        drip = identify(Measured(outside=0.016))
        self.assertEqual(
            (drip.candidates[0].name, drip.candidates[0].likelihood < 0.5), ("Drip tubing of 16 mm outside, 1/2", True)
        )
        self.assertNotIn("This is", drip.says)

    def test_what_must_go_is_told(self) -> None:
        """Lead and bituminized fibre are named with the warning to replace them (common practice)."""
        lead = identify(Measured(outside=0.924 * INCH, colour="metal")).candidates[0]
        self.assertEqual((lead.series, "replace it on sight" in lead.warning), ("lead", True))
        fibre = [c for c in identify(Measured(outside=4.64 * INCH, colour="dark")).candidates if c.series == "fibre"]
        self.assertIn("replace it on sight", fibre[0].warning)

    def test_an_outside_all_schedules_share_tells_little(self) -> None:
        """Every pipe on IPS diameters has 1.315 in at 1 in (common practice): none is called likeliest, and a measure
        is asked for.
        """
        found = identify(Measured(outside=1.315 * INCH))
        self.assertEqual(found.says, "Many fit alike: this reading does not tell them apart.")
        self.assertRegex(found.next, "^measure the (wall|bore): it parts these best")

    def test_what_to_measure_next(self) -> None:
        """Outside alone leaves several; it asks for bore or wall, and with that one is left."""
        first = identify(Measured(outside=4.215 * INCH))
        self.assertRegex(first.next, "measure the (bore|wall)")
        self.assertEqual(
            identify(Measured(outside=4.215 * INCH, wall=0.128 * INCH)).candidates[0].series, "sewer-sdr35"
        )

    def test_copper_is_not_pipe(self) -> None:
        """Half-inch copper is 0.625 in outside (common practice)."""
        self.assertEqual(identify(Measured(outside=0.625 * INCH, wall=0.04 * INCH)).candidates[0].series, "copper-l")

    def test_nothing_fits(self) -> None:
        """An outside no pipe has is said to fit nothing, with what to try."""
        found = identify(Measured(outside=0.3))
        self.assertEqual(found.candidates, ())
        self.assertIn("it may be oval", found.next)

    def test_impossible_measurements(self) -> None:
        """Nothing measured, a bore larger than the outside, walls thicker than the pipe, and absurd numbers are
        refused.
        """
        cases: list[tuple[dict[str, float], str]] = [
            ({}, "measure something"),
            ({"wall": 0.002, "threads_per_inch": 14}, "a wall says nothing about a thread"),
            ({"pitch": 0.0018, "threads_per_inch": 14}, "not both"),
            ({"pitch": 0.02}, "the pitch"),
            ({"outside": 0.02, "bore": 0.03}, "larger than the outside"),
            ({"outside": 0.02, "wall": 0.011}, "check the wall"),
        ]
        for given_, says in cases:
            with self.assertRaisesRegex(HydrarchError, says):
                Measured(**given_)  # type: ignore[arg-type]
        with self.assertRaises(OutOfRange):
            Measured(outside=5.0)

    @settings(max_examples=60, deadline=None)
    @given(st.sampled_from(PIPES), st.integers(0, 1000))
    def test_a_caliper_finds_its_pipe(self, which: tuple[str, str], seed: int) -> None:
        """Reading all three of any pipe with the simulated caliper keeps that pipe among the likely ones; shares add to
        one.
        """
        tool = SimulatedCaliper(*which, seed=seed)
        found = identify(
            Measured(outside=tool.read("outside"), bore=tool.read("bore"), wall=tool.read("wall"), error=tool.error * 2)
        )
        self.assertIn(which, [(c.series, c.size) for c in found.candidates])
        self.assertLessEqual(sum(c.likelihood for c in found.candidates), 1 + 1e-9)

    def test_the_caliper_repeats_itself(self) -> None:
        """The same seed reads the same; readings scatter about the truth by its error."""
        tool, again = (SimulatedCaliper("pvc40", "1", seed=3) for _ in range(2))
        self.assertEqual([tool.read("outside") for _ in range(5)], [again.read("outside") for _ in range(5)])
        reads = [SimulatedCaliper("pvc40", "1", seed=n).read("outside") for n in range(200)]
        self.assertAlmostEqual(sum(reads) / 200, pipe("pvc40", "1").outside, delta=2e-5)


if __name__ == "__main__":
    unittest.main()
