"""Make and Prove: procedures, events with their gates, where the job stands, and news of it as it happens."""

from __future__ import annotations

import asyncio
from collections.abc import AsyncIterator
from typing import Annotated, Literal

from fastapi import APIRouter, Query
from fastapi.concurrency import run_in_threadpool
from fastapi.responses import StreamingResponse
from pydantic import BaseModel, ConfigDict, Field, TypeAdapter, model_validator

from hydrarch.api.problems import Fault, problem, shut_gate
from hydrarch.api.service import Service, ServiceIn
from hydrarch.core.chain import Derived
from hydrarch.core.errors import Unknown
from hydrarch.core.making.state import Event, joint_state
from hydrarch.core.making.steps import Procedure, procedure
from hydrarch.core.making.wrong import Spoiled, went_wrong
from hydrarch.core.proving.readiness import Readiness, gate_for, readiness
from hydrarch.core.proving.sections import Section
from hydrarch.core.proving.tightness import (
    FlushPlan,
    HoldPlan,
    Judged,
    Reading,
    Stiffness,
    flush_plan,
    hold_plan,
    judge,
    stiffness,
)
from hydrarch.devices.gauge import SimulatedGauge, read_log
from hydrarch.store.events import add_events, events
from hydrarch.store.jobs import Job

__all__ = ["EventIn", "router"]

router = APIRouter(prefix="/api/jobs/{job_id}", tags=["make and prove"])

_READING = TypeAdapter(Reading)
_AHEAD = 300.0  # how far (s) a phone's clock may run before ours


class EventIn(BaseModel):
    """What the crew did, with an id the phone made, so that sending it twice changes nothing. Times in s since 1970."""

    model_config = ConfigDict(extra="forbid", strict=True, allow_inf_nan=False)
    id: Annotated[str, Field(pattern=r"^[0-9a-fA-F-]{32,36}$", examples=["0b6a8a7e-2b64-4e0e-9d1b-6c1f6a3a9b10"])]
    kind: Literal["dry_fitted", "made", "undone", "looked", "tested", "buried"]
    at: Annotated[float, Field(gt=0)]
    by: Annotated[str, Field(min_length=1, max_length=60)]
    joints: list[Annotated[str, Field(max_length=120)]] = Field(default_factory=list, max_length=5000)
    section: str | None = None
    pressure: Annotated[float, Field(gt=0, le=1e7)] | None = None
    ended: float | None = None
    passed: bool | None = None
    temperature: Annotated[float, Field(ge=233.15, le=333.15)] | None = None
    override: Annotated[str, Field(max_length=500)] = ""
    note: Annotated[str, Field(max_length=500)] = ""

    @model_validator(mode="after")
    def _whole(self) -> EventIn:
        if self.kind in ("tested", "buried") and self.section is None:
            raise ValueError(f"an event '{self.kind}' names its section")
        if self.kind not in ("tested", "buried") and not self.joints:
            raise ValueError(f"an event '{self.kind}' names its joints")
        if self.kind == "tested" and (self.pressure is None or self.ended is None or self.passed is None):
            raise ValueError("a test has a pressure, an end and a result")
        if self.ended is not None and self.ended <= self.at:
            raise ValueError("a test ends after it starts")
        return self


@router.get("/joints/{joint}/wrong", summary="It went wrong: what now?")
def joint_wrong(service: ServiceIn, job_id: str, joint: str) -> Spoiled:
    """What can still be saved, which joints go with it, and what to buy again. Nothing is changed by asking."""
    found = service.job(job_id)
    return went_wrong(service.derived(found).assembly, service.stands(found).joints, joint)


def _section(derived: Derived, name: str) -> Section:
    found = next((s for s in derived.sections if s.id == name), None)
    if found is None:
        raise Unknown("section", name, [s.id for s in derived.sections])
    return found


def _full(found: Job, derived: Derived, mine: Section) -> Stiffness:
    return stiffness(found.plan, derived.layout, derived.sizes.pipes(), mine, found.plan.conditions.water_temperature)


@router.get("/sections/{section}/flush", summary="How to flush and fill a section")
def section_flush(service: ServiceIn, job_id: str, section: str) -> FlushPlan:
    """Which ends to open, how much water at what flow, and what brings it to its test pressure."""
    found = service.job(job_id)
    derived = service.derived(found)
    return flush_plan(found.plan, derived.layout, derived.sizes.pipes(), _section(derived, section))


class ReadingIn(BaseModel):
    """The gauge at one time: s, Pa, and K where it was read."""

    model_config = ConfigDict(extra="forbid", strict=True, allow_inf_nan=False)
    at: float
    pressure: Annotated[float, Field(ge=0, le=1e8)]
    temperature: Annotated[float, Field(ge=273.15, le=373.15)] | None = None


GaugeError = Annotated[float, Field(gt=0, le=1e6)]


class TestLog(BaseModel):
    """A test's readings, typed or as a logger's CSV, what fall is allowed (Pa; none: the hold plan's) and the gauge's error (Pa)."""

    model_config = ConfigDict(extra="forbid", strict=True, allow_inf_nan=False)
    readings: list[ReadingIn] = Field(default_factory=list, max_length=20_000)
    csv: Annotated[str, Field(max_length=2_000_000)] = ""
    allowed: Annotated[float, Field(ge=0, le=1e6)] | None = None
    gauge_error: GaugeError = 2e3


@router.get("/sections/{section}/hold", summary="How long to hold a test, and what fall passes")
def section_hold(service: ServiceIn, job_id: str, section: str, gauge_error: GaugeError = 2e3) -> HoldPlan:
    """Time, allowed fall, the least leak that shows, and what a degree of warmth does to the gauge."""
    found = service.job(job_id)
    derived = service.derived(found)
    mine = _section(derived, section)
    full = _full(found, derived, mine)
    return hold_plan(full, mine, gauge_error)


@router.post("/sections/{section}/judge", summary="Judge a pressure test")
def section_judged(service: ServiceIn, job_id: str, section: str, log: TestLog) -> Judged:
    """The fall with warmth and stretch taken off, the leak with its doubt, a verdict, and where to look. Nothing is kept."""
    found = service.job(job_id)
    derived = service.derived(found)
    mine = _section(derived, section)
    full = _full(found, derived, mine)
    readings = read_log(log.csv) if log.csv else tuple(Reading(r.at, r.pressure, r.temperature) for r in log.readings)
    states = service.stands(found).joints
    order = {t.joint: n for n, t in enumerate(derived.work)}
    suspects = sorted(mine.joints, key=lambda j: (not joint_state(states, j).overrides, -order.get(j, 0)))
    names = {j.id: f"{j.method} at {j.place}" for j in derived.assembly.joints}
    allowed = hold_plan(full, mine, log.gauge_error).allowed if log.allowed is None else log.allowed
    return judge(readings, full, mine, allowed, log.gauge_error, list(dict.fromkeys(names[j] for j in suspects)))


@router.get("/sections/{section}/gauge", summary="Read the simulated gauge")
def section_gauge(
    service: ServiceIn, job_id: str, section: str, leak: Annotated[float, Query(ge=0, le=1e-3)] = 0.0, seed: int = 1
) -> tuple[Reading, ...]:
    """A stand-in for a logger: half an hour of readings of a section that stretches, drifts and may leak."""
    found = service.job(job_id)
    derived = service.derived(found)
    mine = _section(derived, section)
    warm = found.plan.conditions.water_temperature
    return SimulatedGauge(_full(found, derived, mine), mine.test, leak, temperature=warm, seed=seed).log()


@router.get("/sections/{section}/gauge/live", summary="Watch the simulated gauge")
async def section_gauge_live(
    service: ServiceIn, job_id: str, section: str, leak: Annotated[float, Query(ge=0, le=1e-3)] = 0.0, seed: int = 1,
    pace: Annotated[float, Query(ge=1, le=1e5)] = 60.0,
) -> StreamingResponse:  # fmt: skip
    """The same readings one by one as server-sent events "reading", then "done". `pace` is how much faster than life they come."""
    log = await run_in_threadpool(section_gauge, service, job_id, section, leak, seed)

    async def stream() -> AsyncIterator[str]:
        before = log[0].at
        for reading in log:
            await asyncio.sleep((reading.at - before) / pace)
            before = reading.at
            yield f"event: reading\ndata: {_READING.dump_json(reading).decode()}\n\n"
        yield "event: done\ndata: the log is full\n\n"

    return StreamingResponse(stream(), media_type="text/event-stream", headers={"Cache-Control": "no-store"})


@router.get("/joints/{joint}/procedure", summary="How to make a joint")
def joint_procedure(service: ServiceIn, job_id: str, joint: str) -> Procedure:
    """The steps of a joint by the crew's own practices, with its numbers."""
    found = service.job(job_id)
    derived = service.derived(found)
    known = {j.id: j for j in derived.assembly.joints}
    if joint not in known:
        raise Unknown("joint", joint, known)
    pressure = next((s.test for s in derived.sections if joint in s.joints), 0.0)
    return procedure(found.plan, known[joint], pressure)


@router.get("/readiness", summary="Where the job stands")
def job_readiness(service: ServiceIn, job_id: str) -> Readiness:
    """The state of every joint and section now."""
    return service.stands(service.job(job_id))


@router.post("/events", summary="Say what was done")
def say(service: ServiceIn, job_id: str, new: Annotated[list[EventIn], Field(max_length=1000)]) -> Readiness:
    """Add events in order, all or none. A shut gate refuses (409) unless the event carries a reason to override it."""
    found = service.job(job_id)
    kept = events(service.store, job_id)
    seen = {e.id for e in kept}
    fresh: list[Event] = []
    for item in new:
        if item.id not in seen:
            fresh.append(_checked(service, found, item, [*kept, *fresh]))
            seen.add(item.id)
    add_events(service.store, job_id, fresh)
    if fresh:
        service.news.tell(job_id, "events")
    return service.stands(found)


def _checked(service: Service, found: Job, item: EventIn, before: list[Event]) -> Event:
    derived = service.derived(found)
    if item.at > service.clock() + _AHEAD or (item.ended or 0.0) > service.clock() + _AHEAD:
        raise Fault(problem(
            "future", "Not yet", 422, "That event lies in the future.", "Check the clock of the phone.", (("at", "is later than now"),)
        ))  # fmt: skip
    signatures = {j.id: j.signature for j in derived.assembly.joints}
    sections = {s.id: s for s in derived.sections}
    if item.section is not None and item.section not in sections:
        raise Unknown("section", item.section, sections)
    names = item.joints if item.section is None else sections[item.section].joints
    if item.kind == "undone":  # what was made may be cut out when the drawing has it no longer
        signatures = {**{n: "" for e in before for n in e.joints}, **signatures}
    for name in names:
        if name not in signatures:
            raise Unknown("joint", name, signatures)
    event = Event(**{**item.model_dump(), "joints": {n: signatures[n] for n in names}})
    if item.section is not None and not item.override.strip():
        state = readiness(found.plan, derived.assembly, derived.sections, before, item.at).sections[item.section]
        gate = gate_for(event, state)
        if not gate.open:
            raise shut_gate("pressurise" if item.kind == "tested" else "bury", sections[item.section].name, gate)
    return event


@router.get("/live", summary="News of a job as it happens")
async def live(service: ServiceIn, job_id: str) -> StreamingResponse:
    """Server-sent events: "plan" or "events" when that changed, and a comment every 20 s."""
    service.job(job_id)
    queue, leave = service.news.listen(job_id)

    async def stream() -> AsyncIterator[str]:
        try:
            yield "retry: 2000\n\n"
            while True:
                try:
                    yield f"data: {await asyncio.wait_for(queue.get(), 20)}\n\n"
                except TimeoutError:
                    yield ": still here\n\n"
        finally:
            leave()

    return StreamingResponse(stream(), media_type="text/event-stream", headers={"Cache-Control": "no-store"})
