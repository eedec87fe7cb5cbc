"""Coordinate systems of surveys: national grids and UTM zones by code or name, from the register that ships along."""

from __future__ import annotations

import re
import warnings
from dataclasses import dataclass
from typing import Any

from hydrarch.core.base.cache import remembered
from hydrarch.formats.explained import BadFile

__all__ = ["Grid", "grid_named"]

_UTM = re.compile(r"(?:utm)?\s*(?:zone)?\s*(\d{1,2})\s*([NSns])", re.IGNORECASE)
_SHOWN = 8
_BESIDE = 1.0
"""Degrees beyond the area it is made for that a grid is still used: crews work at borders."""


@dataclass(frozen=True, slots=True)
class Grid:
    """A grid: its code and name, the m of its unit (a US survey foot is 0.3048006), and the area it is made for: west,
    south, east and north in degrees.
    """

    code: int
    name: str
    unit: float
    area: tuple[float, float, float, float] | None

    def place(self, east: float, north: float) -> tuple[float, float]:
        """Latitude and longitude (degrees, WGS 84) of a spot of the grid, in its own unit. Raises `BadFile` for one
        that is not on it.
        """
        longitude, latitude = _transformer(self.code).transform(east, north)
        if not (abs(latitude) <= 90 and abs(longitude) <= 180) or not self._covers(latitude, longitude):
            raise BadFile(
                f"east {east:.0f}, north {north:.0f} lies outside the area of {self.name}: see which system the file is "
                "in, and whether east and north are exchanged"
            )
        return float(latitude), float(longitude)

    def _covers(self, latitude: float, longitude: float) -> bool:
        if self.area is None:
            return True
        west, south, east, north = self.area
        across = (longitude - west + _BESIDE) % 360 <= (east - west) % 360 + 2 * _BESIDE
        return across and south - _BESIDE <= latitude <= north + _BESIDE

    def doubt(self) -> float | None:
        """How far (m) it may be off as a whole, by what is known of both ellipsoids; None where that is not known."""
        found = float(_transformer(self.code).accuracy)
        return found if found >= 0 else None


@remembered(64)
def _transformer(code: int) -> Any:
    from pyproj import Transformer  # loaded when first used: a server starts without it
    from pyproj.network import set_network_enabled  # type: ignore[attr-defined]
    from pyproj.transformer import TransformerGroup

    set_network_enabled(active=False)
    with warnings.catch_warnings():
        warnings.simplefilter("ignore", UserWarning)  # that a finer one would have to be fetched: its doubt is told
        group = TransformerGroup(code, 4326, always_xy=True)
    return group.transformers[0] if group.transformers else Transformer.from_crs(code, 4326, always_xy=True)


@remembered(64)
def grid_named(text: str) -> Grid:
    """The grid of a code ("EPSG:25832", "2056"), a zone ("UTM 32N", on WGS 84) or words of its name ("British National
    Grid").

    Raises `BadFile` for none, for several with what they are, and for one whose places are degrees. Source: the EPSG
    register as PROJ has it.
    """
    from pyproj import CRS  # loaded when first used: a server starts without it
    from pyproj.enums import PJType
    from pyproj.exceptions import CRSError

    said = text.strip()[:80]
    code = next((int(m.group(1)) for m in [re.fullmatch(r"(?:epsg\s*:{1,2}\s*)?(\d{4,6})", said, re.I)] if m), None)
    zone = _UTM.fullmatch(said)
    if zone and 1 <= int(zone.group(1)) <= 60:
        code = (32600 if zone.group(2).upper() == "N" else 32700) + int(zone.group(1))
    if code is None:
        code = _by_name(said, PJType.PROJECTED_CRS)
    try:
        found = CRS.from_epsg(code)
    except CRSError:
        raise BadFile(f"there is no coordinate system {code}: give its EPSG code, such as EPSG:25832") from None
    if not found.is_projected:
        raise BadFile(f"{found.name} is in degrees, or no grid: give the grid's code, such as EPSG:25832")
    area = found.area_of_use
    bounds = None if area is None else (area.west, area.south, area.east, area.north)
    return Grid(code, found.name, float(found.axis_info[0].unit_conversion_factor), bounds)


def _by_name(said: str, kind: Any) -> int:
    from pyproj.database import query_crs_info

    wanted = _words(said)
    fits = [
        c
        for c in query_crs_info(auth_name="EPSG", pj_types=[kind])
        if not c.deprecated and wanted and wanted <= _words(c.name)
    ]
    whole = [c for c in fits if _words(c.name) == wanted]
    if len(whole) == 1 or len(fits) == 1:
        return int((whole or fits)[0].code)
    if not fits:
        raise BadFile(f"no coordinate system is called '{said}': give its EPSG code, such as EPSG:25832, or UTM 32N")
    told = ", ".join(f"{c.name} (EPSG:{c.code})" for c in fits[:_SHOWN])
    more = f" and {len(fits) - _SHOWN} more" if len(fits) > _SHOWN else ""
    raise BadFile(f"several coordinate systems are called that: {told}{more}; give the code of yours")


def _words(text: str) -> frozenset[str]:
    return frozenset(re.findall(r"[\w-]+", text.lower()))
