"""Where a drawing lies on the earth."""

from __future__ import annotations

from math import pi

from pydantic import Field

from hydrarch.core.base.earth import degrees_of, metres_of
from hydrarch.core.base.errors import HydrarchError
from hydrarch.core.components.base import Model

__all__ = ["FARTHEST", "Tie", "tie_at"]

FARTHEST = 85.0
"""Degrees of latitude, north or south, at the most."""


class Tie(Model):
    """Where the drawing's own origin lies: latitude and longitude (degrees, WGS 84), and by how much (rad, clockwise)
    the drawing's north is turned from true north.
    """

    latitude: float = Field(ge=-FARTHEST, le=FARTHEST)
    longitude: float = Field(ge=-180, le=180)
    turn: float = Field(0.0, ge=-2 * pi, le=2 * pi)

    def metres(self, latitude: float, longitude: float) -> tuple[float, float]:
        """Where a place lies on the drawing (m east and north)."""
        return metres_of(latitude, longitude, (self.latitude, self.longitude), self.turn)

    def degrees(self, east: float, north: float) -> tuple[float, float]:
        """Latitude and longitude of a spot of the drawing (m east and north)."""
        return degrees_of(east, north, (self.latitude, self.longitude), self.turn)


def tie_at(east: float, north: float, latitude: float, longitude: float, turn: float = 0.0) -> Tie:
    """The tie of a drawing on which the spot `east`, `north` (m) is the place of that latitude and longitude. Raises
    `HydrarchError` where the drawing's origin would lie too near a pole.
    """
    found = degrees_of(-east, -north, (latitude, longitude), turn)
    for _ in range(10):  # seen from there the spot is as far as it was seen from here, but for the earth's bend
        x, y = metres_of(latitude, longitude, found, turn)
        if abs(x - east) + abs(y - north) < 1e-6:
            break
        found = degrees_of(x - east, y - north, found, turn)
    if abs(found[0]) > FARTHEST:
        raise HydrarchError(
            f"the drawing's origin would lie at latitude {found[0]:.1f}: {FARTHEST:.0f} is the farthest"
        )
    return Tie(latitude=found[0], longitude=(found[1] + 180) % 360 - 180, turn=turn)
