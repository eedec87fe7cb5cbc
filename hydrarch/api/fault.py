"""What would explain what the crew reads on a line."""

from __future__ import annotations

from dataclasses import dataclass
from typing import cast

from fastapi import APIRouter, Request
from starlette.concurrency import run_in_threadpool

from hydrarch.api.apart import answer
from hydrarch.api.service import Service, ServiceIn
from hydrarch.core.base.errors import Unknown
from hydrarch.core.building.together import all_scenarios
from hydrarch.core.catalogue.pipes import Pipe
from hydrarch.core.diagnosis.explain import Diagnosis, SeenHere, explain
from hydrarch.core.diagnosis.suspicion import joint_weights
from hydrarch.core.plan.document import Plan, Scenario
from hydrarch.core.site.layout import Layout

__all__ = ["router"]

router = APIRouter(prefix="/api/jobs/{job_id}", tags=["keep"])
_SHUT = "shut"


@dataclass(frozen=True, slots=True)
class FaultScenario:
    """A scenario that readings are taken in, and how many there are."""

    id: str
    name: str
    readings: int


@dataclass(frozen=True, slots=True)
class FaultFinding:
    """What was read in a scenario, who read it when (s since 1970), and what would explain it. `gone` counts readings at
    things or in scenarios that are not there any more.
    """

    scenario: str
    scenarios: tuple[FaultScenario, ...]
    by: dict[str, tuple[str, float]]
    gone: int
    found: Diagnosis


@dataclass(frozen=True, slots=True)
class _Asked:
    plan: Plan
    lay: Layout
    pipes: dict[str, Pipe]
    minor: dict[str, float]
    scenario: Scenario
    seen: tuple[SeenHere, ...]
    weights: dict[str, float]
    scenarios: tuple[FaultScenario, ...]
    by: dict[str, tuple[str, float]]
    gone: int


@router.get("/fault", summary="What would explain the readings")
async def find_fault(service: ServiceIn, request: Request, job_id: str, scenario: str = "") -> FaultFinding:
    """Faults weighed by the readings of a scenario ("shut" for all outlets shut), and what to read next. Readings are
    events "observed".

    The work ends with the request: break the request off and it stops.
    """
    asked = await run_in_threadpool(_asked, service, job_id, scenario)
    found = await answer(
        request, explain, asked.plan, asked.lay, asked.pipes, asked.minor, asked.scenario, asked.seen, asked.weights
    )
    return FaultFinding(asked.scenario.id, asked.scenarios, asked.by, asked.gone, cast(Diagnosis, found))


def _asked(service: Service, job_id: str, scenario: str) -> _Asked:
    found = service.job(job_id)
    derived = service.sized(found)
    ready = service.stands(found)
    with service.log(job_id) as log:
        observed = tuple(e for e in log.observed if e.seen is not None)
    shut = Scenario(id=_SHUT, name="All outlets shut", open=())
    every = (*(s for s in all_scenarios(found.plan) if s.id != _SHUT), shut)
    counts = {s.id: sum(e.seen is not None and e.seen.scenario == s.id for e in observed) for s in every}
    known = {s.id: s for s in every}
    wanted = scenario or max(every, key=lambda s: counts[s.id]).id
    if wanted not in known:
        raise Unknown("scenario", wanted, known)
    mine = tuple(
        (e, e.seen) for e in observed if e.seen is not None and e.seen.scenario == wanted and e.of in found.plan.by_id
    )
    return _Asked(
        plan=found.plan,
        lay=derived.layout,
        pipes=derived.settled.pipes,
        minor=derived.assembly.minor,
        scenario=known[wanted],
        seen=tuple(SeenHere(e.id, e.of, s.what, s.value, s.error, s.shut) for e, s in mine),
        weights=joint_weights(derived.assembly.joints, ready.joints, derived.layout),
        scenarios=tuple(FaultScenario(s.id, s.name, counts[s.id]) for s in every),
        by={e.id: (e.by, e.at) for e, _ in mine},
        gone=sum(e.seen is not None and not (e.seen.scenario in known and e.of in found.plan.by_id) for e in observed),
    )
