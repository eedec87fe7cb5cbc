"""When zones are watered: what the plants need, how often the soil wants it, and one zone after another in parts with
time to soak between.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from math import floor

from hydrarch.core.base.errors import HydrarchError
from hydrarch.core.base.messages import tell
from hydrarch.core.base.problems import Problem, declare
from hydrarch.core.base.units import System, show
from hydrarch.core.building.together import all_scenarios
from hydrarch.core.components.devices import Valve
from hydrarch.core.coverage.emission import Emission
from hydrarch.core.coverage.landing import Coverage
from hydrarch.core.coverage.need import (
    Day,
    daylight,
    extraterrestrial,
    hargreaves,
    plants,
    reference_need,
    run_time,
    soils,
)
from hydrarch.core.plan.document import Plan
from hydrarch.core.plan.watering import Watering, Weather

__all__ = ["WateringNeed", "Opening", "Schedule", "ZoneRun", "clock", "daily_need", "schedule", "station_problems"]

declare("survey", "stations-over", "zone-by-hand", "zone-valve-shared", "zone-no-valve", "zone-empty", "zone-shared")

_ZERO = 273.15
_LATENT = 0.408
"""mm of water that a MJ/m² evaporates; FAO-56."""
_MOST_DAYS = 14
"""Days between two waterings at the most: nobody lets a bed wait longer in growth; from memory."""
_DRIP_WIDE = 0.3
"""m on each side of a drip row that it wets, where rows do not meet; estimate, from memory."""


@dataclass(frozen=True, slots=True)
class WateringNeed:
    """What is watered needs `a_day` (m), from the `reference` (m a day); it is watered every so many `days` with
    `depth` (m).

    `formula` is what the reference is calculated by, and `weather` the days, in words.
    """

    reference: float
    formula: str
    weather: str
    a_day: float
    days: int
    depth: float
    says: str


@dataclass(frozen=True, slots=True)
class ZoneRun:
    """How long a zone runs in all (s), in how many cycles with how long between (s); why it does not, where it
    cannot.
    """

    zone: str
    name: str
    station: int
    whole: float
    cycles: int
    soak: float
    says: str
    fault: str = ""


@dataclass(frozen=True, slots=True)
class Opening:
    """One time that a station opens: from when (s after the day begins; `at` in words) and how long (s)."""

    zone: str
    name: str
    station: int
    begins: float
    seconds: float
    at: str


@dataclass(frozen=True, slots=True)
class Schedule:
    """A watering day: what is needed, how long each zone runs, every opening in order, when it ends (s of the day), and
    it in words.
    """

    need: WateringNeed
    runs: tuple[ZoneRun, ...]
    openings: tuple[Opening, ...]
    ends: float
    says: str


def daily_need(plan: Plan, days: Weather, day: int) -> WateringNeed:
    """What the plants need in such days, at that day of the year.

    Reference by Penman and Monteith (FAO-56, equation 6) where damp, wind and sun are known, else by Hargreaves
    (equation 52), times the plants' coefficient; watered again when they have taken what they may of what the soil
    holds about their roots, and at the latest after a fortnight. Raises `HydrarchError` for weather that contradicts
    itself.
    """
    mine, ground = plants()[plan.watering.plants], soils()[plan.conditions.soil]
    root = mine.root if plan.watering.root is None else plan.watering.root
    formula, reference = _reference(plan, days, day)
    a_day = reference * mine.kc
    keeps = ground.holds * root * mine.depletion
    every = max(1, min(_MOST_DAYS, floor(keeps / a_day))) if a_day > 0 else _MOST_DAYS
    depth = a_day * every
    units = plan.units
    often = "every day" if every == 1 else f"every {every} days"
    says = (
        f"{mine.title} needs {_depth(a_day, units)} a day in this weather ({_depth(reference, units)} of "
        f"reference by {formula}, times {mine.kc:g}); "
        f"{ground.title.lower()} about its roots keeps {_depth(keeps, units)} it may take, so water {often}, "
        f"{_depth(depth, units)} at a time."
    )
    return WateringNeed(reference, formula, _told(days, units), a_day, every, depth, says)


def _reference(plan: Plan, days: Weather, day: int) -> tuple[str, float]:
    """What short grass gives off in such a day (m), and by which formula."""
    units, where = plan.units, plan.watering
    if days.coldest > days.warmest:
        warm, cold = (show(t, "temperature", units) for t in (days.warmest, days.coldest))
        raise HydrarchError(f"the coldest of the day, {cold}, is warmer than its warmest, {warm}: change one of them")
    above = extraterrestrial(where.latitude, day)
    if days.dampest is None or days.driest is None or days.wind is None or days.sun is None:
        return "Hargreaves", max(0.0, hargreaves(days.warmest - _ZERO, days.coldest - _ZERO, above * _LATENT)) / 1e3
    if days.driest > days.dampest:
        damp, dry = (show(h, "humidity", units) for h in (days.dampest, days.driest))
        raise HydrarchError(f"the driest of the day, {dry}, is damper than its dampest, {damp}: change one of them")
    light = daylight(where.latitude, day)
    if days.sun > light * (1 + 1e-6):
        raise HydrarchError(
            f"{show(days.sun, 'hours', units)} of sun are more than the day has there, "
            f"{show(light, 'hours', units)}: say fewer"
        )
    return "Penman and Monteith", max(
        0.0,
        reference_need(
            Day(
                warmest=days.warmest - _ZERO,
                coldest=days.coldest - _ZERO,
                dampest=100 * days.dampest,
                driest=100 * days.driest,
                wind=days.wind,
                sun=days.sun / 3600,
                latitude=where.latitude,
                altitude=where.altitude,
                day=day,
            )
        ),
    ) / 1e3


def _told(days: Weather, units: System) -> str:
    """The days in words, with what is not known of them."""
    said = f"{show(days.coldest, 'temperature', units)} to {show(days.warmest, 'temperature', units)}"
    known = (
        (
            "damp",
            None
            if days.driest is None or days.dampest is None
            else f"{show(days.driest, 'humidity', units)} to {show(days.dampest, 'humidity', units)} damp",
        ),
        ("wind", None if days.wind is None else f"wind {show(days.wind, 'wind', units)}"),
        ("sun", None if days.sun is None else f"{show(days.sun, 'hours', units)} of sun"),
    )
    missing = [name for name, words in known if words is None]
    said = ", ".join((said, *(words for _, words in known if words)))
    return said if not missing else f"{said}; not known: {', '.join(missing)}"


def _depth(water: float, units: str) -> str:
    return f"{water / 0.0254:.2f} in" if units == "us" else f"{1e3 * water:.1f} mm"


def schedule(
    plan: Plan, need: WateringNeed, covered: Mapping[str, Coverage], dripped: Mapping[str, Mapping[str, Emission]]
) -> Schedule:
    """One watering day for all zones, or for all scenarios that water where no zone is drawn; raises `HydrarchError`
    where none does.
    """
    zones = [(z.id, z.name) for z in plan.zones] or [(s.id, s.name) for s in all_scenarios(plan)]
    runs = []
    for station, (zone, name) in enumerate(zones, 1):
        if zone in covered or zone in dripped:
            runs.append(_run(plan, zone, name, station, need, covered.get(zone), dripped.get(zone)))
    if not runs:
        raise HydrarchError("nothing that waters is open in any zone: put heads or drip into one first")
    openings = _in_turn(runs, plan.watering)
    ends = max((o.begins + o.seconds for o in openings), default=plan.watering.begins)
    return Schedule(need, tuple(runs), tuple(openings), ends, _says(runs, openings, ends, plan.watering))


def _run(
    plan: Plan,
    zone: str,
    name: str,
    station: int,
    need: WateringNeed,
    cover: Coverage | None,
    rows: Mapping[str, Emission] | None,
) -> ZoneRun:
    """How long one zone runs: by its driest heads, or its least even row, whichever asks for longer."""
    asks: list[tuple[float, float | None]] = []
    if cover is not None and cover.mean:
        asks.append((cover.mean, cover.scheduling))
    elif cover is not None:
        asks += [(h.rate, 1.0) for h in cover.heads[:1]]
    for e in (rows or {}).values():
        rate = e.flow / (e.length * 2 * _DRIP_WIDE)
        asks.append((rate, e.mean / e.least if e.least > 0 else None))
    try:
        found = [run_time(mean, more, need.depth, plan.conditions.soil) for mean, more in asks]
    except HydrarchError as error:
        return ZoneRun(zone=zone, name=name, station=station, whole=0.0, cycles=0, soak=0.0, says="", fault=str(error))
    if not found:
        return ZoneRun(
            zone=zone, name=name, station=station, whole=0.0, cycles=0, soak=0.0, says="", fault="nothing in it waters"
        )
    longest = max(found, key=lambda r: r.whole)
    return ZoneRun(
        zone=zone,
        name=name,
        station=station,
        whole=longest.whole,
        cycles=longest.cycles,
        soak=longest.soak,
        says=longest.says,
    )


def _in_turn(runs: Sequence[ZoneRun], watering: Watering) -> list[Opening]:
    """One station at a time, each part of a zone no sooner than its soil has taken the last one in; whoever may go
    first by then goes.
    """
    left = {r.zone: r.cycles for r in runs}
    ready = {r.zone: watering.begins for r in runs}
    now, openings = watering.begins, []
    while any(left.values()):
        able = [r for r in runs if left[r.zone]]
        nxt = min(able, key=lambda r: (max(ready[r.zone], now), r.cycles - left[r.zone], r.station))
        begins = max(now, ready[nxt.zone])
        each = nxt.whole / nxt.cycles
        openings.append(Opening(nxt.zone, nxt.name, nxt.station, begins, each, clock(begins)))
        now = begins + each
        ready[nxt.zone] = now + nxt.soak
        left[nxt.zone] -= 1
    return openings


def _says(runs: Sequence[ZoneRun], openings: Sequence[Opening], ends: float, watering: Watering) -> str:
    wet = sum(o.seconds for o in openings)
    failed = [r.name for r in runs if r.fault]
    line = (
        f"From {clock(watering.begins)} to {clock(ends)}: {len(openings)} "
        f"opening{'s' if len(openings) != 1 else ''}, {round(wet / 60)} min of water"
    )
    if ends - watering.begins > 86400:
        line += "; that is more than a day, so water fewer zones a day"
    return line + (f". Left out: {', '.join(failed)}." if failed else ".")


def clock(seconds: float) -> str:
    """A time of the day as a crew writes it; beyond midnight it is the next day's."""
    minutes = round(seconds / 60)
    days, rest = divmod(minutes, 1440)
    return f"{rest // 60}:{rest % 60:02d}" + (f" (+{days} d)" if days else "")


def station_problems(plan: Plan) -> tuple[Problem, ...]:
    """Zones the controller has no station for, zones that open nothing, and outlets in two zones."""
    told, here = [], {p.id for p in plan.outlets}
    for n, zone in enumerate(plan.zones, 1):
        valve = zone.valve if zone.valve in plan.by_id else next((h for h in zone.heads if h in here), "")
        if n > plan.watering.stations:
            told.append(tell("stations-over", valve, zone=zone.name, number=n, stations=plan.watering.stations))
        opened = plan.by_id.get(zone.valve)
        other = next((z for z in plan.zones[: n - 1] if zone.valve and z.valve == zone.valve), None)
        if other is not None:
            told.append(
                tell("zone-valve-shared", zone.valve, valve=plan.names[zone.valve], one=other.name, two=zone.name)
            )
        elif opened is None and any(h in here for h in zone.heads):
            told.append(tell("zone-no-valve", valve, zone=zone.name))
        if opened is not None and isinstance(opened.what, Valve) and opened.what.worked == "by hand":
            told.append(tell("zone-by-hand", opened.id, zone=zone.name, valve=opened.label))
        if not any(h in here for h in zone.heads):
            told.append(tell("zone-empty", valve, zone=zone.name))
    seen: dict[str, str] = {}
    for zone in plan.zones:
        for head in zone.heads:
            if head in here and head in seen and seen[head] != zone.name:
                told.append(tell("zone-shared", head, head=plan.names[head], one=seen[head], two=zone.name))
            seen.setdefault(head, zone.name)
    return tuple(told)
