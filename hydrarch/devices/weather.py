"""A stand-in for a weather service: a day's temperatures made from a seed, or read from a CSV."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from math import cos, pi
from random import Random
from typing import Protocol

from hydrarch.core.base.errors import BadRow
from hydrarch.core.base.tablefile import ForeignTable, TableRow, WantedColumn, read_table
from hydrarch.devices.moments import moment

__all__ = ["WANTED", "Forecaster", "Hour", "SimulatedWeather", "lowest", "read_weather"]


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
    """The lowest temperature (K) and the highest humidity among hours: what a cure must allow for."""
    return min(h.temperature for h in hours), max(h.humidity for h in hours)


WANTED = (
    WantedColumn("date", ("date", "datum", "fecha")),
    WantedColumn(
        "time", ("time", "timestamp", "date time", "datetime", "date/time", "zeit", "heure", "hora"), needed=True
    ),
    WantedColumn(
        "temperature", ("temperature", "temp", "t", "air temperature", "temperatur"), "temperature", True, "", True
    ),
    WantedColumn("humidity", ("humidity", "rh", "relative humidity", "hum", "feuchte", "humidité"), "humidity", True),
    WantedColumn("wind", ("wind", "wind speed", "windspeed", "vent", "viento"), "wind", unit="m/s"),
    WantedColumn("sun", ("sun", "sunshine", "sun share"), "humidity"),
)
"""The columns of a table of weather; wind without a unit is in m/s, sun in % of the daylight."""


def read_weather(file: bytes | str) -> tuple[Hour, ...]:
    """Hours from a table: when (ISO 8601, a date and time as it is written, or seconds since 1970), temperature with
    its unit, humidity in %, and wind and sun if it has them.

    Raises `BadRow` with line and reason, for a temperature whose unit nobody says, and for humidities that can be
    shares of one.
    """
    table = read_table("weather", file, WANTED)
    if not table.rows:
        raise BadRow("weather", 1, "it holds no hours")
    warm, damp = (next(c for c in table.columns if c.used == n) for n in ("temperature", "humidity"))
    if not warm.said:
        raise BadRow("weather", 1, f"'{warm.head}' has no unit: write °C or °F in the head")
    shares = [table.number(r, "humidity") for r in table.rows]
    if not damp.said and all(s is not None and s <= 0.01 for s in shares) and any(shares):
        cell = table.words(table.rows[0], "humidity")
        raise BadRow("weather", table.rows[0].line, f"a humidity of {cell}: write it in per cent, such as 80")
    return tuple(_hour(table, row) for row in table.rows)


def _hour(table: ForeignTable, row: TableRow) -> Hour:
    written = " ".join(w for w in (table.words(row, "date"), table.words(row, "time")) if w)
    at = float(written) if written.replace(".", "", 1).isdigit() and len(written) >= 8 else moment(written)
    if at is None:
        raise BadRow("weather", row.line, f"'{written[:30]}' is no date and time")
    warm, damp = table.number(row, "temperature"), table.number(row, "humidity")
    wind = table.number(row, "wind") if table.has("wind") else None
    sun = table.number(row, "sun") if table.has("sun") else None
    if warm is None or damp is None:
        raise BadRow("weather", row.line, "its temperature or humidity is blank")
    if not (200 < warm < 340 and 0 <= damp <= 1):
        raise BadRow("weather", row.line, "a temperature or humidity that cannot be")
    if not (0 <= (wind or 0.0) <= 100 and 0 <= (sun or 0.0) <= 1):
        raise BadRow("weather", row.line, "a wind or a share of sun that cannot be")
    return Hour(at, warm, damp, wind, sun)
