"""What plants want and how long heads run: against the worked examples of FAO-56, and by hand."""

import unittest
from math import ceil

from hydrarch.core.base.errors import HydrarchError, Unknown
from hydrarch.core.coverage.need import (
    Day,
    air_kpa,
    extraterrestrial,
    hargreaves,
    reference_need,
    run_time,
    soils,
    vapour_kpa,
)

MM = 1e-3
MM_H = 1e-3 / 3600


class Need(unittest.TestCase):
    """FAO Irrigation and Drainage Paper 56 (1998), its examples as they are remembered."""

    def test_parts_of_it(self) -> None:
        """Air at 1,800 m 81.8 kPa (example 2); vapour between 24.5 and 15 °C 2.39 kPa (example 3); the sun at 20° south
        on 3 September 32.2 MJ/m² (example 8).
        """
        self.assertAlmostEqual(air_kpa(1800), 81.8, delta=0.1)
        self.assertAlmostEqual((vapour_kpa(24.5) + vapour_kpa(15.0)) / 2, 2.39, delta=0.01)
        self.assertAlmostEqual(extraterrestrial(-20, 246), 32.2, delta=0.1)

    def test_a_day_in_july(self) -> None:
        """50.8° north, 100 m, 6 July, 21.5 and 12.3 °C, 84 and 63 %, 2.78 m/s at 10 m, 9.25 h of sun: 3.88 mm (example
        18).
        """
        day = Day(
            warmest=21.5, coldest=12.3, dampest=84, driest=63, wind=2.78, sun=9.25, latitude=50.8, altitude=100, day=187
        )
        self.assertAlmostEqual(reference_need(day), 3.88, delta=0.08)

    def test_from_warmth_alone(self) -> None:
        """26.6 and 14.8 °C under 16.54 mm a day: 5.03 mm (example 20)."""
        self.assertAlmostEqual(hargreaves(26.6, 14.8, 16.54), 5.03112461, delta=0.05)


class Running(unittest.TestCase):
    """By hand."""

    def test_slow_water_runs_through(self) -> None:
        """5 mm at 4 mm/h with a coefficient of 1.2 is 90 min, in one go where the ground takes 10 mm/h."""
        found = run_time(4 * MM_H, 1.2, 5 * MM, "loam")
        self.assertAlmostEqual(found.whole, 90 * 60)
        self.assertEqual((found.cycles, found.soak), (1, 0.0))
        self.assertEqual(found.says, "Run it 90 min.")

    def test_fast_water_is_parted(self) -> None:
        """20 mm at 40 mm/h on clay loam (5 mm/h): 30 min; 5 mm may stand, so no part is over 5/35 h, and each soaks
        until it is taken in.
        """
        found = run_time(40 * MM_H, 1.0, 20 * MM, "clay-loam")
        self.assertAlmostEqual(found.whole, 30 * 60)
        self.assertEqual(found.cycles, ceil(30 / (5 / 35 * 60)))
        each = found.whole / found.cycles
        self.assertLessEqual((40 - 5) * each / 3600, 5.0 + 1e-9, "no more stands than the ground keeps")
        self.assertAlmostEqual(
            40 * MM_H * each, 5 * MM_H * (each + found.soak), places=9, msg="and it is gone before the next"
        )
        self.assertIn("in 4 parts of 8 min with 52 min between them: clay loam takes it in no faster", found.says)

    def test_what_has_no_answer(self) -> None:
        """Ground that stays dry, no need, a soil there is none of."""
        with self.assertRaisesRegex(HydrarchError, "stays dry"):
            run_time(4 * MM_H, None, 5 * MM, "loam")
        with self.assertRaisesRegex(HydrarchError, "above zero"):
            run_time(4 * MM_H, 1.0, 0.0, "loam")
        with self.assertRaises(Unknown):
            run_time(4 * MM_H, 1.0, 5 * MM, "cheese")

    def test_soils_have_sources(self) -> None:
        """The looser, the faster; each with where its figure is from."""
        rates = [s.intake for s in soils().values()]
        self.assertEqual(rates, sorted(rates, reverse=True))
        self.assertTrue(all(s.source for s in soils().values()))


if __name__ == "__main__":
    unittest.main()
