"""A well's answer sent into a job: the pump in its hole, its string and check valves, the pitless adapter and the
vessel, drawn as things.
"""

from __future__ import annotations

from dataclasses import replace
from itertools import pairwise
from math import ceil

from hydrarch.core.base.errors import HydrarchError
from hydrarch.core.base.identity import new_id
from hydrarch.core.base.units import show
from hydrarch.core.catalogue.fittings import end
from hydrarch.core.catalogue.markets import market
from hydrarch.core.catalogue.pipes import HUNG
from hydrarch.core.components.base import What
from hydrarch.core.components.devices import CheckValve
from hydrarch.core.components.equipment import Vessel
from hydrarch.core.components.sources import CurvePoint, WellPump
from hydrarch.core.components.wells import Pitless
from hydrarch.core.hydraulics.water import water
from hydrarch.core.plan.document import Plan, Point, Run, RunEnd
from hydrarch.core.wells.droppipe import DropPipe, DropPipes, Duty, drop_pipes, hung_end
from hydrarch.core.wells.hole import Hole

__all__ = ["lay_well"]

_FROST = (
    0.9  # m: where a pitless adapter goes through the casing until the crew says how deep frost reaches; from memory
)
_APART = 0.3  # m between a check valve screwed to the pump and the pump
THREAD_SIZES = ("3/4", "1", "1-1/4", "1-1/2", "2", "3")
"""Sizes of thread that pumps and adapters are made with; common practice."""
_BESIDE = 4.0  # m from the well to its vessel, to be moved


def lay_well(plan: Plan, hole: Hole, duty: Duty, found: DropPipes) -> Plan:
    """A plan with the well drawn into it, beside what is there.

    Its pump's curve is a guess through shut-off and duty, to be replaced.

    Raises `HydrarchError` where no pipe stands every limit: there is no well to send; and where the job's market is
    another than the answer was for, and another string would be best there.
    """
    if found.pump_wrong:
        raise HydrarchError(f"there is no well to draw until the pump does: {found.pump_wrong[0]}")
    best = next((c for c in found.candidates if not c.rejected), None)
    if best is None or found.head is None:
        raise HydrarchError(
            "no pipe stands every limit, so there is no string to draw: change the hole or what is asked of it"
        )
    here = market(plan.conditions.market)
    own = drop_pipes(hole, replace(duty, market=here.market)).candidates[0]
    if (own.series, own.size) != (best.series, best.size):
        raise HydrarchError(
            f"that job buys in another market ({here.title}), where {own.name}, {own.size} comes first: choose that "
            "market at the bench, look at the answer, and send it again"
        )
    x = max((p.x for p in plan.points), default=-10.0) + 10.0
    y = min((p.y for p in plan.points), default=0.0)
    ground = min(plan.points, key=lambda p: (x - p.x) ** 2 + (y - p.y) ** 2).ground if plan.points else 0.0
    spots: list[tuple[str, What, float, float]] = [("Well pump", _pump(duty, hole, found, ground), 0.0, hole.pump)]
    spots.append(("Check valve at the pump", CheckValve(), 0.0, hole.pump - _APART))
    spots += [
        (f"Check valve at {show(c.depth, 'well depth', plan.units)}", CheckValve(), 0.0, c.depth)
        for c in found.checks[1:]
    ]
    spots.append(("Pitless adapter", _pitless(best, duty), 0.0, min(_FROST, hole.pump / 2)))
    volume = max(found.vessel.volume, 1e-3)
    spots.append(
        (
            "Vessel",
            Vessel(volume=volume, cut_in=duty.cut_in, cut_out=duty.cut_out),
            _BESIDE,
            min(_FROST, hole.pump / 2),
        )
    )
    ports: dict[type[What], dict[str, str]] = {
        WellPump: {"out": _threads(plan, best, duty.outlet)},
        Pitless: dict.fromkeys(
            ("in", "out"), _threads(plan, best, best.size if best.size in THREAD_SIZES else duty.outlet)
        ),
    }
    points = [
        Point(
            id=new_id("W"),
            name=_named(plan, name),
            x=x + east,
            y=y,
            ground=ground,
            depth=depth,
            what=what,
            ports=ports.get(type(what), {}),
        )
        for name, what, east, depth in spots
    ]
    runs = []
    for n, (a, b) in enumerate(pairwise(points)):
        hung = n < len(points) - 2
        one, two = (RunEnd(id=new_id("E"), point=p.id, port=_port(p, way)) for p, way in ((a, "out"), (b, "in")))
        pipe = (best.series, best.size) if hung else (None, None)
        runs.append(
            Run(
                id=new_id("R"),
                a=one,
                b=two,
                coupled=n == 0,
                situation=HUNG if hung else "buried",
                series=pipe[0],
                size=pipe[1],
            )
        )
    body = plan.model_dump(mode="json")
    body["points"] += [p.model_dump(mode="json") for p in points]
    body["runs"] += [r.model_dump(mode="json") for r in runs]
    return Plan.model_validate(body)


def _pump(duty: Duty, hole: Hole, found: DropPipes, ground: float) -> WellPump:
    head = found.head or 0.0
    points = ((0.0, duty.shut_off), (duty.flow, head), (2 * duty.flow, max(0.0, head - 3 * (duty.shut_off - head))))
    if not duty.shut_off > head:
        have, want = (show(h, "head", duty.units) for h in (duty.shut_off, head))
        raise HydrarchError(
            f"the pump makes {have} against a shut valve and would need {want} at the flow asked: take a stronger one"
        )
    return WellPump(
        water_level=ground - hole.level(duty.flow), curve=tuple(CurvePoint(flow=q, head=h) for q, h in points)
    )


def _pitless(best: DropPipe, duty: Duty) -> Pitless:
    return Pitless(
        carries=float(ceil(best.hanging)), stands=float(ceil(duty.shut_off * water(duty.temperature).weight))
    )


def _threads(plan: Plan, best: DropPipe, size: str) -> str:
    """The female thread of a thing the string is screwed to: of the string's own kind, or else the market's."""
    shop = market(plan.conditions.market)
    own = end(hung_end(shop, best.series, best.size)).system
    system = own if own in ("npt", "bsp") else shop.thread
    return f"{system}:female:{size}"


def _port(point: Point, way: str) -> str:
    ports = point.kind.ports_of(point.what)
    return next((p.name for p in ports if p.name == way), ports[0].name)


def _named(plan: Plan, name: str) -> str:
    taken = {p.name for p in plan.points}
    return next(n for n in (name, *(f"{name} {k}" for k in range(2, len(taken) + 3))) if n not in taken)
