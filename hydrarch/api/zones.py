"""Prove: zones run by the controller for the leak walk."""

from __future__ import annotations

import uuid
from typing import Annotated

from fastapi import APIRouter
from pydantic import BaseModel, ConfigDict, Field

from hydrarch.api.problems import shut_gate
from hydrarch.api.service import By, ServiceIn
from hydrarch.api.standing import Standing, standing, zone_gate
from hydrarch.core.base.errors import Unknown
from hydrarch.core.commissioning.walk import wet_sections
from hydrarch.core.record.events import Event

__all__ = ["router"]

router = APIRouter(prefix="/api/jobs/{job_id}/zones", tags=["make and prove"])


class RunIn(BaseModel):
    """Who runs a zone, for how long (s), and why although it is not ready, if so."""

    model_config = ConfigDict(extra="forbid", strict=True, allow_inf_nan=False)
    by: Annotated[str, Field(min_length=1, max_length=60)]
    seconds: Annotated[float, Field(ge=10, le=4 * 3600)] = 600.0
    override: Annotated[str, Field(max_length=500)] = ""


@router.post("/{zone}/run", summary="Run a zone for the leak walk")
def run_zone(service: ServiceIn, job_id: str, zone: str, asked: RunIn, by: By = "") -> Standing:
    """Open it for so long and shut it again by itself.

    A section that may not take pressure refuses (409) without a reason to go on.
    """
    found = service.job(job_id)
    derived = service.derived(found)
    flow = derived.sizes.flows.get(zone)
    if flow is None:
        raise Unknown("zone", zone, derived.sizes.flows)
    gate = zone_gate(derived, service.stands(found), flow)
    if not gate.open and not asked.override.strip():
        raise shut_gate("run", flow.name, gate)
    now = service.clock()
    ran = [
        Event(
            id=str(uuid.uuid4()),
            kind="ran",
            at=now,
            by=asked.by,
            section=s.id,
            override=asked.override.strip(),
            note=flow.name,
        )
        for s in wet_sections(derived.sections, flow, derived.sizes.flows.values())
    ]
    with service.recording(job_id) as (_, keep):
        for event in ran:
            keep(event)
    service.controller(job_id).run(zone, asked.seconds)
    answer = standing(service, found, "prove")
    service.tell(job_id, "events", by)
    return answer


@router.post("/stop", summary="Shut the zone that runs")
def stop_zone(service: ServiceIn, job_id: str, by: By = "") -> Standing:
    """Shut it at once."""
    found = service.job(job_id)
    service.controller(job_id).stop()
    answer = standing(service, found, "prove")
    service.tell(job_id, "events", by)
    return answer
