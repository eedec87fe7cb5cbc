"""Files for maps, judged from outside: a GeoPackage as a database that tells its own shapes, KML as XML, distances on
the earth by GeographicLib, a DXF by the auditor of its library.
"""

import io
import sqlite3
import struct
import unittest
from typing import Any
from xml.etree import ElementTree

import ezdxf
from geographiclib.geodesic import Geodesic  # type: ignore[import-untyped]

from hydrarch.core.base.errors import HydrarchError
from hydrarch.core.derivation.chain import derive, where_it_stands
from hydrarch.core.plan.document import Plan
from hydrarch.core.report.as_laid import as_laid
from hydrarch.demo import demo_events, thistledown
from hydrarch.formats.exports import EXPORTS
from hydrarch.formats.geopackage import line_geopackage
from hydrarch.formats.maps import line_dxf, line_kml
from tests.core.plans import draw, point
from tests.core.test_aslaid import NOW
from tests.core.test_aslaid import made as recorded

KML = "{http://www.opengis.net/kml/2.2}"
TIE = {"latitude": 51.0, "longitude": -1.5, "turn": 0.2}


def made(**more: Any) -> tuple[Plan, Any, Any]:
    """A line with a bend in the ground, a run straight up to a tap, and pipe that was there before."""
    spots = [
        point("M", 0, 0, "mains", depth=0.6),
        point("B", 300, 400, "bend", depth=0.7),
        point("C", 300, 400, "bend", depth=-0.5),
        point("T", 320, 400, "tap", height=0.0),
    ]
    plan = draw(spots, [("M", "B"), ("B", "C"), ("C", "T")], **more)
    derived, _, ready = recorded(plan)
    return plan, derived, as_laid(plan, derived, ready)


def shape(blob: bytes) -> tuple[int, list[tuple[float, ...]]]:
    """The coordinate system and the places of a GeoPackage geometry (OGC 12-128r17, 2.1.3; well-known binary with Z)."""
    magic, version, flags, system = struct.unpack_from("<2sBBi", blob)
    assert (magic, version, flags) == (b"GP", 0, 1)
    order, kind = struct.unpack_from("<BI", blob, 8)
    assert order == 1
    count, at = (1, 13) if kind == 1001 else (struct.unpack_from("<I", blob, 13)[0], 17)
    assert kind in (1001, 1002)
    assert len(blob) == at + 24 * count
    return system, [struct.unpack_from("<3d", blob, at + 24 * n) for n in range(count)]


def opened(file: bytes) -> sqlite3.Connection:
    """A GeoPackage as a database."""
    db = sqlite3.connect(":memory:")
    db.deserialize(file)
    db.row_factory = sqlite3.Row
    return db


class GeoPackage(unittest.TestCase):
    """As a map program reads it."""

    def test_on_the_earth(self) -> None:
        """It says that it is one, holds itself together, and its pipe is as long on the earth as it is drawn, to 1 mm."""
        plan, derived, laid = made(tie=TIE)
        db = opened(line_geopackage(plan, derived, laid, NOW))
        self.assertEqual(db.execute("PRAGMA application_id").fetchone()[0], int.from_bytes(b"GPKG", "big"))
        self.assertEqual(db.execute("PRAGMA integrity_check").fetchone()[0], "ok")
        self.assertEqual(db.execute("PRAGMA foreign_key_check").fetchall(), [])
        tables = {r["table_name"]: r for r in db.execute("SELECT * FROM gpkg_contents")}
        self.assertEqual(set(tables), {"pipe", "parts", "hidden_joints"})
        self.assertEqual({r["srs_id"] for r in tables.values()}, {4326})
        self.assertEqual(db.execute("SELECT count(*) FROM pipe").fetchone()[0], 3)
        row = db.execute("SELECT * FROM pipe WHERE depth_to_m = 0.7").fetchone()
        system, (a, b) = shape(row["geom"])
        self.assertEqual(system, 4326)
        metres = Geodesic.WGS84.Inverse(a[1], a[0], b[1], b[0])["s12"]
        self.assertAlmostEqual(metres, 500.0, delta=0.001)
        self.assertAlmostEqual(b[2] - a[2], -0.1, places=9)
        self.assertEqual((row["situation"], row["size"]), ("buried", derived.sizes.choices[row["id"]].size))
        self.assertEqual(db.execute("SELECT count(*) FROM hidden_joints").fetchone()[0], len(laid))
        bounds = tables["parts"]
        self.assertTrue(bounds["min_x"] <= a[0] <= bounds["max_x"] and bounds["min_y"] <= a[1] <= bounds["max_y"])

    def test_without_a_place_it_says_so(self) -> None:
        """Local metres are marked as local in a way that programs see, and in words."""
        plan, derived, laid = made()
        db = opened(line_geopackage(plan, derived, laid, NOW))
        for row in db.execute("SELECT * FROM gpkg_contents"):
            self.assertEqual(row["srs_id"], -1)
            self.assertIn("LOCAL", row["description"])
        places = shape(db.execute("SELECT geom FROM pipe WHERE depth_to_m = 0.7").fetchone()["geom"])[1]
        self.assertEqual([p[:2] for p in places], [(0.0, 0.0), (300.0, 400.0)])

    def test_nothing_drawn(self) -> None:
        """An empty drawing is a whole file with nothing in it."""
        plan = draw([], [])
        db = opened(line_geopackage(plan, derive(plan), (), NOW))
        self.assertEqual([r[0] for r in db.execute("SELECT min_x FROM gpkg_contents")], [None, None, None])

    def test_what_the_record_says(self) -> None:
        """The demo's hidden joints have who made them and when."""
        plan = thistledown()
        derived = derive(plan)
        events = demo_events("thistledown", NOW)
        laid = as_laid(plan, derived, where_it_stands(plan, derived, events, NOW))
        db = opened(line_geopackage(plan, derived, laid, NOW))
        self.assertGreater(db.execute("SELECT count(*) FROM hidden_joints WHERE made <> ''").fetchone()[0], 0)
        self.assertEqual({r[0] for r in db.execute("SELECT state FROM hidden_joints")}, {j.state for j in laid})


class Kml(unittest.TestCase):
    """For the map on a phone."""

    def test_folders_with_what_is_known(self) -> None:
        """Pipe, parts and joints in folders; a run straight up is a point; places are those of the tie."""
        plan, derived, laid = made(tie=TIE)
        root = ElementTree.fromstring(line_kml(plan, derived, laid))
        folders = {f.findtext(f"{KML}name"): f.findall(f"{KML}Placemark") for f in root.iter(f"{KML}Folder")}
        self.assertEqual(
            {name: len(marks) for name, marks in folders.items()}, {"Pipe": 3, "Parts": 4, "Hidden joints": len(laid)}
        )
        self.assertEqual(len(root.findall(f".//{KML}LineString")), 2)
        mains = next(m for m in folders["Parts"] if m.get("id") == "thing-M")
        longitude, latitude = (float(x) for x in mains.findtext(f".//{KML}coordinates", "").split(","))
        self.assertAlmostEqual(longitude, -1.5, places=9)
        self.assertAlmostEqual(latitude, 51.0, places=9)
        told = {d.get("name"): d.findtext(f"{KML}value") for d in mains.iter(f"{KML}Data")}
        self.assertEqual((told["what"], told["depth_m"], told["met"]), ("Mains tapping", "0.6", "no"))

    def test_names_that_are_markup(self) -> None:
        """A name with markup in it is a name."""
        plan, derived, laid = made(tie=TIE, name="<b>&co</b>")
        root = ElementTree.fromstring(line_kml(plan, derived, laid))
        self.assertEqual(root.findtext(f".//{KML}Document/{KML}name"), "<b>&co</b>")

    def test_nowhere_on_earth_is_refused(self) -> None:
        """It has no local places, so it is not written where nobody said where the job is."""
        plan, derived, laid = made()
        with self.assertRaisesRegex(HydrarchError, "where on earth"):
            line_kml(plan, derived, laid)
        self.assertEqual([e.name for e in EXPORTS.values() if e.on_earth], ["kml"])  # the page offers it with a place


class Dxf(unittest.TestCase):
    """For a drawing office."""

    def test_blocks_say_what_they_are(self) -> None:
        """No fault by its library's auditor; each part and joint says what it is and how deep; existing pipe has layers
        of its own; the extents are those of the drawing.
        """
        plan, derived, laid = made(runs_more=[{"existing": {"known": "seen"}, "series": "pvc40", "size": "1"}, {}, {}])
        document = ezdxf.read(io.StringIO(line_dxf(plan, derived, laid)))  # type: ignore[attr-defined]
        self.assertEqual([str(e) for e in document.audit().errors], [])
        inserts: list[Any] = [e for e in document.modelspace() if e.dxftype() == "INSERT"]
        self.assertFalse([e for e in document.modelspace() if e.dxftype() == "CIRCLE"])
        parts = {e.get_attrib_text("NAME"): e for e in inserts if e.dxf.name == "THING"}
        self.assertEqual(parts[plan.names["T"]].get_attrib_text("WHAT"), "Tap")
        self.assertAlmostEqual(float(parts[plan.names["M"]].get_attrib_text("DEPTH_M")), 0.6)
        joints = [e for e in inserts if e.dxf.name == "JOINT"]
        self.assertEqual(sorted(e.get_attrib_text("PLACE") for e in joints), sorted(j.place for j in laid))
        layers = {e.dxf.layer for e in document.modelspace() if e.dxftype() == "LINE"}
        self.assertEqual(sum(name.startswith("EXISTING") for name in layers), 1)
        self.assertEqual(tuple(document.header["$EXTMAX"])[:2], (320.0, 400.0))
        self.assertEqual(tuple(document.header["$EXTMIN"])[:2], (0.0, 0.0))


if __name__ == "__main__":
    unittest.main()
