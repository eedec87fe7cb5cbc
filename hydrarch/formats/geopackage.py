"""The line as it was laid as an OGC GeoPackage 1.3 (OGC 12-128r17): one SQLite file that map programs open."""

from __future__ import annotations

import json
import sqlite3
import struct
from collections.abc import Iterable
from typing import Any

from hydrarch.core.derivation.chain import Derivation
from hydrarch.core.plan.document import Plan
from hydrarch.core.report.as_laid import AsLaid
from hydrarch.formats.features import Feature, features

__all__ = ["line_geopackage"]

_WGS84 = (
    'GEOGCS["WGS 84",DATUM["WGS_1984",SPHEROID["WGS 84",6378137,298.257223563]],PRIMEM["Greenwich",0],'
    'UNIT["degree",0.0174532925199433]]'
)
_SYSTEMS = (
    ("Undefined cartesian SRS", -1, "NONE", -1, "undefined", "the drawing's own metres, east and north"),
    ("Undefined geographic SRS", 0, "NONE", 0, "undefined", "undefined geographic coordinates"),
    ("WGS 84", 4326, "EPSG", 4326, _WGS84, "longitude and latitude"),
)
_TABLES = """
CREATE TABLE gpkg_spatial_ref_sys (srs_name TEXT NOT NULL, srs_id INTEGER PRIMARY KEY, organization TEXT NOT NULL,
    organization_coordsys_id INTEGER NOT NULL, definition TEXT NOT NULL, description TEXT);
CREATE TABLE gpkg_contents (table_name TEXT NOT NULL PRIMARY KEY, data_type TEXT NOT NULL, identifier TEXT UNIQUE,
    description TEXT DEFAULT '', last_change DATETIME NOT NULL DEFAULT (strftime('%Y-%m-%dT%H:%M:%fZ','now')),
    min_x DOUBLE, min_y DOUBLE, max_x DOUBLE, max_y DOUBLE, srs_id INTEGER REFERENCES gpkg_spatial_ref_sys(srs_id));
CREATE TABLE gpkg_geometry_columns (table_name TEXT NOT NULL, column_name TEXT NOT NULL, geometry_type_name TEXT NOT NULL,
    srs_id INTEGER NOT NULL, z TINYINT NOT NULL, m TINYINT NOT NULL, PRIMARY KEY (table_name, column_name),
    UNIQUE (table_name), FOREIGN KEY (table_name) REFERENCES gpkg_contents(table_name),
    FOREIGN KEY (srs_id) REFERENCES gpkg_spatial_ref_sys(srs_id));
"""
_LAYERS = {"run": ("pipe", "LINESTRING"), "thing": ("parts", "POINT"), "joint": ("hidden_joints", "POINT")}


def line_geopackage(plan: Plan, derived: Derivation, laid: Iterable[AsLaid], at: float) -> bytes:
    """Pipe, parts and hidden joints as tables, each at its level, with depth, size, state and date; on the earth (WGS
    84) where the job is tied to it, else in the drawing's own metres, and said to be so. `at` (s since 1970) dates it.
    """
    db = sqlite3.connect(":memory:")
    try:
        db.executescript(f"PRAGMA application_id = {0x47504B47}; PRAGMA user_version = 10300;{_TABLES}")
        db.executemany("INSERT INTO gpkg_spatial_ref_sys VALUES (?, ?, ?, ?, ?, ?)", _SYSTEMS)
        found = tuple(features(plan, derived, laid))
        for kind, (table, shape) in _LAYERS.items():
            _layer(db, plan, table, shape, [f for f in found if f.kind == kind], at)
        db.commit()
        return db.serialize()
    finally:
        db.close()


def _layer(db: sqlite3.Connection, plan: Plan, table: str, shape: str, mine: list[Feature], at: float) -> None:
    system = 4326 if plan.tie else -1
    placed = [(f, [_place(plan, place) for place in f.places]) for f in mine]
    xs, ys = ([p[i] for _, places in placed for p in places] for i in (0, 1))
    about = "on the earth, WGS 84" if plan.tie else "LOCAL: metres east and north of the drawing's own origin"
    box = (min(xs), min(ys), max(xs), max(ys)) if placed else (None,) * 4
    db.execute(
        "INSERT INTO gpkg_contents VALUES (?, 'features', ?, ?, strftime('%Y-%m-%dT%H:%M:%fZ', ?, 'unixepoch'), "
        "?, ?, ?, ?, ?)",
        (table, f"{plan.name}: {table.replace('_', ' ')}", about, at, *box, system),
    )
    db.execute("INSERT INTO gpkg_geometry_columns VALUES (?, 'geom', ?, ?, 1, 0)", (table, shape, system))
    columns = {name: _type(value) for f in mine for name, value in f.told.items()}
    told = "".join(f', "{name}" {kind}' for name, kind in columns.items())
    db.execute(f'CREATE TABLE "{table}" (fid INTEGER PRIMARY KEY, geom {shape}, id TEXT, name TEXT{told})')
    marks = ", ".join("?" * (3 + len(columns)))
    names = "".join(f', "{name}"' for name in columns)
    db.executemany(
        f'INSERT INTO "{table}" (geom, id, name{names}) VALUES ({marks})',
        [(_blob(places, system), f.id, f.name, *(_cell(f.told.get(n)) for n in columns)) for f, places in placed],
    )


def _place(plan: Plan, place: tuple[float, float, float]) -> tuple[float, float, float]:
    if plan.tie is None:
        return place
    latitude, longitude = plan.tie.degrees(place[0], place[1])
    return longitude, latitude, place[2]


def _type(value: Any) -> str:
    return "BOOLEAN" if isinstance(value, bool) else "DOUBLE" if isinstance(value, float) else "TEXT"


def _cell(value: Any) -> Any:
    if isinstance(value, list):
        return json.dumps(value, ensure_ascii=False)
    return int(value) if isinstance(value, bool) else value


def _blob(places: list[tuple[float, float, float]], system: int) -> bytes:
    """A geometry as GeoPackage has it: its head, then well-known binary with levels (little-endian)."""
    head = struct.pack("<2sBBi", b"GP", 0, 1, system)
    if len(places) == 1:
        return head + struct.pack("<BI3d", 1, 1001, *places[0])
    return head + struct.pack("<BII", 1, 1002, len(places)) + b"".join(struct.pack("<3d", *p) for p in places)
