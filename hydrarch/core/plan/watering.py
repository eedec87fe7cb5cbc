"""What a controller opens: zones of outlets, each at a station, and when it waters them. They are parts of a plan."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from hydrarch.core.base.identity import Names, Refers
from hydrarch.core.components.base import Model

__all__ = ["MOST_ZONES", "Watering", "Weather", "Zone"]

MOST_ZONES = 200
Plant = Literal["cool-lawn", "warm-lawn", "vegetables", "shrubs", "orchard"]


class Zone(Model):
    """Outlets that open together, when the controller opens their valve.

    Those that are not on the drawing any more are left out of it.
    """

    id: Annotated[str, Field(pattern=r"^[A-Za-z0-9_-]{1,40}$"), Names("scenario")]
    name: Annotated[str, Field(min_length=1, max_length=80)]
    heads: Annotated[
        tuple[Annotated[str, Refers("thing", holds="outlet")], ...], Field(strict=False, max_length=5000)
    ] = ()
    valve: Annotated[str, Field(max_length=40), Refers("thing", holds="kind")] = ""


Share = Annotated[float, Field(ge=0, le=1)]


class Weather(Model):
    """The days that are watered for: the warmest and coldest of a day (K), and, where they are known, the dampest and
    driest (shares).

    `wind` (m/s, at 10 m) is the day's mean, `sun` (s) how long it shines. What contradicts is told where the need is
    calculated.
    """

    warmest: Annotated[float, Field(ge=220, le=335)] = 298.15
    coldest: Annotated[float, Field(ge=220, le=335)] = 286.15
    dampest: Share | None = None
    driest: Share | None = None
    wind: Annotated[float, Field(ge=0, le=60)] | None = None
    sun: Annotated[float, Field(ge=0, le=86400)] | None = None


class Watering(Model):
    """When and for what zones are watered: the plants, the latitude (degrees), when it begins (s of the day), the
    controller's stations.

    `altitude` (m) is above the sea. `weather` is the crew's own, None for what the feed foretells. `root` (m) is how
    deep the plants draw, None for what is usual of them.
    """

    plants: Plant = "cool-lawn"
    latitude: Annotated[float, Field(ge=-66, le=66)] = 50.0
    altitude: Annotated[float, Field(ge=-430, le=6000)] = 100.0
    weather: Weather | None = None
    begins: Annotated[float, Field(ge=0, lt=86400)] = 4 * 3600.0
    stations: Annotated[int, Field(ge=1, le=MOST_ZONES)] = 8
    root: Annotated[float, Field(ge=0.05, le=3)] | None = None
