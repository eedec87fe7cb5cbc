"""Prove: zones run by the controller for the leak walk."""

from __future__ import annotations

import uuid
from dataclasses import dataclass
from typing import Annotated

from fastapi import APIRouter
from pydantic import BaseModel, ConfigDict, Field

from hydrarch.api.problems import shut_gate
from hydrarch.api.service import Service, ServiceIn
from hydrarch.core.chain import Derivation
from hydrarch.core.errors import Unknown
from hydrarch.core.hydraulics.flow import Flow
from hydrarch.core.making.state import Event
from hydrarch.core.proving.readiness import Gate, Readiness
from hydrarch.core.proving.walk import Stop, leak_walk, wet_sections
from hydrarch.store.jobs import Job

__all__ = ["router"]

router = APIRouter(prefix="/api/jobs/{job_id}/zones", tags=["make and prove"])


@dataclass(frozen=True, slots=True)
class ZoneView:
    """One zone: what it opens, whether it may run, and since and until when it runs (s since 1970), None if it does not."""

    id: str
    name: str
    gate: Gate
    since: float | None
    until: float | None
    stops: tuple[Stop, ...]


class RunIn(BaseModel):
    """Who runs a zone, for how long (s), and why although it is not ready, if so."""

    model_config = ConfigDict(extra="forbid", strict=True, allow_inf_nan=False)
    by: Annotated[str, Field(min_length=1, max_length=60)]
    seconds: Annotated[float, Field(ge=10, le=4 * 3600)] = 600.0
    override: Annotated[str, Field(max_length=500)] = ""


@router.get("", summary="The zones, and what their water passes")
def zones(service: ServiceIn, job_id: str) -> tuple[ZoneView, ...]:
    """Every scenario as a zone of the controller, with the joints to look at while it runs, nearest to the source first."""
    return _views(service, service.job(job_id))


def _views(service: Service, found: Job) -> tuple[ZoneView, ...]:
    derived, ready = service.derived(found), service.stands(found)
    running = service.controller(found.id).running()
    views = []
    for flow in derived.sizes.flows.values():
        on = running if running and running.zone == flow.scenario else None
        stops = leak_walk(derived.layout, derived.assembly, flow, ready.joints)
        gate = _gate(derived, ready, flow)
        views.append(ZoneView(flow.scenario, flow.name, gate, on.since if on else None, on.until if on else None, stops))
    return tuple(views)


def _gate(derived: Derivation, ready: Readiness, flow: Flow) -> Gate:
    """The first shut gate of the sections its water goes through; open where all are."""
    for section in wet_sections(derived.sections, flow):
        gate = ready.sections[section.id].pressurise
        if not gate.open:
            return Gate(False, f"{section.name}: {gate.why}", gate.from_time)
    return Gate(True, "every section it runs through may take pressure", None)


@router.post("/{zone}/run", summary="Run a zone for the leak walk")
def run_zone(service: ServiceIn, job_id: str, zone: str, asked: RunIn) -> tuple[ZoneView, ...]:
    """Open it for so long and shut it again by itself. A section that may not take pressure refuses (409) without a reason to go on."""
    found = service.job(job_id)
    derived = service.derived(found)
    flow = derived.sizes.flows.get(zone)
    if flow is None:
        raise Unknown("zone", zone, derived.sizes.flows)
    gate = _gate(derived, service.stands(found), flow)
    if not gate.open and not asked.override.strip():
        raise shut_gate("run", flow.name, gate)
    now = service.clock()
    ran = [
        Event(str(uuid.uuid4()), "ran", now, asked.by, section=s.id, override=asked.override.strip(), note=flow.name)
        for s in wet_sections(derived.sections, flow)
    ]  # fmt: skip
    with service.recording(job_id) as (_, keep):
        for event in ran:
            keep(event)
    service.controller(job_id).run(zone, asked.seconds)
    answer = _views(service, found)
    service.tell(job_id, "events")
    return answer


@router.post("/stop", summary="Shut the zone that runs")
def stop_zone(service: ServiceIn, job_id: str) -> tuple[ZoneView, ...]:
    """Shut it at once."""
    found = service.job(job_id)
    service.controller(job_id).stop()
    answer = _views(service, found)
    service.tell(job_id, "events")
    return answer
