"""Pictures and plans of others, read to lie beneath a drawing: PNG, JPEG and SVG as they are, DXF and GeoJSON as lines.

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
from typing import Any
from xml.etree import ElementTree

from hydrarch.core.base.earth import metres_per_degree
from hydrarch.formats.explained import BadFile, number_of

__all__ = ["LARGEST", "Picture", "read_picture"]

LARGEST = 3_000_000
"""The most bytes a picture may have."""
_POINTS = 200_000
_METRES = {0: 0.0, 1: 0.0254, 2: 0.3048, 4: 1e-3, 5: 1e-2, 6: 1.0, 7: 1e3, 10: 0.9144, 14: 0.1}
"""Units a DXF names in its head, in m; 0 where it names none."""
_LENGTH = re.compile(r"^\s*([\d.]+)\s*(px|mm|cm|in|pt|)\s*$")
_JPEG_FRAMES = frozenset({*range(0xC0, 0xD0)} - {0xC4, 0xC8, 0xCC})
Line = list[tuple[float, float]]


@dataclass(frozen=True, slots=True)
class Picture:
    """A picture: its media type, what is in it, its size in its own units, and the m of one of them where it says so,
    else 0; and what of the file is not in it, in words.
    """

    media: str
    body: bytes
    wide: float
    high: float
    metre: float = 0.0
    left_out: str = ""

    @property
    def hash(self) -> str:
        """What it is kept under."""
        return hashlib.sha256(self.body).hexdigest()


def read_picture(body: bytes) -> Picture:
    """A picture of what is in a file. Raises `BadFile` for what is none of the five, is broken, or too large."""
    if len(body) > LARGEST:
        raise BadFile(f"this picture has {len(body) / 1e6:.1f} MB: make it smaller than {LARGEST / 1e6:.0f} MB")
    if body.startswith(b"\x89PNG\r\n\x1a\n"):
        return _png(body)
    if body.startswith(b"\xff\xd8"):
        return _jpeg(body)
    text = body.decode("utf-8", "replace").lstrip("\ufeff \r\n\t")
    if text.startswith("{"):
        return _geojson(text)
    if text.startswith("<"):
        return _svg(body, text)
    if _is_dxf(text):
        return _dxf(body)
    raise BadFile("this is no PNG, JPEG, SVG, DXF or GeoJSON file")


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


def _dxf(body: bytes) -> Picture:
    from ezdxf import disassemble, recover  # loaded when first used: a server starts without it
    from ezdxf import path as paths
    from ezdxf.lldxf.const import DXFError

    try:
        document, _ = recover.read(io.BytesIO(body))
    except (DXFError, OSError, ValueError, IndexError, KeyError) as error:
        raise BadFile("this DXF file is broken", (("the file", str(error)),)) from error
    lines: list[Line] = []
    hidden = {x.dxf.name.lower() for x in document.layers if x.is_frozen() or x.is_off()}
    left = Counter[str]()
    flat = disassemble.recursive_decompose(document.modelspace())
    for entity in flat:
        if str(entity.dxf.get("layer", "0")).lower() in hidden:
            left["thing on hidden layers"] += 1
            continue
        if entity.dxftype() not in ("LINE", "LWPOLYLINE", "POLYLINE", "CIRCLE", "ARC", "ELLIPSE", "SPLINE"):
            left[_NOT_DRAWN.get(entity.dxftype(), "other thing")] += 1
            continue
        try:
            for part in paths.make_path(entity).sub_paths():
                lines.append([(v.x, v.y) for v in part.flattening(_bend(lines), 4)])
        except (TypeError, ValueError, DXFError):
            left["broken thing"] += 1
    drawn = _drawn(lines, _METRES.get(int(document.header.get("$INSUNITS", 0)), 0.0), "DXF")
    return replace(drawn, left_out=", ".join(f"{n:,} {_many(what, n)}" for what, n in left.items()))


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
    "POINT": "point",
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


def _drawn(lines: Iterable[Line], metre: float, what: str) -> Picture:
    """Lines as an SVG of their own units."""
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

    d = "".join("M" + "L".join(spot(x, y) for x, y in line) for line in kept)
    box = f"0 0 {wide / unit:.0f} {max(high / unit, 1):.0f}"
    body = (
        f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="{box}"><path d="{d}" fill="none" stroke="#555" '
        'stroke-width="4"/></svg>'
    )
    if len(body) > LARGEST:
        raise BadFile(f"this {what} file has too many lines: leave layers out that are not wanted")
    return Picture("image/svg+xml", body.encode(), wide / unit, max(high / unit, 1.0), metre * unit)
