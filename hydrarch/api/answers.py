"""Survey and Size: long sections, bodies, the model, and the working of any number."""

from __future__ import annotations

from collections.abc import AsyncIterator
from dataclasses import dataclass, replace
from typing import cast

from fastapi import APIRouter, Request, Response
from fastapi.concurrency import run_in_threadpool
from fastapi.sse import EventSourceResponse, ServerSentEvent
from pydantic import TypeAdapter

from hydrarch.api.apart import answer, tell
from hydrarch.api.service import JobThere, Service, ServiceIn
from hydrarch.core.base.errors import Unknown
from hydrarch.core.building.together import all_scenarios
from hydrarch.core.catalogue.pipes import Pipe
from hydrarch.core.coverage.landing import Painted, painted
from hydrarch.core.cutting.shop import FittingBody, joint_places
from hydrarch.core.derivation.chain import Derivation
from hydrarch.core.joining.assembly import NodeView, leg_needs, leg_things, node_views
from hydrarch.core.joining.constraints import Constraints
from hydrarch.core.joining.served import MOST_WAYS
from hydrarch.core.joining.ways import Ways, join
from hydrarch.core.plan.document import Plan
from hydrarch.core.report.drain_materials import DrainMaterial, compare_drains
from hydrarch.core.report.what_if import WhatIf, compare_plans
from hydrarch.core.report.working import Working, working
from hydrarch.core.site.layout import Layout, ProfilePoint, profile
from hydrarch.core.sizing.compare import Comparison, compare_sizes
from hydrarch.core.sizing.operating import Operating, operating
from hydrarch.core.sizing.select import Sizes
from hydrarch.core.sizing.two_open import PairsOpen, two_open

__all__ = ["router"]

router = APIRouter(prefix="/api/jobs/{job_id}", tags=["survey and size"])
_CLOSING = 3  # ways that close between two held ends are offered besides
_COMPARISON = TypeAdapter(Comparison)


@router.get("/profile", summary="A long section between two points")
def long_section(
    service: ServiceIn, job_id: str, start: str, stop: str, scenario: str = ""
) -> tuple[ProfilePoint, ...]:
    """Ground, pipe and hydraulic grade along the shortest way; empty where there is none."""
    found = service.job(job_id)
    derived = service.sized(found)
    names = [p.id for p in found.plan.points]
    for name in (start, stop):
        if name not in names:
            raise Unknown("point", name, names)
    flow = derived.sizes.flows.get(scenario or all_scenarios(found.plan)[0].id)
    heads = {p: s.head for p, s in flow.points.items()} if flow else {}
    points = profile(found.plan, derived.layout, start, stop, heads)
    return points if len(points) > 1 else ()


@router.get("/ways/{end}", summary="Other ways to join a run's end")
def other_ways(service: ServiceIn, job_id: str, end: str) -> Ways:
    """The ways to join between the run's end and what it leads to there, best first; choose one by writing it in the
    plan.
    """
    found = service.job(job_id)
    derived, plan = service.sized(found), found.plan
    joints = [j for j in derived.assembly.joints if j.end == end and j.role == "stack"]
    if not joints:
        raise Unknown("joint at the end", end)
    needs = leg_needs(plan, derived.layout, derived.settled.pipes, joints[0].point or "", end)
    limits = Constraints(
        temperature=derived.layout.warmth(joints[0].point) if joints[0].point else plan.conditions.water_temperature,
        units=plan.units,
        fixed=needs.fixed,
        valve=needs.valve,
        union=needs.union,
        market=plan.conditions.market,
    )
    start, stop = leg_things(derived.layout, derived.settled.pipes, joints)
    usual = join(start, stop, limits, MOST_WAYS, plan.prices)
    if needs.fixed or start.series is None or start.pipe()[0].stick is None:
        return usual
    closing = join(
        start, stop, replace(limits, fixed=True), _CLOSING, plan.prices
    )  # for a branch into pipe that is made
    known = {w.fittings for w in usual.ways}
    return replace(usual, ways=(*usual.ways, *(w for w in closing.ways if w.fittings not in known)))


@dataclass(frozen=True, slots=True)
class ShopDrawing:
    """Fittings as bodies, and where each joint at a point is, both in m east, north and up."""

    bodies: tuple[FittingBody, ...]
    joints: dict[str, tuple[float, float, float]]


@router.get("/bodies", summary="Every fitting as a body in its place, and every joint in its own")
def shop_drawing(service: ServiceIn, job_id: str) -> ShopDrawing:
    """What is drawn near enough to hold: barrels from catalogue dimensions."""
    done = service.derived(service.job(job_id))
    return ShopDrawing(done.bodies, joint_places(done.plan, done.layout, done.assembly))


@router.get("/model", summary="The line as solids")
def line_model(service: ServiceIn, job_id: str) -> Response:
    """GlTF 2.0 binary: every part, pipe and body in its place, and how each joint goes home, in the order of work."""
    from hydrarch.core.model.scene import build_model
    from hydrarch.formats.gltf import model_glb

    model = build_model(service.derived(service.job(job_id)))
    return Response(model_glb(model), media_type="model/gltf-binary")


@router.get("/watered/{scenario}", summary="Where the water of the heads lands")
def watered_ground(service: ServiceIn, job_id: str, scenario: str) -> Painted:
    """Rates on a mesh over the ground of one scenario, painted by whoever looks at it from above."""
    found = service.job(job_id)
    flows = service.sized(found).sizes.flows
    ground = painted(found.plan, flows[scenario]) if scenario in flows else None
    if ground is None:
        raise Unknown("scenario in which a head runs", scenario, list(flows))
    return ground


@router.get("/nodes/{point}", summary="What else may stand at a point")
def other_nodes(service: ServiceIn, job_id: str, point: str) -> tuple[NodeView, ...]:
    """Elbows, two elbows, the pipe's own bend, tees and saddles that fit there, best first; choose one by writing it in
    the plan.
    """
    found = service.job(job_id)
    if point not in {p.id for p in found.plan.points}:
        raise Unknown("point", point, [p.id for p in found.plan.points])
    derived = service.sized(found)
    return node_views(
        found.plan, derived.layout, derived.settled.pipes, point, found.plan.prices, derived.sizes.fastest()
    )


@router.get("/sizing", summary="Three ways to size, side by side")
async def three_ways(service: ServiceIn, request: Request, job_id: str) -> Comparison:
    """The rule of thumb, the computed sizes, and the least cost with what is proved, and the curve of cost against
    source head.

    The work ends with the request: break the request off and it stops.
    """
    return cast(Comparison, await answer(request, compare_sizes, *await run_in_threadpool(_sizing, service, job_id)))


@router.get(
    "/sizing/live",
    summary="The same, saying how far it is",
    response_class=EventSourceResponse,
    dependencies=[JobThere],
)
async def three_ways_live(service: ServiceIn, job_id: str) -> AsyncIterator[ServerSentEvent]:
    """Server-sent events: "says" with how far it is, "done" with the comparison, "fault" with a reason.

    Close it to stop the work.
    """
    async for told in tell(_COMPARISON, compare_sizes, *await run_in_threadpool(_sizing, service, job_id)):
        yield told


def _sizing(service: Service, job_id: str) -> tuple[Plan, Layout, dict[str, float], Sizes]:
    found = service.job(job_id)
    derived = service.sized(found)
    return found.plan, derived.layout, derived.assembly.minor, derived.sizes


@router.get("/drain-pipe", summary="Drain pipe side by side")
async def drain_pipe(service: ServiceIn, request: Request, job_id: str) -> tuple[DrainMaterial, ...]:
    """The job's drains in each material the schools take; empty where there are none. Nothing is changed.

    The work ends with the request: break the request off and it stops.
    """
    plan = (await run_in_threadpool(service.job, job_id)).plan
    return cast(tuple[DrainMaterial, ...], await answer(request, compare_drains, plan))


@router.get("/two-open", summary="Every two fixtures at once")
async def two_at_once(service: ServiceIn, request: Request, job_id: str) -> PairsOpen:
    """What each of every two fixtures has while both are open and nothing else is, the worst first.

    The work ends with the request: break the request off and it stops.
    """
    plan, lay, minor, pipes = await run_in_threadpool(_settled, service, job_id)
    return cast(PairsOpen, await answer(request, two_open, plan, lay, pipes, minor))


def _settled(service: Service, job_id: str) -> tuple[Plan, Layout, dict[str, float], dict[str, Pipe]]:
    found = service.job(job_id)
    derived = service.sized(found)
    return found.plan, derived.layout, derived.assembly.minor, derived.settled.pipes


@router.post("/what-if", summary="Try a plan without keeping it")
def what_if(service: ServiceIn, job_id: str, plan: Plan) -> WhatIf:
    """What would change: sizes, the worst outlet of every scenario, what the pipe costs. Nothing is saved."""
    tried = service.worked_out(plan, plan.model_dump_json(), Derivation.ROOMS)
    return compare_plans(service.derived(service.job(job_id)), tried, plan)


@router.get("/operating/{point}", summary="A pump against the system it feeds")
def operating_point(service: ServiceIn, job_id: str, point: str) -> Operating:
    """The pump's curve, the system's curve in each scenario, and where they cross."""
    found = service.job(job_id)
    if point not in {p.id for p in found.plan.points}:
        raise Unknown("point", point, [p.id for p in found.plan.points])
    derived = service.sized(found)
    return operating(found.plan, derived.layout, derived.sizes, derived.assembly.minor, point)


@router.get("/working/{kind}/{name}", summary="How a number came about")
def number_working(service: ServiceIn, job_id: str, kind: str, name: str, scenario: str | None = None) -> Working:
    """Formula, inputs and source of a derived number."""
    found = service.job(job_id)
    return working(found.plan, service.derived(found), kind, name, scenario)
