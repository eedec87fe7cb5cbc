"""A pressure test judged: what the fall of pressure says once temperature and the stretch of the pipe are taken off.

Water shrinks and swells with temperature, and plastic outgrows it: a closed polyethylene line loses pressure as it warms.
What is left over, times how much water a pascal is worth here, is the leak. Plastic goes on stretching after it is filled,
so a fall that dies away is the pipe, and one that goes on is water.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import singledispatch
from math import pi, sqrt

import numpy as np

from hydrarch.core.catalogue.pipes import Pipe, series
from hydrarch.core.errors import HydrarchError, OutOfRange
from hydrarch.core.hydraulics.surge import elasticity
from hydrarch.core.hydraulics.water import density_kell
from hydrarch.core.kinds.base import What
from hydrarch.core.kinds.lines import Cap
from hydrarch.core.kinds.outlets import Outlet
from hydrarch.core.layout import Layout
from hydrarch.core.plan import Plan
from hydrarch.core.proving.sections import Section

__all__ = [
    "FlushPlan",
    "HoldPlan",
    "Judged",
    "Reading",
    "Stiffness",
    "compressibility",
    "expansion",
    "flush_plan",
    "hold_plan",
    "judge",
    "opens_to_flush",
    "pipe_compliance",
    "stiffness",
]

FLUSH_VELOCITY = 0.9
"""m/s that carries dirt out: about 3 ft/s, common practice."""
FLUSH_VOLUMES = 3.0
"""How often the section's own water is changed at the least, common practice."""
_LEAST_HOLD = 15 * 60.0  # s; from memory
_ALLOWED = 0.03  # of the test pressure; acceptance figures run from 2 to 5 %, from memory
_DRIP = 5e-8  # m³/s: a drip a second, at 20 drops to the millilitre; common practice


def compressibility(temperature: float) -> float:
    """Isothermal compressibility of water (1/Pa) at about atmospheric pressure, 273 to 373 K. Source: Kell 1975."""
    t = temperature - 273.15
    if not 0 <= t <= 100:
        raise OutOfRange("water temperature", t, 0, 100, "°C")
    over = 50.88496 + t * (0.6163813 + t * (1.459187e-3 + t * (20.08438e-6 + t * (-58.47727e-9 + t * 410.4110e-12))))
    return over / (1 + 19.67348e-3 * t) * 1e-11


def expansion(temperature: float) -> float:
    """Volume expansion of water (1/K): −(1/ρ) dρ/dT of the Kell density, 274 to 372 K."""
    step = 0.05
    return -(density_kell(temperature + step) - density_kell(temperature - step)) / (2 * step) / density_kell(temperature)


def pipe_compliance(outside: float, wall: float, modulus: float, poisson: float) -> float:
    """Share of its volume a free pipe gains for a pascal (1/Pa), by Lamé: C = [3(1 − 2ν) + 2(1 + ν)k²] / (E (k² − 1)), k = D/d.

    Lengths in m, modulus in Pa. Thin-wall formulas are 12 to 40 % too stiff for these plastics.
    """
    if not 0 < 2 * wall < outside:
        raise HydrarchError("two walls leave no bore")
    k2 = (outside / (outside - 2 * wall)) ** 2
    return (3 * (1 - 2 * poisson) + 2 * (1 + poisson) * k2) / (modulus * (k2 - 1))


@dataclass(frozen=True, slots=True)
class Stiffness:
    """A section full of water: its volume (m³), the water a pascal is worth (m³/Pa), and what a kelvin does to pressure (Pa/K)."""

    volume: float
    per_pascal: float
    per_kelvin: float


def stiffness(plan: Plan, lay: Layout, pipes: Mapping[str, Pipe], section: Section, temperature: float) -> Stiffness:
    """How a section answers to water and warmth, summed over its runs; pipe and water at one `temperature` (K)."""
    volume = worth = warmed = 0.0
    for run in section.runs:
        item = pipes[run]
        family = series(item.series)
        modulus, poisson = elasticity(family.material)
        v = pi / 4 * item.bore**2 * lay.lines[run].length
        volume += v
        worth += v * (
            compressibility(temperature) + pipe_compliance(item.outside, (item.outside - item.bore) / 2, modulus, poisson)
        )
        warmed += v * (expansion(temperature) - 3 * family.expansion)
    if volume <= 0:
        raise HydrarchError("the section has no pipe to fill")
    return Stiffness(volume, worth, warmed / worth)


@dataclass(frozen=True, slots=True)
class Reading:
    """The gauge at one time: `at` in s, gauge pressure in Pa, water or pipe temperature in K where it was read."""

    at: float
    pressure: float
    temperature: float | None = None


@dataclass(frozen=True, slots=True)
class Judged:
    """A test judged. Falls in Pa, leak in m³/s with its standard error; `verdict` in words.

    `by_warmth` is the part of the fall that temperature explains (negative: it hid a fall), `early` and `late` the rates of
    what is left (Pa/s) in the two halves.
    """

    lasted: float
    fall: float
    by_warmth: float
    rest: float
    leak: float
    doubt: float
    early: float
    late: float
    verdict: str
    tight: bool
    search: tuple[str, ...]


def judge(
    readings: Sequence[Reading], full: Stiffness, section: Section, allowed: float, gauge_error: float, joints: Sequence[str] = ()
) -> Judged:
    """Judge the readings of a section's test. `allowed` (Pa) is the fall the crew lets pass, `gauge_error` (Pa) the gauge's.

    `joints` are the section's, those to look at first in front. Raises `HydrarchError` for fewer than four readings, times that do
    not grow, or a pressure that is far below the test's.
    """
    if len(readings) < 4:
        raise HydrarchError("four readings are the least that tell a leak from a stretch: read on")
    at = np.array([r.at for r in readings])
    if np.any(np.diff(at) <= 0):
        n = int(np.argmax(np.diff(at) <= 0)) + 2
        raise HydrarchError(f"reading {n} is not later than the one before: put them in order")
    raw = np.array([r.pressure for r in readings])
    if raw[0] < 0.5 * section.test:
        raise HydrarchError("the first reading is below half the test pressure: pump up, then read")
    warm = np.array([r.temperature if r.temperature is not None else np.nan for r in readings])
    warmth = full.per_kelvin * (warm - warm[0]) if not np.any(np.isnan(warm)) else np.zeros(len(raw))
    left = raw - warmth
    slope, doubt = _slope(at, left, gauge_error)
    half = len(at) // 2
    early, _ = _slope(at[: half + 1], left[: half + 1], gauge_error)
    late, late_doubt = _slope(at[half:], left[half:], gauge_error)
    lasted = float(at[-1] - at[0])
    fall, rest = float(raw[0] - raw[-1]), float(left[0] - left[-1])
    going_on = late < -2 * late_doubt
    dies = early < 0 and late > 0.35 * early
    if rest <= allowed and not (going_on and -late * lasted > allowed):
        verdict, tight = "tight: what it fell is within what was allowed", True
        if slope > 2 * doubt:
            verdict = "tight, though the pressure rose: sun on the pipe, or the pump still feeding?"
    elif dies and -late * lasted / 2 <= allowed:
        verdict, tight = "it stretched and came to rest: pump up again and read once more before you call it tight", False
    elif going_on:
        verdict, tight = "it goes on falling: water is getting out", False
    else:
        verdict, tight = "more than allowed, and the readings do not tell why: read longer", False
    search = () if tight else _search(section, joints)
    return Judged(
        lasted, fall, float(-(warmth[-1] - warmth[0])), rest, -slope * full.per_pascal, doubt * full.per_pascal, early, late, verdict, tight, search
    )  # fmt: skip


def _slope(at: np.ndarray, pressure: np.ndarray, error: float) -> tuple[float, float]:
    """Slope (Pa/s) by least squares, with its standard error from the gauge's error and the scatter, the larger of both."""
    t = at - at.mean()
    spread = float(np.sum(t**2))
    slope = float(np.sum(t * pressure) / spread)
    scatter = pressure - pressure.mean() - slope * t
    sigma = max(error, float(sqrt(np.sum(scatter**2) / max(len(at) - 2, 1))))
    return slope, sigma / sqrt(spread)


def _search(section: Section, joints: Sequence[str]) -> tuple[str, ...]:
    """How to look for a leak: by hand first, then by halves."""
    first = ", ".join(joints[:4])
    steps = ["Look and feel under every joint that can be seen, those made last first."]
    if first:
        steps.append(f"Begin with {first}.")
    if len(section.runs) > 1:
        steps.append("Cut the section in half where a cap or a valve can be put, and test each half: half again where it falls.")
    steps.append("Wet ground, a hiss and a hand on the pipe find more than the gauge does.")
    return tuple(steps)


@dataclass(frozen=True, slots=True)
class FlushPlan:
    """How to flush a section: which ends to open in turn, its volume (m³), the flow it wants (m³/s), and how long at the least (s).

    `fill` is the water (m³) that brings it from nothing to its test pressure, beyond what fills it.
    """

    ends: tuple[str, ...]
    volume: float
    flow: float
    seconds: float
    fill: float
    says: str


@singledispatch
def opens_to_flush(what: What) -> bool:
    """Whether what stands at the end of a line can be opened or taken off to flush it."""
    return False


@opens_to_flush.register
def _(what: Outlet) -> bool:
    return True


@opens_to_flush.register
def _(what: Cap) -> bool:
    return True


def flush_plan(plan: Plan, lay: Layout, pipes: Mapping[str, Pipe], section: Section) -> FlushPlan:
    """Flush from the source outwards: the nearest open end first and the farthest last, heads off, until clear."""
    full = stiffness(plan, lay, pipes, section, plan.conditions.water_temperature)
    spots = {p for r in section.runs for p in (lay.lines[r].a, lay.lines[r].b)}
    ends = [p for p in plan.points if p.id in spots and opens_to_flush(p.what)]
    ends.sort(key=lambda p: lay.distance.get(p.id, 0.0))
    widest = max(pipes[r].bore for r in section.runs)
    flow = FLUSH_VELOCITY * pi / 4 * widest**2
    says = "Heads and aerators off, filters out. Open the nearest end first and the farthest last, each until it runs clear."
    if not ends:
        says = "No end of this section opens: put a cap with a tap at its far end, and flush there."
    return FlushPlan(
        tuple(p.label for p in ends), full.volume, flow, FLUSH_VOLUMES * full.volume / flow, full.per_pascal * section.test, says
    )  # fmt: skip


@dataclass(frozen=True, slots=True)
class HoldPlan:
    """How long to hold a section's test (s) and what fall passes (Pa).

    `finds` is the least leak (m³/s) that fall gives away in that time, `per_kelvin` (Pa/K) what warmth alone does to the gauge.
    """

    hold: float
    allowed: float
    finds: float
    per_kelvin: float
    says: str


def hold_plan(full: Stiffness, section: Section, gauge_error: float) -> HoldPlan:
    """Hold until a drip a second would take the pressure down by twice what is allowed, a quarter of an hour at the least.

    What is allowed is 3 % of the test pressure (from memory), and never less than twice the gauge's error (Pa, above 0).
    """
    if gauge_error <= 0:
        raise OutOfRange("the gauge's error", gauge_error, 0, 1e6, "Pa")
    allowed = max(_ALLOWED * section.test, 2 * gauge_error)
    hold = max(_LEAST_HOLD, 2 * allowed * full.per_pascal / _DRIP)
    says = "Water only, never air. Fill slowly with the high end open, let it stand until it is as warm as the ground, then pump up and read."
    if 2 * gauge_error > _ALLOWED * section.test:
        says += " This gauge is too coarse for so low a test: take a finer one."
    return HoldPlan(hold, allowed, allowed * full.per_pascal / hold, full.per_kelvin, says)
