"""Pictures and plans of others beneath the drawing: what is read, how large it is, and what is refused."""

import io
import json
import re
import struct
import unittest
import zlib

from ezdxf.filemanagement import new as new_dxf

from hydrarch.formats.explained import BadFile
from hydrarch.formats.pictures import LARGEST, read_picture


def png(wide: int, high: int) -> bytes:
    """A white PNG, by the file format's own parts (ISO/IEC 15948)."""

    def chunk(name: bytes, body: bytes) -> bytes:
        return struct.pack(">I", len(body)) + name + body + struct.pack(">I", zlib.crc32(name + body))

    rows = b"".join(b"\x00" + b"\xff" * wide for _ in range(high))
    head = struct.pack(">IIBBBBB", wide, high, 8, 0, 0, 0, 0)
    return b"\x89PNG\r\n\x1a\n" + chunk(b"IHDR", head) + chunk(b"IDAT", zlib.compress(rows)) + chunk(b"IEND", b"")


def jpeg(wide: int, high: int) -> bytes:
    """The head of a JPEG (ISO/IEC 10918-1): an application part, then the frame that says its size."""
    return (
        b"\xff\xd8\xff\xe0\x00\x10JFIF\x00\x01\x01\x00\x00\x01\x00\x01\x00\x00"
        + b"\xff\xc0\x00\x11\x08"
        + struct.pack(">HH", high, wide)
        + b"\x03"
        + b"\x01\x11\x00" * 3
    )


def dxf(unit: int) -> bytes:
    """A house of 8 by 6 m drawn with a well of 1 m across, in a unit by its DXF number."""
    metre = {4: 1000.0, 6: 1.0, 2: 1 / 0.3048, 0: 1.0}[unit]
    document = new_dxf()
    document.header["$INSUNITS"] = unit
    space = document.modelspace()
    space.add_lwpolyline([(x * metre, y * metre) for x, y in ((0, 0), (8, 0), (8, 6), (0, 6))], close=True)
    block = document.blocks.new("well")
    block.add_circle((0, 0), 0.5 * metre)
    space.add_blockref("well", (12 * metre, 3 * metre))
    text = io.StringIO()
    document.write(text)
    return text.getvalue().encode()


class Pictures(unittest.TestCase):
    """By what is in them."""

    def test_sizes_are_read(self) -> None:
        """PNG and JPEG in pixels, SVG by its view box or its size."""
        for body, want in (
            (png(31, 7), ("image/png", 31, 7)),
            (jpeg(640, 480), ("image/jpeg", 640, 480)),
            (b'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 120 80"/>', ("image/svg+xml", 120, 80)),
            (
                b'<?xml version="1.0"?><svg xmlns="http://www.w3.org/2000/svg" width="50mm" height="20mm"/>',
                ("image/svg+xml", 50, 20),
            ),
        ):
            found = read_picture(body)
            self.assertEqual((found.media, found.wide, found.high, found.metre), (*want, 0.0))
            self.assertEqual(found.body, body)
            self.assertRegex(found.hash, "^[0-9a-f]{64}$")

    def test_a_dxf_knows_its_scale(self) -> None:
        """8 m of house and a well whose far side is at 12.5 m: 12.5 by 6 m, whatever unit it was drawn in; without one
        it has no scale.
        """
        for unit in (4, 6, 2):
            found = read_picture(dxf(unit))
            self.assertAlmostEqual(found.wide * found.metre, 12.5, places=2)
            self.assertAlmostEqual(found.high * found.metre, 6.0, places=2)
        self.assertEqual(read_picture(dxf(0)).metre, 0.0)

    def test_what_a_dxf_leaves_out_is_told(self) -> None:
        """What lies on layers that are frozen or off sets no size; it, texts and points are counted."""
        document = new_dxf()
        space = document.modelspace()
        space.add_line((0, 0), (10, 5))
        for name, hide in (("FROZEN", "freeze"), ("OFF", "off")):
            getattr(document.layers.add(name), hide)()
            space.add_line((0, 0), (9000, 9000), {"layer": name})
        space.add_text("Wash house")
        space.add_point((1, 1))
        space.add_point((2, 1))
        out = io.StringIO()
        document.write(out)
        found = read_picture(out.getvalue().encode())
        self.assertAlmostEqual(found.wide / found.high, 2.0, delta=0.01)
        self.assertEqual(found.left_out, "2 things on hidden layers, 1 text, 2 points")
        self.assertEqual(read_picture(dxf(6)).left_out, "")

    def test_geojson_lies_true(self) -> None:
        """A thousandth of a degree of latitude at 60° is 111.41 m and of longitude 55.80 m (WGS 84, common tables, from
        memory).
        """
        ring = [[10.0, 60.0], [10.001, 60.0], [10.001, 60.001], [10.0, 60.001], [10.0, 60.0]]
        feature = {"type": "Feature", "properties": {}, "geometry": {"type": "Polygon", "coordinates": [ring]}}
        found = read_picture(json.dumps({"type": "FeatureCollection", "features": [feature]}).encode())
        self.assertAlmostEqual(found.high * found.metre, 111.41, delta=0.02)
        self.assertAlmostEqual(found.wide * found.metre, 55.80, delta=0.02)
        grid = {"type": "LineString", "coordinates": [[500000, 6650000], [500120, 6650050]]}
        metres = {**grid, "crs": {"type": "name", "properties": {"name": "urn:ogc:def:crs:EPSG::25832"}}}
        self.assertAlmostEqual((f := read_picture(json.dumps(metres).encode())).wide * f.metre, 120.0, delta=0.1)
        for crs in (None, {"type": "name", "properties": {"name": "EPSG:2249"}}, {"type": "link"}, "feet"):
            with self.subTest(crs=crs):  # a grid of which unit nobody knows: a length is asked for
                self.assertEqual(read_picture(json.dumps({**grid, "crs": crs}).encode()).metre, 0.0)

    def test_what_is_none_is_refused_with_the_reason(self) -> None:
        """Another kind of file, a broken head, no lines, entities, too large."""
        for body, says in (
            (b"GIF89a", "no PNG, JPEG, SVG, DXF or GeoJSON"),
            (b"", "no PNG"),
            (png(1, 1)[:20], "broken"),
            (b"\xff\xd8\xff\xd9", "size cannot be read"),
            (b"<svg", "broken"),
            (b"<html></html>", "no SVG"),
            (b"<svg xmlns='http://www.w3.org/2000/svg'/>", "neither its size"),
            (b'<!DOCTYPE svg [<!ENTITY a "b">]><svg/>', "entities"),
            (b"{}", "no GeoJSON"),
            (b'{"type": "Point", "coordinates": [1, 2]}', "no lines"),
            (b"  0\nSECTION\n  2\nENTITIES\n  0\nENDSEC\n  0\nEOF\n", "no lines"),
            (b"\x89PNG\r\n\x1a\n" + b"x" * LARGEST, "make it smaller"),
            (b'{"type": "LineString", "coordinates": [[null, 1]]}', "no GeoJSON"),
            (b"[" * 100000, "no PNG"),
            (b"{" * 100000, "no GeoJSON"),
        ):
            with self.subTest(says=says, body=body[:30]), self.assertRaisesRegex(BadFile, re.escape(says)):
                read_picture(body)


if __name__ == "__main__":
    unittest.main()
