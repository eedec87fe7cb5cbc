"""A stage is answered with what it needs and no more, set as JSON once: the parts that `report/shown.py` declares for
it, what is wrong so far, and where the job stands.
"""

from __future__ import annotations

from dataclasses import make_dataclass
from functools import cache
from typing import Any, get_type_hints

from pydantic import TypeAdapter

from hydrarch.api.service import Service
from hydrarch.api.standing import Standing, standing
from hydrarch.core.base.messages import tell
from hydrarch.core.base.problems import Problem, Stage
from hydrarch.core.derivation.chain import STAGES, Derivation
from hydrarch.core.making.tins import old_tins
from hydrarch.core.report.headlines import says
from hydrarch.core.report.shown import PARTS, ShownPart, parts_of, rooms_of
from hydrarch.store.jobs import Job

__all__ = ["stage_shape", "stage_json"]

_PROBLEMS, _SAYS = tuple[Problem, ...], dict[Stage, str]
_STANDS: tuple[Stage, ...] = ("make", "prove", "keep")
"""Stages that show where each joint stands."""
_ALWAYS: dict[str, Any] = {
    "stage": Stage,
    "revision": int,
    "problems": _PROBLEMS,
    "says": _SAYS,
}
_BESIDE: dict[str, Any] = {"tins": _PROBLEMS, "standing": Standing}
"""What is told at some moment, and is no part of a derivation."""


@cache
def stage_shape() -> type:
    """The shape of an answer, as it is declared when it is asked for."""
    everywhere = {name: _given(p) for name, p in PARTS.items() if p.stages == STAGES}
    sometimes = {name: _given(p) for name, p in PARTS.items() if name not in everywhere} | _BESIDE
    found = make_dataclass(
        "StageAnswer",
        [*(_ALWAYS | everywhere).items(), *((name, shape | None, None) for name, shape in sometimes.items())],
        frozen=True,
    )
    found.__doc__ = """What a stage shows of one revision: the parts it needs, and what is wrong so far.

Parts it does not need are left out.

`says` is its answer in one line, by the stage; "" where the page tells it from the record."""
    return found


def _given(part: ShownPart) -> Any:
    return get_type_hints(part.work)["return"]


@cache
def _adapter(shape: Any) -> TypeAdapter[Any]:
    return TypeAdapter(shape)


def _written(d: Derivation, part: ShownPart) -> bytes:
    """A part as JSON, set once for all who ask."""
    kept: dict[str, bytes] = d.__dict__.setdefault("_as_json", {})
    if part.name not in kept:
        kept[part.name] = _adapter(_given(part)).dump_json(part.work(d))
    return kept[part.name]


def _told(d: Derivation, found: Job, stage: Stage) -> tuple[Problem, ...]:
    lost = tuple(tell("left-out", x.where, place=x.where, fault=x.says) for x in found.left_out)
    return (*lost, *d.problems(stage))


def stage_json(service: Service, found: Job, stage: Stage) -> bytes:
    """The answer of a stage as JSON. Rooms of later stages are not worked out for it."""
    d = service.derived(found, *rooms_of(stage))
    parts = [b'"%s":%s' % (p.name.encode(), _written(d, p)) for p in parts_of(stage)]
    parts.append(b'"problems":' + _adapter(_PROBLEMS).dump_json(_told(d, found, stage)))
    parts.append(b'"says":' + _adapter(_SAYS).dump_json({stage: says(stage, d)}))
    if stage in _STANDS:
        parts.append(b'"standing":' + _adapter(Standing).dump_json(standing(service, found, stage)))
    if stage == "cut":
        parts.append(b'"tins":' + _adapter(_PROBLEMS).dump_json(old_tins(found.plan, service.clock())))
    return b'{"stage":"%s","revision":%d,%s}' % (stage.encode(), found.revision, b",".join(parts))
