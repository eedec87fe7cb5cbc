"""Rows of the catalogue that follow from a published relation, checked against it one by one."""

import csv
import unittest
from pathlib import Path

from hydrarch.core.base.units import INCH, PSI
from hydrarch.core.catalogue.derived import RULES, metric_socket, ppr_stress
from hydrarch.core.catalogue.fittings import end, ends, fittings
from hydrarch.core.catalogue.pipes import derating, pipe, series
from tests.checks.values import values


class Derived(unittest.TestCase):
    """Walls, ratings and socket lengths."""

    def test_walls_and_ratings(self) -> None:
        """Each size of a series with a rule has the wall and rating of its relation, as far as the row is rounded; what
        the row says of its source is that relation.
        """
        looked = 0
        for name, rule in RULES.items():
            for row in series(name).sizes:
                item = pipe(name, row.size)
                outside, wall = item.outside / INCH, item.wall / INCH
                with self.subTest(name, size=row.size):
                    if rule.wall is not None:
                        self.assertAlmostEqual(wall, rule.wall(outside, wall), delta=rule.wall_within)
                    if rule.rating is not None:
                        self.assertAlmostEqual(item.rating / PSI, rule.rating(outside, wall), delta=rule.rating_within)
                    self.assertIn(rule.says, item.source)
                    self.assertNotIn("from memory", item.source)
                looked += 1
        self.assertGreater(looked, 160)

    def test_walls_that_are_wrong_are_seen(self) -> None:
        """A wall a tenth thinner, or a rating a tenth higher, is outside what rows may be rounded to."""
        for name, rule in RULES.items():
            row = series(name).sizes[-1]
            item = pipe(name, row.size)
            outside, wall = item.outside / INCH, item.wall / INCH
            if rule.wall is not None:
                self.assertGreater(abs(0.9 * wall - rule.wall(outside, wall)), rule.wall_within, name)
            if rule.rating is not None:
                self.assertGreater(abs(1.1 * item.rating / PSI - rule.rating(outside, wall)), rule.rating_within, name)

    def test_fusion_sockets(self) -> None:
        """A socket for heat fusion is 0.3 d + 8.5 mm deep at the least."""
        found = [e for e in ends().values() if e.system in ("fusion", "pe-fusion")]
        self.assertEqual(len(found), 36)
        for e in found:
            self.assertAlmostEqual(e.diameter * 1000, float(e.size), delta=0.05)
            self.assertAlmostEqual(e.engagement * 1000, 0.3 * float(e.size) + 8.5, delta=0.15)

    def test_metric_sockets(self) -> None:
        """A solvent socket on metric pipe is 0.5 d + 6 mm deep (ISO 727-1)."""
        found = [e for e in ends().values() if e.system == "solvent-metric" and e.gender == "socket"]
        self.assertGreater(len(found), 5)
        for e in found:
            self.assertAlmostEqual(e.engagement * 1000, metric_socket(float(e.size)), delta=0.05)

    def test_how_ppr_softens(self) -> None:
        """The factors are the stress after 50 years against that at 20 °C, by the reference curves of ISO 15874-2."""
        cold = ppr_stress(293.15, 50 * 8760)
        for celsius in (20, 40, 60, 70):
            kelvin = celsius + 273.15
            self.assertAlmostEqual(derating("ppr", kelvin), ppr_stress(kelvin, 50 * 8760) / cold, delta=0.006)
        self.assertAlmostEqual(
            derating("ppr", 323.15), ppr_stress(323.15, 50 * 8760) / cold, delta=0.02
        )  # between rows

    def test_taper_threads(self) -> None:
        """An NPT thread is cut on the outside of its pipe, and a drain's plug is one of its size."""
        for e in ends().values():
            if e.system in ("npt", "cleanout"):
                self.assertAlmostEqual(e.diameter, pipe("galv40", e.size).outside, delta=1e-5)
            if e.system == "cleanout":
                other = end(f"npt:{e.gender}:{e.size}")
                self.assertEqual(
                    (e.diameter, e.engagement, e.threads_per_inch),
                    (other.diameter, other.engagement, other.threads_per_inch),
                )
            if e.system == "barb" and e.gender == "bore":
                self.assertAlmostEqual(e.diameter, pipe("galv40", e.size).bore, delta=3e-5)

    def test_lengths_that_are_said_to_be_checked(self) -> None:
        """A fitting whose length of loss is said to be checked has one of those that the outside values have."""
        known = {v.inputs["L_over_D"] for v in values("fittings_k", "Crane_K_")}
        looked = 0
        for part in fittings().values():
            if not part.source.endswith(", checked"):
                continue
            looked += 1
            self.assertIn(part.loss.run, known, part.id)
            self.assertIn(part.loss.branch, {*known, part.loss.run}, part.id)
        self.assertGreater(looked, 250)

    def test_the_share_from_memory(self) -> None:
        """Of all rows of all tables at most a quarter rests on memory, and they say so."""
        rows: list[str] = []
        for file in sorted((Path(__file__).parents[2] / "hydrarch" / "core").rglob("data/*.csv")):
            with file.open(encoding="utf-8") as text:
                rows += [r["source"] for r in csv.DictReader(text)]
        self.assertGreater(len(rows), 3000)
        self.assertLessEqual(sum("memory" in source for source in rows) / len(rows), 0.25)


if __name__ == "__main__":
    unittest.main()
