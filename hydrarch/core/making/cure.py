"""When a solvent weld may be handled and when it may take pressure.

The table is trade guidance of the kind printed with ASTM D2855, from memory: it is coarse, and the cement can's own
table wins where it asks for longer.
"""

from __future__ import annotations

from dataclasses import dataclass

from hydrarch.core.catalogue.tables import read_rows
from hydrarch.core.errors import HydrarchError, OutOfRange
from hydrarch.core.remember import remembered
from hydrarch.core.units import PSI, System, show, size_value

__all__ = ["CureTime", "cure_time"]

LOW_PRESSURE = 160 * PSI
HIGH_PRESSURE = 370 * PSI
DAMP = 0.60
_HOUSE = {"table": 0.0, "day": 24 * 3600.0, "long": 72 * 3600.0}


@dataclass(frozen=True, slots=True)
class CureTime:
    """Seconds until a weld may be handled (`set`), may be filled slowly (`fill`) and may take its test pressure (`cure`), and why."""

    set: float
    fill: float
    cure: float
    says: str
    source: str


@dataclass(frozen=True, slots=True)
class _Band:
    low: float
    high: float
    size_from: float
    size_to: float
    set: float
    cure_low: float
    cure_high: float
    source: str


@remembered()
def _bands() -> tuple[_Band, ...]:
    def make(row: dict[str, str]) -> _Band:
        return _Band(
            _kelvin(float(row["from_f"])), _kelvin(float(row["to_f"])),
            size_value(row["size_from"]), size_value(row["size_to"]),
            float(row["set_min"]) * 60, float(row["cure_low_min"]) * 60, float(row["cure_high_min"]) * 60, row["source"],
        )  # fmt: skip

    return read_rows("hydrarch.core.making", "cure.csv", make)


def _kelvin(fahrenheit: float) -> float:
    return (fahrenheit + 459.67) * 5 / 9


def cure_time(
    size: str, temperature: float, humidity: float, pressure: float, practice: str = "table", units: System = "metric"
) -> CureTime:
    """Set and cure time of a weld of nominal `size` at the lowest `temperature` (K) while it cures.

    `humidity` is a share of 1: above 0.60 both the trade and this table add half. `pressure` (Pa) is the test's; the
    table ends at 370 psi. `practice` is the house rule; it never falls below the table. Raises `OutOfRange` outside
    0 to 100 °F, 0 to 370 psi and 1/2 to 8 in.
    """
    if not _kelvin(0) <= temperature <= _kelvin(100) + 1e-9:
        raise OutOfRange("curing temperature", temperature - 273.15, -17.8, 37.8, "°C")
    if not 0 <= pressure <= HIGH_PRESSURE + 1:
        raise OutOfRange("test pressure", pressure / 1e5, 0, HIGH_PRESSURE / 1e5, "bar")
    inches = size_value(size)
    fits = [b for b in _bands() if b.low <= temperature <= b.high + 1e-9 and b.size_from <= inches <= b.size_to]
    if not fits:
        raise OutOfRange("size", inches, 0.5, 8, "in")
    band = fits[0] if temperature >= fits[0].low else fits[-1]
    damp = 1.5 if humidity > DAMP else 1.0
    low = pressure <= LOW_PRESSURE
    fill = band.cure_low * damp
    cure = fill if low else band.cure_high * damp
    floor = _house_time(practice, inches, temperature)
    parts = [f"size {size} at {show(temperature, 'temperature', units)}", "damp, half as long again" if damp > 1 else "dry"]
    parts.append(f"test {'to' if low else 'over'} {show(LOW_PRESSURE, 'pressure', units)}")
    if floor > cure:
        parts.append("house practice is longer than the table")
    return CureTime(band.set, max(fill, floor), max(cure, floor), ", ".join(parts), band.source)


def _house_time(practice: str, inches: float, temperature: float) -> float:
    if practice == "quick":
        return 900.0 if inches <= 1.25 and temperature >= _kelvin(60) else 7200.0
    if practice not in _HOUSE:
        raise HydrarchError(f"there is no cure practice called '{practice}'")
    return _HOUSE[practice]
