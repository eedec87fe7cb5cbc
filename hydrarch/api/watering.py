"""Zones and when they are watered: how long heads run, heads put into zones, a watering day, and the controller's
programme.
"""

from __future__ import annotations

from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from statistics import fmean
from typing import Annotated, cast

from fastapi import APIRouter, Request
from fastapi.concurrency import run_in_threadpool
from pydantic import BaseModel, ConfigDict, Field

from hydrarch.api.apart import answer
from hydrarch.api.foreign import ForeignText, read_foreign
from hydrarch.api.problems import shut_gate
from hydrarch.api.service import Service, ServiceIn
from hydrarch.api.standing import zone_gate
from hydrarch.core.base.errors import HydrarchError
from hydrarch.core.base.units import System, read, show
from hydrarch.core.catalogue.nozzles import Nozzle
from hydrarch.core.coverage.need import RunTime, daylight, run_time
from hydrarch.core.coverage.schedule import Schedule, daily_need, schedule
from hydrarch.core.coverage.zoning import Grouping, by_valves, gives, grouped, measured
from hydrarch.core.plan.document import Plan
from hydrarch.core.plan.watering import Weather, Zone
from hydrarch.core.report.loops import Loops, loop_beside_tree
from hydrarch.core.site.layout import layout
from hydrarch.devices.controller import Running
from hydrarch.devices.weather import SimulatedWeather
from hydrarch.formats.tables import read_nozzles
from hydrarch.store.jobs import Job

__all__ = ["router", "watering_day"]

router = APIRouter(prefix="/api", tags=["survey and size"])
_DAYS = 7


class Wanted(BaseModel):
    """The mean rate (m/s) and scheduling coefficient that a coverage has, what is to be brought at once (in words), and
    the soil.
    """

    model_config = ConfigDict(extra="forbid")
    mean: Annotated[float, Field(gt=0, le=1)]
    scheduling: float | None
    need: Annotated[str, Field(max_length=60, examples=["6 mm", "1/4 in"])]
    soil: Annotated[str, Field(max_length=40)]
    units: System = "metric"


@router.post("/watering/run-time", summary="How long heads run for a watering")
def how_long(asked: Wanted) -> RunTime:
    """The whole time, and the parts it is run in where water comes faster than the soil takes it in."""
    return run_time(asked.mean, asked.scheduling, read(asked.need, "depth", asked.units), asked.soil)


@router.post("/watering/nozzles", summary="Read nozzle tables")
def read_nozzle_tables(asked: ForeignText) -> tuple[Nozzle, ...]:
    """Tables for a plan to keep; a broken file is refused whole, with its line."""
    return read_foreign(read_nozzles, asked.file)


class ZoningIn(BaseModel):
    """A plan, and how much water there is for one zone (in words); "" for what its source gives."""

    model_config = ConfigDict(extra="forbid")
    plan: Plan
    most: Annotated[str, Field(max_length=60, examples=["40 L/min", "10 gpm"])] = ""


@dataclass(frozen=True, slots=True)
class Offer:
    """One grouping, by what it is called, and the zones a plan would have with it."""

    title: str
    grouping: Grouping
    zones: tuple[Zone, ...]


@dataclass(frozen=True, slots=True)
class Zoned:
    """Groupings beside each other: by nearness and flow, by the valves that are drawn, the crew's own; and what there
    is for each zone.
    """

    most: str
    offers: tuple[Offer, ...]


@router.post("/watering/zones", summary="Heads put into zones, beside the crew's own grouping")
def zones_of(asked: ZoningIn) -> Zoned:
    """Nothing is saved. Where the source's curve is not known, how much water there is must be said."""
    plan = asked.plan
    most = read(asked.most, "flow", plan.units) if asked.most.strip() else gives(plan)
    if most is None:
        raise HydrarchError("say how much water there is for one zone: the source's own curve is not known")
    if most <= 0:
        raise HydrarchError(
            "the source has no pressure to spare for the heads: fix that first, or say how much water there is"
        )
    near = grouped(plan, most)
    offers = [
        Offer(
            "By what each draws and who is near",
            near,
            tuple(
                Zone(id=f"zone-{n}", name=f"Zone {n}", heads=g.heads, valve=g.valve)
                for n, g in enumerate(near.groups, 1)
            ),
        )
    ]
    valves = by_valves(plan, layout(plan))
    if any(valve for valve, _ in valves):
        named = tuple(
            Zone(id=f"zone-{n}", name=plan.names[valve] if valve else "With no valve", heads=heads, valve=valve)
            for n, (valve, heads) in enumerate(valves, 1)
        )
        offers.append(Offer("By the valves that are drawn", measured(plan, [h for _, h in valves], most), named))
    if plan.zones:
        offers.append(Offer("As they are now", measured(plan, [z.heads for z in plan.zones], most), plan.zones))
    return Zoned(str(show(most, "flow", plan.units)), tuple(offers))


@router.get("/jobs/{job_id}/watering", summary="A watering day")
def job_watering(service: ServiceIn, job_id: str) -> Schedule:
    """What the plants need in the weather to come, how long each zone runs, and when."""
    return watering_day(service, service.job(job_id))


def watering_day(service: Service, found: Job) -> Schedule:
    """The same, for whoever writes it down; the weather is the crew's own, or the feed's of the week to come."""
    now = service.clock()
    derived = service.derived(found)
    day = datetime.fromtimestamp(now, UTC).timetuple().tm_yday
    days = derived.plan.watering.weather or _foretold(now, daylight(derived.plan.watering.latitude, day))
    need = daily_need(derived.plan, days, day)
    return schedule(derived.plan, need, derived.watered, derived.dripped)


def _foretold(now: float, light: float) -> Weather:
    """The mean day of the week to come, by the stand-in's feed, where the day has so much light (s)."""
    hours = SimulatedWeather().hours(now, 24 * _DAYS)
    days = [hours[24 * n : 24 * (n + 1)] for n in range(_DAYS)]
    warmest, coldest = (fmean(pick(h.temperature for h in day) for day in days) for pick in (max, min))
    dampest, driest = (fmean(pick(h.humidity for h in day) for day in days) for pick in (max, min))
    winds, suns = [h.wind for h in hours if h.wind is not None], [h.sun for h in hours if h.sun is not None]
    return Weather(
        warmest=warmest,
        coldest=coldest,
        dampest=dampest,
        driest=driest,
        wind=fmean(winds) if winds else None,
        sun=fmean(suns) * light if suns else None,
    )


@router.get("/jobs/{job_id}/looped", summary="A loop beside the same outlets on a tree")
async def job_looped(service: ServiceIn, request: Request, job_id: str) -> Loops:
    """What each takes and gives; both are worked out in full. Break the request off to stop it."""
    plan = (await run_in_threadpool(service.job, job_id)).plan
    return cast("Loops", await answer(request, loop_beside_tree, plan))


class ProgrammeIn(BaseModel):
    """Why a programme is taken although a section is not ready, if so."""

    model_config = ConfigDict(extra="forbid", strict=True)
    override: Annotated[str, Field(max_length=500)] = ""


@dataclass(frozen=True, slots=True)
class Loaded:
    """What the controller was told, in words."""

    says: str


@router.post("/jobs/{job_id}/watering/controller", summary="Give the controller its programme")
def load_controller(service: ServiceIn, job_id: str, asked: ProgrammeIn) -> Loaded:
    """Tomorrow's openings. A zone that runs through a section that may not take pressure refuses (409) without a reason
    to go on.
    """
    found = service.job(job_id)
    day, derived, stands = watering_day(service, found), service.derived(found), service.stands(found)
    for zone in dict.fromkeys(o.zone for o in day.openings):
        gate = zone_gate(derived, stands, derived.sizes.flows[zone])
        if not gate.open and not asked.override.strip():
            raise shut_gate("water", derived.sizes.flows[zone].name, gate)
    tomorrow = datetime.fromtimestamp(service.clock(), UTC) + timedelta(days=1)
    midnight = tomorrow.replace(hour=0, minute=0, second=0, microsecond=0).timestamp()
    service.controller(job_id).load(
        [Running(o.zone, midnight + o.begins, midnight + o.begins + o.seconds) for o in day.openings]
    )
    count = f"{len(day.openings)} opening{'s' if len(day.openings) != 1 else ''}"
    return Loaded(
        f"The controller has {count} for tomorrow, the first at {day.openings[0].at}."
        if day.openings
        else "There is nothing to open."
    )
