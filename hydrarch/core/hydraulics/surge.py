"""Water hammer: how fast the pressure wave runs, how high it goes, and how slowly to close."""

from __future__ import annotations

from dataclasses import dataclass

from hydrarch.core.base.cache import remembered
from hydrarch.core.base.errors import Unknown
from hydrarch.core.base.units import check_range
from hydrarch.core.catalogue.pipes import Pipe, rating_at, series
from hydrarch.core.catalogue.tables import read_rows
from hydrarch.core.hydraulics.water import water

__all__ = ["Surge", "elasticity", "joukowsky", "surge", "wave_speed", "wave_speed_in"]

_SOFT = {"pvc-flex": "pvc-soft", "vinyl": "vinyl", "pe-rural": "ldpe"}
BULK_MODULUS = 2.19e9
"""Bulk modulus of water near room temperature (Pa), handbook value."""


@dataclass(frozen=True, slots=True)
class _Material:
    modulus: float
    poisson: float
    recurrent: float
    occasional: float
    source: str


@remembered()
def _materials() -> dict[str, _Material]:
    def make(row: dict[str, str]) -> tuple[str, _Material]:
        modulus, poisson, recurrent, occasional = (
            float(row[c]) for c in ("modulus_gpa", "poisson", "recurrent", "occasional")
        )
        return row["material"], _Material(modulus * 1e9, poisson, recurrent, occasional, row["source"])

    return dict(read_rows("hydrarch.core.catalogue", "materials.csv", make))


def elasticity(material: str) -> tuple[float, float]:
    """Short-term modulus (Pa) and Poisson's ratio of a pipe material; raises `Unknown`."""
    found = _materials().get(material)
    if found is None:
        raise Unknown("modulus of material", material, _materials())
    return found.modulus, found.poisson


def stretches_as(name: str) -> str:
    """The material as which a series stretches: soft PVC and low-density polyethylene give far more than the rigid
    kinds.

    >>> stretches_as("pvc-flex"), stretches_as("pvc40"), stretches_as("pe-rural")
    ('pvc-soft', 'pvc', 'ldpe')
    """
    family = series(name)
    if name in _SOFT:
        return _SOFT[name]
    return "ldpe" if family.kind == "drip" and family.material == "pe" else family.material


def wave_speed(item: Pipe, temperature: float = 293.15) -> float:
    """Speed (m/s) of a pressure wave in a full pipe held from moving along; raises `Unknown` for a material without
    modulus.
    """
    modulus, poisson = elasticity(stretches_as(item.series))
    return wave_speed_in(item.bore, (item.outside - item.bore) / 2, modulus, poisson, water(temperature).density)


def wave_speed_in(bore: float, wall: float, modulus: float, poisson: float, density: float = 998.3) -> float:
    """√(K/ρ) / √(1 + (K/E)(d/e) c), d the bore and e the wall (m), E the modulus (Pa), ν Poisson's ratio.

    c = 2(e/d)(1 + ν) + d(1 − ν²)/(d + e) is right for thick walls as for thin. Source: Wylie and Streeter, Fluid
    Transients.
    """
    c = 2 * wall / bore * (1 + poisson) + bore / (bore + wall) * (1 - poisson**2)
    stiff = 1 + BULK_MODULUS / modulus * (bore / wall) * c
    return float((BULK_MODULUS / density / stiff) ** 0.5)


def joukowsky(speed: float, change: float, density: float = 998.0) -> float:
    """Pressure rise (Pa) when flow of velocity `change` (m/s) stops at once behind a wave of `speed` (m/s): ρ a Δv.

    Source: Joukowsky 1898.

    >>> round(joukowsky(1000, 1.0) / 1e5, 1)
    10.0
    """
    return density * speed * change


@dataclass(frozen=True, slots=True)
class Surge:
    """A closing worked out. Pressures in Pa, times in s, `speed` of the wave in m/s.

    `rise` is for the closing asked about, `return_time` = 2L/a the one below which it makes no difference; `peak` the
    working pressure and the rise together. `limit` is what the pipe may see again and again, `occasional` now and then.
    `closing` is the time that keeps the peak within the limit.
    """

    speed: float
    return_time: float
    rise: float
    peak: float
    limit: float
    occasional: float
    closing: float
    holds: bool
    says: str
    source: str


@remembered()
def _bears(item: Pipe, temperature: float) -> tuple[float, float, float, str]:
    """The wave's speed (m/s) in a pipe, what it may see again and again and now and then (Pa), and the source."""
    material = _materials()[series(item.series).material]
    rated = rating_at(item, temperature)
    return wave_speed(item, temperature), material.recurrent * rated, material.occasional * rated, material.source


def surge(
    item: Pipe, length: float, velocity: float, working: float, temperature: float = 293.15, closes: float = 0.0
) -> Surge:
    """Stop a flow of `velocity` (m/s) in `length` (m) of pipe at `working` gauge pressure (Pa) with one valve or a pump
    trip.

    `closes` (s) is how long the valve takes, 0 for at once. Slower than 2L/a the rise is about ρ L v / t·2 (rigid
    column, twice for a valve that closes evenly), so the closing time to keep is where that meets what is left under
    the limit. Raises `OutOfRange` for a length of nothing.
    """
    check_range("length", length, 1e-9, 1e6, "length")
    density = water(temperature).density
    a, limit, occasional, source = _bears(item, temperature)
    at_once, column = joukowsky(a, velocity, density), 2 * density * length * velocity
    back = 2 * length / a
    rise = min(at_once, column / closes) if closes > back else at_once
    left = limit - working
    closing = 0.0 if at_once <= left else column / left if left > 0 else float("inf")
    closing = max(closing, back) if closing > 0 else 0.0
    peak = working + rise
    if peak <= limit:
        says = f"the pipe stands it {f'closed over {closes:g} s' if closing > 0 else 'however fast the valve shuts'}"
    elif peak <= occasional:
        says = "the pipe stands it now and then, not day after day: close slowly"
    elif left <= 0:
        says = "the working pressure alone is above what the pipe may see: choose a heavier one"
    else:
        says = "a fast valve or a tripping pump can break it: close slowly, or put in a vessel"
    return Surge(
        speed=a,
        return_time=back,
        rise=rise,
        peak=peak,
        limit=limit,
        occasional=occasional,
        closing=closing,
        holds=peak <= limit,
        says=says,
        source=f"Joukowsky; {source}",
    )
