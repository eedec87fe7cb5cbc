"""What there is to say of each body of water: what it holds, how often it goes round, what it loses, and how long it
takes to warm.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from functools import cached_property

from hydrarch.core.base.units import show
from hydrarch.core.catalogue.waters import UseOf, use_of
from hydrarch.core.circulation.laws import evaporation, losing, warming
from hydrarch.core.components.basins import Basin, Heater, InWall, TopUp
from hydrarch.core.hydraulics.flow import Flow
from hydrarch.core.hydraulics.round_flow import loops, turnover_flow
from hydrarch.core.plan.basin_shapes import BasinShape, filled_by, shape_of
from hydrarch.core.plan.document import Plan, Point
from hydrarch.core.site.layout import Layout
from hydrarch.core.site.systems import System

__all__ = ["WaterBody", "BodyOfWater", "bodies_of_water", "body_at", "comes_in", "goes_round"]


@dataclass(frozen=True)
class WaterBody:
    """A body of water in its place, with what is let into its wall."""

    point: Point
    what: Basin
    shape: BasinShape
    inside: tuple[Point, ...]

    @property
    def level(self) -> float:
        """Where its water stands (m) while all runs as it should."""
        return self.shape.rim - self.what.below_rim

    @property
    def use(self) -> UseOf:
        """What its use asks for."""
        return use_of(self.what.use)

    @cached_property
    def water(self) -> float:
        """The water in it (m³)."""
        return self.shape.volume(self.level)

    def let_in(self, *kinds: type) -> tuple[Point, ...]:
        """What is let into its wall, of some models."""
        return tuple(p for p in self.inside if isinstance(p.what, kinds))


def body_at(plan: Plan, basin: str) -> WaterBody:
    """The body of water at a point."""
    point = plan.by_id[basin]
    assert isinstance(point.what, Basin)
    inside = tuple(
        p
        for p in plan.points
        if isinstance(p.what, InWall) and p.what.waters is not None and p.what.waters.basin == basin
    )
    return WaterBody(point, point.what, shape_of(point), inside)


@dataclass(frozen=True, slots=True)
class BodyOfWater:
    """A body as it is told: its water (m³), surface (m²), what comes back to it (m³/s) and how long once round takes
    (s; None: still).

    `evaporates` is in m³/s. `says` is what a crew asks of it, in sentences.
    """

    point: str
    name: str
    volume: float
    area: float
    level: float
    comes: float
    once: float | None
    evaporates: float
    says: tuple[str, ...]


def comes_in(plan: Plan, flow: Flow, point: Point) -> float:
    """What comes to a thing by its inlets (m³/s), what leaves it taken off."""
    found = 0.0
    for run in plan.runs:
        at = flow.runs.get(run.id)
        for end, sign in ((run.a, -1.0), (run.b, 1.0)):
            if at is not None and end.point == point.id and (port := plan.port(end)) is not None and port.role == "in":
                found += sign * at.flow
    return found


def goes_round(plan: Plan, flow: Flow, body: WaterBody) -> float:
    """What comes to a body and leaves it again (m³/s): what its drains are made for beyond that is not counted."""
    comes = sum(max(comes_in(plan, flow, p), 0.0) for p in body.inside)
    leaves = sum(max(_drawn(plan, flow, p), 0.0) for p in body.inside)
    return min(comes, leaves)


def _drawn(plan: Plan, flow: Flow, point: Point) -> float:
    """What leaves a body by a fitting (m³/s)."""
    found = 0.0
    for run in plan.runs:
        at = flow.runs.get(run.id)
        for end, sign in ((run.a, 1.0), (run.b, -1.0)):
            if (
                at is not None
                and end.point == point.id
                and (port := plan.port(end)) is not None
                and port.role == "suction"
            ):
                found += sign * at.flow
    return found


def bodies_of_water(plan: Plan, lay: Layout, flows: Mapping[str, Flow]) -> tuple[BodyOfWater, ...]:
    """Every body with what is to be said of it, in drawing order; `flows` by scenario, the fullest is told."""
    found = []
    for point in plan.points:
        if not isinstance(point.what, Basin):
            continue
        body = body_at(plan, point.id)
        if body.shape.crosses or body.water <= 0:
            continue
        comes = max((goes_round(plan, f, body) for f in flows.values()), default=0.0)
        once = body.water / comes if comes > 1e-9 else None
        c = plan.conditions
        warm = body.what.warm or c.water_temperature
        area = body.shape.area(body.level)
        gone = 0.0 if body.what.lid else evaporation(area, warm, c.air_temperature, c.humidity)
        says = (
            *_holds(plan, body),
            *_round(plan, body, comes, once),
            *_warmth(plan, lay, body, area),
            *_topped(plan, body, gone),
        )
        found.append(
            BodyOfWater(
                point=point.id,
                name=point.label,
                volume=body.water,
                area=area,
                level=body.level,
                comes=comes,
                once=once,
                evaporates=gone,
                says=says,
            )
        )
    return tuple(found)


def _holds(plan: Plan, body: WaterBody) -> Iterator[str]:
    yield (
        f"{body.point.label} has {show(body.water, 'volume', plan.units)} in it, "
        f"{show(body.shape.area(body.level), 'area', plan.units)} of surface, "
        f"{show(body.level - body.shape.bottom, 'length', plan.units)} deep."
    )


def _round(plan: Plan, body: WaterBody, comes: float, once: float | None) -> Iterator[str]:
    if body.what.use == "sump":
        return
    wanted = turnover_flow(plan, body.point.id)
    if once is None:
        if wanted:
            yield f"Nothing comes back to it; it wants {show(wanted, 'flow', plan.units)}."
        return
    told = f"{show(comes, 'flow', plan.units)} comes back: once round in {_long(once)}"
    if not wanted:
        yield f"{told}."
    elif comes >= wanted:
        yield f"{told}, of {_long(body.water / wanted)} asked."
    else:
        yield f"{told}; {_long(body.water / wanted)} is asked, which takes {show(wanted, 'flow', plan.units)}."


def _long(seconds: float) -> str:
    if seconds < 5400:
        return f"{seconds / 60:.0f} min"
    return f"{seconds / 3600:.1f} h" if seconds < 36 * 3600 else f"{seconds / 86400:.1f} days"


def _on_its_loop(plan: Plan, lay: Layout, body: WaterBody) -> Iterator[System]:
    mine = {p.id for p in body.inside}
    return (s for s in loops(plan, lay) if mine & set(s.points))


def _warmth(plan: Plan, lay: Layout, body: WaterBody, area: float) -> Iterator[str]:
    if body.what.warm is None:
        return
    c, warm = plan.conditions, body.what.warm
    power = sum(
        what.power
        for s in _on_its_loop(plan, lay, body)
        for p in s.points
        if isinstance(what := plan.by_id[p].what, Heater) and what.does == "heats"
    )
    bare, covered = (losing(area, warm, c.air_temperature, c.humidity, lid) for lid in (False, True))
    lost = covered if body.what.lid else bare
    if power:
        cold = c.water_temperature
        midway = losing(area, (cold + warm) / 2, c.air_temperature, c.humidity, body.what.lid)
        takes = warming(body.water, cold, warm, power, midway)
        warms = (
            f"{show(power, 'power', plan.units)} warms it from {show(cold, 'temperature', plan.units)} to "
            f"{show(warm, 'temperature', plan.units)}"
        )
        if takes is None or lost >= power:
            yield (
                f"{warms} never: at {show(c.air_temperature, 'temperature', plan.units)} outside its surface "
                f"alone gives off {show(lost, 'power', plan.units)}."
            )
        else:
            yield f"{warms} in about {_long(takes)}."
    yield (
        f"Kept at {show(warm, 'temperature', plan.units)} its surface gives off about "
        f"{show(bare, 'power', plan.units)} open and "
        f"{show(covered, 'power', plan.units)} under a lid, walls and pipe not counted."
    )


def _topped(plan: Plan, body: WaterBody, gone: float) -> Iterator[str]:
    a_day = gone * 86400
    if a_day > 1e-3 and body.what.use != "sump":
        valves = [p for p in plan.points if isinstance(p.what, TopUp) and filled_by(plan.points, p) == body.point.id]
        by = f"; {valves[0].label} makes it up" if valves else ""
        yield (
            f"About {show(a_day, 'volume', plan.units)} a day evaporates, "
            f"{show(a_day / body.shape.area(body.level), 'cut', plan.units)} of its level{by}."
        )
