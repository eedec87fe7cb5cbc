"""Points that somebody else measured: CSV or GeoJSON, read and said back before anything is taken."""

from __future__ import annotations

import csv
import io
import json
import re
from collections.abc import Iterator
from dataclasses import dataclass
from math import cos, isfinite, radians
from typing import Any

from hydrarch.core.base.errors import BadRow, HydrarchError
from hydrarch.core.base.numerals import DecimalMark, decimal_mark, parse_number
from hydrarch.core.base.units import FOOT, MARK, System, show
from hydrarch.formats.explained import BadFile, number_of

__all__ = ["MeasuredPoint", "Points", "read_points"]

MOST = 2000
_DEGREE = 111_319.49
"""m of a degree of latitude: 2π · 6,378,137 m / 360 (WGS 84)."""
_FAR = 1e5
_COLUMNS = {
    "east": ("east", "x", "e", "easting"),
    "north": ("north", "y", "n", "northing"),
    "level": (
        "level",
        "z",
        "elevation",
        "elev",
        "height",
        "ground",
        "rl",
        "altitude",
        "alt",
        "h",
        "höhe",
        "reduced level",
    ),
}
_NAMES = ("name", "point", "id", "description")
_UNIT = re.compile(r"^(.*?)(?:_|\s+|\s*[\[(])(m|ft)[\])]?$")
_UNITS = {"m": 1.0, "ft": FOOT}


@dataclass(frozen=True, slots=True)
class MeasuredPoint:
    """A point as it was measured: m east and north, and its level (m) where one was."""

    name: str
    x: float
    y: float
    level: float | None


@dataclass(frozen=True, slots=True)
class Points:
    """What a file holds, and what that is in words."""

    points: tuple[MeasuredPoint, ...]
    says: str


@dataclass(slots=True)
class _Table:
    """What was seen of a table beside its points: the columns that were not used."""

    unused: tuple[str, ...] = ()


def read_points(text: str, units: System) -> Points:
    """The points of a file. A column's head may end in _m or _ft; without, its figures are in the person's units.

    Raises `BadFile` or `BadRow` with where it is wrong; nothing is half taken.
    """
    body = text.lstrip("\ufeff")
    table = _Table()
    found = tuple(_geojson(body) if body.lstrip().startswith("{") else _csv(body, units, table))
    if not found:
        raise BadFile("there is no point in this file")
    if len(found) > MOST:
        raise BadFile(f"this file has {len(found)} points; {MOST} are the most at once")
    wide, high = (max(v) - min(v) for v in ([p.x for p in found], [p.y for p in found]))
    levels = [p.level for p in found if p.level is not None]
    says = (
        f"{len(found)} point{'s' if len(found) > 1 else ''}, {show(wide, 'length', units)} by "
        f"{show(high, 'length', units)}"
    )
    if levels:
        says += f", levels from {show(min(levels), 'level', units)} to {show(max(levels), 'level', units)}"
    if len(levels) < len(found):
        lacking = "none has" if not levels else f"{len(found) - len(levels)} have no"
        says += f"; {lacking} {'a ' if not levels else ''}level: those take the ground of the nearest point drawn"
    if table.unused:
        says += f"; columns not used: {', '.join(table.unused)}"
    return Points(found, says)


def _csv(text: str, units: System, seen: _Table) -> Iterator[MeasuredPoint]:
    try:
        dialect = csv.Sniffer().sniff(text[:4096], delimiters=",;\t")
    except csv.Error:
        dialect = csv.excel
    reader = csv.DictReader(io.StringIO(text), dialect=dialect)
    heads = {(h or "").strip().lower(): h for h in reader.fieldnames or ()}
    columns = {name: _column(heads, names) for name, names in _COLUMNS.items()}
    if columns["east"] is None or columns["north"] is None:
        raise BadFile(
            "this table has no columns east and north (or x and y)",
            (("the first line", "names the columns: name, east, north, level"),),
        )
    named = next((heads[n] for n in _NAMES if n in heads), None)
    used = {named, *(c[0] for c in columns.values() if c is not None)}
    seen.unused = tuple(h.strip()[:40] for h in reader.fieldnames or () if h and h.strip() and h not in used)
    try:
        table = [(reader.line_num, row) for row in reader]
        mark = decimal_mark(str(row.get(c[0]) or "") for _, row in table for c in columns.values() if c is not None)
        for n, (line, row) in enumerate(table, 1):
            if not any((v or "").strip() for v in row.values() if isinstance(v, str)):
                continue
            x, y, level = (_number(row, columns[c], units, line, mark) for c in ("east", "north", "level"))
            if x is None or y is None:
                raise BadRow("points", line, "east or north is blank")
            name = (row.get(named or "") or "").strip()[:60] or f"Point {n}"
            yield MeasuredPoint(name, x, y, level)
    except csv.Error as error:
        raise BadRow("points", reader.line_num, str(error)) from error


def _column(heads: dict[str, str], names: tuple[str, ...]) -> tuple[str, float | None] | None:
    """The first column that has one of these names, and the m of its unit where its head says so (east, east_m, East
    [ft]).
    """
    for name in names:
        for head, written in heads.items():
            if head == name:
                return written, None
            match = _UNIT.match(head)
            if match and match[1].strip() == name:
                return written, _UNITS[match[2]]
    return None


def _number(
    row: dict[str, Any], column: tuple[str, float | None] | None, units: System, line: int, mark: DecimalMark
) -> float | None:
    if column is None or not (cell := str(row.get(column[0]) or "").strip().lstrip("'")):
        return None
    try:
        value = parse_number(cell, mark or MARK[units])
    except HydrarchError as error:
        raise BadRow("points", line, str(error)) from None
    unit = column[1] if column[1] is not None else FOOT if units == "us" else 1.0
    if not isfinite(value) or abs(value * unit) > _FAR:
        raise BadRow(
            "points",
            line,
            f"{cell[:20]} is further than {_FAR / 1e3:g} km: take off the round figure that all have in common",
        )
    return value * unit


def _geojson(text: str) -> Iterator[MeasuredPoint]:
    try:
        whole = json.loads(text)
        features = whole["features"] if whole.get("type") == "FeatureCollection" else [whole]
        spots = []
        for n, f in enumerate(features, 1):
            if f["geometry"] is None or f["geometry"]["type"] != "Point":
                continue
            lon, lat, *more = (number_of(v) for v in f["geometry"]["coordinates"])
            told = f.get("properties") or {}
            name = next((str(told[k]).strip()[:60] for k in (*_NAMES, "place") if told.get(k)), f"Point {n}")
            if not (abs(lon) <= 180 and abs(lat) <= 90):
                raise BadFile(
                    "this map is not in degrees", ((f"feature {n}", "is not a place by longitude and latitude"),)
                )
            spots.append((name, lon, lat, more[0] if more else None))
    except (ValueError, KeyError, TypeError, AttributeError, RecursionError) as error:
        raise BadFile("this is no GeoJSON with points", (("the file", str(error) or "is of another kind"),)) from error
    near = all(abs(lon) < 0.5 and abs(lat) < 0.5 for _, lon, lat, _ in spots)  # as we write it: about 0° N 0° E
    west, south = (0.0, 0.0) if near or not spots else (min(s[1] for s in spots), min(s[2] for s in spots))
    for name, lon, lat, level in spots:
        x, y = (lon - west) * _DEGREE * cos(radians(south)), (lat - south) * _DEGREE
        if max(abs(x), abs(y)) > _FAR:
            raise BadFile(
                "these points lie further apart than 100 km", ((name, "is far from the others; take it out"),)
            )
        yield MeasuredPoint(name, round(x, 4), round(y, 4), level)
