"""Places on the earth, against published lengths of a degree and another library's geodesics."""

import unittest
from math import cos, hypot, pi, radians, sin

from geographiclib.geodesic import Geodesic  # type: ignore[import-untyped]
from hypothesis import given, settings
from hypothesis import strategies as st

from hydrarch.core.base.earth import degrees_of, metres_of, metres_per_degree, read_place, said_place
from hydrarch.core.base.errors import HydrarchError


class Places(unittest.TestCase):
    """There and back."""

    def test_a_degree(self) -> None:
        """Lengths of a degree at the equator, 45° and 60° (common tables of WGS 84, from memory)."""
        for latitude, wide, high in ((0, 111_319.5, 110_574.3), (45, 78_846.8, 111_131.7), (60, 55_800.0, 111_412.2)):
            found = metres_per_degree(latitude)
            self.assertAlmostEqual(found[0], wide, delta=0.3)
            self.assertAlmostEqual(found[1], high, delta=0.3)

    @settings(max_examples=80)
    @given(st.floats(-80, 80), st.floats(-179, 179), st.floats(0, 2 * pi), st.floats(1, 1000), st.floats(-pi, pi))
    def test_geodesics(self, latitude: float, longitude: float, way: float, far: float, turn: float) -> None:
        """To a millimetre in a kilometre, distance and direction are those of GeographicLib's geodesic (Karney 2013),
        whichever way the drawing is turned; and the way back comes to the same place.
        """
        at = latitude, longitude
        east, north = far * sin(way), far * cos(way)
        there = degrees_of(east, north, at, turn)
        x, y = metres_of(*there, at, turn)
        self.assertLess(hypot(x - east, y - north), 1e-5)
        geodesic = Geodesic.WGS84.Inverse(*at, *there)
        self.assertAlmostEqual(geodesic["s12"], far, delta=1e-3)
        told = radians(geodesic["azi1"]) - turn  # clockwise from the drawing's north
        self.assertLess(hypot(far * (sin(told) - sin(way)), far * (cos(told) - cos(way))), 2e-3)

    def test_as_phones_show_it(self) -> None:
        """Degrees with signs or letters, minutes and seconds, in either order."""
        for text, place in (
            ("51.4779, -0.0015", (51.4779, -0.0015)),
            ("51.4779N 0.0015W", (51.4779, -0.0015)),
            ("N 51.4779 W 0.0015", (51.4779, -0.0015)),
            ("51°28'40.4\"N, 0°00'05.4\"W", (51.477889, -0.0015)),
            ("-33,8568; 151,2153", (-33.8568, 151.2153)),
            ("151.2153 E, 33.8568 S", (-33.8568, 151.2153)),
        ):
            with self.subTest(text):
                for got, want in zip(read_place(text), place, strict=True):
                    self.assertAlmostEqual(got, want, places=6)
        self.assertEqual(read_place(said_place(-33.8568, 151.2153)), (-33.8568, 151.2153))
        for text in ("", "here", "51.4779", "51 N 52 N", "91, 5", "51, 181", "51°61' N 0° E", "1, 2, 3"):
            with self.subTest(text), self.assertRaises(HydrarchError):
                read_place(text)
