"""Surveys in national grids and UTM zones: which one is asked, and what comes of its figures."""

import json
import unittest
from math import cos, hypot, radians, sin, sqrt, tan

from geographiclib.geodesic import Geodesic  # type: ignore[import-untyped]

from hydrarch.core.base.units import FOOT
from hydrarch.formats.explained import BadFile
from hydrarch.formats.grids import grid_named
from hydrarch.formats.pointsfile import AS_THEY_ARE, read_points

FAR = "name,east,north,level\nGate,500100,5540000,210.25\nOak,500130,5540040,211\n"
SURVEY_FOOT = 1200 / 3937
"""m; the United States' definition of 1893."""


def transverse(latitude: float, longitude: float, middle: float) -> tuple[float, float]:
    """East and north (m) on UTM by the series of Snyder's Map Projections, A Working Manual (USGS 1395), 8-9 to 8-15;
    true to a few mm within three degrees of the middle.
    """
    a, e2 = 6378137.0, 0.0066943799901
    second = e2 / (1 - e2)
    phi, across = radians(latitude), radians(longitude - middle)
    n, t, c = a / sqrt(1 - e2 * sin(phi) ** 2), tan(phi) ** 2, second * cos(phi) ** 2
    x = across * cos(phi)
    m = a * (
        (1 - e2 / 4 - 3 * e2**2 / 64 - 5 * e2**3 / 256) * phi
        - (3 * e2 / 8 + 3 * e2**2 / 32 + 45 * e2**3 / 1024) * sin(2 * phi)
        + (15 * e2**2 / 256 + 45 * e2**3 / 1024) * sin(4 * phi)
        - 35 * e2**3 / 3072 * sin(6 * phi)
    )
    east = 0.9996 * n * (x + (1 - t + c) * x**3 / 6 + (5 - 18 * t + t**2 + 72 * c - 58 * second) * x**5 / 120)
    north = 0.9996 * (
        m
        + n
        * tan(phi)
        * (
            x**2 / 2
            + (5 - t + 9 * c + 4 * c**2) * x**4 / 24
            + (61 - 58 * t + t**2 + 600 * c - 330 * second) * x**6 / 720
        )
    )
    return 500_000 + east, north


class Named(unittest.TestCase):
    """A grid by what people call it."""

    def test_by_code_zone_and_words(self) -> None:
        """Each is the system of the register that is meant."""
        for said, code in (
            ("EPSG:25832", 25832),
            (" 2056 ", 2056),
            ("UTM 32N", 32632),
            ("utm zone 19 s", 32719),
            ("British National Grid", 27700),
            ("lv95", 2056),
            ("NAD83 / Massachusetts Mainland (ftUS)", 2249),
        ):
            self.assertEqual(grid_named(said).code, code, said)
        self.assertAlmostEqual(grid_named("2249").unit, SURVEY_FOOT, places=12)

    def test_what_is_none_is_told(self) -> None:
        """None, several, degrees, and nothing at all."""
        for said, says in (
            ("nonsense", "no coordinate system is called"),
            ("", "no coordinate system is called"),
            ("Gauss-Kruger zone 3", r"several .* \(EPSG:\d+\)"),
            ("EPSG:4326", "is in degrees"),
            ("999999", "no coordinate system 999999"),
        ):
            with self.subTest(said), self.assertRaisesRegex(BadFile, says):
                grid_named(said)

    def test_utm_against_its_series(self) -> None:
        """Spots all over a zone come back to where Snyder's series says they are, to 10 mm."""
        grid = grid_named("UTM 32N")
        for latitude in (1.0, 35.5, 48.0, 63.0):
            for longitude in (6.5, 9.0, 11.9):
                east, north = transverse(latitude, longitude, 9.0)
                lat, lon = grid.place(east, north)
                off = Geodesic.WGS84.Inverse(lat, lon, latitude, longitude)["s12"]
                self.assertLess(off, 0.01, (latitude, longitude))


class Surveyed(unittest.TestCase):
    """A survey with the figures of a grid."""

    def test_which_one_is_asked(self) -> None:
        """Nothing is taken before; as they are, from their own corner; by the grid, where they lie on the earth."""
        asked = read_points(FAR, "metric")
        self.assertEqual((asked.points, asked.asks_grid), ((), True))
        plain = read_points(FAR, "metric", grid=AS_THEY_ARE)
        self.assertEqual([(p.name, p.x, p.y, p.level) for p in plain.points][1], ("Oak", 30.0, 40.0, 211.0))
        self.assertIn("set down from 500,100 m east, 5,540,000 m north", plain.says)
        self.assertIsNone(plain.tie)
        tied = read_points(FAR, "metric", grid="UTM 32N")
        assert tied.tie
        gate, oak = tied.points
        # the grid makes lengths on its middle line 0.9996 of what they are
        self.assertAlmostEqual(hypot(oak.x - gate.x, oak.y - gate.y), 50 / 0.9996, places=3)
        self.assertAlmostEqual(tied.tie.longitude, 9 + 100 / (111320 * cos(radians(50))), places=4)
        again = read_points(FAR.replace("500100", "500700"), "metric", tie=tied.tie, grid="32632")
        self.assertAlmostEqual(again.points[0].x - gate.x, 600 / 0.9996, places=2)

    def test_a_foot_is_the_grids_own(self) -> None:
        """In feet with or without a word of them it is the survey foot of the grid: of 2,950,000 the other foot would
        be 1.8 m off.
        """
        bare = "name,east,north\nA,775000,2950000\nB,775100,2950000\n"
        said = bare.replace("east,north", "east_ft,north_ft")
        north = 2950000 * SURVEY_FOOT
        metres = f"name,east_m,north_m\nA,{775000 * SURVEY_FOOT},{north}\nB,{775100 * SURVEY_FOOT},{north}\n"
        places = [
            read_points(text, units, grid="EPSG:2249").tie
            for text in (bare, said, metres)
            for units in ("metric", "us")
        ]
        first = places[0]
        assert first
        for place in places:
            assert place
            off = Geodesic.WGS84.Inverse(first.latitude, first.longitude, place.latitude, place.longitude)["s12"]
            self.assertLess(off, 0.001)
        a, b = read_points(bare, "us", grid="EPSG:2249").points
        self.assertAlmostEqual(hypot(b.x - a.x, b.y - a.y), 100 * FOOT, delta=0.01)

    def test_another_grid_than_the_files_is_told(self) -> None:
        """Figures outside the area a grid is made for, as those with east and north exchanged are."""
        for text, grid in ((FAR, "British National Grid"), (FAR, "lv95"), ("e,n\n5540000,500100\n", "UTM 32N")):
            with self.assertRaisesRegex(BadFile, "outside the area of"):
                read_points(text, "metric", grid=grid)
        with self.assertRaisesRegex(BadFile, "further than 100 km"):
            read_points("e,n\n500100,5540000\n500100,5940000\n", "metric", grid=AS_THEY_ARE)

    def test_bare_geometries(self) -> None:
        """A point, many points and a collection, as a feature has them or by themselves."""
        spot = [10.0, 60.0, 5.0]
        for body, count in (
            ({"type": "Point", "coordinates": spot}, 1),
            ({"type": "MultiPoint", "coordinates": [spot, [10.0, 60.001]]}, 2),
            ({"type": "GeometryCollection", "geometries": [{"type": "Point", "coordinates": spot}]}, 1),
            ({"type": "Feature", "properties": None, "geometry": {"type": "MultiPoint", "coordinates": [spot]}}, 1),
        ):
            found = read_points(json.dumps(body), "metric")
            self.assertEqual(len(found.points), count)
            self.assertEqual(found.points[0].level, 5.0)
        north = (
            read_points(json.dumps({"type": "MultiPoint", "coordinates": [spot, [10.0, 60.001]]}), "metric").points[1].y
        )
        self.assertAlmostEqual(north, 111.41, delta=0.02)  # of a thousandth of a degree at 60 degrees; common tables
