"""Points that somebody measured, read from a file and said back."""

import json
import unittest

from hydrarch.core.base.errors import BadRow, HydrarchError
from hydrarch.core.base.units import FOOT
from hydrarch.core.plan.tie import Tie, tie_at
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
        """Each with where it is wrong."""
        for text, says in (
            ("name,east,north\n", "no point"),
            ("name,east,north\nA,1,\n", "line 2: east or north is blank"),
            ("name,east,north\nA,1,2\nB,x,2\n", "line 3: 'x' is no number"),
            ("name,east,north\nA,inf,2\n", "no number"),
            ("name,east,north\nA,1e9,2\n", "further off than"),
            ("", "no columns"),
            ("{}", "no GeoJSON"),
            ('{"type": "LineString", "coordinates": [[1, 2], [2, 2]]}', "no point"),
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
        self.assertEqual(len(found), len(plan.points) + len(laid))
        for p, j in zip(found[len(plan.points) :], laid, strict=True):
            self.assertAlmostEqual(p.x, j.x, delta=1e-3)
            self.assertAlmostEqual(p.y, j.y, delta=1e-3)
            self.assertAlmostEqual(p.level or 0.0, j.level, delta=1e-3)

    def test_degrees_of_elsewhere(self) -> None:
        """At 52° north a thousandth of a degree is 111.27 m north and 68.68 m east (WGS 84, common tables, from
        memory), from the most southern and western point on.
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
        self.assertAlmostEqual(found["B"].x, 68.68, delta=0.01)
        self.assertAlmostEqual(found["C"].y, 111.27, delta=0.01)

    def test_one_tie_for_all_files(self) -> None:
        """The first file of places gives the drawing its place on the earth, unless it has one; every later one is set
        down by it, table and map alike, and what goes out lies there again.
        """
        first = read_points("name,lat,lon\nA,52.0,4.3\nB,52.001,4.301\n", "metric")
        self.assertEqual((first.tie, first.points[0].x, first.points[0].y), (Tie(latitude=52.0, longitude=4.3), 0, 0))
        spots = {"type": "Feature", "properties": {}, "geometry": {"type": "Point", "coordinates": [4.301, 52.001]}}
        second = read_points(json.dumps(spots), "metric", tie=first.tie)
        self.assertEqual((second.points[0].x, second.points[0].y), (first.points[1].x, first.points[1].y))
        plan = line([("A", 6, 3), ("C", 10, 3)]).model_copy(update={"tie": first.tie})
        derived, _, ready = made(plan)
        told = json.loads(line_geojson(plan, derived, as_laid(plan, derived, ready)))
        lon, lat, _ = next(f for f in told["features"] if f["id"] == "A")["geometry"]["coordinates"]
        self.assertAlmostEqual(lat, 52.0 + plan.by_id["A"].y / 111_267.0, places=7)
        self.assertAlmostEqual(lon, 4.3 + plan.by_id["A"].x / 68_678.0, places=7)

    def test_degrees_under_other_heads(self) -> None:
        """Figures like degrees under x and y are asked about, with their columns; as a person says, they are taken."""
        file = "name,x,y\nA,8.541694,47.376887\nB,8.541800,47.376900\n"
        self.assertIn("look like degrees", read_points(file, "metric").asks)
        found = read_points(file, "metric", ("name", "longitude", "latitude"))
        self.assertAlmostEqual(found.points[1].x, 8.0, delta=0.05)
        self.assertAlmostEqual(read_points(file, "metric", ("name", "east", "north")).points[0].x, 8.541694)

    def test_the_ends_of_the_earth(self) -> None:
        """Near a pole it is refused by name, over the date line it goes on, and the same place twice is no division by
        nothing.
        """
        pole = {"type": "Feature", "properties": {}, "geometry": {"type": "Point", "coordinates": [179.0, 89.0]}}
        with self.assertRaisesRegex(BadFile, "not every place"):
            read_points(json.dumps(pole), "metric")
        with self.assertRaisesRegex(BadFile, "not every place"):
            read_points("lat,lon\n-90,0\n", "metric")
        with self.assertRaisesRegex(HydrarchError, "would lie at latitude"):
            tie_at(1e5, 1e5, -85.0, -180.0)
        self.assertLess(tie_at(-1e4, 0.0, 0.0, 179.99).longitude, 0)
        over = read_points("lat,lon\n0,179.9999\n0,-179.9999\n", "metric").points
        self.assertAlmostEqual(abs(over[0].x - over[1].x), 22.26, delta=0.01)
        twice = read_points("lat,lon\n52,4\n52,4\n", "metric").points
        self.assertEqual({(p.x, p.y) for p in twice}, {(0.0, 0.0)})

    def test_tied_at_a_spot(self) -> None:
        """A drawing is tied by any of its spots: that spot lies at the place given, however the drawing is turned."""
        for turn in (0.0, 0.3, -2.0):
            tie = tie_at(40.0, -25.0, 52.0, 4.3, turn)
            x, y = tie.metres(52.0, 4.3)
            self.assertAlmostEqual(x, 40.0, places=5)
            self.assertAlmostEqual(y, -25.0, places=5)


if __name__ == "__main__":
    unittest.main()
