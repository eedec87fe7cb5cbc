"""Rows of the catalogue that follow from a published relation, checked against it one by one."""

import unittest

from hydrarch.core.base.units import INCH, PSI
from hydrarch.core.catalogue.derived import RULES
from hydrarch.core.catalogue.fittings import ends
from hydrarch.core.catalogue.pipes import pipe, series, series_list


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

    def test_the_share_from_memory(self) -> None:
        """Of the rows of pipe at most two fifths rest on memory, and they say so."""
        rows = [pipe(s.id, p.size).source for s in series_list() for p in s.sizes]
        memory = sum("memory" in source for source in rows)
        self.assertLessEqual(memory / len(rows), 0.4)


if __name__ == "__main__":
    unittest.main()
