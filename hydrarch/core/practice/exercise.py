"""An exercise: a drawing with no job behind it, what is done with it, and what its results are measured against."""

from __future__ import annotations

import json
from importlib.resources import files
from typing import Annotated, Literal

from pydantic import Field, model_validator

from hydrarch.core.base.cache import remembered
from hydrarch.core.base.errors import Unknown
from hydrarch.core.base.units import QUANTITIES
from hydrarch.core.catalogue.methods import method
from hydrarch.core.catalogue.pipes import pipe, pipe_called
from hydrarch.core.components.base import Model, listed
from hydrarch.core.derivation.chain import Derivation
from hydrarch.core.plan.conditions import known
from hydrarch.core.plan.document import Plan
from hydrarch.core.plan.names import Identity, Name, Words
from hydrarch.core.practice.flaws import JointShape, flaws_of
from hydrarch.core.practice.joint_drawing import drawn_methods

__all__ = [
    "MOST_RUNS",
    "AlsoJudged",
    "Exercise",
    "Tolerance",
    "exercise_from",
    "joint_shapes",
    "shipped_exercise",
    "shipped_exercises",
]


MOST_RUNS = 120
"""Runs of an exercise: nobody practises more in a day."""


class Tolerance(Model):
    """One thing measured on the real piece: what, in which quantity, how far off (SI) it may be, and who says so.

    `ideal` (SI) is what it should be; None where it is the drawing's own length, the difference to which is typed.
    """

    id: Identity
    what: Name
    how: Words = ""
    quantity: str
    ideal: float = Field(0.0, ge=-1e7, le=1e7, allow_inf_nan=False)
    off: float = Field(ge=0, le=1e7, allow_inf_nan=False)
    source: Name

    @model_validator(mode="after")
    def _known(self) -> Tolerance:
        if self.quantity not in QUANTITIES:
            raise ValueError(f"there is no quantity called {self.quantity}; use one of {', '.join(QUANTITIES)}")
        return self


class AlsoJudged(Model):
    """A joint judged though the drawing has none: its method, pipe, and how much (m) the other part takes."""

    method: str
    series: str
    size: str
    depth: float = Field(gt=0, le=1)

    @model_validator(mode="after")
    def _known(self) -> AlsoJudged:
        known(lambda: method(self.method), "method")
        known(lambda: pipe(self.series, self.size), "pipe")
        if self.method not in drawn_methods():
            raise ValueError(
                f"a joint by {self.method} cannot be drawn with faults; use one of {', '.join(drawn_methods())}"
            )
        return self


class Exercise(Model):
    """An exercise. Kit, cut lengths, order and steps follow from its `plan`, as in a job.

    `minutes` is how long it takes somebody new to it; `tolerances` what its results are measured against.
    """

    format: Literal["hydrarch/exercise/1"] = "hydrarch/exercise/1"
    id: Identity
    title: Annotated[Name, Field(min_length=1)]
    about: Words = ""
    minutes: float = Field(60.0, gt=0, le=10_000)
    plan: Plan
    also: tuple[AlsoJudged, ...] = listed(10)
    tolerances: tuple[Tolerance, ...] = listed(20)

    @model_validator(mode="after")
    def _small(self) -> Exercise:
        if len(self.plan.runs) > MOST_RUNS:
            raise ValueError(f"an exercise has at most {MOST_RUNS} runs, and this drawing has {len(self.plan.runs)}")
        return self


def exercise_from(plan: Plan, name: str) -> Exercise:
    """An exercise of any drawing, under an id of its own: lengths, angles and the gauge are measured by usual
    practice.
    """
    tolerances = (
        Tolerance(
            id="lengths", what="Worst piece, off its length", quantity="takeoff", off=0.002, source="common practice"
        ),
        Tolerance(
            id="angle", what="Worst angle, off the drawing", quantity="angle", off=0.0349, source="common practice"
        ),
    )
    return Exercise(
        id=name,
        title=plan.name[:80] or "Exercise",
        about="Made from a job's drawing.",
        plan=plan,
        tolerances=tolerances,
    )


@remembered()
def shipped_exercises() -> tuple[Exercise, ...]:
    """The exercises that come with the product, the easiest first."""
    folder = files("hydrarch.core.practice").joinpath("exercises")
    found = [
        Exercise.model_validate(json.loads(f.read_text("utf-8"))) for f in folder.iterdir() if f.name.endswith(".json")
    ]
    return tuple(sorted(found, key=lambda e: (e.minutes, e.id)))


def shipped_exercise(name: str) -> Exercise:
    """The shipped exercise of that id; raises `Unknown`."""
    mine = {e.id: e for e in shipped_exercises()}
    if name not in mine:
        raise Unknown("exercise", name, mine)
    return mine[name]


def joint_shapes(exercise: Exercise, derived: Derivation) -> tuple[JointShape, ...]:
    """The joints of an exercise that are judged: one of each method and size its drawing has on a pipe, and what it
    adds.
    """
    found: dict[tuple[str, str], JointShape] = {}
    for joint in derived.assembly.joints:
        side = next((s for s in (joint.a, joint.b) if s.pipe is not None), None)
        if side is None or side.pipe is None or joint.method not in drawn_methods() or not flaws_of((joint.method,)):
            continue
        item = pipe_called(side.pipe)
        shape = JointShape(joint.method, joint.size, item.outside, item.bore, joint.depth)
        found.setdefault((joint.method, joint.size), shape)
    for also in exercise.also:
        item = pipe(also.series, also.size)
        found.setdefault(
            (also.method, also.size), JointShape(also.method, also.size, item.outside, item.bore, also.depth)
        )
    return tuple(found.values())
