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
from hydrarch.core.diagnosis.explain import Diagnosis, explain
from hydrarch.core.diagnosis.faults import FaultWords, fault_words
from hydrarch.core.diagnosis.instruments import ReadWith, instruments
from hydrarch.core.diagnosis.signs import SIGNS, SignAt, SignSeen, sign_called, signs
from hydrarch.core.diagnosis.suspicion import Suspicion, suspicions
from hydrarch.core.diagnosis.weighing import SeenHere
from hydrarch.core.plan.document import Plan, Scenario
from hydrarch.core.record.events import READ, Event, standing_events
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
class SignHere:
    """A sign that was seen: by its event, which sign, at which point or run (its id), and its words."""

    event: str
    sign: str
    where: str
    says: str


@dataclass(frozen=True, slots=True)
class SignOffered:
    """A sign that may be seen: its id, its words, and whether it is seen at an outlet, at a place, or at the line as a
    whole.
    """

    id: str
    title: str
    at: SignAt


@dataclass(frozen=True, slots=True)
class FaultFound:
    """A fault that was found: by its event, its kind, where, by whom and when (s since 1970), and what was done about
    it, by whom; both "" where nobody said. What was mended at a place with nothing found there has no kind.
    """

    event: str
    kind: str
    where: str
    by: str
    at: float
    mended: str = ""
    mended_by: str = ""


@dataclass(frozen=True, slots=True)
class FaultFinding:
    """What was read in a scenario, who read it when (s since 1970) with what, what was seen without an instrument, and
    what would explain it all. `gone` counts readings at things or in scenarios that are not there any more; `over`
    those from before a fault was found, which do not count; `closed` are the faults that were found. `suspected` says
    of each run by its id why it is likelier to leak: what is so of how many of its joints; `words` has the words of
    each fault, by its kind.
    """

    scenario: str
    scenarios: tuple[FaultScenario, ...]
    by: dict[str, tuple[str, float, str]]
    gone: int
    over: int
    signs: tuple[SignHere, ...]
    offered: tuple[SignOffered, ...]
    closed: tuple[FaultFound, ...]
    suspected: dict[str, tuple[tuple[str, int], ...]]
    words: dict[str, FaultWords]
    instruments: tuple[ReadWith, ...]
    found: Diagnosis


@dataclass(frozen=True, slots=True)
class _Asked:
    plan: Plan
    lay: Layout
    pipes: dict[str, Pipe]
    minor: dict[str, float]
    scenario: Scenario
    seen: tuple[SeenHere, ...]
    suspicions: dict[str, Suspicion]
    scenarios: tuple[FaultScenario, ...]
    by: dict[str, tuple[str, float, str]]
    gone: int
    over: int
    signs: tuple[SignSeen, ...]
    closed: tuple[FaultFound, ...]
    falls: dict[str, float]


@router.get("/fault", summary="What would explain the readings")
async def find_fault(service: ServiceIn, request: Request, job_id: str, scenario: str = "") -> FaultFinding:
    """Faults weighed by the readings of a scenario ("shut" for all outlets shut), and what to read next. Readings are
    events "observed".

    The work ends with the request: break the request off and it stops.
    """
    asked = await run_in_threadpool(_asked, service, job_id, scenario)
    found = await answer(
        request,
        explain,
        asked.plan,
        asked.lay,
        asked.pipes,
        asked.minor,
        asked.scenario,
        asked.seen,
        {r: s.weight for r, s in asked.suspicions.items()},
        asked.signs,
        asked.falls,
    )
    return FaultFinding(
        scenario=asked.scenario.id,
        scenarios=asked.scenarios,
        by=asked.by,
        gone=asked.gone,
        over=asked.over,
        signs=tuple(SignHere(s.event, s.sign, s.where, sign_called(s.sign).title) for s in asked.signs),
        offered=tuple(SignOffered(s.id, s.title, s.at) for s in signs().values()),
        closed=asked.closed,
        suspected={r: s.why for r, s in asked.suspicions.items() if s.why},
        words=fault_words(),
        instruments=instruments(),
        found=cast(Diagnosis, found),
    )


def _asked(service: Service, job_id: str, scenario: str) -> _Asked:
    found = service.job(job_id)
    derived = service.sized(found)
    ready = service.stands(found)
    with service.log(job_id) as log:
        every_one = sorted((e for e in log.observed if e.seen is not None), key=lambda e: (e.at, e.id))
        mends = {e.of: e for e in standing_events(log.events) if e.kind == "mended"}
    places = {*found.plan.by_id, *found.plan.run_by_id}
    closed = tuple(
        FaultFound(
            e.id,
            e.seen.word,
            e.of,
            e.by,
            e.at,
            mends[e.id].note.strip() if e.id in mends else "",
            mends[e.id].by if e.id in mends else "",
        )
        for e in every_one
        if e.seen is not None and e.seen.what == "found"
    )
    at_places = tuple(
        FaultFound(m.id, "", m.of, m.by, m.at, m.note.strip(), m.by) for m in mends.values() if m.of in places
    )
    closed = tuple(sorted((*closed, *at_places), key=lambda f: f.at))
    since = closed[-1].at if closed else -1.0
    now = [e for e in every_one if e.at > since]
    observed = [e for e in now if e.seen is not None and e.seen.what in READ]
    seen_signs = tuple(
        SignSeen(e.id, e.seen.word, e.of or "")
        for e in now
        if e.seen is not None and e.seen.what == "sign" and e.seen.word in SIGNS and e.of in (*places, "line")
    )
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
        seen=tuple(
            SeenHere(e.id, e.of or "", s.what, s.value, s.error, s.shut)
            for e, s in mine
            if s.what in ("pressure", "flow", "takes")
        ),
        suspicions=suspicions(found.plan, derived.assembly.joints, ready.joints, derived.layout),
        scenarios=tuple(FaultScenario(s.id, s.name, counts[s.id]) for s in every),
        by={e.id: (e.by, e.at, s.instrument) for e, s in mine},
        over=sum(e.seen is not None and e.seen.what != "found" for e in every_one if e.at <= since),
        signs=seen_signs,
        closed=closed,
        falls={d.run: d.fall for d in derived.drains},
        gone=_gone(now, set(known), places, seen_signs),
    )


def _gone(now: list[Event], scenarios: set[str], places: set[str], signs_here: tuple[SignSeen, ...]) -> int:
    """How many readings and signs are of things or scenarios that are not there any more."""
    weighed = {s.event for s in signs_here}
    readings = [(e.of, e.seen.scenario) for e in now if e.seen is not None and e.seen.what in READ]
    lost = sum(of not in places or scenario not in scenarios for of, scenario in readings)
    return lost + sum(e.seen is not None and e.seen.what == "sign" and e.id not in weighed for e in now)
