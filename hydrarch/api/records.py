"""Make and Prove: procedures, events with their gates, where the job stands, and sections under test."""

from __future__ import annotations

import asyncio
from collections.abc import AsyncIterator
from dataclasses import asdict, dataclass, replace
from math import inf
from typing import Annotated, Any

from fastapi import APIRouter, Depends, Query
from fastapi.concurrency import run_in_threadpool
from fastapi.sse import EventSourceResponse, ServerSentEvent
from pydantic import BaseModel, ConfigDict, Field, ValidationError

from hydrarch.api.foreign import read_foreign
from hydrarch.api.problems import Fault, ProblemDocument, invalid, problem, shut_gate
from hydrarch.api.service import By, Service, ServiceIn
from hydrarch.api.standing import StageIn, Standing, standing
from hydrarch.core.base.errors import Unknown
from hydrarch.core.commissioning.handover import to_tell
from hydrarch.core.commissioning.readiness import gate_for, looked_gate, readiness
from hydrarch.core.commissioning.sections import Section
from hydrarch.core.commissioning.tightness import THERMOMETER, FlushPlan, HoldPlan, Judged, flush_plan, hold_plan, judge
from hydrarch.core.derivation.chain import Derivation, where_it_stands
from hydrarch.core.making.steps import Procedure, procedure
from hydrarch.core.plan.document import Plan
from hydrarch.core.record.clocks import SLACK, put_right
from hydrarch.core.record.events import Event, Reading, read_said
from hydrarch.core.record.log import Log
from hydrarch.core.record.places import joints_hit
from hydrarch.core.record.spots import with_spots
from hydrarch.core.record.states import joint_state, mark_joints
from hydrarch.core.record.went_wrong import Spoiled, went_wrong
from hydrarch.devices.gauge import SimulatedGauge, read_log
from hydrarch.formats.explained import explain
from hydrarch.store.audit import add_audit
from hydrarch.store.events import known_events
from hydrarch.store.jobs import Job

__all__ = ["Answered", "router"]

router = APIRouter(prefix="/api/jobs/{job_id}", tags=["make and prove"])

_OPEN = 86400.0  # s: longer than a day between two sayings of one opening of a page, and the order of arrival is enough
_WAITED = 60 * 86400.0  # s: no page stays open for longer with something that was not sent
_AHEAD = 300.0  # how far (s) a phone's clock may run before ours


@dataclass(frozen=True, slots=True)
class EventAnswer:
    """Whether an event is kept (also where it was already), and if not, why."""

    id: str
    kept: bool
    problem: ProblemDocument | None


@dataclass(frozen=True, slots=True)
class Answered:
    """What became of each event that was sent, and where the job stands now; `clock` is by how much (s) their times
    were put right.
    """

    events: tuple[EventAnswer, ...]
    standing: Standing
    clock: float


@router.get("/joints/{joint}/wrong", summary="It went wrong: what now?")
def joint_wrong(service: ServiceIn, job_id: str, joint: str) -> Spoiled:
    """What can still be saved, which joints go with it, and what to buy again. Nothing is changed by asking."""
    found = service.job(job_id)
    return went_wrong(service.derived(found).assembly, service.stands(found).joints, joint)


def _section(derived: Derivation, name: str) -> Section:
    found = next((s for s in derived.sections if s.id == name), None)
    if found is None:
        raise Unknown("section", name, [s.id for s in derived.sections])
    return found


@router.get("/sections/{section}/flush", summary="How to flush and fill a section")
def section_flush(service: ServiceIn, job_id: str, section: str) -> FlushPlan:
    """Which ends to open, how much water at what flow, and what brings it to its test pressure."""
    found = service.job(job_id)
    derived = service.sized(found)
    return flush_plan(found.plan, derived.layout, derived.settled.pipes, _section(derived, section))


class ReadingIn(BaseModel):
    """The gauge at one time: s, Pa, and K where it was read; `simulated` where a stand-in made it."""

    model_config = ConfigDict(extra="forbid", strict=True, allow_inf_nan=False)
    at: float
    pressure: Annotated[float, Field(ge=0, le=1e8)]
    temperature: Annotated[float, Field(ge=273.15, le=373.15)] | None = None
    simulated: bool = False


GaugeError = Annotated[float, Field(gt=0, le=1e6)]


class TestLog(BaseModel):
    """A test's readings, typed or as a logger's CSV, what fall is allowed (Pa; none: the hold plan's) and the gauge's
    error (Pa) and the thermometer's (K; none: what is usual, or the stand-in's own).

    `made_up` (m³) is the water pumped in from full to the test pressure, where it was measured.
    """

    model_config = ConfigDict(extra="forbid", strict=True, allow_inf_nan=False)
    readings: list[ReadingIn] = Field(default_factory=list, max_length=20_000)
    csv: Annotated[str, Field(max_length=2_000_000)] = ""
    allowed: Annotated[float, Field(ge=0, le=1e6)] | None = None
    gauge_error: GaugeError | None = None
    thermometer: Annotated[float, Field(gt=0, le=10)] | None = None
    made_up: Annotated[float, Field(ge=0, le=100)] | None = None


@router.get("/sections/{section}/hold", summary="How long to hold a test, and what fall passes")
def section_hold(service: ServiceIn, job_id: str, section: str, gauge_error: GaugeError | None = None) -> HoldPlan:
    """Time, allowed fall, the least leak that shows, and what a degree of warmth does to the gauge."""
    found = service.job(job_id)
    derived = service.derived(found)
    return hold_plan(_section(derived, section), gauge_error, found.plan.units)


@router.post("/sections/{section}/judge", summary="Judge a pressure test")
def section_judged(service: ServiceIn, job_id: str, section: str, log: TestLog) -> Judged:
    """The fall with warmth and stretch taken off, the leak with its doubt, a verdict, and where to look.

    Nothing is kept.
    """
    found = service.job(job_id)
    derived = service.derived(found)
    mine = _section(derived, section)
    readings = read_foreign(read_log, log.csv) if log.csv else tuple(Reading(**r.model_dump()) for r in log.readings)
    own = SimulatedGauge.THERMOMETER if any(r.simulated for r in readings) else THERMOMETER
    thermometer = own if log.thermometer is None else log.thermometer
    states = service.stands(found).joints
    order = {t.joint: n for n, t in enumerate(derived.work.tasks)}
    suspects = sorted(mine.joints, key=lambda j: (not joint_state(states, j).overrides, -order.get(j, 0)))
    names: dict[str, str] = {j.id: f"{j.method} at {j.place}" for j in derived.assembly.joints}
    first = list(dict.fromkeys(names[j] for j in suspects))
    return judge(readings, mine, log.gauge_error, log.allowed, first, log.made_up, found.plan.units, thermometer)


@router.get("/sections/{section}/gauge", summary="Read the simulated gauge")
def section_gauge(
    service: ServiceIn, job_id: str, section: str, leak: Annotated[float, Query(ge=0, le=1e-3)] = 0.0, seed: int = 1
) -> tuple[Reading, ...]:
    """A stand-in for a logger: half an hour of readings of a section that stretches, drifts and may leak."""
    found = service.job(job_id)
    derived = service.derived(found)
    mine = _section(derived, section)
    warm = found.plan.conditions.water_temperature
    return SimulatedGauge(mine.full, mine.test, leak, temperature=warm, seed=seed).log()


def _section_there(service: ServiceIn, job_id: str, section: str) -> None:
    _section(service.derived(service.job(job_id)), section)


@router.get(
    "/sections/{section}/gauge/live",
    summary="Watch the simulated gauge",
    response_class=EventSourceResponse,
    dependencies=[Depends(_section_there)],
)
async def section_gauge_live(
    service: ServiceIn,
    job_id: str,
    section: str,
    leak: Annotated[float, Query(ge=0, le=1e-3)] = 0.0,
    seed: int = 1,
    pace: Annotated[float, Query(ge=1, le=1e5)] = 60.0,
) -> AsyncIterator[ServerSentEvent]:
    """The same readings one by one as server-sent events "reading", then "done".

    `pace` is how much faster than life they come.
    """
    log = await run_in_threadpool(section_gauge, service, job_id, section, leak, seed)
    before = log[0].at
    for reading in log:
        await asyncio.sleep((reading.at - before) / pace)
        before = reading.at
        yield ServerSentEvent(event="reading", data=asdict(reading))
    yield ServerSentEvent(event="done", raw_data="the log is full")


@router.get("/joints/{joint}/procedure", summary="How to make a joint")
def joint_procedure(service: ServiceIn, job_id: str, joint: str) -> Procedure:
    """The steps of a joint by the crew's own practices, with its numbers."""
    found = service.job(job_id)
    derived = service.derived(found)
    known = derived.assembly.named
    if joint not in known:
        raise Unknown("joint", joint, known)
    pressure = next((s.test for s in derived.sections if joint in s.joints), 0.0)
    return procedure(found.plan, known[joint], pressure)


@dataclass(frozen=True, slots=True)
class Procedures:
    """How to make every joint of a job, to be taken where there is no signal: each procedure once, and which of them
    each joint has.
    """

    kinds: tuple[Procedure, ...]
    of: dict[str, int]


@router.get("/procedures", summary="How to make every joint")
def job_procedures(service: ServiceIn, job_id: str) -> Procedures:
    """The steps and clocks of all joints in one answer; joints made alike share one."""
    found = service.job(job_id)
    derived = service.derived(found)
    pressures = {j: s.test for s in derived.sections for j in s.joints}
    kinds: dict[Procedure, int] = {}
    of = {}
    for name, joint in derived.assembly.named.items():
        mine = replace(procedure(found.plan, joint, pressures.get(name, 0.0)), joint="")
        of[str(name)] = kinds.setdefault(mine, len(kinds))
    return Procedures(tuple(kinds), of)


_SAID: dict[str, Any] = {"type": "array", "maxItems": 1000, "items": {"$ref": "#/components/schemas/Said"}}


@router.post(
    "/events",
    summary="Say what was done",
    openapi_extra={"requestBody": {"required": True, "content": {"application/json": {"schema": _SAID}}}},
)
def say(
    service: ServiceIn,
    job_id: str,
    new: Annotated[list[dict[str, Any]], Field(max_length=1000)],
    stage: StageIn = "make",
    by: By = "",
    sent: Annotated[
        float | None, Query(ge=0, le=1e11, description="the phone's clock as it sends, s since 1970")
    ] = None,
    page: Annotated[str, Query(max_length=60, description="the opening of the page that sends")] = "",
    tick: Annotated[float | None, Query(ge=0, le=4e9, description="how long (s) that page has been open")] = None,
) -> Answered:
    """Add events. Each has its own answer: one that is refused (not well formed, at a shut gate, ahead of our clock)
    keeps no other from being kept.

    A joint that is not of the drawing is kept as a lost joint. A shut gate is passed with a reason, which is kept.
    A phone whose clock is wrong is put right by the time it says it has: else a joint would cure before it is made.
    """
    off = 0.0 if sent is None else service.clock() - sent
    off = off if abs(off) > SLACK else 0.0
    sender = (page, tick)
    found = service.job(job_id)
    derived = service.derived(found)
    answers: list[EventAnswer] = []
    with service.recording(job_id) as (log, keep):
        known = known_events(service.store, job_id, [str(e.get("id", "")) for e in new])
        before = len(log.events)
        for item in new:
            refused, name = None, str(item.get("id", ""))[:60]
            if name not in known:
                try:
                    keep(_checked(service, found, derived, read_said(item), log, off, sender))
                    known.add(name)
                except Fault as fault:
                    refused = fault.document
                except ValidationError as error:
                    refused = invalid(explain(error))
            answers.append(EventAnswer(name, refused is None, refused))
        added = len(log.events) > before
    answer = Answered(tuple(answers), standing(service, found, stage), off)
    if added:
        service.tell(job_id, "events", by)
    return answer


def _withdraws(item: Event, log: Log) -> None:
    """Raise `Fault` unless what is withdrawn is in the record, and stands."""
    named = next((e for e in log.events if e.id == item.of), None)
    if named is None or named.kind in ("withdrawn", "ran"):
        raise Fault(
            problem(
                "unknown",
                "No such record",
                422,
                "What you withdraw is not in the record.",
                "Look at the record as it is now, and choose it there.",
            )
        )
    if item.of in log.withdrawn:
        raise Fault(
            problem(
                "unknown",
                "Withdrawn already",
                422,
                f"{log.withdrawn[item.of].by} has withdrawn that already.",
                "Look at the record as it is now.",
            )
        )


def _mends(item: Event, plan: Plan, log: Log) -> None:
    """Raise `Fault` unless what is mended is a leak or fault that stands in the record, or is drawn."""
    named = next((e for e in log.events if e.id == item.of), None)
    told = named is not None and named.id not in log.withdrawn and named.kind in ("leaked", "observed", "tested")
    if told or item.of in plan.by_id or item.of in plan.run_by_id or item.joints:
        return
    raise Fault(
        problem(
            "unknown",
            "Nothing there to mend",
            422,
            "What you mended is neither in the record nor on the drawing any more.",
            "Choose the leak, or the place, as it is shown now.",
        )
    )


def _latest(item: Event, sender: tuple[str, float | None], now: float) -> float | None:
    """The latest (s since 1970) that an event may have been, by the second clock of the page it was said on: `now`
    where that was opened anew since; None where it has no such clock.
    """
    page, tick = sender
    if item.page is None or item.tick is None or tick is None:
        return None
    waited = tick - item.tick
    return now - waited if item.page == page and 0.0 <= waited <= _WAITED else now


def _between(item: Event, log: Log) -> tuple[float, float]:
    """The earliest and the latest (s since 1970) that an event may have been, by what else was said on the same page:
    between two sayings at least as long went by as by its second clock. What that clock cannot be, a page open for
    longer than `_OPEN`, is not believed.
    """
    if item.page is None or item.tick is None:
        return -inf, inf
    same = [(tick - item.tick, at) for tick, at in log.ticks.get(item.page, ())]
    same = [(gap, at) for gap, at in same if abs(gap) <= _OPEN and abs(at - item.at) <= _OPEN]
    early = max((at - gap for gap, at in same if gap <= 0), default=-inf)
    return early, min((at - gap for gap, at in same if gap > 0), default=inf)


def _checked(
    service: Service,
    found: Job,
    derived: Derivation,
    item: Event,
    log: Log,
    off: float,
    sender: tuple[str, float | None],
) -> Event:
    """The event as it is kept, its times put right by `off` (s), or by what its device knew of its clock as it was
    said.

    Raises `Fault` for one ahead of our clock, of a section that is not there, or at a shut gate.
    """
    said = item.at
    now = service.clock()
    at, doubt = put_right(said, off_now=off, off_then=item.device_off, now=now, latest=_latest(item, sender, now))
    early, late = _between(item, log)
    at = max(min(at, late), min(early, max(at, now)))
    moved = at - said
    if moved:
        item = replace(item, at=at, ended=None if item.ended is None else item.ended + moved)
    if item.at > service.clock() + _AHEAD or (item.ended or 0.0) > service.clock() + _AHEAD:
        raise Fault(
            problem(
                "future",
                "Not yet",
                422,
                "What was said is dated later than now.",
                "Look at the start and the end that were entered, and at the phone's clock.",
            )
        )
    sections = {s.id: s for s in derived.sections}
    if item.section is not None and item.section not in sections:
        raise Fault(
            problem(
                "unknown",
                "No such section",
                422,
                f"There is no section {item.section} on the drawing any more.",
                "Choose the section it is now, and say it again.",
            )
        )
    names = tuple(item.joints) if item.section is None else sections[item.section].joints
    if item.kind in ("leaked", "mended", "observed"):
        names = joints_hit(item, derived.assembly.joints, derived.layout, log)
    marks = mark_joints(
        derived.assembly.joints, names, log.joints, place=item.kind in ("made", "dry_fitted", "left_dry")
    )
    if item.kind == "made":
        marks = with_spots(found.plan, derived.assembly.joints, marks)
    told: tuple[str, ...] = ()
    if item.kind == "handed_over":
        stands = where_it_stands(found.plan, derived, log, item.at)
        shut = {sections[n].name: s.pressurise.why for n, s in stands.sections.items() if not s.pressurise.open}
        told = to_tell(stands.hand_over, shut)
    if item.kind == "taken_over" and item.of not in {e.id for e in log.handed}:
        raise Fault(
            problem(
                "unknown",
                "No such hand-over",
                422,
                "That hand-over is not in the record.",
                "Take over the one that is shown now.",
            )
        )
    if item.kind == "withdrawn":
        _withdraws(item, log)
    if item.kind == "mended":
        _mends(item, found.plan, log)
    if item.kind == "looked" and not item.override.strip():
        stands = readiness(found.plan, derived.assembly, derived.sections, log, item.at)
        gate = looked_gate(derived.sections, stands, marks, item.at)
        if not gate.open:
            raise shut_gate("record as seen dry", "it", gate)
    if item.override.strip():
        add_audit(service.store, service.clock(), item.by, "overridden", f"{found.plan.name}: {item.override.strip()}")
    event = replace(item, joints=marks, clock=moved or None, doubt=doubt or None, told=told)
    if item.section is not None and not item.override.strip():
        state = readiness(found.plan, derived.assembly, derived.sections, log, item.at).sections[item.section]
        gate = gate_for(event, state)
        if not gate.open:
            raise shut_gate("pressurise" if item.kind == "tested" else "bury", sections[item.section].name, gate)
    return event
