"""A pressure gauge that logs: what one gives, its CSV, and a simulated one that ships with the demo."""

from __future__ import annotations

from dataclasses import dataclass
from math import exp
from random import Random
from typing import ClassVar, Protocol

from hydrarch.core.base.errors import BadRow
from hydrarch.core.base.tablefile import ForeignTable, TableRow, WantedColumn, read_table
from hydrarch.core.commissioning.stiffness import Stiffness
from hydrarch.core.record.events import Reading
from hydrarch.devices.moments import moment

__all__ = ["WANTED", "Gauge", "SimulatedGauge", "read_log"]


class Gauge(Protocol):
    """Anything that logs a section's pressure."""

    def log(self, minutes: int = 30) -> tuple[Reading, ...]:
        """A reading a minute, the first at 0 s."""


@dataclass(frozen=True, slots=True)
class SimulatedGauge:
    """A stand-in for a logger, on a section that stretches, warms or cools, and may leak `leak` (m³/s).

    The same seed reads the same.
    """

    THERMOMETER: ClassVar[float] = 0.1
    """K its thermometer is wrong by."""
    full: Stiffness
    start: float
    leak: float = 0.0
    stretch: float = 8e3
    drift: float = 0.4
    error: float = 1.0e3
    temperature: float = 285.15
    seed: int = 1

    def log(self, minutes: int = 30) -> tuple[Reading, ...]:
        """A reading a minute, the first at 0 s. `stretch` (Pa) dies away in ten minutes, `drift` (K/h) is steady."""
        noise = Random(self.seed)
        found = []
        for n in range(minutes + 1):
            t = 60.0 * n
            warm = self.drift * t / 3600
            true = (
                self.start
                - self.stretch * (1 - exp(-t / 600))
                + self.full.per_kelvin * warm
                - self.leak * t / self.full.per_pascal
            )
            found.append(
                Reading(t, max(0.0, true + noise.gauss(0, self.error)), self.temperature + warm, simulated=True)
            )
        return tuple(found)


WANTED = (
    WantedColumn("date", ("date", "datum", "fecha")),
    WantedColumn(
        "time",
        ("time", "timestamp", "date time", "datetime", "date/time", "elapsed", "t", "zeit", "heure", "hora"),
        "seconds",
        needed=True,
        by_unit=True,
    ),
    WantedColumn("pressure", ("pressure", "p", "druck", "pression", "presión"), "pressure", needed=True, by_unit=True),
    WantedColumn(
        "temperature", ("temperature", "temp", "water temperature", "temperatur"), "temperature", by_unit=True
    ),
)
"""The columns of a logger's file."""


def read_log(file: bytes | str) -> tuple[Reading, ...]:
    """Readings from a logger's table: when, the pressure with its unit (bar, psi, kPa, mbar), and the temperature if it
    has one. Times are since the start, with their unit, or by the clock; then they count from the first.

    Raises `BadRow` with line and reason, and for a pressure or time whose unit nobody says.
    """
    table = read_table("gauge log", file, WANTED)
    said = {c.used: c.said for c in table.columns}
    clock = bool(table.rows) and _at(table, table.rows[0]) is not None
    for name, write in (("time", "seconds or minutes"), ("pressure", "bar, psi, kPa or mbar")):
        if not said[name] and not (name == "time" and clock):
            head = next(c.head for c in table.columns if c.used == name)
            raise BadRow("gauge log", 1, f"'{head}' has no unit: write it in the head, {write}")
    if "temperature" in said and not said["temperature"]:
        head = next(c.head for c in table.columns if c.used == "temperature")
        raise BadRow("gauge log", 1, f"'{head}' has no unit: write °C or °F in the head")
    found: list[Reading] = []
    start: float | None = None
    for row in table.rows:
        at = _at(table, row) if clock else table.number(row, "time")
        if at is None and clock:
            raise BadRow("gauge log", row.line, f"'{table.words(row, 'time')[:30]}' is no date and time")
        pressure = table.number(row, "pressure")
        if at is None or pressure is None:
            raise BadRow("gauge log", row.line, "its time or pressure is blank")
        start = at if start is None else start
        warm = table.number(row, "temperature") if "temperature" in said else None
        found.append(Reading(at - start if clock else at, pressure, warm))
    return tuple(found)


def _at(table: ForeignTable, row: TableRow) -> float | None:
    """When a row was logged (s since 1970, by its own clock), None where it says no date and time."""
    return moment(" ".join(w for w in (table.words(row, "date"), table.words(row, "time")) if w))
