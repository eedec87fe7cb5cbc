"""Pipe series and their sizes: diameters, walls, ratings and what they may be used for."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from itertools import pairwise
from typing import Final

from hydrarch.core.base.cache import remembered
from hydrarch.core.base.errors import OutOfRange, Unknown
from hydrarch.core.base.units import FOOT, INCH, PSI, out_of_range, size_value
from hydrarch.core.catalogue.own import own
from hydrarch.core.catalogue.tables import read_rows, yes_or_no

__all__ = [
    "Pipe",
    "Series",
    "bend_radius",
    "derating",
    "pipe",
    "pipe_called",
    "pressure_rating",
    "HUNG",
    "THREADED",
    "joined_rating",
    "laid_rating",
    "rating_at",
    "thread_end",
    "rating_from_wall",
    "series",
    "series_list",
]

_PACKAGE = "hydrarch.core.catalogue"
_WALL_SPREAD: dict[str, Callable[[float], float]] = {
    "od": lambda wall: max(0.020, 0.12 * wall),  # ASTM D1785 and D2241
    "od-12": lambda wall: 0.12 * wall,  # ASTM D3034, from memory
    "od-min": lambda wall: 0.1 * wall + 0.1 / 25.4,  # ISO 4427-2 and ISO 15874-2, grade of tolerance from memory
    "id": lambda wall: 0.0,
    "nominal": lambda wall: 0.0,  # ASME B36.10 and tube: the wall printed is the middle one
}
"""How much thicker than its least a wall may be (in), by the diameter that is held."""


@dataclass(frozen=True, slots=True)
class Pipe:
    """One size of a series. Lengths in m, rating in Pa at 23 °C.

    `bore` is the average bore, the one friction sees: outside less twice the wall with half its tolerance
    (ASTM D1785 and D2241: the larger of 0.020 in and 12 %); bore-controlled polyethylene holds its bore.
    """

    series: str
    size: str
    outside: float
    wall: float
    bore: float
    rating: float
    source: str

    def __hash__(self) -> int:
        """By its series and size, as it is looked up often."""
        return hash((self.series, self.size))

    @property
    def name(self) -> str:
        """What prices, stock and joints call it, "pvc40 1": looked up whole by `pipe_called`, never taken apart."""
        return f"{self.series} {self.size}"


@dataclass(frozen=True, slots=True)
class Series:
    """One standard's family of one material.

    `stress` (Pa) is its design stress, `basis` whether outside or inside diameter is held, `roughness` (m) the absolute
    one, `kind` what it is for (pressure, drain, drip, or existing only), `density` in kg/m³, `ends` what a cut
    end offers (system and gender, the usual one first), `bend_radius` the least long-term cold bend in outside
    diameters, `expansion` in 1/K, `manning_n` its roughness when it runs part full, `potable` whether it may carry
    drinking water, `liner` whether a nut crushes it without one, `wheels` whether it may lie under them. `stick` and
    `coil` (m) are the lengths it is sold in, None where it is not; `shorter` (m) are those it is sold in besides.
    """

    id: str
    name: str
    short: str
    material: str
    stress: float
    basis: str
    hazen_williams_c: float
    roughness: float
    stick: float | None
    coil: float | None
    shorter: tuple[float, ...]
    bend_radius: float
    expansion: float
    kind: str
    manning_n: float
    potable: bool
    liner: bool
    wheels: bool
    density: float
    ends: tuple[str, ...]
    situations: tuple[str, ...]
    pattern: str
    caution: str
    sizes: tuple[Pipe, ...]
    source: str


def _pipe_from(row: dict[str, str], basis: str) -> Pipe:
    outside, wall = float(row["od_in"]), float(row["wall_in"])
    if not 0 < 2 * wall < outside:
        raise ValueError(f"a wall of {wall} in leaves no bore in {outside} in outside")
    spread = _WALL_SPREAD[basis](wall)
    return Pipe(
        series=row["series"],
        size=row["size"],
        outside=outside * INCH,
        wall=wall * INCH,
        bore=(outside - 2 * (wall + spread / 2)) * INCH,
        rating=float(row["rating_psi"]) * PSI,
        source=row["source"],
    )


def _fit_for(told: list[str]) -> tuple[str, ...]:
    """Where a series may lie: where its row says, and what may hang or lie in the open may do so under a roof, too."""
    indoors = ("in a cellar", "in a pit") if {"on bracket", "on surface"} & set(told) else ()
    return (*told, *(x for x in indoors if x not in told))


def _series_from(row: dict[str, str], pipes: tuple[dict[str, str], ...]) -> Series:
    mine = tuple(_pipe_from(p, row["basis"]) for p in pipes if p["series"] == row["id"])
    if not mine:
        raise ValueError(f"series {row['id']} has no sizes in pipes.csv")
    if row["basis"] not in _WALL_SPREAD:
        raise ValueError(f"'{row['basis']}' is not a diameter to hold; use {', '.join(_WALL_SPREAD)}")
    if any(a.outside >= b.outside for a, b in pairwise(mine)):
        raise ValueError(f"the sizes of {row['id']} do not grow")
    return Series(
        id=row["id"],
        name=row["name"],
        short=row["short"],
        material=row["material"],
        stress=float(row["stress_psi"]) * PSI,
        basis=row["basis"],
        hazen_williams_c=float(row["hazen_williams_c"]),
        roughness=float(row["roughness_mm"]) * 1e-3,
        stick=float(row["stick_ft"]) * FOOT if row["stick_ft"] else None,
        coil=float(row["coil_ft"]) * FOOT if row["coil_ft"] else None,
        shorter=tuple(float(x) * FOOT for x in (row.get("also_ft") or "").split()),
        bend_radius=float(row["bend_radius_od"]),
        expansion=float(row["expansion_per_k"]),
        kind=row["kind"],
        manning_n=float(row["manning_n"]),
        potable=yes_or_no(row["potable"]),
        liner=yes_or_no(row["liner"]),
        wheels=yes_or_no(row["wheels"]),
        density=float(row["density"]),
        ends=tuple(row["ends"].split("|")),
        situations=_fit_for(row["situations"].split("|")),
        pattern=row["pattern"],
        caution=row["caution"],
        sizes=mine,
        source=row["source"],
    )


@remembered()
def _all_series() -> dict[str, Series]:
    pipes = read_rows(_PACKAGE, "pipes.csv", dict)
    shipped = read_rows(_PACKAGE, "series.csv", lambda row: _series_from(row, pipes))
    return {s.id: s for s in (*shipped, *own().series)}


def series_list() -> tuple[Series, ...]:
    """Every series, in the order of the data file."""
    return tuple(_all_series().values())


def series(name: str) -> Series:
    """The series called `name`; raises `Unknown` with the nearest names."""
    found = _all_series().get(name)
    if found is None:
        raise Unknown("pipe series", name, _all_series())
    return found


@remembered()
def pipe(series_name: str, size: str) -> Pipe:
    """One size of a series; raises `Unknown`."""
    family = series(series_name)
    for candidate in family.sizes:
        if candidate.size == size:
            return candidate
    raise Unknown(f"size of {family.name}", size, sorted((p.size for p in family.sizes), key=size_value))


@remembered()
def _called() -> dict[str, Pipe]:
    return {p.name: p for family in _all_series().values() for p in family.sizes}


def pipe_called(name: str) -> Pipe:
    """The pipe of a name as prices, stock and joints have it, "pvc40 1"; raises `Unknown` with the nearest."""
    found = _called().get(name)
    if found is None:
        raise Unknown("pipe", name, _called())
    return found


@remembered()
def _derating_table(material: str) -> tuple[tuple[float, float], ...]:
    rows = read_rows(_PACKAGE, "derating.csv", dict)
    return tuple((float(r["celsius"]) + 273.15, float(r["factor"])) for r in rows if r["material"] == material)


def derating(material: str, temperature: float) -> float:
    """Share of the rating left at `temperature` (K), linear between the rows of the table, 1 below the first.

    Raises `OutOfRange` above the last row: the pipe is not for that heat.
    """
    table = _derating_table(material)
    if not table:
        raise Unknown("derating table", material)
    if temperature <= table[0][0]:
        return 1.0
    for (t0, f0), (t1, f1) in pairwise(table):
        if temperature <= t1 + 0.01:
            return f0 + (f1 - f0) * (temperature - t0) / (t1 - t0)
    raise out_of_range("water temperature", temperature, 273.15, table[-1][0], "temperature")


def pressure_rating(item: Pipe, temperature: float) -> float:
    """Rating (Pa) of a pipe at a water temperature (K)."""
    return item.rating * derating(series(item.series).material, temperature)


def rating_at(item: Pipe, temperature: float) -> float:
    """Rating (Pa) of a pipe at a water temperature (K); zero where it is not made for water so warm."""
    try:
        return pressure_rating(item, temperature)
    except OutOfRange:
        return 0.0


THREADED = 0.5
"""What threading leaves of the rating of plastic pipe: half, ASTM D1785 practice, from memory."""
HUNG: Final = "in well"
"""The situation of a string that hangs in a well: stick to stick by threads, where a pipe is made so."""


def thread_end(name: str) -> str | None:
    """The thread (system and gender) that a plastic series may have cut on its ends; None where it is never threaded,
    or is steel.
    """
    family = series(name)
    return next((e for e in family.ends[1:] if e in ("npt:male", "bsp:male")), None)


def joined_rating(item: Pipe, temperature: float, end_name: str) -> float:
    """Rating (Pa) of a pipe that is joined by one of its ends: of plastic with a thread cut on it, half; zero where
    the water is too warm for it.
    """
    thread = thread_end(item.series)
    return rating_at(item, temperature) * (THREADED if thread and end_name == f"{thread}:{item.size}" else 1.0)


def laid_rating(item: Pipe, temperature: float, situation: str) -> float:
    """Rating (Pa) of a pipe where it lies: of plastic that hangs on its threads half, zero where the water is too
    warm for it.
    """
    return rating_at(item, temperature) * (THREADED if situation == HUNG and thread_end(item.series) else 1.0)


def rating_from_wall(item: Pipe) -> float:
    """The rating (Pa) its wall and design stress give: P = 2·S·t/(D − t), the ISO equation the standards build on.

    Bore-controlled polyethylene uses the same equation: its outside is the bore plus two walls.
    """
    return 2 * series(item.series).stress * item.wall / (item.outside - item.wall)


def bend_radius(item: Pipe) -> float:
    """Least radius (m) to which a pipe may be laid cold for good."""
    return series(item.series).bend_radius * item.outside
