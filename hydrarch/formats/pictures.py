"""Pictures and plans of others, read to lie beneath a drawing: PNG and SVG as they are, JPEG upright, TIFF, WebP and
the first page of a PDF as a picture, DXF and GeoJSON as lines.

What a file is is seen by what is in it, not by its name.
"""

from __future__ import annotations

import hashlib
import io
import json
import re
from collections import Counter
from collections.abc import Iterable, Iterator
from dataclasses import dataclass, replace
from html import escape
from math import cos, degrees, isfinite, radians, sin
from typing import Any
from xml.etree import ElementTree

import numpy as np

from hydrarch.core.base.earth import metres_per_degree
from hydrarch.formats.explained import BadFile, number_of
from hydrarch.formats.rasters import page_of_pdf, redrawn, turned

__all__ = ["LARGEST", "LARGEST_FILE", "Picture", "read_picture"]

LARGEST = 3_000_000
"""The most bytes a picture may have that is kept as it is."""
LARGEST_FILE = 20_000_000
"""The most bytes of a file that a picture is made of."""
_POINTS = 200_000
_METRES = {0: 0.0, 1: 0.0254, 2: 0.3048, 4: 1e-3, 5: 1e-2, 6: 1.0, 7: 1e3, 10: 0.9144, 14: 0.1}
"""Units a DXF names in its head, in m; 0 where it names none."""
_LENGTH = re.compile(r"^\s*([\d.]+)\s*(px|mm|cm|in|pt|)\s*$")
_JPEG_FRAMES = frozenset({*range(0xC0, 0xD0)} - {0xC4, 0xC8, 0xCC})
Line = list[tuple[float, float]]


@dataclass(frozen=True, slots=True)
class Picture:
    """A picture: its media type, what is in it, its size in its own units, and the m of one of them where it says so,
    else 0; what of the file is not in it, in words; and how many of its lines lie `far` off the rest.
    """

    media: str
    body: bytes
    wide: float
    high: float
    metre: float = 0.0
    left_out: str = ""
    far: int = 0

    @property
    def hash(self) -> str:
        """What it is kept under."""
        return hashlib.sha256(self.body).hexdigest()


def read_picture(body: bytes, *, trim: bool = False, kept: bool = False) -> Picture:
    """A picture of what is in a file. Raises `BadFile` for what is none of these, is broken, or too large.

    With `trim`, lines of a DXF that lie far off the rest are left out. One that was `kept` before stays byte for byte:
    it is told by what is in it.
    """
    if len(body) > LARGEST_FILE:
        raise BadFile(f"this file has {len(body) / 1e6:.1f} MB: make it smaller than {LARGEST_FILE / 1e6:.0f} MB")
    if body.startswith(b"%PDF-"):
        return _made(page_of_pdf(body))
    if body.startswith((b"II*\0", b"MM\0*")) or (body.startswith(b"RIFF") and body[8:12] == b"WEBP"):
        return _made(redrawn(body))
    if body.startswith(b"\xff\xd8"):
        whole = _jpeg(body)
        return _made(redrawn(body)) if not kept and (len(body) > LARGEST or turned(body)) else whole
    if _is_dxf(body[:4000].decode("utf-8", "replace").lstrip("\ufeff \r\n\t")):
        return _dxf(body, trim)
    if len(body) > LARGEST:
        raise BadFile(f"this picture has {len(body) / 1e6:.1f} MB: make it smaller than {LARGEST / 1e6:.0f} MB")
    if body.startswith(b"\x89PNG\r\n\x1a\n"):
        return _png(body)
    text = body.decode("utf-8", "replace").lstrip("\ufeff \r\n\t")
    if text.startswith("{"):
        return _geojson(text)
    if text.startswith("<"):
        return _svg(body, text)
    raise BadFile("this is no PNG, JPEG, TIFF, WebP, PDF, SVG, DXF or GeoJSON file")


def _made(drawn: tuple[bytes, str, int, int, str]) -> Picture:
    body, media, wide, high, left_out = drawn
    return _sized(Picture(media, body, wide, high, left_out=left_out))


def _is_dxf(text: str) -> bool:
    """Whether a text begins as a DXF does: comments (pairs of lines, the first of them 999), then 0 and SECTION."""
    lines = io.StringIO(text)
    for code in lines:
        value = next(lines, "").strip()
        if code.strip() != "999":
            return code.strip() == "0" and value == "SECTION"
    return False


def _png(body: bytes) -> Picture:
    if len(body) < 33 or body[12:16] != b"IHDR":
        raise BadFile("this PNG file is broken: it has no head")
    wide, high = (int.from_bytes(body[n : n + 4], "big") for n in (16, 20))
    return _sized(Picture("image/png", body, wide, high))


def _jpeg(body: bytes) -> Picture:
    at = 2
    while at + 9 < len(body) and body[at] == 0xFF:
        if body[at + 1] in _JPEG_FRAMES:
            high, wide = (int.from_bytes(body[n : n + 2], "big") for n in (at + 5, at + 7))
            return _sized(Picture("image/jpeg", body, wide, high))
        at += 2 + int.from_bytes(body[at + 2 : at + 4], "big")
    raise BadFile("this JPEG file is broken: its size cannot be read")


def _sized(picture: Picture) -> Picture:
    if not 0 < picture.wide <= 1e5 or not 0 < picture.high <= 1e5:
        raise BadFile("this picture has no size")
    return picture


def _svg(body: bytes, text: str) -> Picture:
    if "<!ENTITY" in text:
        raise BadFile("this SVG file defines entities of its own; save it without them")
    try:
        root = ElementTree.fromstring(text)
    except ElementTree.ParseError as error:
        raise BadFile("this SVG file is broken", (("the file", str(error)),)) from error
    if not root.tag.endswith("svg"):
        raise BadFile("this is an XML file, but no SVG")
    box = [float(n) for n in re.findall(r"-?[\d.]+(?:e-?\d+)?", root.get("viewBox", ""))]
    said = [_LENGTH.match(root.get(k, "")) for k in ("width", "height")]
    if len(box) == 4 and box[2] > 0 and box[3] > 0:
        return _sized(Picture("image/svg+xml", body, box[2], box[3]))
    if all(said):
        wide, high = (float(m.group(1)) for m in said if m)
        return _sized(Picture("image/svg+xml", body, wide, high))
    raise BadFile("this SVG file says neither its size nor its viewBox")


def _dxf(body: bytes, trim: bool) -> Picture:
    from ezdxf import disassemble  # loaded when first used: a server starts without it
    from ezdxf import path as paths
    from ezdxf.lldxf.const import DXFError

    document = _opened(body)
    lines: list[Line] = []
    texts: list[Lettering] = []
    hidden = {x.dxf.name.lower() for x in document.layers if x.is_frozen() or x.is_off()}
    left = Counter[str]()
    flat = disassemble.recursive_decompose(document.modelspace())
    for entity in flat:
        if str(entity.dxf.get("layer", "0")).lower() in hidden:
            left["thing on hidden layers"] += 1
            continue
        if entity.dxftype() in ("TEXT", "MTEXT", "ATTRIB") and len(texts) < _TEXTS:
            texts += _lettering(entity)
            continue
        if entity.dxftype() == "POINT":
            lines += _cross(entity.dxf.location, lines)
            continue
        if entity.dxftype() not in ("LINE", "LWPOLYLINE", "POLYLINE", "CIRCLE", "ARC", "ELLIPSE", "SPLINE"):
            left[_NOT_DRAWN.get(entity.dxftype(), "other thing")] += 1
            continue
        try:
            for part in paths.make_path(entity).sub_paths():
                lines.append([(v.x, v.y) for v in part.flattening(_bend(lines), 4)])
        except (TypeError, ValueError, DXFError):
            left["broken thing"] += 1
    near = _near(lines)
    far = len(lines) - len(near)
    if far and trim:
        lines, left["line far off the rest"] = near, far
    drawn = _drawn(lines, _METRES.get(int(document.header.get("$INSUNITS", 0)), 0.0), "DXF", texts)
    told = ", ".join(f"{n:,} {_many(what, n)}" for what, n in left.items())
    return replace(drawn, left_out=told, far=0 if trim else far)


def _opened(body: bytes) -> Any:
    """A DXF document: read as it should be, or recovered from what a careless program wrote."""
    from ezdxf import recover
    from ezdxf.filemanagement import read
    from ezdxf.lldxf.const import DXFError

    try:
        if b"Binary DXF" in body[:40]:
            raise DXFError("binary")
        return read(io.StringIO(body.decode("utf-8")))
    except (DXFError, OSError, ValueError, IndexError, KeyError, AttributeError, TypeError):
        pass
    try:
        return recover.read(io.BytesIO(body))[0]
    except (DXFError, OSError, ValueError, IndexError, KeyError) as error:
        raise BadFile("this DXF file is broken", (("the file", str(error)),)) from error


_TEXTS = 4000
"""The most texts of a drawing that are shown; the rest is counted."""


@dataclass(frozen=True, slots=True)
class Lettering:
    """A text of a drawing: its words, where it begins, how high its letters are, and its turn (rad, anticlockwise)."""

    words: str
    x: float
    y: float
    high: float
    turn: float


def _lettering(entity: Any) -> Iterator[Lettering]:
    """A text, line by line, as far as it says something."""
    dxf, several = entity.dxf, entity.dxftype() == "MTEXT"
    words = entity.plain_text()
    high = float(dxf.char_height if several else dxf.height)
    turn = radians(float(entity.get_rotation() if several else dxf.rotation))
    if not (isfinite(high) and high > 0 and isfinite(turn)):
        return
    for n, line in enumerate(words.split("\n")[:20]):
        said = "".join(c for c in line.strip()[:120] if c.isprintable())
        down = high * (1.0 + 1.6 * n if several else 0.0)
        if said:
            yield Lettering(said, dxf.insert.x + down * sin(turn), dxf.insert.y - down * cos(turn), high, turn)


def _cross(at: Any, lines: list[Line]) -> list[Line]:
    """A point as a small cross."""
    arm = 4 * _bend(lines)
    return [[(at.x - arm, at.y), (at.x + arm, at.y)], [(at.x, at.y - arm), (at.x, at.y + arm)]]


def _near(lines: list[Line]) -> list[Line]:
    """The lines that lie with the rest: not wholly beyond three times the span of the middle nine tenths."""
    if len(lines) < _ENOUGH:
        return lines
    boxes = np.array([[min(v) for v in zip(*x, strict=True)] + [max(v) for v in zip(*x, strict=True)] for x in lines])
    middle = (boxes[:, :2] + boxes[:, 2:]) / 2
    low, high = np.quantile(middle, (0.05, 0.95), axis=0)
    room = 3 * np.maximum(high - low, (high - low).max())
    keep = ((boxes[:, 2:] >= low - room) & (boxes[:, :2] <= high + room)).all(axis=1)
    return [x for x, kept in zip(lines, keep, strict=True) if kept]


_ENOUGH = 20
"""Lines below which none is told to lie far off: there is no rest to speak of."""


def _many(what: str, count: int) -> str:
    """A word for one of them as it is for so many: a "hatch" of two is "hatches"."""
    if count == 1:
        return what
    if "thing" in what:
        return what.replace("thing", "things")
    return f"{what}{'es' if what.endswith('h') else 's'}"


_NOT_DRAWN = {
    "TEXT": "text",
    "MTEXT": "text",
    "ATTRIB": "text",
    "HATCH": "hatch",
    "DIMENSION": "dimension",
}


def _bend(lines: list[Line]) -> float:
    """How far (in units) a bend may lie from its chords: a thousandth of what there is so far."""
    xs = [x for line in lines[:200] for x, _ in line]
    return max((max(xs) - min(xs)) / 1000, 1e-6) if xs else 0.01


def _geojson(text: str) -> Picture:
    try:
        whole = json.loads(text)
        lines = [line for line in _lines(whole) if line]
        crs = _crs(whole)
    except (ValueError, TypeError, KeyError, IndexError, RecursionError) as error:
        raise BadFile("this is a JSON file, but no GeoJSON", (("the file", str(error)),)) from error
    if not lines:
        raise BadFile("there are no lines in this GeoJSON file")
    spots = [p for line in lines for p in line]
    if not _ON_EARTH.search(crs) or any(abs(x) > 180 or abs(y) > 90 for x, y in spots):
        return _drawn(lines, 1.0 if _IN_METRES.search(crs) else 0.0, "GeoJSON")  # a grid; of which unit may be unknown
    south, west = min(y for _, y in spots), min(x for x, _ in spots)
    east, north = metres_per_degree((south + max(y for _, y in spots)) / 2)
    return _drawn([[((x - west) * east, (y - south) * north) for x, y in line] for line in lines], 1.0, "GeoJSON")


_ON_EARTH = re.compile(r"^$|CRS84|EPSG:{1,2}(?:4326|4258|4979)$")
"""Systems whose coordinates are degrees: what the format says (RFC 7946), and what older files name."""
_IN_METRES = re.compile(r"EPSG:{1,2}(?:32[67]\d\d|258\d\d|27700|2154|3035|31467)$")
"""Grids in metres: UTM on WGS 84 and ETRS89, and a few national ones (EPSG register, from memory)."""


def _crs(whole: Any) -> str:
    """The coordinate system a file names, as older ones do; "" for none."""
    named = whole.get("crs") if isinstance(whole, dict) else None
    if named is None:
        return ""
    told = named.get("properties", {}).get("name", "") if isinstance(named, dict) else ""
    return str(told) or "unnamed"


def _lines(thing: Any) -> Iterator[Line]:
    """The lines of a GeoJSON thing: of features, collections and geometries; a point is a small cross."""
    kind = thing["type"]
    if kind == "FeatureCollection":
        for feature in thing["features"]:
            yield from _lines(feature)
    elif kind == "Feature":
        if thing.get("geometry"):
            yield from _lines(thing["geometry"])
    elif kind == "GeometryCollection":
        for geometry in thing["geometries"]:
            yield from _lines(geometry)
    else:
        depth = {"LineString": 0, "MultiLineString": 1, "Polygon": 1, "MultiPolygon": 2}.get(kind)
        if depth is not None:
            yield from _nested(thing["coordinates"], depth)


def _nested(coordinates: Any, depth: int) -> Iterator[Line]:
    if depth:
        for inner in coordinates:
            yield from _nested(inner, depth - 1)
    else:
        yield [(number_of(p[0]), number_of(p[1])) for p in coordinates]


def _drawn(lines: Iterable[Line], metre: float, what: str, texts: Iterable[Lettering] = ()) -> Picture:
    """Lines and lettering as an SVG of their own units; what is written outside the lines is not seen."""
    kept = [line for line in lines if len(line) > 1]
    if not kept:
        raise BadFile(f"there are no lines in this {what} file")
    if sum(map(len, kept)) > _POINTS:
        raise BadFile(f"this {what} file has more than {_POINTS} points: leave layers out that are not wanted")
    xs, ys = [x for line in kept for x, _ in line], [y for line in kept for _, y in line]
    wide, high = max(max(xs) - min(xs), 1e-6), max(max(ys) - min(ys), 1e-6)
    unit = max(wide, high) / 4000  # as fine as anyone looks
    west, north = min(xs), max(ys)

    def spot(x: float, y: float) -> str:
        return f"{(x - west) / unit:.0f} {(north - y) / unit:.0f}"

    def letters(t: Lettering) -> str:
        x, y = spot(t.x, t.y).split()
        turn = f' transform="rotate({-degrees(t.turn):.1f} {x} {y})"' if t.turn else ""
        size = min(max(t.high / unit * 1.4, 1), 4000)
        return (
            f'<text x="{x}" y="{y}" font-family="sans-serif" font-size="{size:.0f}" fill="#555"{turn}>'
            f"{escape(t.words)}</text>"
        )

    d = "".join("M" + "L".join(spot(x, y) for x, y in line) for line in kept)
    box = f"0 0 {wide / unit:.0f} {max(high / unit, 1):.0f}"
    body = (
        f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="{box}"><path d="{d}" fill="none" stroke="#555" '
        'stroke-width="4"/>' + "".join(letters(t) for t in texts) + "</svg>"
    )
    if len(body) > LARGEST:
        raise BadFile(f"this {what} file has too many lines: leave layers out that are not wanted")
    return Picture("image/svg+xml", body.encode(), wide / unit, max(high / unit, 1.0), metre * unit)
