"""As laid: where each joint that nobody sees any more lies, measured from two things that stay, and what the record
says of it.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from itertools import combinations
from math import acos, degrees, hypot

from hydrarch.core.commissioning.readiness import Readiness
from hydrarch.core.components.marks import Mark
from hydrarch.core.derivation.chain import Derivation
from hydrarch.core.joining.assembled import Joint
from hydrarch.core.plan.document import Plan, Point
from hydrarch.core.record.spots import drawn_since, drawn_spot
from hydrarch.core.record.states import MADE

__all__ = ["AsLaid", "FromMark", "as_laid", "fixed_marks"]

_HIDDEN = ("buried", "in wall", "in well")
_SHARP = 30.0
"""Degrees at the least between two tapes that cross at a joint: flatter, a hand's breadth on a tape is a spade's width
in the ground. Common practice."""


@dataclass(frozen=True, slots=True)
class FromMark:
    """How far (m, level) a joint lies from a mark."""

    mark: str
    name: str
    distance: float


@dataclass(frozen=True, slots=True)
class AsLaid:
    """One hidden joint: where it is (m east and north, level and depth of its pipe), measured `tapes` from two marks,
    and its record.

    Where it lies is where it was drawn when it was made; `since` says in words how the drawing has it elsewhere now, ""
    where it has not. A record of earlier versions does not say, and it lies as it is drawn (`as_drawn`). `read` is the
    invert (m) that was read there, of a drain, None where none was. `tapes` is empty where fewer than two marks are
    drawn; `sharp` whether the two cross so that they show the place. `by` and `at` are whoever made it and when (s
    since 1970), `proved_at` when the test that proves it was held, or, of what no test holds, when it was last seen dry
    at work; None where neither is so.
    """

    joint: str
    place: str
    method: str
    size: str
    situation: str
    x: float
    y: float
    level: float
    depth: float
    tapes: tuple[FromMark, ...]
    sharp: bool
    by: str
    at: float
    state: str
    since: str
    as_drawn: bool
    read: float | None
    proved_at: float | None


def fixed_marks(plan: Plan) -> tuple[Point, ...]:
    """What stays where it is: marks, but those of what grows or is shallow; then what exists already and stands
    above it.
    """
    marks = [p for p in plan.points if isinstance(p.what, Mark) and p.what.what not in ("cable", "other pipe", "drive")]
    met = [p for p in plan.points if p.existing is not None and p.kind.joined]
    return (*marks, *met)


def as_laid(plan: Plan, derived: Derivation, ready: Readiness) -> tuple[AsLaid, ...]:
    """Every joint that was made and is out of sight, in working order."""
    marks = fixed_marks(plan)
    order = {t.joint: n for n, t in enumerate(derived.work.tasks)}
    proofs = {
        j: max(t.at for t in ready.sections[s.id].tests if t.proves)
        for s in derived.sections
        if s.id in ready.sections and any(t.proves for t in ready.sections[s.id].tests)
        for j in s.joints
    }
    later = {j for s in derived.sections for j in s.later}
    at: dict[str, list[str]] = {}
    for run in plan.runs:
        for place in run.points:
            at.setdefault(place, []).append(run.situation)
    found = []
    for joint in sorted(derived.assembly.joints, key=lambda j: order.get(j.id, len(order))):
        state = ready.joints.get(joint.id)
        if state is None or state.state not in MADE or state.at is None:
            continue
        situation = _situation(plan, joint, at)
        if situation not in _HIDDEN:
            continue
        drawn = drawn_spot(plan, joint)
        spot = state.spot or drawn
        tapes, sharp = _tapes(spot.x, spot.y, marks)
        found.append(
            AsLaid(
                joint=joint.id,
                place=f"{joint.place}, towards {joint.towards}" if joint.towards else joint.place,
                method=joint.method,
                size=joint.size,
                situation=situation,
                x=spot.x,
                y=spot.y,
                level=spot.level,
                depth=spot.depth,
                tapes=tapes,
                sharp=sharp,
                by=state.by,
                at=state.at,
                state=state.state,
                since=drawn_since(spot, drawn, plan.units),
                as_drawn=state.spot is None,
                read=state.level,
                proved_at=proofs.get(joint.id)
                if state.proved
                else state.looked
                if joint.id in later and not state.looked_over
                else None,
            )
        )
    return tuple(found)


def _situation(plan: Plan, joint: Joint, at: Mapping[str, list[str]]) -> str:
    """Where a joint lies: as its run does, or as the deepest run at its point.

    Things screwed to one another with no pipe between are in sight unless both stand below ground.
    """
    if joint.run is not None:
        run = plan.run_by_id[joint.run]
        bare = run.coupled and any(plan.by_id[p].depth <= 0 for p in run.points)
        return "on surface" if bare else run.situation
    here = at.get(joint.point or "", [])
    return next((s for s in _HIDDEN if s in here), here[0] if here else "")


def _tapes(x: float, y: float, marks: tuple[Point, ...]) -> tuple[tuple[FromMark, ...], bool]:
    """The two marks to measure from: the nearest pair whose tapes cross sharply, else the pair that crosses most so."""
    away = [(hypot(x - m.x, y - m.y), m) for m in marks]
    pairs = [(a, b) for a, b in combinations(away, 2) if hypot(a[1].x - b[1].x, a[1].y - b[1].y) > 1e-6]
    if not pairs:
        return (), False
    good = [p for p in pairs if _cross(x, y, *p) >= _SHARP]
    best = min(good, key=lambda p: p[0][0] + p[1][0]) if good else max(pairs, key=lambda p: _cross(x, y, *p))
    return tuple(FromMark(m.id, m.label, d) for d, m in best), bool(good)


def _cross(x: float, y: float, a: tuple[float, Point], b: tuple[float, Point]) -> float:
    """The angle (°, 0 to 90) in which two tapes cross at a place; 90 where the place is a mark itself."""
    if min(a[0], b[0]) < 1e-6:
        return 90.0
    dot = ((a[1].x - x) * (b[1].x - x) + (a[1].y - y) * (b[1].y - y)) / (a[0] * b[0])
    angle = degrees(acos(max(-1.0, min(1.0, dot))))
    return min(angle, 180.0 - angle)
