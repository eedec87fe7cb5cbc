"""Points that somebody measured, read from a file and said back."""

import json
import unittest
from math import cos, radians

from hydrarch.core.base.errors import BadRow
from hydrarch.core.base.units import FOOT
from hydrarch.core.report.as_laid import as_laid
from hydrarch.formats.explained import BadFile
from hydrarch.formats.maps import line_geojson
from hydrarch.formats.pointsfile import read_points
from tests.core.test_aslaid import line, made


class PointsIn(unittest.TestCase):
    """CSV and GeoJSON."""

    def test_tables_as_people_have_them(self) -> None:
        """Heads in any case, with units or without, commas, semicolons with decimal commas, tabs; without units the
        person's own.
        """
        for text, units, first in (
            ("name,east,north,level\nGate,1.5,-2,210.25\n", "metric", ("Gate", 1.5, -2.0, 210.25)),
            ("Point;X;Y\nGate;1,5;-2\n", "metric", ("Gate", 1.5, -2.0, None)),
            ("id\tE\tN\tZ\n7\t10\t20\t3\n", "us", ("7", 10 * FOOT, 20 * FOOT, 3 * FOOT)),
            ("name,east_m,north_m\nGate,1.5,-2\n", "us", ("Gate", 1.5, -2.0, None)),
            ("\ufeffeast_ft,north_ft\n\n5,6\n", "metric", ("Point 1", 5 * FOOT, 6 * FOOT, None)),
            ('name,east,north\n"=cmd|x, gate",1,2\n', "metric", ("=cmd|x, gate", 1.0, 2.0, None)),
        ):
            with self.subTest(text=text):
                found = read_points(text, units)  # type: ignore[arg-type]
                p = found.points[0]
                self.assertEqual((p.name, p.level), (first[0], first[3]))
                self.assertAlmostEqual(p.x, first[1])
                self.assertAlmostEqual(p.y, first[2])

    def test_said_back(self) -> None:
        """How many, how far they reach, and between which levels, in the person's units."""
        text = "name,east,north,level\nA,0,0,200\nB,30,0,201.5\nC,30,40,202\n"
        self.assertEqual(
            read_points(text, "metric").says, "3 points, 30.00 m by 40.00 m, levels from 200.00 m to 202.00 m"
        )

    def test_levels_by_any_usual_name(self) -> None:
        """Levels are read under the names surveyors use, with the unit in the head; what is not used is named, and so
        is a lack of levels.
        """
        for head in ("Elev", "RL", "Altitude", "elevation", "Höhe", "Elev [m]", "RL (m)", "elev_m", "Z m"):
            with self.subTest(head):
                found = read_points(f"name,east,north,code,{head}\nA,1,2,tree,215.50\n", "metric")
                self.assertEqual(found.points[0].level, 215.5)
                self.assertIn("columns not used: code", found.says)
        self.assertEqual(read_points("name,east,north,Elev [ft]\nA,1,2,100\n", "metric").points[0].level, 100 * FOOT)
        says = read_points("name,east,north,datum\nA,1,2,215.5\n", "metric").says
        self.assertIn("none has a level", says)
        self.assertIn("columns not used: datum", says)
        self.assertIn("1 have no level", read_points("name,east,north,z\nA,1,2,215.5\nB,2,3,\n", "metric").says)

    def test_what_cannot_be_read(self) -> None:
        """Each with where it is wrong; a place as far as a national grid's is told how to mend it."""
        for text, says in (
            ("name,east,north\n", "no point"),
            ("name,east,north\nA,1,\n", "line 2: east or north is blank"),
            ("name,east,north\nA,1,2\nB,x,2\n", "line 3: 'x' is no number"),
            ("name,east,north\nA,451200,2\n", "take off the round figure"),
            ("name,east,north\nA,inf,2\n", "no number"),
            ("name,east,north\nA,1e9,2\n", "further than"),
            ("", "no columns"),
            ("{}", "no GeoJSON"),
            ('{"type": "Point", "coordinates": [1, 2]}', "no GeoJSON"),
            ('{"type": "Feature", "geometry": {"type": "Point", "coordinates": [451200, 20]}}', "not in degrees"),
            ('{"type": "FeatureCollection", "features": []}', "no point"),
        ):
            with self.subTest(text=text), self.assertRaisesRegex((BadFile, BadRow), says):
                read_points(text, "metric")

    def test_our_own_map_comes_back(self) -> None:
        """What was written as laid is read back to the place, to a millimetre, with its level."""
        plan = line([("A", 6, 3), ("C", 10, 3)])
        derived, _, ready = made(plan)
        laid = as_laid(plan, derived, ready)
        found = read_points(line_geojson(plan, derived, laid), "metric").points
        self.assertEqual(len(found), len(laid))
        for p, j in zip(found, laid, strict=True):
            self.assertAlmostEqual(p.x, j.x, delta=1e-3)
            self.assertAlmostEqual(p.y, j.y, delta=1e-3)
            self.assertAlmostEqual(p.level or 0.0, j.level, delta=1e-3)

    def test_degrees_of_elsewhere(self) -> None:
        """At 52° north a thousandth of a degree is 111.32 m north and 68.5 m east (WGS 84), from the most southern and
        western point on.
        """
        spots = [("A", 4.3, 52.0), ("B", 4.301, 52.0), ("C", 4.3, 52.001)]
        features = [
            {"type": "Feature", "properties": {"name": n}, "geometry": {"type": "Point", "coordinates": [x, y]}}
            for n, x, y in spots
        ]
        found = {
            p.name: p
            for p in read_points(json.dumps({"type": "FeatureCollection", "features": features}), "metric").points
        }
        self.assertEqual((found["A"].x, found["A"].y), (0.0, 0.0))
        self.assertAlmostEqual(found["B"].x, 111.32 * cos(radians(52)), delta=0.01)
        self.assertAlmostEqual(found["C"].y, 111.32, delta=0.01)


if __name__ == "__main__":
    unittest.main()
