"""Pictures and plans of others beneath the drawing: what is read, how large it is, and what is refused."""

import io
import json
import re
import struct
import unittest
import zlib
from typing import Any
from xml.etree import ElementTree

from ezdxf.filemanagement import new as new_dxf
from PIL import Image
from reportlab.pdfgen.canvas import Canvas

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


def saved(picture: Image.Image, form: str, **more: Any) -> bytes:
    """A picture in one of its forms."""
    out = io.BytesIO()
    picture.save(out, form, **more)
    return out.getvalue()


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
        """What lies on layers that are frozen or off sets no size, and is counted; texts and points are shown."""
        document = new_dxf()
        space = document.modelspace()
        space.add_line((0, 0), (10, 5))
        for name, hide in (("FROZEN", "freeze"), ("OFF", "off")):
            getattr(document.layers.add(name), hide)()
            space.add_line((0, 0), (9000, 9000), {"layer": name})
        space.add_text("Wash house")
        space.add_text("North <gate>", height=0.5, rotation=90).set_placement((4, 1))
        space.add_mtext("two\\Plines", {"char_height": 0.4, "insert": (1, 4)})
        space.add_point((1, 1))
        space.add_point((2, 1))
        hatch = space.add_hatch()
        hatch.paths.add_polyline_path([(0, 0), (1, 0), (1, 1)])
        out = io.StringIO()
        document.write(out)
        found = read_picture(out.getvalue().encode())
        self.assertAlmostEqual(found.wide / found.high, 2.0, delta=0.01)
        self.assertEqual(found.left_out, "2 things on hidden layers, 1 hatch")
        shown = ElementTree.fromstring(found.body)
        lettered = {t.text: t.attrib for t in shown.iter("{http://www.w3.org/2000/svg}text")}
        self.assertEqual(set(lettered), {"Wash house", "North <gate>", "two", "lines"})
        # 10 m across is 4000: a letter half a metre high is 200, as the size of a face is taller than its capitals: 280
        self.assertEqual((lettered["North <gate>"]["x"], lettered["North <gate>"]["font-size"]), ("1600", "280"))
        self.assertIn("rotate(-90.0", lettered["North <gate>"]["transform"])
        self.assertLess(float(lettered["two"]["y"]), float(lettered["lines"]["y"]))
        self.assertEqual(read_picture(dxf(6)).left_out, "")

    def test_lines_far_off_the_rest(self) -> None:
        """A stray line 5 km off is told, and left out when that is wanted; a long line through all the rest is none."""
        document = new_dxf()
        space = document.modelspace()
        for n in range(30):
            space.add_line((n, 0), (n + 1, 8))
        space.add_line((-200, 4), (300, 4))
        space.add_line((5000, 5000), (5001, 5000))
        out = io.StringIO()
        document.write(out)
        body = out.getvalue().encode()
        found, trimmed = read_picture(body), read_picture(body, trim=True)
        self.assertEqual((found.far, found.left_out), (1, ""))
        self.assertEqual((trimmed.far, trimmed.left_out), (0, "1 line far off the rest"))
        self.assertAlmostEqual(trimmed.wide / trimmed.high, 500 / 8, delta=1)

    def test_photos_and_scans(self) -> None:
        """A JPEG is turned as its camera says and one that stands upright is kept byte for byte; TIFF and WebP are
        drawn; of a PDF the first page is, in its own shape, with what is left out told. One kept before is never
        redrawn.
        """
        exif = Image.Exif()
        exif[0x0112] = 6  # to be turned a quarter to the right
        lying, plain = (saved(Image.new("RGB", (60, 40), "red"), "JPEG", **more) for more in ({"exif": exif}, {}))
        found = read_picture(lying)
        self.assertEqual((found.media, found.wide, found.high), ("image/jpeg", 40, 60))
        self.assertEqual(read_picture(lying, kept=True).body, lying)
        self.assertEqual(read_picture(plain).body, plain)
        for form, media in (("TIFF", "image/png"), ("WEBP", "image/jpeg")):
            drawn = read_picture(saved(Image.new("L", (5200, 2600), "white"), form))
            self.assertEqual((drawn.media, drawn.wide, drawn.high), (media, 2600, 1300))
        paper = io.BytesIO()
        canvas = Canvas(paper, pagesize=(200, 400))
        canvas.rect(20, 20, 100, 100, stroke=0, fill=1)
        canvas.showPage()
        canvas.drawString(50, 50, "second")
        canvas.save()
        page = read_picture(paper.getvalue())
        self.assertEqual((page.media, page.wide, page.high, page.metre), ("image/png", 1300, 2600, 0.0))
        self.assertEqual(page.left_out, "1 further page")
        dark = Image.open(io.BytesIO(page.body)).convert("L").point(lambda v: 255 * (v < 128)).getbbox()
        self.assertEqual(dark, (130, 1820, 780, 2470))  # 20 to 120 pt of 400, from below, at 6.5 px a point
        for body, says in (
            (b"%PDF-1.7 nothing", "broken, or locked"),
            (b"II*\0" + b"\0" * 40, "cannot be opened"),
            (b"RIFF\0\0\0\0WEBPjunk", "cannot be opened"),
            (saved(Image.new("1", (10_000, 9_000)), "TIFF", compression="group4"), "pixels"),
        ):
            with self.subTest(says, body=body[:8]), self.assertRaisesRegex(BadFile, says):
                read_picture(body)

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
            (b"GIF89a", "no PNG, JPEG, TIFF, WebP, PDF, SVG, DXF or GeoJSON"),
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
