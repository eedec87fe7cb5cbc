"""Points that somebody else measured: CSV or GeoJSON, read and said back before anything is taken."""

from __future__ import annotations

import json
import re
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from math import cos, radians

from hydrarch.core.base.errors import BadRow
from hydrarch.core.base.tablefile import ForeignTable, ReadColumn, WantedColumn, read_table, text_of
from hydrarch.core.base.units import System, show
from hydrarch.formats.explained import BadFile, number_of

__all__ = ["WANTED", "MeasuredPoint", "Points", "read_points"]

MOST = 2000
_DEGREE = 111_319.49
"""m of a degree of latitude: 2π · 6,378,137 m / 360 (WGS 84)."""
_FAR = 1e5
_NAMES = ("name", "point", "id", "pt", "pnt", "nr", "no", "number", "punkt", "nummer", "label", "description", "code")
WANTED = (
    WantedColumn("name", _NAMES),
    WantedColumn("east", ("east", "x", "e", "easting", "rechtswert", "ost", "este", "est"), "length", needed=True),
    WantedColumn("north", ("north", "y", "n", "northing", "hochwert", "nord", "norte"), "length", needed=True),
    WantedColumn(
        "level",
        (
            *("level", "z", "elevation", "elev", "height", "ground", "rl", "altitude", "alt", "h"),
            *("höhe", "hoehe", "reduced level", "ground level", "cota", "quota"),
        ),
        "level",
    ),
)
"""The columns of a table of points."""


@dataclass(frozen=True, slots=True)
class MeasuredPoint:
    """A point as it was measured: m east and north, and its level (m) where one was."""

    name: str
    x: float
    y: float
    level: float | None


@dataclass(frozen=True, slots=True)
class Points:
    """What a file holds, what that is in words, and how each column of a table was read.

    Where it is not known which column is what, it `asks`, and holds no points yet.
    """

    points: tuple[MeasuredPoint, ...]
    says: str
    columns: tuple[ReadColumn, ...] = ()
    asks: str = ""


def read_points(file: bytes | str, units: System, use: Sequence[str] = ()) -> Points:
    """The points of a file: GeoJSON, or a table as `read_table` reads it, its columns as a person says by `use`. Figures
    without a unit are in the person's.

    Raises `BadFile` or `BadRow` with where it is wrong; nothing is half taken.
    """
    text = text_of(file, "points")
    read, columns = "", tuple[ReadColumn, ...]()
    if text.lstrip().startswith("{"):
        found = tuple(_geojson(text))
    else:
        table = read_table("points", text, WANTED, units, use=use, asking=True)
        if table.asks:
            return Points((), "", table.columns, table.asks)
        if not table.rows:
            raise BadFile("there is no point in this file")
        found, read, columns = tuple(_measured(table)), table.says(), table.columns
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
    return Points(found, f"{says}; {read}" if read else says, columns)


def _measured(table: ForeignTable) -> Iterator[MeasuredPoint]:
    """The points of a table, in m from wherever it measures."""
    _no_degrees(table)
    for n, row in enumerate(table.rows, 1):
        x, y, level = (table.number(row, c) for c in ("east", "north", "level"))
        if x is None or y is None:
            raise BadRow("points", row.line, "east or north is blank")
        if max(abs(x), abs(y), abs(level or 0.0)) > _FAR:
            cell = max((table.words(row, c) for c in ("east", "north", "level")), key=len)
            raise BadRow(
                "points",
                row.line,
                f"{cell[:20]} is further than {_FAR / 1e3:g} km: take off the round figure that all have in common",
            )
        yield MeasuredPoint(table.words(row, "name")[:60] or f"Point {n}", x, y, level)


def _no_degrees(table: ForeignTable) -> None:
    """Refuse places by longitude and latitude whose head does not say so: taken as metres they would lie on one
    spot.
    """
    east, north = (next(c for c in table.columns if c.used == name) for name in ("east", "north"))
    if east.said or north.said:
        return
    cells = [(table.words(r, "east"), table.words(r, "north")) for r in table.rows]
    fine = all(len(re.split(r"[.,]", c)[-1]) >= 5 and re.search(r"\d[.,]\d", c) for pair in cells for c in pair)
    spots = [(table.number(r, "east"), table.number(r, "north")) for r in table.rows]
    if fine and all(x is not None and y is not None and abs(x) <= 180 and abs(y) <= 90 for x, y in spots):
        raise BadFile(
            "these figures look like degrees of longitude and latitude",
            (
                (
                    f"columns {east.head or 1} and {north.head or 2}",
                    "save the points as GeoJSON if they are degrees; if they are not, write the unit in the head, such "
                    "as east_m and north_m",
                ),
            ),
        )


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
