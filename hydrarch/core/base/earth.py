"""Places on the earth: a drawing's metres east and north, and latitude and longitude (WGS 84)."""

from __future__ import annotations

import re
from math import cos, hypot, radians, sin, sqrt

from hydrarch.core.base.errors import HydrarchError

__all__ = ["degrees_of", "metres_of", "metres_per_degree", "read_place", "said_place"]

_A, _E2 = 6378137.0, 6.69437999014132e-3
"""Semi-major axis (m) and first eccentricity squared of the WGS 84 ellipsoid (NIMA TR8350.2)."""
_ROUNDS, _SAME = 20, 1e-6  # m


def metres_per_degree(latitude: float) -> tuple[float, float]:
    """The length (m) of a degree of longitude and of one of latitude at a latitude (degrees, north positive):
    π/180 · N · cos φ and π/180 · M, by the radii of curvature N and M.

    >>> [round(v) for v in metres_per_degree(0.0)]
    [111319, 110574]
    """
    phi = radians(latitude)
    w = 1 - _E2 * sin(phi) ** 2
    return radians(1) * _A / sqrt(w) * cos(phi), radians(1) * _A * (1 - _E2) / w**1.5


def metres_of(latitude: float, longitude: float, at: tuple[float, float], turn: float = 0.0) -> tuple[float, float]:
    """Metres east and north of a place `at` (latitude, longitude) of a drawing whose north is `turn` (rad) clockwise of
    true north: the place set on the plane that touches the ellipsoid there. Over 10 km that is 4 mm short of the
    way on the ground.
    """
    x, y, z = _centred(latitude, longitude)
    x0, y0, z0 = _centred(*at)
    phi, lam = radians(at[0]), radians(at[1])
    dx, dy, dz = x - x0, y - y0, z - z0
    east = -sin(lam) * dx + cos(lam) * dy
    north = -sin(phi) * cos(lam) * dx - sin(phi) * sin(lam) * dy + cos(phi) * dz
    return east * cos(turn) - north * sin(turn), east * sin(turn) + north * cos(turn)


def degrees_of(east: float, north: float, at: tuple[float, float], turn: float = 0.0) -> tuple[float, float]:
    """Latitude and longitude (degrees) of what lies so far (m) east and north on such a drawing: the way back."""
    latitude, longitude = at
    for _ in range(_ROUNDS):
        x, y = metres_of(latitude, longitude, at, turn)
        dx, dy = east - x, north - y
        if hypot(dx, dy) < _SAME:
            break
        wide, high = metres_per_degree(latitude)
        longitude += (dx * cos(turn) + dy * sin(turn)) / wide
        latitude += (-dx * sin(turn) + dy * cos(turn)) / high
    return latitude, longitude


def _centred(latitude: float, longitude: float) -> tuple[float, float, float]:
    """Metres from the earth's centre of a place on the ellipsoid."""
    phi, lam = radians(latitude), radians(longitude)
    n = _A / sqrt(1 - _E2 * sin(phi) ** 2)
    return n * cos(phi) * cos(lam), n * cos(phi) * sin(lam), n * (1 - _E2) * sin(phi)


_FIGURE = r"(\d+(?:[.,]\d+)?)"
_ONE = re.compile(
    rf"\s*([NSEW])?\s*([-+\u2212])?\s*{_FIGURE}\s*(?:°|º|d)?"
    rf"(?:\s*{_FIGURE}\s*['\u2032m])?(?:\s*{_FIGURE}\s*(?:\"|\u2033|''|s))?(?(1)|\s*([NSEW])?)\s*[,;]?",
    re.IGNORECASE,
)
_MEND = "write latitude and longitude as a phone shows them, such as 51.4779, -0.0015 or 51°28'40\" N 0°00'05\" W"


def read_place(text: str) -> tuple[float, float]:
    r"""Latitude and longitude (degrees) of a place as a map or a phone shows it: decimal degrees, or degrees, minutes
    and seconds, with letters or signs. Without letters the latitude comes first. Raises `HydrarchError` with what
    will do.

    >>> read_place("51.4779, -0.0015")
    (51.4779, -0.0015)
    >>> [round(v, 4) for v in read_place("0°00'05\" W 51°28'40\" N")]
    [51.4778, -0.0014]
    """
    found: list[tuple[str, float]] = []
    rest = text.strip()
    while rest:
        match = _ONE.match(rest)
        if match is None or len(found) == 2:
            raise HydrarchError(f"'{text.strip()[:40]}' is no place: {_MEND}")
        before, sign, degrees, minutes, seconds, behind = match.groups()
        letter = (before or behind or "").upper()
        parts = [float(v.replace(",", ".")) if v else 0.0 for v in (degrees, minutes, seconds)]
        if parts[1] >= 60 or parts[2] >= 60:
            raise HydrarchError(f"'{text.strip()[:40]}' is no place: minutes and seconds are less than 60")
        value = parts[0] + parts[1] / 60 + parts[2] / 3600
        below = (sign in ("-", "\u2212")) != (letter in ("S", "W"))
        found.append((letter, -value if below else value))
        rest = rest[match.end() :].strip()
    if len(found) != 2:
        raise HydrarchError(f"'{text.strip()[:40]}' is no place: {_MEND}")
    if found[0][0] in ("E", "W") or found[1][0] in ("N", "S"):
        found.reverse()
    if found[0][0] in ("E", "W") or found[1][0] in ("N", "S"):
        raise HydrarchError(f"'{text.strip()[:40]}' says one way twice: {_MEND}")
    (_, latitude), (_, longitude) = found
    if not (abs(latitude) <= 85 and abs(longitude) <= 180):
        raise HydrarchError(f"a latitude of {latitude:g} and a longitude of {longitude:g} cannot be here: {_MEND}")
    return latitude, longitude


def said_place(latitude: float, longitude: float) -> str:
    """A place in words, to a decimetre.

    >>> said_place(51.4779, -0.0015)
    '51.477900° N, 0.001500° W'
    """
    north, east = "N" if latitude >= 0 else "S", "E" if longitude >= 0 else "W"
    return f"{abs(latitude):.6f}° {north}, {abs(longitude):.6f}° {east}"
