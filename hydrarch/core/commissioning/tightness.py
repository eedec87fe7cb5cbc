"""A pressure test judged: what the fall of pressure says once temperature and the stretch of the pipe are taken off.

Water shrinks and swells with temperature, and plastic outgrows it: a closed polyethylene line loses pressure as it
warms. What is left over, times how much water a pascal is worth here, is the leak. Plastic goes on stretching after it
is filled, so a fall that dies away is the pipe, and one that goes on is water.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import singledispatch
from math import inf, pi, sqrt

import numpy as np

from hydrarch.core.base.errors import HydrarchError
from hydrarch.core.base.units import System, check_range, show
from hydrarch.core.catalogue.pipes import Pipe
from hydrarch.core.commissioning.sections import Section
from hydrarch.core.commissioning.stiffness import ALLOWED, GAUGE_ERROR, Stiffness, allowed_fall, least_hold
from hydrarch.core.components.base import What
from hydrarch.core.components.lines import Cap
from hydrarch.core.components.outlets import Outlet
from hydrarch.core.making.steps import words_for_time
from hydrarch.core.plan.document import Plan
from hydrarch.core.record.events import Reading
from hydrarch.core.site.layout import Layout

__all__ = ["FlushPlan", "HoldPlan", "Judged", "flush_plan", "hold_plan", "judge", "opens_to_flush"]

FLUSH_VELOCITY = 0.9
"""m/s that carries dirt out: about 3 ft/s, common practice."""
FLUSH_VOLUMES = 3.0
"""How often the section's own water is changed at the least, common practice."""
THERMOMETER = 0.5
"""K that a thermometer in a crew's hand is wrong by, and the water by from what it shows; from memory."""
UNREAD = 0.5
"""K that the water of a line left to stand may drift by where nobody reads it; from memory."""
LEVEL_ERROR = 20.0
"""Pa: 2 mm, to which a level in an open end is read; common practice."""
_KEPT = 1e3
"""Pa within which the level is kept while a drain in the ground is tested; EN 1610, from memory. Its standard tops the
level up and measures what was added; here a level that falls further is not passed."""
_WATER = 9790.0  # Pa a metre of water weighs
_AIR = 0.01  # of its volume: more air than that and the gauge tells of air, not of leaks; common practice
_ATMOSPHERE = 101_325.0  # Pa


@dataclass(frozen=True, slots=True)
class Judged:
    """A test judged. Falls in Pa, leak in m³/s with its standard error; `verdict` in words.

    `by_warmth` is the part of the fall that temperature explains (negative: it hid a fall), `early` and `late` the
    rates of what is left (Pa/s) in the two halves. `simulated` is whether a stand-in made any of the readings. Where
    something is `missing` for a verdict there is none, and it is not `tight`.
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
    missing: tuple[str, ...]
    search: tuple[str, ...]
    readings: tuple[Reading, ...]
    simulated: bool = False


def judge(
    readings: Sequence[Reading],
    section: Section,
    gauge_error: float | None = None,
    allowed: float | None = None,
    joints: Sequence[str] = (),
    made_up: float | None = None,
    units: System = "metric",
    thermometer: float = THERMOMETER,
) -> Judged:
    """Judge the readings of a section's test.

    `allowed` (Pa) is the fall the crew lets pass, `gauge_error` (Pa) the gauge's (none: what is usual, of a drain's
    level what an eye reads), `thermometer` (K) how far that may be off between two readings.

    `joints` are the section's, those to look at first in front; `made_up` (m³) the water pumped in from full to the
    test pressure. Raises `HydrarchError` for a section that cannot be tested, fewer than four readings, times that do
    not grow, or what is no number.
    """
    if section.fault:
        raise HydrarchError(section.fault)
    if section.sort == "run":
        raise HydrarchError("it is run, so a gauge that falls says nothing of its joints: look at each of them")
    if len(readings) < 4:
        raise HydrarchError("four readings are the least that tell a leak from a stretch: read on")
    full = section.full
    at = np.array([r.at for r in readings])
    raw = np.array([r.pressure for r in readings])
    warm = np.array([r.temperature if r.temperature is not None else np.nan for r in readings])
    if not (np.all(np.isfinite(at)) and np.all(np.isfinite(raw))) or np.any(np.isinf(warm)):
        raise HydrarchError("one of the readings is no number: take it out, or read it again")
    if np.any(np.diff(at) <= 0):
        n = int(np.argmax(np.diff(at) <= 0)) + 2
        raise HydrarchError(f"reading {n} is not later than the one before: put them in order")
    if section.sort == "drain":
        level = LEVEL_ERROR if gauge_error is None else gauge_error
        return _drain_judged(readings, section, level, allowed, joints, units)
    gauge_error = GAUGE_ERROR if gauge_error is None else gauge_error
    passes = allowed_fall(section.test, gauge_error) if allowed is None else allowed
    warmth = full.per_kelvin * (warm - warm[0]) if not np.any(np.isnan(warm)) else np.zeros(len(raw))
    left = raw - warmth
    slope, doubt = _slope(at, left, gauge_error)
    half = len(at) // 2
    early, _ = _slope(at[: half + 1], left[: half + 1], gauge_error)
    late, late_doubt = _slope(at[half:], left[half:], gauge_error)
    lasted = float(at[-1] - at[0])
    fall, rest = float(raw[0] - raw[-1]), float(left[0] - left[-1])
    missing = (
        *_missing(section, lasted, float(raw[0]), rest, passes, gauge_error, made_up, units),
        *_hidden(section, warm, float(warmth[-1] - warmth[0]), passes, thermometer, units),
    )
    unsure = abs(full.per_kelvin) * (UNREAD if np.any(np.isnan(warm)) else thermometer)
    going_on = late < -2 * late_doubt
    dies = early < 0 and late > 0.35 * early
    tight = False
    if rest - unsure > passes and going_on and not (dies and -late * lasted / 2 <= passes):
        verdict, missing = "it goes on falling: water is getting out", ()
    elif missing:
        verdict = "no verdict yet"
    elif rest <= passes and not (going_on and -late * lasted > passes):
        verdict, tight = f"tight: what it fell is within what was allowed{_give_or_take(unsure, units)}", True
    elif dies and -late * lasted / 2 <= passes:
        verdict = "it stretched and came to rest: pump up again and read once more before you call it tight"
    else:
        verdict = "more than allowed, and the readings do not tell why: read longer"
    search = () if tight or missing else _search(section, joints)
    return Judged(
        lasted=lasted,
        fall=fall,
        by_warmth=float(-(warmth[-1] - warmth[0])),
        rest=rest,
        leak=-slope * full.per_pascal,
        doubt=sqrt(doubt**2 + (unsure / lasted) ** 2) * full.per_pascal,
        early=early,
        late=late,
        verdict=verdict,
        tight=tight,
        missing=missing,
        search=search,
        readings=tuple(readings),
        simulated=any(r.simulated for r in readings),
    )


def _missing(
    section: Section,
    lasted: float,
    first: float,
    rest: float,
    passes: float,
    gauge_error: float,
    made_up: float | None,
    units: System,
) -> tuple[str, ...]:
    """What the readings of a test want before they tell anything, in words."""

    def said(pressure: float) -> str:
        return str(show(pressure, "pressure", units))

    found = []
    hold = least_hold(section.full, section.test, gauge_error)
    if lasted < hold - 1:
        found.append(f"it was read for {words_for_time(lasted)} of {words_for_time(hold)}: read on")
    if first < section.test - max(passes, gauge_error):
        found.append(f"it began at {said(first)} and not at {said(section.test)}: pump up, then read")
    if rest < -passes:
        found.append(
            f"the pressure rose by {said(-rest)}: sun on the pipe, or the pump still feeding; read again when "
            "it is steady"
        )
    if made_up is not None and section.full.volume > 0:
        air = trapped_air(section.full, first, made_up)
        if air > _AIR * section.full.volume:
            took, should = (str(show(v, "dose", units)) for v in (made_up, section.full.per_pascal * first))
            found.append(
                f"it took {took} where {should} would do: air is in it; let it out at {section.air_at} and "
                "pump up again"
            )
    return tuple(found)


def _hidden(
    section: Section, warm: np.ndarray, correction: float, passes: float, thermometer: float, units: System
) -> tuple[str, ...]:
    """Why warmth hides whether it is tight, in words: where what is taken off for it, or the doubt of that, is more
    than what passes.
    """
    each = abs(section.full.per_kelvin)
    if each <= 0:
        return ()
    said, within = (str(show(x, "pressure", units)) for x in (abs(correction), passes))
    steady = show(passes / each, "temperature change", units)
    if np.any(np.isnan(warm)):
        if each * UNREAD <= passes:
            return ()
        return (
            f"no temperature was read, and {steady} of warmth or cold moves the gauge by the {within} that passes: "
            "read the water's temperature with each pressure",
        )
    found = []
    if abs(correction) > passes:
        found.append(
            f"warmth alone accounts for {said}, more than the {within} that passes: shade the pipe, wait until the "
            f"water is within {steady} of what it was at the first reading, and read again"
        )
    if each * thermometer > passes:
        found.append(
            f"the thermometer is right to {show(thermometer, 'temperature change', units)}, and {steady} "
            "moves the gauge "
            f"by the {within} that passes: take a finer one, bound to the pipe under a rag, or test in a shorter length"
        )
    return tuple(found)


def _give_or_take(unsure: float, units: System) -> str:
    return f"; warmth that was not seen may hide {show(unsure, 'pressure', units)} either way" if unsure >= 1 else ""


def _drain_judged(
    readings: Sequence[Reading],
    section: Section,
    level_error: float,
    allowed: float | None,
    joints: Sequence[str],
    units: System,
) -> Judged:
    """A drain that was filled and left to stand: its level, read as the pressure at its low end, tells what got out."""
    at = np.array([r.at for r in readings])
    raw = np.array([r.pressure for r in readings])
    error = level_error
    passes = drain_fall(section) if allowed is None else allowed
    slope, doubt = _slope(at, raw, error)
    lasted, fall = float(at[-1] - at[0]), float(raw[0] - raw[-1])
    missing = []
    if lasted < section.hold - 1:
        missing.append(f"it was watched for {words_for_time(lasted)} of {words_for_time(section.hold)}: watch on")
    if raw[0] < section.test - 2 * error - 1:
        missing.append(
            f"it stood {show(section.test - float(raw[0]), 'pressure', units)} lower than full: fill it to its top"
        )
    if raw[0] > section.test + max(0.05 * section.test, 2 * error):
        missing.append(
            f"it reads {show(float(raw[0]) - section.test, 'pressure', units)} more than a drain filled to "
            "its top has at "
            "its low end: a drain is never pumped up; open its top, and read the level"
        )
    if fall < -2 * error:
        missing.append("the level rose: something still runs into it; shut that off and begin again")
    if 2 * error > passes * (1 + 1e-9):
        reads, fine = (str(show(p / _WATER, "cut", units)) for p in (error, passes / 2))
        missing.append(
            f"it was read to {reads} of water, and wants reading to {fine}: watch the level in an open end, "
            "or in a clear "
            "pipe on it"
        )
    lost = f"{show(max(fall, 0.0) * section.full.per_pascal, 'dose', units)} got out as far as the level tells"
    tight = not missing and fall <= passes
    verdict = (
        "no verdict yet"
        if missing and fall <= passes
        else f"the level fell by more than may be: {lost}"
        if fall > passes
        else f"it held: {lost}, within what may be lost"
    )
    return Judged(
        lasted=lasted,
        fall=fall,
        by_warmth=0.0,
        rest=fall,
        leak=-slope * section.full.per_pascal,
        doubt=doubt * section.full.per_pascal,
        early=slope,
        late=slope,
        verdict=verdict,
        tight=tight,
        missing=() if fall > passes else tuple(missing),
        search=() if tight or missing else _search(section, joints),
        readings=tuple(readings),
        simulated=any(r.simulated for r in readings),
    )


def drain_fall(section: Section, error: float = LEVEL_ERROR) -> float:
    """The fall of level (Pa at the low end) that passes in a drain's test: nothing that can be read in a building, and
    in the ground what its wetted surface may take up, as long as the level stays within that of EN 1610.
    """
    if section.allowance > 0 and section.full.per_pascal > 0:
        return max(min(section.allowance / section.full.per_pascal, _KEPT), 2 * error)
    return 2 * error


def trapped_air(full: Stiffness, pressure: float, made_up: float) -> float:
    """Air (m³ at the atmosphere's pressure) left in a section that took `made_up` (m³) of water to come to `pressure`
    (Pa, above 0). Boyle.
    """
    beyond = made_up - full.per_pascal * pressure
    return max(0.0, beyond / (1 - _ATMOSPHERE / (_ATMOSPHERE + pressure))) if pressure > 0 else 0.0


def _slope(at: np.ndarray, pressure: np.ndarray, error: float) -> tuple[float, float]:
    """Slope (Pa/s) by least squares, with its standard error from the gauge's error and the scatter, the larger of
    both.
    """
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
        steps.append(
            "Cut the section in half where a cap or a valve can be put, and test each half: half again where it falls."
        )
    steps.append("Wet ground, a hiss and a hand on the pipe find more than the gauge does.")
    return tuple(steps)


@dataclass(frozen=True, slots=True)
class FlushPlan:
    """How to flush a section: which ends to open in turn, its volume (m³), the flow it wants (m³/s), and how long at
    the least (s).

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
    full = section.full
    spots = {p for r in section.runs for p in (lay.lines[r].a, lay.lines[r].b)}
    ends = [p for p in plan.points if p.id in spots and opens_to_flush(p.what)]
    ends.sort(key=lambda p: lay.distance.get(p.id, 0.0))
    widest = max((pipes[r].bore for r in section.runs if not lay.lines[r].coupled), default=0.0)
    flow = FLUSH_VELOCITY * pi / 4 * widest**2
    says = (
        "Heads and aerators off, filters out. Open the nearest end first and the farthest last, each until it "
        "runs clear."
    )
    if not ends:
        says = "No end of this section opens: put a cap with a tap at its far end, and flush there."
    return FlushPlan(
        tuple(p.label for p in ends),
        full.volume,
        flow,
        FLUSH_VOLUMES * full.volume / flow if flow > 0 else 0.0,
        full.per_pascal * section.test,
        says,
    )


@dataclass(frozen=True, slots=True)
class HoldPlan:
    """How long to hold a section's test (s) and what fall passes (Pa).

    `finds` is the least leak (m³/s) that fall gives away in that time, `per_kelvin` (Pa/K) what warmth alone does to
    the gauge. `gauge_error` (Pa) and `thermometer` (K) are how far those are taken to be off; `level` (m) is the
    fall of a drain's level that passes.
    """

    hold: float
    allowed: float
    finds: float
    per_kelvin: float
    says: str
    gauge_error: float
    thermometer: float
    level: float = 0.0


def hold_plan(section: Section, gauge_error: float | None = None, units: System = "metric") -> HoldPlan:
    """Hold until a drip a second would take the pressure down by twice what is allowed, a quarter of an hour at the
    least.

    What is allowed is 3 % of the test pressure (from memory), and never less than twice the gauge's error (Pa, above
    0).
    """
    if gauge_error is None:
        gauge_error = LEVEL_ERROR if section.sort == "drain" else GAUGE_ERROR
    check_range("the gauge's error", gauge_error, 1e-6, 1e6, "pressure")
    allowed = allowed_fall(section.test, gauge_error)
    hold = least_hold(section.full, section.test, gauge_error)
    level = 0.0
    if section.sort == "drain":
        allowed, hold = drain_fall(section), section.hold
        level = allowed / _WATER
    if section.sort == "run":
        says = "Run it from its own source, and look at every joint while it runs."
    elif section.sort == "drain":
        says = (
            f"Plug it, fill it to the top at {section.air_at}, let it stand, then watch the level there for "
            f"{words_for_time(hold)}: "
            + (
                "in the ground its walls and joints may take up what is told here, and no more. A level that falls "
                "further gives no pass here: repair it, or have it tested by topping up (EN 1610)."
                if section.allowance > 0
                else "it must not fall."
            )
        )
    else:
        says = (
            f"Water only, never air. The test pump goes to {section.pump_at}; fill slowly with {section.air_at} "
            "open, let it stand until it is as warm as the ground, then pump up and read."
        )
        fine = allowed / abs(section.full.per_kelvin) if section.full.per_kelvin else inf
        if fine < THERMOMETER:
            says += (
                f" Read the water's temperature to {show(fine, 'temperature change', units)} with each pressure: a "
                "coarser reading gives no verdict here."
            )
        if 2 * gauge_error > ALLOWED * section.test:
            says += " This gauge is too coarse for so low a test: take a finer one."
    return HoldPlan(
        hold,
        allowed,
        allowed * section.full.per_pascal / hold,
        section.full.per_kelvin,
        says,
        gauge_error,
        THERMOMETER,
        level,
    )
