"""How much water plants want, and how long heads run to give it: FAO Irrigation and Drainage Paper 56, and what the
soil takes in.

Temperatures are in °C and depths in mm here, as that paper has them; what comes out of this room is in SI.
"""

from __future__ import annotations

from dataclasses import dataclass
from math import acos, ceil, cos, exp, pi, radians, sin, sqrt, tan

from hydrarch.core.base.cache import remembered
from hydrarch.core.base.errors import HydrarchError, Unknown
from hydrarch.core.catalogue.tables import read_rows

__all__ = [
    "Day",
    "Plants",
    "RunTime",
    "Soil",
    "air_kpa",
    "daylight",
    "extraterrestrial",
    "hargreaves",
    "plants",
    "reference_need",
    "run_time",
    "vapour_kpa",
    "soils",
]

_PONDS = 5e-3
"""m of water that may stand on level ground before it runs off, from memory."""


@dataclass(frozen=True, slots=True)
class Soil:
    """A soil, what it takes in for good (m/s), and the water it holds for plants (m in each m of depth)."""

    soil: str
    title: str
    intake: float
    holds: float
    source: str


@remembered()
def soils() -> dict[str, Soil]:
    """Soils by name, the loosest first."""
    rows = read_rows(
        "hydrarch.core.catalogue",
        "soils.csv",
        lambda r: Soil(
            r["soil"], r["title"], float(r["intake_mm_h"]) / 3.6e6, float(r["holds_mm_m"]) / 1e3, r["source"]
        ),
    )
    return {s.soil: s for s in rows}


@dataclass(frozen=True, slots=True)
class Plants:
    """What is watered: its coefficient on the reference need, the share of the soil's water it may take, and how deep
    it draws (m).
    """

    plant: str
    title: str
    kc: float
    depletion: float
    root: float
    source: str


@remembered()
def plants() -> dict[str, Plants]:
    """What is watered, by name."""
    rows = read_rows(
        "hydrarch.core.catalogue",
        "plants.csv",
        lambda r: Plants(
            r["plant"], r["title"], float(r["kc"]), float(r["depletion"]), float(r["root_m"]), r["source"]
        ),
    )
    return {p.plant: p for p in rows}


def air_kpa(altitude: float) -> float:
    """Pressure of the air (kPa) at a height (m) above the sea; FAO-56, equation 7."""
    return float(101.3 * ((293 - 0.0065 * altitude) / 293) ** 5.26)


def vapour_kpa(temperature: float) -> float:
    """Pressure of saturated vapour (kPa) at a temperature (°C); FAO-56, equation 11."""
    return 0.6108 * exp(17.27 * temperature / (temperature + 237.3))


def extraterrestrial(latitude: float, day: int) -> float:
    """Radiation of the sun above the air (MJ/m² a day) at a latitude (degrees, south below zero) on a day of the
    year; equation 21.
    """
    phi, turn = radians(latitude), 2 * pi * day / 365
    near, tilt = 1 + 0.033 * cos(turn), 0.409 * sin(turn - 1.39)
    sunset = acos(max(-1.0, min(1.0, -tan(phi) * tan(tilt))))
    return 24 * 60 / pi * 0.0820 * near * (sunset * sin(phi) * sin(tilt) + cos(phi) * cos(tilt) * sin(sunset))


def daylight(latitude: float, day: int) -> float:
    """How long (s) the sun can shine at a latitude (degrees) on a day of the year; equation 34."""
    tilt = 0.409 * sin(2 * pi * day / 365 - 1.39)
    return 86400 / pi * acos(max(-1.0, min(1.0, -tan(radians(latitude)) * tan(tilt))))


@dataclass(frozen=True, slots=True)
class Day:
    """A day's weather: degrees (°C), damp (%), wind at 10 m (m/s), hours of sun; where, and which day of the year."""

    warmest: float
    coldest: float
    dampest: float
    driest: float
    wind: float
    sun: float
    latitude: float
    altitude: float
    day: int


def reference_need(d: Day) -> float:
    """What short grass with water enough gives off in a day (mm), by Penman and Monteith; FAO-56, equation 6."""
    mean, pressure = (d.warmest + d.coldest) / 2, air_kpa(d.altitude)
    slope, gamma = 4098 * vapour_kpa(mean) / (mean + 237.3) ** 2, 0.665e-3 * pressure
    full = (vapour_kpa(d.warmest) + vapour_kpa(d.coldest)) / 2
    there = (vapour_kpa(d.coldest) * d.dampest + vapour_kpa(d.warmest) * d.driest) / 200
    above = extraterrestrial(d.latitude, d.day)
    light = daylight(d.latitude, d.day) / 3600
    comes, clear = (0.25 + 0.5 * (d.sun / light if light > 0 else 0.0)) * above, (0.75 + 2e-5 * d.altitude) * above
    warm = ((d.warmest + 273.16) ** 4 + (d.coldest + 273.16) ** 4) / 2
    goes = (
        4.903e-9 * warm * (0.34 - 0.14 * sqrt(there)) * (1.35 * (min(comes / clear, 1.0) if clear > 0 else 1.0) - 0.35)
    )
    net, wind = 0.77 * comes - goes, d.wind * 4.87 / 6.605784  # from 10 m down to 2 m: 4.87 / ln(67.8 · 10 − 5.42)
    return (0.408 * slope * net + gamma * 900 / (mean + 273) * wind * (full - there)) / (
        slope + gamma * (1 + 0.34 * wind)
    )


def hargreaves(warmest: float, coldest: float, above: float) -> float:
    """The same (mm) from the day's warmth alone, `above` being the sun's radiation above the air as mm of water;
    FAO-56, equation 52.
    """
    return 0.0023 * ((warmest + coldest) / 2 + 17.8) * sqrt(max(warmest - coldest, 0.0)) * above


@dataclass(frozen=True, slots=True)
class RunTime:
    """How long heads run for one watering: `whole` (s) in `cycles`, each as long, with `soak` (s) between them; and
    why, in words.
    """

    whole: float
    cycles: int
    soak: float
    says: str


def run_time(mean: float, scheduling: float | None, need: float, soil: str) -> RunTime:
    """The time heads run to bring `need` (m) to the driest of the ground between them, at a `mean` rate (m/s) and its
    scheduling coefficient.

    Where water comes faster than the soil takes it in, it is parted into cycles, so that no more stands than the ground
    keeps. Raises `HydrarchError` where no time would do.
    """
    if soil not in soils():
        raise Unknown("soil", soil, list(soils()))
    if scheduling is None or mean <= 0:
        raise HydrarchError("some of the ground between the heads stays dry however long they run: fix that first")
    if not 0 < need <= 0.2:
        raise HydrarchError("say how much is to be brought at a watering: above zero, and no more than 200 mm (8 in)")
    ground = soils()[soil]
    whole = need / mean * scheduling
    over = mean - ground.intake
    once = _PONDS / over if over > 0 else whole
    cycles = max(1, ceil(whole / once - 1e-9)) if over > 0 else 1
    each = whole / cycles
    soak = max(0.0, mean * each / ground.intake - each) if cycles > 1 else 0.0
    says = f"Run it {_minutes(whole)}"
    if cycles > 1:
        says += (
            f", in {cycles} parts of {_minutes(each)} with {_minutes(soak)} between them: {ground.title.lower()} "
            "takes it in no faster"
        )
    return RunTime(whole, cycles, soak, says + ".")


def _minutes(seconds: float) -> str:
    minutes = max(1, round(seconds / 60))
    return f"{minutes} min" if minutes < 120 else f"{minutes // 60} h {minutes % 60:02d} min"
