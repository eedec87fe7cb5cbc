"""Points that somebody else measured: CSV or GeoJSON, read and said back before anything is taken."""

from __future__ import annotations

import json
import re
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from math import floor
from typing import Any

from hydrarch.core.base.errors import BadRow
from hydrarch.core.base.tablefile import ForeignTable, ReadColumn, TableRow, WantedColumn, read_table, text_of
from hydrarch.core.base.units import System, show
from hydrarch.core.base.workbook import is_workbook
from hydrarch.core.plan.tie import FARTHEST, Tie
from hydrarch.formats.explained import BadFile, number_of
from hydrarch.formats.grids import Grid, grid_named

__all__ = ["UNTIED", "WANTED", "MeasuredPoint", "Points", "read_points"]

MOST = 2000
_BALL = 111_319.49
"""m of a degree as maps of ours were once written: 2π · 6,378,137 m / 360, both ways."""
_FAR, _EARTH = 1e5, 5e7  # m
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
WANTED_PLACES = (
    WANTED[0],
    WantedColumn("latitude", ("latitude", "lat", "breite"), "ratio", needed=True),
    WantedColumn("longitude", ("longitude", "lon", "long", "lng", "länge"), "ratio", needed=True),
    WANTED[3],
)
"""The columns of a table of places on the earth."""
UNTIED = "drawing"
"""What our own map of a drawing without a place on the earth says of its degrees."""


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

    Where it is not known which column is what, it `asks`, and holds no points yet. `tie` is where the drawing lies on
    the earth, by which places in degrees or of a grid were set down. Where it `asks_grid`, figures are so large that
    they are of a grid, and which is not known.
    """

    points: tuple[MeasuredPoint, ...]
    says: str
    columns: tuple[ReadColumn, ...] = ()
    asks: str = ""
    tie: Tie | None = None
    asks_grid: bool = False


AS_THEY_ARE = "as they are"
"""What is said for a grid to have its figures set down from their own south-west corner."""


def read_points(
    file: bytes | str, units: System, use: Sequence[str] = (), tie: Tie | None = None, grid: str = ""
) -> Points:
    """The points of a file: GeoJSON, or a table as `read_table` reads it, its columns as a person says by `use`.
    Figures without a unit are in the person's. Places on the earth are set down by the drawing's `tie`; where it has
    none, by one at their south-west corner, which comes with them. Places of a national `grid`, by its code or name,
    are set down so too; large figures of an unknown one, said to be "as they are", from their own corner.

    Raises `BadFile` or `BadRow` with where it is wrong; nothing is half taken.
    """
    text = file if is_workbook(file) else text_of(file, "points")
    read, columns, found = "", tuple[ReadColumn, ...](), tuple[MeasuredPoint, ...]()
    if isinstance(text, str) and text.lstrip().startswith("{"):
        found, mine = _geojson(text, tie)
    else:
        found, table, mine, asks = _of_table(text, units, use, tie, grid)
        if asks:
            return Points((), "", table.columns, asks, asks_grid=asks == _WHICH_GRID)
        read, columns = table.says(), table.columns
        if grid == AS_THEY_ARE:
            found, corner = _from_corner(found)
            read = "; ".join(x for x in (f"set down from {corner}", read) if x)
        elif grid and mine is not None:
            known = grid_named(grid)
            doubt = known.doubt()
            off = ", how exactly as a whole is not known" if doubt is None else f", within {doubt:g} m as a whole"
            read = "; ".join(x for x in (f"by {known.name}{off if doubt != 0 else ''}", read) if x)
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
    if mine is not None:
        where = "of the drawing" if tie else "that the drawing gets with them"
        says += f"; set down by the place on the earth {where}"
    return Points(found, f"{says}; {read}" if read else says, columns, tie=mine)


def _measured(table: ForeignTable, *, far: bool = False) -> Iterator[MeasuredPoint]:
    """The points of a table, in m from wherever it measures; as `far` off as they may be, or within reach."""
    for n, row in enumerate(table.rows, 1):
        x, y, level = (table.number(row, c) for c in ("east", "north", "level"))
        if x is None or y is None:
            raise BadRow("points", row.line, "east or north is blank")
        if max(abs(x), abs(y)) > (_EARTH if far else _FAR) or abs(level or 0.0) > _FAR:
            cell = max((table.words(row, c) for c in ("east", "north", "level")), key=len)
            raise BadRow("points", row.line, f"{cell[:20]} is further off than any place of a job can be")
        yield MeasuredPoint(table.words(row, "name")[:60] or f"Point {n}", x, y, level)


def _look_like_degrees(table: ForeignTable) -> bool:
    """Whether places may be by longitude and latitude under heads that do not say so: taken as metres they would lie on
    one spot.
    """
    east, north = (next(c for c in table.columns if c.used == name) for name in ("east", "north"))
    if east.said or north.said:
        return False
    cells = [(table.words(r, "east"), table.words(r, "north")) for r in table.rows]
    fine = all(len(re.split(r"[.,]", c)[-1]) >= 5 and re.search(r"\d[.,]\d", c) for pair in cells for c in pair)
    if not fine:
        return False
    spots = [(table.number(r, "east"), table.number(r, "north")) for r in table.rows]
    return all(x is not None and y is not None and abs(x) <= 180 and abs(y) <= 90 for x, y in spots)


def _of_table(
    text: bytes | str, units: System, use: Sequence[str], tie: Tie | None, grid: str
) -> tuple[tuple[MeasuredPoint, ...], ForeignTable, Tie | None, str]:
    """The points of a table, the table, where the drawing lies if it says so, and what is to be asked of its columns."""
    on_earth = read_table("points", text, WANTED_PLACES, units, use=use, asking=True)
    if not on_earth.asks:
        spots = []
        for n, row in enumerate(on_earth.rows, 1):
            latitude, longitude = on_earth.number(row, "latitude"), on_earth.number(row, "longitude")
            if latitude is None or longitude is None:
                raise BadRow("points", row.line, "its latitude or longitude is blank")
            level = on_earth.number(row, "level")
            spots.append((on_earth.words(row, "name")[:60] or f"Point {n}", latitude, longitude, level))
        found, mine = _on_earth(spots, tie)
        return found, on_earth, mine, ""
    table = read_table("points", text, WANTED, units, use=use, asking=True)
    asks = table.asks
    if not asks and not use and table.rows and _look_like_degrees(table):
        asks = (
            "these figures look like degrees: say which column is the longitude and which the latitude; if they are "
            "none, say that they are east and north, or write the unit in the head, such as east_m"
        )
    if not asks and grid and grid != AS_THEY_ARE:
        found, mine = _on_earth([_of_grid(table, row, n, grid_named(grid)) for n, row in enumerate(table.rows, 1)], tie)
        return found, table, mine, ""
    if not asks and not grid and _far_off(table):
        asks = _WHICH_GRID
    return (() if asks else tuple(_measured(table, far=bool(grid)))), table, None, asks


_WHICH_GRID = (
    "these are coordinates of a national grid or a UTM zone: give its EPSG code or its name, or have them set down as "
    "they are, from their own south-west corner"
)


def _far_off(table: ForeignTable) -> bool:
    """Whether its figures are so large that they count from a grid's origin."""
    spots = [(table.number(r, "east"), table.number(r, "north")) for r in table.rows]
    most = max((abs(v) for spot in spots for v in spot if v is not None), default=0.0)
    return _FAR < most <= _EARTH


def _of_grid(table: ForeignTable, row: TableRow, n: int, grid: Grid) -> tuple[str, float, float, float | None]:
    """The name, latitude, longitude and level of a row of grid coordinates.

    A foot of the file is the grid's own foot: of 600 km, the two feet differ by over a metre.
    """
    figures = []
    for column in ("east", "north"):
        value = table.number(row, column)
        if value is None:
            raise BadRow("points", row.line, "east or north is blank")
        unit = table.units[column].factor
        said = next(c.said for c in table.columns if c.used == column)
        alike = abs(unit / grid.unit - 1) < 1e-4
        figures.append(value / unit if alike or not said else value / grid.unit)
    return (table.words(row, "name")[:60] or f"Point {n}", *grid.place(*figures), table.number(row, "level"))


def _from_corner(found: Sequence[MeasuredPoint]) -> tuple[tuple[MeasuredPoint, ...], str]:
    """Points counted from the round figure below their south-west corner, and what that is, in words."""
    x, y = (floor(min(v) / _ROUND) * _ROUND for v in ([p.x for p in found], [p.y for p in found]))
    near = tuple(replace(p, x=round(p.x - x, 4), y=round(p.y - y, 4)) for p in found)
    if max((max(p.x, p.y) for p in near), default=0.0) > _FAR:
        raise BadFile("these points lie further than 100 km from one another: take out what is not of this job")
    return near, f"{x:,.0f} m east, {y:,.0f} m north"


_ROUND = 100.0  # m


def _geojson(text: str, tie: Tie | None) -> tuple[tuple[MeasuredPoint, ...], Tie | None]:
    try:
        whole = json.loads(text)
        features = whole["features"] if whole.get("type") == "FeatureCollection" else [whole]
        spots: list[tuple[str, float, float, float | None]] = []
        each = ((f, c) for f in features for c in _point_coordinates(f.get("geometry", f)))
        for n, (f, coordinates) in enumerate(each, 1):
            lon, lat, *more = (number_of(v) for v in coordinates)
            told = f.get("properties") or {}
            name = next((str(told[k]).strip()[:60] for k in (*_NAMES[:3], "description", "place") if told.get(k)), "")
            if not (abs(lon) <= 180 and abs(lat) <= 90):
                raise BadFile(
                    "this map is not in degrees", ((f"feature {n}", "is not a place by longitude and latitude"),)
                )
            spots.append((name or f"Point {n}", lat, lon, more[0] if more else None))
        untied = whole.get("frame") == UNTIED
    except (ValueError, KeyError, TypeError, AttributeError, RecursionError) as error:
        raise BadFile("this is no GeoJSON with points", (("the file", str(error) or "is of another kind"),)) from error
    if untied:  # our own map of a drawing that is not tied: its origin lies at 0, 0
        return _placed(spots, Tie(latitude=0.0, longitude=0.0)), None
    if spots and all(abs(lon) < 0.5 and abs(lat) < 0.5 for _, lat, lon, _ in spots):  # as we wrote it once
        return tuple(MeasuredPoint(n, round(x * _BALL, 4), round(y * _BALL, 4), z) for n, y, x, z in spots), None
    return _on_earth(spots, tie)


def _point_coordinates(geometry: Any) -> Iterator[Any]:
    """The coordinates of each point of a geometry; lines and areas have none."""
    kind = None if geometry is None else geometry["type"]
    if kind == "Point":
        yield geometry["coordinates"]
    elif kind == "MultiPoint":
        yield from geometry["coordinates"]
    elif kind == "GeometryCollection":
        for part in geometry["geometries"]:
            yield from _point_coordinates(part)


def _on_earth(
    spots: Sequence[tuple[str, float, float, float | None]], tie: Tie | None
) -> tuple[tuple[MeasuredPoint, ...], Tie | None]:
    """Places by latitude and longitude on the drawing: by its tie, else by one at their own south-west corner."""
    if not spots:
        return (), None
    for name, latitude, longitude, _ in spots:
        if abs(latitude) > FARTHEST or abs(longitude) > 180:
            raise BadFile(
                "not every place here can be on a drawing",
                ((name, f"lies at latitude {latitude:g}, longitude {longitude:g}; latitudes go to {FARTHEST:.0f}"),),
            )
    mine = tie or Tie(latitude=min(s[1] for s in spots), longitude=min(s[2] for s in spots))
    return _placed(spots, mine), mine


def _placed(spots: Sequence[tuple[str, float, float, float | None]], tie: Tie) -> tuple[MeasuredPoint, ...]:
    found = []
    for name, latitude, longitude, level in spots:
        x, y = tie.metres(latitude, longitude)
        if max(abs(x), abs(y)) > _FAR:
            raise BadFile(
                "these points lie further than 100 km from the drawing's origin",
                ((name, "is far from there; take it out, or see where the job is said to lie"),),
            )
        found.append(MeasuredPoint(name, round(x, 4), round(y, 4), level))
    return tuple(found)
