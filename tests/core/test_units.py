"""Reading what a crew types and printing it back."""

import unittest

from hypothesis import given
from hypothesis import strategies as st

from hydrarch.core.base.errors import BadQuantity, OutOfRange, Unknown
from hydrarch.core.base.units import QUANTITIES, check_range, inch_fraction, out_of_range, read, show, show_apart


class Reading(unittest.TestCase):
    """Text becomes SI numbers."""

    def test_areas_and_volumes_as_people_write_them(self) -> None:
        """Square and cubic units with a figure, with a small sign, or in words."""
        for text, quantity, si in (
            ("45 m2", "area", 45.0),
            ("45 m²", "area", 45.0),
            ("45 sqm", "area", 45.0),
            ("500 sq ft", "area", 500 * 0.3048**2),
            ("500 square feet", "area", 500 * 0.3048**2),
            ("5 m3", "volume", 5.0),
            ("10 cu ft", "volume", 10 * 0.3048**3),
            ("5 cubic metres", "volume", 5.0),
            ("6ft3", "length", 75 * 0.0254),
        ):
            with self.subTest(text):
                self.assertAlmostEqual(read(text, quantity), si)
        with self.assertRaisesRegex(BadQuantity, "is not an area"):
            read("5 L", "area")

    def test_ways_of_writing_a_length(self) -> None:
        """Fractions, decimals, feet and inches, marks and other units all read."""
        cases = {
            "3/4 in": 0.01905,
            "1-1/2 in": 0.0381,
            "1 1/2 in": 0.0381,
            "6 ft 3-1/2 in": 1.9177,
            "6' 3 1/2\"": 1.9177,
            "3 ft 4 1/2": 1.0287,
            "6'4": 1.9304,
            "2 m 40 cm": 2.4,
            "31 mm": 0.031,
            "1,5 m": 1.5,
            "-2 m": -2.0,
            "12": 12.0,
        }
        for text, metres in cases.items():
            self.assertAlmostEqual(read(text, "length"), metres, places=9, msg=text)

    def test_flow_pressure_and_temperature(self) -> None:
        """Definitions: US gallon 231 in³, psi by pound-force, Fahrenheit with its offset."""
        self.assertAlmostEqual(
            read("25 gpm", "flow"), 25 * 231 * 0.0254**3 / 60, places=12
        )  # US gallon is 231 cubic inches
        self.assertAlmostEqual(read("58 psi", "pressure"), 58 * 0.45359237 * 9.80665 / 0.0254**2, places=6)
        self.assertAlmostEqual(read("50 F", "temperature"), 283.15, places=9)
        self.assertAlmostEqual(read("-5 C", "temperature"), 268.15, places=9)

    def test_no_unit_means_the_systems_own(self) -> None:
        """A bare number is in the job's units."""
        self.assertAlmostEqual(read("10", "length", "us"), 3.048)
        self.assertAlmostEqual(read("10", "length", "metric"), 10.0)

    def test_a_number_without_its_unit_is_not_guessed(self) -> None:
        """Behind feet a bare number is inches; behind anything else, or before another number, it is refused and never
        added up.
        """
        for text in ("3 4", "35.264 0.4", "2 m 40", "1 2 3", "3 ft 2 1", "3.5 1/2", "40 cm 2 m", "2 m 3 m", "4 in 2"):
            for system in ("metric", "us"):
                with self.assertRaises(BadQuantity, msg=text):
                    read(text, "length", system)

    def test_refusals_say_what_would_do(self) -> None:
        """Text, a foreign unit and nothing at all are refused with an example or the units known."""
        for text, says in {
            "abc": "type a number such as 12 m",
            "3 kg": "'kg' is not a unit of it",
            "": "type a number",
            "1/0": "type",
        }.items():
            with self.assertRaises(BadQuantity) as caught:
                read(text, "length")
            self.assertIn(says, str(caught.exception))
        with self.assertRaisesRegex(BadQuantity, "more than one number"):
            read("3 4 gpm", "flow")
        with self.assertRaisesRegex(Unknown, "did you mean pressure"):
            read("3", "presure")


class Printing(unittest.TestCase):
    """SI numbers become text."""

    def test_tape_fractions(self) -> None:
        """Inches read as a tape does, to the nearest 1/16 in lowest terms."""
        cases = {1.375: "1-3/8", 0.5: "1/2", 2.0: "2", 0.03: "0", 1.95: "1-15/16", -0.25: "-1/4"}
        for inches, text in cases.items():
            self.assertEqual(inch_fraction(inches), text)

    def test_long_cuts_show_feet(self) -> None:
        """A cut of a foot or more is in feet and inches, a shorter one in inches, a metric one in millimetres."""
        self.assertEqual(str(show(3.456, "cut", "us")), "11 ft 4-1/16 in")
        self.assertEqual(str(show(0.1, "cut", "us")), "3-15/16 in")
        self.assertEqual(str(show(3.456, "cut", "metric")), "3456 mm")

    def test_little_and_much_have_units_of_their_own(self) -> None:
        """An emitter's flow is told by the hour, a pump's depth in feet or metres; zero and what is usual stay as
        they are.
        """
        hourly = read("8 gal/h", "flow")
        self.assertEqual((str(show(hourly, "flow", "us")), str(show(hourly, "flow"))), ("8.0 gal/h", "30.3 L/h"))
        self.assertEqual(
            [str(show(read(t, "flow"), "flow", "us")) for t in ("1 gpm", "0", "0.0001 gpm", "59 gal/h")],
            ["1.0 gpm", "0.0 gpm", "0.0 gpm", "59.0 gal/h"],
        )
        self.assertEqual((str(show(62.0, "depth")), str(show(60.96, "depth", "us"))), ("62.00 m", "200.0 ft"))
        self.assertEqual((str(show(0.75, "depth")), str(show(0.4572, "depth", "us"))), ("750 mm", "18 in"))
        self.assertEqual(show_apart(read("8.01 gal/h", "flow"), hourly, "flow", "us"), ("8.01 gal/h", "8.00 gal/h"))

    def test_what_is_out_of_range_is_told_in_either_system(self) -> None:
        """The same refusal names value and limits as a crew of either kind would read them, and never as equal to its
        limit.
        """
        with self.assertRaises(OutOfRange) as caught:
            check_range(
                "the pitch", read("0.3 in", "length"), read("0.025 in", "length"), read("0.25 in", "length"), "diameter"
            )
        self.assertEqual(
            caught.exception.told["us"], "the pitch is 0.300 in; it must lie between 0.025 in and 0.250 in"
        )
        self.assertEqual(str(caught.exception), "the pitch is 7.6 mm; it must lie between 0.6 mm and 6.3 mm")
        near = out_of_range("water temperature", 373.35, 273.15, 373.15, "temperature")
        self.assertEqual(str(near), "water temperature is 100.2 °C; it must lie between 0 °C and 100 °C")

    @given(st.sampled_from(sorted(QUANTITIES)), st.floats(0, 500), st.sampled_from(["us", "metric"]))
    def test_what_is_shown_reads_back(self, quantity: str, value: float, system: str) -> None:
        """Showing a number and reading it again is off by no more than the last digit shown."""
        unit = getattr(QUANTITIES[quantity], system).fit(value)
        shown = show(value, quantity, system)  # type: ignore[arg-type]
        back = read(str(shown), quantity, system)  # type: ignore[arg-type]
        step = 1 / 32 if unit.style != "decimal" else 0.5 * 10**-unit.decimals
        self.assertLessEqual(abs(back - value), unit.factor * step * 1.0001 + 1e-9)
