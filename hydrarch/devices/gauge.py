"""A pressure gauge that logs: what one gives, its CSV, and a simulated one that ships with the demo."""

from __future__ import annotations

import csv
from dataclasses import dataclass
from math import exp, isfinite
from random import Random
from typing import ClassVar, Protocol

from hydrarch.core.base.errors import BadRow
from hydrarch.core.commissioning.stiffness import Stiffness
from hydrarch.core.record.events import Reading

__all__ = ["Gauge", "SimulatedGauge", "read_log"]


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


def read_log(text: str) -> tuple[Reading, ...]:
    """Readings from CSV with the columns seconds (or minutes) and bar (or psi or kpa), celsius where there is one.

    Raises `BadRow` with line and reason.
    """
    reader = csv.DictReader(text.lstrip("\ufeff").splitlines())
    head = {(name or "").strip().lower(): name for name in reader.fieldnames or ()}
    time = next(((head[n], f) for n, f in (("seconds", 1.0), ("minutes", 60.0)) if n in head), None)
    pressure = next(((head[n], f) for n, f in (("bar", 1e5), ("psi", 6894.757), ("kpa", 1e3)) if n in head), None)
    if time is None or pressure is None:
        raise BadRow("gauge log", 1, "it needs a column seconds or minutes, and one bar, psi or kpa")
    found = []
    for row in reader:
        try:
            warm = float(row[head["celsius"]]) + 273.15 if "celsius" in head and row[head["celsius"]] else None
            numbers = float(row[time[0]]) * time[1], float(row[pressure[0]]) * pressure[1], warm
            if not all(isfinite(n) for n in numbers if n is not None):
                raise ValueError("a reading is a number")
            found.append(Reading(*numbers))
        except (ValueError, TypeError) as error:
            raise BadRow("gauge log", reader.line_num, str(error)) from error
    return tuple(found)
