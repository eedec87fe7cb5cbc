"""A pump's curve as people write it down, and as makers' tables have it."""

import unittest

from hydrarch.core.base.errors import BadRow
from hydrarch.formats.curvefile import read_curve

WANT = ((0.0, 45.0), (1e-3, 42.5), (3e-3, 26.0))


class Curves(unittest.TestCase):
    """What is read, and what is refused."""

    def test_however_it_is_written(self) -> None:
        """Space, tab, semicolon or comma between, decimal points or commas, units or none, columns beyond and heads
        above, in any order.
        """
        for text in (
            "0 45\n60 42.5\n180 26",
            "0\t45\n60\t42,5\n180\t26",
            "Q [L/min]; H [m]; eta\n0;45;0\n60;42,5;0,6\n180;26;0,7\n",
            "flow,head,efficiency\r\n0,45,0\r\n60,42.5,61.2\r\n180,26,70\r\n",
            "0, 45\n60, 42.5\n180, 26",
            "180,0 26,0\n60,0 42,5\n0 45",
            "0 45 m\n1 L/s 42.5 m\n\n3 L/s 26 m",
            "\ufeff0 45\n60 42.5\n180 26",
        ):
            with self.subTest(text):
                for got, want in zip(read_curve(text).points, WANT, strict=True):
                    self.assertAlmostEqual(got[0], want[0], places=9)
                    self.assertAlmostEqual(got[1], want[1], places=9)

    def test_in_us_units(self) -> None:
        """Gallons a minute and feet where no unit is written: 10 gpm is 0.6309 L/s, 100 ft 30.48 m (NIST SP 811)."""
        flow, head = read_curve("0 120\n10 100\n20 60", "us").points[1]
        self.assertAlmostEqual(flow, 6.309e-4, delta=1e-7)
        self.assertAlmostEqual(head, 30.48, places=6)

    def test_what_is_not_understood_is_told_by_its_line(self) -> None:
        """Nothing is guessed: a comma that may be either, one figure alone, words, too few points, two of one flow,
        below zero.
        """
        for text, line, words in (
            ("0 45\n60,5,42,1\n180 26", 2, "put a semicolon between"),
            ("0 45\n60\n180 26", 2, "put a space or a semicolon"),
            ("0 45\n60 apples\n180 26", 2, "no flow and head"),
            ("0 45\n60 42 psi2\n180 26", 2, "not a unit"),
            ("0 45\n60 42", 2, "a curve has 3"),
            ("", 1, "0 points are read"),
            ("0 45\n60 42\n60 40", 1, "two points have one flow"),
            ("0 45\n60 -2\n180 26", 2, "zero or more"),
            ("0 4500\n60 42\n180 26", 1, "no pump here gives more"),
            ("\n".join(f"{n} {90 - n}" for n in range(41)), 41, "40 points"),
        ):
            with self.subTest(text), self.assertRaisesRegex(BadRow, words) as caught:
                read_curve(text)
            self.assertIn(f"line {line}", str(caught.exception))


if __name__ == "__main__":
    unittest.main()
