"""When a solvent weld may be handled and when it may take pressure.

The table is trade guidance of the kind printed by makers of cement, with the handling times of ASTM D2855, from memory:
it is coarse, and the can's own chart wins where it asks for longer. Beyond its ends the last row is taken and said to
be.
"""

from __future__ import annotations

from dataclasses import dataclass

from hydrarch.core.base.cache import remembered
from hydrarch.core.base.errors import HydrarchError
from hydrarch.core.base.units import PSI, System, check_range, show, size_value
from hydrarch.core.catalogue.tables import read_rows

__all__ = ["CureTime", "cure_time"]

LOW_PRESSURE = 160 * PSI
_HOTTEST = 323.15  # K: hotter nobody welds pipe in the open
_FREEZES = 273.15
DAMP = 0.60
_HOUSE = {"table": 0.0, "day": 24 * 3600.0, "long": 72 * 3600.0}


@dataclass(frozen=True, slots=True)
class CureTime:
    """Seconds until a joint may be let go of (`set`) and lifted or lowered (`handle`), be filled (`fill`) and take its
    test (`cure`), and why.
    """

    set: float
    handle: float
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
    handle: float
    cure_low: float
    cure_high: float
    most: float
    source: str


@remembered()
def _bands() -> tuple[_Band, ...]:
    def make(row: dict[str, str]) -> _Band:
        return _Band(
            low=_kelvin(float(row["from_f"])),
            high=_kelvin(float(row["to_f"])),
            size_from=size_value(row["size_from"]),
            size_to=size_value(row["size_to"]),
            set=float(row["set_min"]) * 60,
            handle=float(row["handle_min"]) * 60,
            cure_low=float(row["cure_low_min"]) * 60,
            cure_high=float(row["cure_high_min"]) * 60,
            most=float(row["high_psi"]) * PSI,
            source=row["source"],
        )

    return read_rows("hydrarch.core.making", "cure.csv", make)


def _kelvin(fahrenheit: float) -> float:
    return (fahrenheit + 459.67) * 5 / 9


def cure_time(
    size: str, temperature: float, humidity: float, pressure: float, practice: str = "table", units: System = "metric"
) -> CureTime:
    """Set and cure time of a weld of nominal `size` at the lowest `temperature` (K) while it cures.

    `humidity` is a share of 1: above 0.60 both the trade and this table add half. `pressure` (Pa) is the test's. The
    table ends at 100 °F, and at 370 psi to 1-1/4 in, 315 psi above; beyond, to 50 °C and at any pressure, its last row
    is taken and that is said. `practice` is the house rule; it never falls below the table. Sizes beyond 1/2 to 8 in
    wait as those. Raises `OutOfRange` outside 0 °F to 50 °C.
    """
    check_range("curing temperature", temperature, _kelvin(0), _HOTTEST, "temperature")
    check_range("test pressure", pressure, 0, 1e8, "pressure")
    hot = temperature > _kelvin(100) + 1e-9
    warm = min(temperature, _kelvin(100))
    real = size_value(size)
    inches = min(max(real, 0.5), 8.0)
    fits = [b for b in _bands() if b.low <= warm <= b.high + 1e-9 and b.size_from <= inches <= b.size_to]
    band = fits[0] if warm >= fits[0].low else fits[-1]
    damp = 1.5 if humidity > DAMP else 1.0
    low = pressure <= LOW_PRESSURE
    fill = band.cure_low * damp
    cure = fill if low else band.cure_high * damp
    floor = _house_time(practice, inches, temperature)
    parts = [
        f"size {size} at {show(temperature, 'temperature', units)}",
        "damp, half as long again" if damp > 1 else "dry",
    ]
    parts.append(f"test {'to' if low else 'over'} {show(LOW_PRESSURE, 'pressure', units)}")
    if hot:
        end = show(_kelvin(100), "temperature", units)
        parts.append(f"hotter than the table goes: its waits at {end}, in the shade, and cement skins at once")
    if real > 8:
        parts.append("larger than the table goes: its waits for 8 in are the least")
    if temperature < _FREEZES:
        parts.append("it freezes: no water in it until it thaws")
    if pressure > band.most + 1:
        parts.append(
            f"the table ends at {show(band.most, 'pressure', units)}: the can's own chart decides, and this "
            "is the least"
        )
    if floor > cure:
        parts.append("the crew standard is longer than the table")
    return CureTime(
        band.set, max(band.set, band.handle), max(fill, floor), max(cure, floor), ", ".join(parts), band.source
    )


def _house_time(practice: str, inches: float, temperature: float) -> float:
    if practice == "quick":
        return 900.0 if inches <= 1.25 and temperature >= _kelvin(60) else 7200.0
    if practice not in _HOUSE:
        raise HydrarchError(f"there is no cure practice called '{practice}'")
    return _HOUSE[practice]
