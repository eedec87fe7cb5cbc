"""Circulation: what can happen to it, and what comes of it over minutes and hours."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated, cast

from fastapi import APIRouter, Request
from fastapi.concurrency import run_in_threadpool
from pydantic import BaseModel, ConfigDict, Field

from hydrarch.api.apart import answer
from hydrarch.api.service import ServiceIn
from hydrarch.core.base.progress import Report, unheard
from hydrarch.core.circulation.happens import Trace, happens
from hydrarch.core.circulation.mishaps import MISHAPS, Mishap, mishaps_of
from hydrarch.core.derivation.chain import derive
from hydrarch.core.plan.document import Plan

__all__ = ["router"]

router = APIRouter(prefix="/api", tags=["survey and size"])


@dataclass(frozen=True, slots=True)
class Befalls:
    """Something that can happen, in words, and the things of the drawing it can happen to, with their names."""

    mishap: Mishap
    says: str
    things: tuple[tuple[str, str], ...]


@router.get("/jobs/{job_id}/mishaps", summary="What can happen to a circulation")
def job_mishaps(service: ServiceIn, job_id: str) -> tuple[Befalls, ...]:
    """Empty but for "nothing" where no pump moves water round."""
    derived = service.sized(service.job(job_id))
    found = mishaps_of(derived.plan, derived.settled.pipes, derived.assembly.minor)
    return tuple(
        Befalls(m, MISHAPS[m], tuple((t, derived.plan.names[t]) for t in things)) for m, things in found.items()
    )


class HappensIn(BaseModel):
    """What happens, where (blank: the first thing it can happen to), and for how long it is followed (h)."""

    model_config = ConfigDict(extra="forbid", strict=True)
    mishap: Mishap = "nothing"
    where: Annotated[str, Field(max_length=60)] = ""
    hours: Annotated[float, Field(ge=0.1, le=168, examples=[2.0])] = 2.0


@router.post("/jobs/{job_id}/happens", summary="What comes of a mishap, over time")
async def job_happens(service: ServiceIn, request: Request, job_id: str, asked: HappensIn) -> Trace:
    """Levels and flows over time, what mattered, and what would have helped.

    Nothing is saved; break the request off to stop it.
    """
    plan = (await run_in_threadpool(service.job, job_id)).plan
    return cast("Trace", await answer(request, let_happen, plan, asked.mishap, asked.where, asked.hours))


def let_happen(plan: Plan, mishap: Mishap, where: str, hours: float, report: Report = unheard) -> Trace:
    """Derive a plan and let it happen."""
    report("what flows")
    derived = derive(plan)
    pipes, minor = derived.settled.pipes, derived.assembly.minor
    report("what comes of it")
    return happens(plan, pipes, minor, mishap, where, hours)
