"""Where a job stands now: its joints and sections, the zones and what they would run through, the clocks, and how far
each stage is.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated

from fastapi import APIRouter, Query

from hydrarch.api.service import Service, ServiceIn
from hydrarch.core.base.problems import Stage
from hydrarch.core.commissioning.glance import Wait, glance
from hydrarch.core.commissioning.inverts import DrainAsLaid, drains_as_laid
from hydrarch.core.commissioning.readiness import Gate, Readiness
from hydrarch.core.commissioning.walk import Stop, leak_walk, wet_sections
from hydrarch.core.derivation.chain import Derivation
from hydrarch.core.hydraulics.flow import Flow
from hydrarch.core.record.states import MADE, joint_state
from hydrarch.formats.calendar import Clock, clocks
from hydrarch.store.events import last_hand
from hydrarch.store.jobs import Job

__all__ = ["StageIn", "Standing", "ZoneView", "router", "standing", "zone_gate"]

router = APIRouter(prefix="/api/jobs/{job_id}", tags=["make and prove"])
_DAY = 86400.0
StageIn = Annotated[Stage, Query(description="The stage whose answer is wanted")]


@dataclass(frozen=True, slots=True)
class ZoneView:
    """One zone: what it opens, whether it may run, and since and until when it runs (s since 1970), None if it does
    not.
    """

    id: str
    name: str
    gate: Gate
    since: float | None
    until: float | None
    stops: tuple[Stop, ...]


@dataclass(frozen=True, slots=True)
class Standing:
    """Where everything stands at one moment, as a `stage` was told it; `zones` and `clocks` are told in Prove alone,
    `laid`, drains by what was read in them, wherever something was.
    """

    readiness: Readiness
    stage: Stage
    zones: tuple[ZoneView, ...] = ()
    clocks: tuple[Clock, ...] = ()
    laid: tuple[DrainAsLaid, ...] = ()


@dataclass(frozen=True, slots=True)
class Progress:
    """How far each stage of a revision is, from 0 to 1, and how many joints stand dry."""

    revision: int
    stages: dict[Stage, float]
    dry: int


@dataclass(frozen=True, slots=True)
class AtAGlance:
    """A job in the list: `lines` are its runs, x, y and level of both ends (m); `stage` is where the work waits,
    `waits` what waits.

    `clocks` are those that run out within a day; `hand` said the last thing in its record, at `at` (s since 1970), ""
    and None for none.
    """

    revision: int
    lines: tuple[tuple[float, float, float, float, float, float], ...]
    stage: Stage
    waits: tuple[Wait, ...]
    clocks: tuple[Clock, ...]
    hand: str
    at: float | None


def standing(service: Service, found: Job, stage: Stage) -> Standing:
    """Where a job stands now, as its stage tells it."""
    ready = service.stands(found)
    laid = tuple[DrainAsLaid, ...]()
    if any(s.level is not None for s in ready.joints.values()):
        d = service.derived(found)
        laid = drains_as_laid(found.plan, d.layout, d.drains, d.inverts, d.assembly.named, ready.joints)
    if stage != "prove":
        return Standing(ready, stage, laid=laid)
    derived = service.derived(found)
    told = clocks(derived.sections, ready, derived.assembly.joints)
    return Standing(ready, stage, _zones(service, found, derived, ready), told, laid)


def _zones(service: Service, found: Job, derived: Derivation, ready: Readiness) -> tuple[ZoneView, ...]:
    """Every scenario as a zone of the controller, with the joints to look at while it runs, nearest to the source
    first.
    """
    running = service.controller(found.id).running()
    views = []
    for flow in derived.sizes.flows.values():
        on = running if running and running.zone == flow.scenario else None
        stops = leak_walk(
            derived.layout, derived.assembly, derived.sections, flow, ready.joints, derived.sizes.flows.values()
        )
        gate = zone_gate(derived, ready, flow)
        views.append(
            ZoneView(flow.scenario, flow.name, gate, on.since if on else None, on.until if on else None, stops)
        )
    return tuple(views)


def zone_gate(derived: Derivation, ready: Readiness, flow: Flow) -> Gate:
    """The first shut gate of the sections its water goes through; open where all are."""
    for section in wet_sections(derived.sections, flow, derived.sizes.flows.values()):
        gate = ready.sections[section.id].pressurise
        if not gate.open:
            return Gate(False, f"{section.name}: {gate.why}", gate.from_time)
        bare = [j for j in section.later if joint_state(ready.joints, j).state not in MADE]
        if bare:
            where = ", ".join(dict.fromkeys(derived.assembly.named[j].place for j in bare))
            return Gate(False, f"{section.name}: not fitted yet, so an open end unless it is capped: {where}", None)
    return Gate(True, "every section it runs through may take pressure", None)


@router.get("/standing", summary="Where the job stands")
def job_standing(service: ServiceIn, job_id: str, stage: StageIn = "make") -> Standing:
    """The state of every joint and section now; in Prove also the zones and the clocks that run."""
    return standing(service, service.job(job_id), stage)


@router.get("/progress", summary="How far each stage is")
def job_progress(service: ServiceIn, job_id: str) -> Progress:
    """The share of each stage that is done, and how many joints are only dry-fitted."""
    found = service.job(job_id)
    ready = service.stands(found)
    return Progress(found.revision, ready.stages, sum(s.state == "dry" for s in ready.joints.values()))


@router.get("/glance", summary="A job at a glance")
def job_glance(service: ServiceIn, job_id: str) -> AtAGlance:
    """Its lines, what waits and where, the clocks that run out within a day, and the last hand on it."""
    found = service.job(job_id)
    derived, ready = service.derived(found), service.stands(found)
    seen = glance(found.plan, derived.problems(), ready)
    soon = tuple(c for c in clocks(derived.sections, ready, derived.assembly.joints) if c.at < ready.now + _DAY)
    hand, at = last_hand(service.store, job_id) or ("", None)
    return AtAGlance(found.revision, seen.lines, seen.stage, seen.waits, soon, hand, at)
