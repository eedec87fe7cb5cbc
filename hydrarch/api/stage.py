"""A stage is answered with what it needs and no more: which parts of a derivation each stage's page shows, set as JSON
once.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import cache
from typing import Any, get_type_hints

from pydantic import TypeAdapter

from hydrarch.api.service import Service
from hydrarch.api.standing import Standing, standing
from hydrarch.core.base.problems import Problem, Stage
from hydrarch.core.catalogue.guidance import Caution
from hydrarch.core.circulation.overflow import stands_open
from hydrarch.core.circulation.rounds import Rounds
from hydrarch.core.commissioning.sections import Section
from hydrarch.core.components.basins import Basin, Standpipe
from hydrarch.core.coverage.emission import Emission, emitter_places
from hydrarch.core.coverage.landing import Coverage
from hydrarch.core.coverage.wire import Wire
from hydrarch.core.cutting.bill import BillRow
from hydrarch.core.cutting.cuts import CutList
from hydrarch.core.derivation.chain import Derivation
from hydrarch.core.hydraulics.drain_flow import DrainRun
from hydrarch.core.hydraulics.flow import Flow, OutletFlow
from hydrarch.core.joining.assembled import Joint, Part
from hydrarch.core.joining.dripways import Beside, ways_beside
from hydrarch.core.making.tins import old_tins
from hydrarch.core.making.worklist import Glueup, Task
from hydrarch.core.plan.basin_shapes import shape_of
from hydrarch.core.plan.document import Plan
from hydrarch.core.report.headlines import says
from hydrarch.core.report.loops import closes_a_loop
from hydrarch.core.site.layout import Layout, Line
from hydrarch.core.site.systems import System
from hydrarch.core.sizing.hammer import Stopped
from hydrarch.core.sizing.select import Choice, Sizes
from hydrarch.store.jobs import Job

__all__ = ["PARTS_OF", "Lines", "Sized", "StageAnswer", "rooms_of", "stage_json"]


@dataclass(frozen=True, slots=True)
class DrawnWater:
    """A body of water as it is drawn (m): corners of its rim and of its floor, east and north, and how high rim, water
    and floor are.

    `upright` are the standpipes in it: east, north, foot and open end.
    """

    rim: tuple[tuple[float, float], ...]
    floor: tuple[tuple[float, float], ...]
    top: float
    level: float
    bottom: float
    upright: tuple[tuple[float, float, float, float], ...]


@dataclass(frozen=True, slots=True)
class Lines:
    """Every run as it is laid out, the end of each its water comes from ("a", "b", or "" where that is not known), and
    its series.

    `emitters` are where those of each drip row are (m, east, north, up); `loops` says whether water comes to some place
    by two ways.
    """

    lines: dict[str, Line]
    comes_by: dict[str, str]
    series: dict[str, str]
    systems: tuple[System, ...]
    emitters: dict[str, tuple[tuple[float, float, float], ...]]
    loops: bool
    waters: dict[str, DrawnWater]


@dataclass(frozen=True, slots=True)
class Sized:
    """The pipe of every run, and the flows that follow by scenario."""

    choices: dict[str, Choice]
    flows: dict[str, Flow]


@dataclass(frozen=True, slots=True)
class StageAnswer:
    """What a stage shows of one revision: the parts it needs, and what is wrong so far.

    Parts it does not need are left out.

    `says` is its answer in one line, by the stage; "" where the page tells it from the record.
    """

    stage: Stage
    revision: int
    problems: tuple[Problem, ...]
    says: dict[Stage, str]
    lines: Lines
    cautions: tuple[Caution, ...] | None = None
    sizes: Sized | None = None
    drains: tuple[DrainRun, ...] | None = None
    surges: dict[str, Stopped] | None = None
    watered: dict[str, Coverage] | None = None
    dripped: dict[str, dict[str, Emission]] | None = None
    shut: dict[str, dict[str, OutletFlow]] | None = None
    rounds: Rounds | None = None
    wire: Wire | None = None
    joints: tuple[Joint, ...] | None = None
    parts: tuple[Part, ...] | None = None
    tubing: tuple[Beside, ...] | None = None
    bill: tuple[BillRow, ...] | None = None
    cuts: CutList | None = None
    work: tuple[Task, ...] | None = None
    groups: tuple[Glueup, ...] | None = None
    sections: tuple[Section, ...] | None = None
    tins: tuple[Problem, ...] | None = None
    standing: Standing | None = None


def _lines(d: Derivation) -> Lines:
    lay = d.layout
    return Lines(
        lay.lines,
        {run: _comes_by(lay, line) for run, line in lay.lines.items()},
        {run.id: d.systems.series_of(d.plan, run) for run in d.plan.runs},
        d.systems.found,
        emitter_places(d.plan, lay),
        closes_a_loop(d.plan),
        _waters(d.plan),
    )


def _waters(plan: Plan) -> dict[str, DrawnWater]:
    found = {}
    for p in plan.points:
        if isinstance(p.what, Basin):
            shape = shape_of(p)
            floor = tuple(
                (p.x + (x - p.x) * shape.share**0.5, p.y + (y - p.y) * shape.share**0.5) for x, y in shape.corners
            )
            upright = tuple(
                (s.x, s.y, s.level, stands_open(s))
                for s in plan.points
                if isinstance(s.what, Standpipe) and s.what.waters is not None and s.what.waters.basin == p.id
            )
            found[p.id] = DrawnWater(
                shape.corners, floor, shape.rim, shape.rim - p.what.below_rim, shape.bottom, upright
            )
    return found


def _comes_by(lay: Layout, line: Line) -> str:
    a, b = (lay.away(p) for p in (line.a, line.b))
    if lay.systems.drain(line.run):
        a, b = b, a
    return "a" if a < b else "b" if b < a else ""


def _sized(d: Derivation) -> Sized:
    found: Sizes = d.sizes
    return Sized(found.choices, found.flows)


_PARTS: dict[str, Callable[[Derivation], Any]] = {
    "lines": _lines,
    "cautions": lambda d: d.site_cautions,
    "sizes": _sized,
    "drains": lambda d: d.drains,
    "surges": lambda d: d.surges,
    "watered": lambda d: d.watered,
    "dripped": lambda d: d.dripped,
    "shut": lambda d: d.shut,
    "rounds": lambda d: d.rounds,
    "wire": lambda d: d.wire,
    "joints": lambda d: d.assembly.joints,
    "parts": lambda d: d.assembly.parts,
    "tubing": lambda d: ways_beside(d.assembly),
    "bill": lambda d: d.bill,
    "cuts": lambda d: d.cuts,
    "work": lambda d: d.work.tasks,
    "groups": lambda d: d.work.groups,
    "sections": lambda d: d.sections,
}
PARTS_OF: dict[Stage, tuple[str, ...]] = {
    "survey": ("lines", "cautions"),
    "size": ("lines", "sizes", "drains", "surges", "watered", "dripped", "shut", "wire", "rounds"),
    "join": ("lines", "sizes", "joints", "parts", "bill", "tubing"),
    "cut": ("lines", "sizes", "cuts", "parts", "bill"),
    "make": ("lines", "sizes", "joints", "work", "groups"),
    "prove": ("lines", "sizes", "joints", "sections"),
    "keep": ("lines", "sizes", "joints", "sections"),
}
_STANDS: tuple[Stage, ...] = ("make", "prove", "keep")
"""Stages that show where each joint stands."""


@cache
def _adapter(part: str) -> TypeAdapter[Any]:
    return TypeAdapter(get_type_hints(StageAnswer)[part])


def _part(d: Derivation, part: str) -> bytes:
    """A part as JSON, set once for all who ask."""
    kept: dict[str, bytes] = d.__dict__.setdefault("_as_json", {})
    if part not in kept:
        kept[part] = _adapter(part).dump_json(_PARTS[part](d))
    return kept[part]


def _told(d: Derivation, found: Job, stage: Stage) -> tuple[Problem, ...]:
    lost = tuple(
        Problem(
            code="left-out",
            severity="warn",
            where=x.where,
            says=f"{x.where} could not be read and was left out: {x.says}.",
            mend="Draw it again, or go back to an earlier revision.",
        )
        for x in found.left_out
    )
    return (*lost, *d.problems(stage))


def stage_json(service: Service, found: Job, stage: Stage) -> bytes:
    """The answer of a stage as JSON. Rooms of later stages are not worked out for it."""
    d = service.derived(found, *rooms_of(stage))
    parts = [b'"%s":%s' % (name.encode(), _part(d, name)) for name in PARTS_OF[stage]]
    parts.append(b'"problems":' + _adapter("problems").dump_json(_told(d, found, stage)))
    parts.append(b'"says":' + _adapter("says").dump_json({stage: says(stage, d)}))
    if stage in _STANDS:
        parts.append(b'"standing":' + _adapter("standing").dump_json(standing(service, found, stage)))
    if stage == "cut":
        parts.append(b'"tins":' + _adapter("tins").dump_json(old_tins(found.plan, service.clock())))
    return b'{"stage":"%s","revision":%d,%s}' % (stage.encode(), found.revision, b",".join(parts))


@cache
def rooms_of(stage: Stage) -> tuple[str, ...]:
    """The rooms that are worked out for a stage: its own and those of the stages before it, and what its parts are made
    of.
    """
    order = list(PARTS_OF)
    upto = order[: order.index(stage) + 1]
    own = {"bill": "bill", "cuts": "cuts", "sections": "sections", "work": "work"}
    wanted = [name for name, of in Derivation.ROOMS.items() if of in upto]
    return tuple(dict.fromkeys([*wanted, *(own[p] for p in PARTS_OF[stage] if p in own)]))
