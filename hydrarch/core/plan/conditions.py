"""The conditions of a job and the limits its crew works to. They are a part of a plan."""

from __future__ import annotations

from collections.abc import Callable
from typing import Literal

from pydantic import Field, model_validator

from hydrarch.core.base.errors import HydrarchError
from hydrarch.core.catalogue.markets import Market
from hydrarch.core.catalogue.pipes import series
from hydrarch.core.components.base import Model
from hydrarch.core.components.base import field as _field

__all__ = ["Conditions", "known"]


def known(look: Callable[[], object], where: str) -> None:
    """Look something up; what is not there is a `ValueError` that says where it was asked for."""
    try:
        look()
    except HydrarchError as error:
        raise ValueError(f"{where}: {error}") from error
    except IndexError:
        raise ValueError(f"{where}: that fitting has fewer ports") from None


class Conditions(Model):
    """The job's conditions and the limits the crew works to."""

    water_temperature: float = _field(285.15, "Water temperature", "temperature", ge=273.15, le=333.15)
    air_temperature: float = _field(291.15, "Lowest air temperature while curing", "temperature", ge=255.35, le=310.95)
    humidity: float = _field(0.5, "Relative humidity", "humidity", ge=0, le=1)
    weather: Literal["assumed", "said", "feed"] = Field("assumed", title="That weather is")
    friction: Literal["hazen-williams", "darcy-weisbach"] = Field("hazen-williams", title="Friction formula")
    max_velocity: float = _field(1.524, "Velocity limit", "velocity", ge=0.1, le=10)
    closing: float = _field(0.0, "Fastest valve closes in, 0 at once", "seconds", ge=0, le=600)
    crew: Literal["1", "2", "3", "4"] = Field("1", title="People who make joints")
    test_pressure: float | None = _field(None, "Test pressure", "pressure", gt=0, le=5e6)
    rain: float = _field(0.1 / 3600, "Design rainfall, by the local table", "rain", ge=0, le=1e-3)
    frost: float | None = _field(None, "Frost goes down to, by the local table", "depth", ge=0, le=5)
    frost_days: float | None = _field(None, "Degree-days of frost in a cold winter", "frost days", ge=0, le=5e8)
    coldest: float | None = _field(None, "Coldest air, of a winter's night", "temperature", ge=203.15, le=310.95)
    warmest: float | None = _field(None, "Warmest that pipe in the open gets", "temperature", ge=253.15, le=363.15)
    altitude: float = _field(0.0, "Height above the sea", "level", ge=-500, le=5000)
    energy_price: float = _field(0.3, "Price of a kilowatt-hour", "ratio", ge=0, le=100)
    run_hours: float = _field(400.0, "Hours pumped in a year", "ratio", ge=0, le=8784)
    years: float = _field(15.0, "Years counted", "ratio", ge=0, le=100)
    pump_efficiency: float = _field(0.45, "Efficiency, plug to water", "ratio", ge=0.01, le=1)
    kerf: float = _field(0.003, "Saw kerf", "takeoff", ge=0, le=0.02)
    keep: float = _field(0.3, "Shortest remainder worth keeping", "cut", ge=0, le=5)
    spares: float = _field(0.1, "Spare fittings, share", "ratio", ge=0, le=1)
    series: str = Field("pvc40", title="Pipe where none is chosen")
    market: Market = Field("both", title="What the shop sells")
    soil: Literal["sand", "sandy-loam", "loam", "clay-loam", "clay"] = Field("loam", title="Soil")

    @model_validator(mode="after")
    def _series_exists(self) -> Conditions:
        known(lambda: series(self.series), "conditions")
        return self
