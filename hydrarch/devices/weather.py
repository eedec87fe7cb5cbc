"""A stand-in for a weather service: a day's temperatures made from a seed, or read from a CSV."""

from __future__ import annotations

import csv
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from math import cos, pi
from random import Random
from typing import Protocol

from hydrarch.core.base.errors import BadRow

__all__ = ["Hour", "SimulatedWeather", "Forecaster", "lowest", "read_weather"]


@dataclass(frozen=True, slots=True)
class Hour:
    """Air at one time (s since 1970): temperature (K) and relative humidity (0 to 1).

    Where they are foretold, `wind` (m/s, at 10 m) and in what share of the daylight the `sun` shines.
    """

    at: float
    temperature: float
    humidity: float
    wind: float | None = None
    sun: float | None = None


class Forecaster(Protocol):
    """Anything that foretells the air hour by hour."""

    def hours(self, start: float, count: int) -> tuple[Hour, ...]:
        """So many hours from `start` (s since 1970)."""


@dataclass(frozen=True, slots=True)
class SimulatedWeather:
    """An upland autumn made up: cold before dawn, mild after noon, a little different each day."""

    mean: float = 282.15
    swing: float = 5.0
    seed: int = 1

    def hours(self, start: float, count: int) -> tuple[Hour, ...]:
        """The same hours for the same seed and start."""
        found = []
        for n in range(count):
            at = start + 3600 * n
            day = Random(self.seed * 100_003 + int(at // 86400))
            drift, damp = day.uniform(-3, 3), day.uniform(-0.1, 0.1)
            breeze, clear = day.uniform(1.5, 5), day.uniform(0.2, 0.9)
            wave = cos(2 * pi * ((at % 86400) / 86400 - 15 / 24))
            found.append(
                Hour(
                    at,
                    self.mean + drift + self.swing * wave,
                    min(0.98, max(0.2, 0.75 + damp - 0.2 * wave)),
                    breeze,
                    clear,
                )
            )
        return tuple(found)


def lowest(hours: Sequence[Hour]) -> tuple[float, float]:
    """The lowest temperature (K) and the highest humidity among hours: what a cure must reckon with."""
    return min(h.temperature for h in hours), max(h.humidity for h in hours)


def read_weather(text: str) -> tuple[Hour, ...]:
    """Hours from CSV with the columns time (ISO 8601 or seconds since 1970), celsius and humidity (%), and wind (m/s)
    and sun (%) if it has them.

    Raises `BadRow` with line and reason.
    """
    reader = csv.DictReader(text.lstrip("\ufeff").splitlines())
    if not {"time", "celsius", "humidity"} <= set(reader.fieldnames or ()):
        raise BadRow("weather", 1, "it needs the columns time, celsius and humidity")
    found = []
    for row in reader:
        try:
            written = row["time"].strip()
            at = (
                float(written) if written.replace(".", "", 1).isdigit() else datetime.fromisoformat(written).timestamp()
            )
            wind, sun = (float(row[c]) if (row.get(c) or "").strip() else None for c in ("wind", "sun"))
            hour = Hour(
                at,
                float(row["celsius"]) + 273.15,
                float(row["humidity"]) / 100,
                wind,
                None if sun is None else sun / 100,
            )
        except (ValueError, AttributeError) as error:
            raise BadRow("weather", reader.line_num, str(error)) from error
        if not (200 < hour.temperature < 340 and 0 <= hour.humidity <= 1):
            raise BadRow("weather", reader.line_num, "a temperature or humidity that cannot be")
        if not (0 <= (hour.wind or 0.0) <= 100 and 0 <= (hour.sun or 0.0) <= 1):
            raise BadRow("weather", reader.line_num, "a wind or a share of sun that cannot be")
        found.append(hour)
    if not found:
        raise BadRow("weather", reader.line_num, "it holds no hours")
    return tuple(found)
