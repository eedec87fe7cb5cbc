"""Figures with points, commas and thousands: read in one way, or refused."""

import json
import unittest
from pathlib import Path

from hydrarch.core.base.errors import BadQuantity, HydrarchError
from hydrarch.core.base.numerals import decimal_mark, parse_number
from hydrarch.core.base.units import GALLON, read
from hydrarch.formats.curvefile import read_curve
from hydrarch.formats.pointsfile import read_points
from hydrarch.formats.tables import read_prices

CASES = json.loads((Path(__file__).parents[1] / "cases" / "numbers.json").read_text("utf-8"))["cases"]


class Numerals(unittest.TestCase):
    """The rule, where it is used."""

    def test_cases(self) -> None:
        """Each case reads to its value or is refused; the page runs the same cases."""
        for text, mark, value in CASES:
            with self.subTest(text=text, mark=mark):
                if value is None:
                    with self.assertRaises(HydrarchError):
                        parse_number(text, mark)
                else:
                    self.assertAlmostEqual(parse_number(text, mark), value)

    def test_a_tank_of_gallons(self) -> None:
        """In US units a comma parts thousands; in metric, where it can be either, it is asked for again with both
        readings.
        """
        self.assertAlmostEqual(read("15,000 gal", "volume", "us"), 15_000 * GALLON)
        self.assertAlmostEqual(read("1,234 ft 6-1/2 in", "length", "us"), (1234 + 6.5 / 12) * 0.3048)
        self.assertAlmostEqual(read("1,5 m", "length"), 1.5)
        self.assertAlmostEqual(read("1.234,5 m", "length"), 1234.5)
        with self.assertRaisesRegex(BadQuantity, r"'1,200' can be 1200 or 1\.200"):
            read("1,200 mm", "length")

    def test_the_mark_of_a_table(self) -> None:
        """One figure that can be read in one way only settles all of its table; two that contradict are reported."""
        self.assertEqual(decimal_mark(["1,200", "12,5"]), ",")
        self.assertEqual(decimal_mark(["1,200", "3.25"]), ".")
        self.assertEqual(decimal_mark(["1,200", "1,234.5"]), ".")
        self.assertEqual(decimal_mark(["1,200", "", "7"]), "")
        with self.assertRaisesRegex(HydrarchError, "use one of them throughout"):
            decimal_mark(["12,5", "3.25"])

    def test_files(self) -> None:
        """Points, prices and pump curves: thousands are read as such, or refused with the line; none is divided by a
        thousand.
        """
        points = read_points('name,east,north\nA,"1,200",7.5\nB,"1,210",8\n', "metric").points
        self.assertEqual([p.x for p in points], [1200.0, 1210.0])
        points = read_points("name;east;north\nA;1,200;7,5\n", "metric").points
        self.assertEqual((points[0].x, points[0].y), (1.2, 7.5))
        with self.assertRaisesRegex(HydrarchError, r"line 2: '1,200' can be 1200 or 1\.200"):
            read_points("name;east;north\nA;1,200;7\n", "metric")
        self.assertEqual(
            read_prices('item,price\ngate-valve,"1,250.00"\n'.replace("gate-valve", "pvc40 1")).prices,
            {"pvc40 1": 1250.0},
        )
        with self.assertRaisesRegex(HydrarchError, "line 2"):
            read_prices('item,price\npvc40 1,"1,250"\n')
        with self.assertRaisesRegex(HydrarchError, "line 1"):
            read_curve("1,200;40\n2,400;30\n3,600;10", "metric")
