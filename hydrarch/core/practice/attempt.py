"""What one person did in an exercise, as it is kept, and how each part of it went."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from itertools import pairwise
from typing import Annotated

from pydantic import Field, model_validator

from hydrarch.core.base.units import show
from hydrarch.core.catalogue.methods import method
from hydrarch.core.components.base import Model, listed
from hydrarch.core.cutting.billrow import BillRow
from hydrarch.core.cutting.cuts import Piece
from hydrarch.core.derivation.chain import Derivation
from hydrarch.core.joining.assembled import Joint
from hydrarch.core.making.joined_bodies import Bodies
from hydrarch.core.making.steps import joint_cure
from hydrarch.core.plan.names import Identity, Words
from hydrarch.core.practice.exercise import Exercise, joint_shapes
from hydrarch.core.practice.figures import FlawFigure, figures
from hydrarch.core.practice.joint_drawing import Outline
from hydrarch.core.practice.judging import SOUND, JudgeQuestion, judge_questions
from hydrarch.core.practice.move_clocks import phases
from hydrarch.core.record.events import Moment

__all__ = [
    "JUDGED",
    "JudgeAnswer",
    "Assessment",
    "Attempt",
    "JointWent",
    "LengthWent",
    "MadeInHand",
    "OwnLength",
    "ResultWent",
    "TypedResult",
    "assessed",
    "exercise_kit",
    "questions_of",
]

JUDGED = 8
"""How many joints are judged in one attempt."""
CUT_CLOSE = 0.002
"""m that a cut length may be off: about the width of a saw's cut; common practice."""
_ThingName = Annotated[str, Field(min_length=1, max_length=160)]


class OwnLength(Model):
    """The length (m) a person worked out for one piece."""

    piece: _ThingName
    length: float = Field(gt=0, le=1e5)


class MadeInHand(Model):
    """A joint that was made: the moments (s since 1970) of each of its moves, in order."""

    joint: _ThingName
    at: tuple[Moment, ...] = Field(min_length=1, max_length=5, strict=False)


class JudgeAnswer(Model):
    """What a person said of one drawn joint: a fault's id, or "sound"."""

    number: int = Field(ge=0, lt=JUDGED)
    says: Identity


class TypedResult(Model):
    """What was measured on the real piece, by the tolerance it is held against (SI)."""

    what: Identity
    value: float = Field(ge=-1e7, le=1e7)


class Attempt(Model):
    """One attempt at an exercise. It is kept whole each time something is added to it.

    `laid` are the parts of the kit that lie there, `dressed` the pieces whose ends were dressed, `fitted` whether all
    was put together dry, `indexed` the joints whose angle was marked; `asked` the joints whose steps were looked up.
    """

    id: Identity
    exercise: Identity
    begun: Moment
    changed: Moment
    laid: tuple[_ThingName, ...] = listed(500)
    lengths: tuple[OwnLength, ...] = listed(500)
    dressed: tuple[_ThingName, ...] = listed(500)
    fitted: bool = False
    indexed: tuple[_ThingName, ...] = listed(500)
    made: tuple[MadeInHand, ...] = listed(500)
    asked: tuple[_ThingName, ...] = listed(500)
    answers: tuple[JudgeAnswer, ...] = listed(JUDGED)
    results: tuple[TypedResult, ...] = listed(20)
    note: Words = ""
    ended: Moment | None = None

    @model_validator(mode="after")
    def _once_each(self) -> Attempt:
        for what, names in (
            ("lengths", [x.piece for x in self.lengths]),
            ("made", [x.joint for x in self.made]),
            ("answers", [x.number for x in self.answers]),
            ("results", [x.what for x in self.results]),
        ):
            if len(set(names)) < len(names):
                raise ValueError(f"{what}: one of them is there twice; keep one")
        return self


@dataclass(frozen=True, slots=True)
class LengthWent:
    """One cut length against the person's own (m): how far off, whether it is close enough, and what explains it."""

    piece: str
    own: float
    right: float
    good: bool
    why: str


@dataclass(frozen=True, slots=True)
class JointWent:
    """One joint that was made: whether its turn had come, and each of its clocks kept; `says` tells what was not."""

    joint: str
    good: bool
    seconds: tuple[float, ...]
    says: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class AnswerWent:
    """What was said of one drawn joint, and what is so: the fault's words, its figures, and the joint drawn sound."""

    number: int
    says: str
    truth: str
    good: bool
    title: str
    shows: str
    follows: str
    saved: str
    source: str
    figures: tuple[FlawFigure, ...]
    sound: tuple[Outline, ...]


@dataclass(frozen=True, slots=True)
class ResultWent:
    """One thing measured: its value against what it should be, and whether it is within its tolerance."""

    what: str
    value: float
    good: bool


@dataclass(frozen=True, slots=True)
class Assessment:
    """How an attempt went so far. `share` (0 to 1) is what went well of all that was tried, None before anything was;
    `parts` counts by part what went well of what was tried, and `missed` the faults that were not seen, by id.
    """

    missing: tuple[str, ...]
    lengths: tuple[LengthWent, ...]
    joints: tuple[JointWent, ...]
    answers: tuple[AnswerWent, ...]
    results: tuple[ResultWent, ...]
    parts: dict[str, tuple[int, int]]
    share: float | None
    missed: tuple[str, ...]


def exercise_kit(derived: Derivation) -> tuple[BillRow, ...]:
    """What lies ready before an exercise begins: fittings, pipe and what is used up."""
    return tuple(r for r in derived.bill if r.count)


def questions_of(
    exercise: Exercise, derived: Derivation, attempt: str, missed: Mapping[str, int] | None = None
) -> tuple[JudgeQuestion, ...]:
    """The joints that are judged in an attempt of that id."""
    return judge_questions(joint_shapes(exercise, derived), attempt, JUDGED, missed)


def assessed(
    exercise: Exercise, derived: Derivation, attempt: Attempt, missed: Mapping[str, int] | None = None
) -> Assessment:
    """How an attempt went; what it says of things that the exercise does not have is left out. `missed` is as it was
    when its joints were drawn.
    """
    laid = set(attempt.laid)
    missing = tuple(r.name for r in exercise_kit(derived) if r.item not in laid)
    lengths = tuple(_lengths(exercise, derived, attempt))
    joints = tuple(_joints(exercise, derived, attempt))
    answers = tuple(_answers(exercise, questions_of(exercise, derived, attempt.id, missed), attempt))
    results = tuple(_results(exercise, attempt))
    went: dict[str, Iterable[bool]] = {
        "lengths": [x.good for x in lengths],
        "joints": [x.good for x in joints],
        "judged": [x.good for x in answers],
        "measured": [x.good for x in results],
    }
    parts = {name: (sum(goods), len(list(goods))) for name, goods in went.items()}
    tried = sum(n for _, n in parts.values())
    return Assessment(
        missing=missing,
        lengths=lengths,
        joints=joints,
        answers=answers,
        results=results,
        parts=parts,
        share=sum(n for n, _ in parts.values()) / tried if tried else None,
        missed=tuple(a.truth for a in answers if not a.good and a.truth != SOUND),
    )


def _lengths(exercise: Exercise, derived: Derivation, attempt: Attempt) -> Iterable[LengthWent]:
    pieces: dict[str, Piece] = {p.id: p for p in derived.cuts.pieces}
    for own in attempt.lengths:
        piece = pieces.get(own.piece)
        if piece is not None:
            good = abs(own.length - piece.length) <= CUT_CLOSE
            yield LengthWent(
                piece.id, own.length, piece.length, good, "" if good else _why_off(piece, own.length, exercise)
            )


def _why_off(piece: Piece, own: float, exercise: Exercise) -> str:
    """What was forgotten, where that explains the length; else how far it is off."""
    a, b = piece.a.offset, piece.b.offset
    slips = (
        (piece.centres, "that is centre to centre: both take-offs are still to be taken away"),
        (piece.centres - a, f"the take-off at {piece.b.name} is still to be taken away"),
        (piece.centres - b, f"the take-off at {piece.a.name} is still to be taken away"),
        (piece.centres - 2 * (a + b), "the take-offs were taken away twice"),
        (piece.centres + a + b, "the take-offs were added instead of taken away"),
    )
    for length, why in slips:
        if abs(own - length) <= CUT_CLOSE:
            return why
    off = own - piece.length
    told = show(abs(off), "cut", exercise.plan.units)
    return f"{told} too {'long' if off > 0 else 'short'}; measure each fitting from its centre to its stop"


def _joints(exercise: Exercise, derived: Derivation, attempt: Attempt) -> Iterable[JointWent]:
    known: dict[str, Joint] = {j.id: j for j in derived.assembly.joints}
    bodies = Bodies(exercise.plan, derived.layout, derived.settled.pipes, derived.assembly)
    done: list[tuple[Joint, MadeInHand]] = []
    for made in attempt.made:
        joint = known.get(made.joint)
        if joint is None:
            continue
        says = list(_in_turn(exercise, bodies, joint, made, attempt, done))
        bodies.make(bodies.pair(joint))
        done.append((joint, made))
        says += _clocked(exercise, joint, made)
        yield JointWent(joint.id, not says, tuple(b - a for a, b in pairwise(made.at)), tuple(says))


def _in_turn(
    exercise: Exercise,
    bodies: Bodies,
    joint: Joint,
    made: MadeInHand,
    attempt: Attempt,
    done: Sequence[tuple[Joint, MadeInHand]],
) -> Iterable[str]:
    """What was wrong with making a joint when it was made, by the bodies that the joints before it had made one of."""
    pair = bodies.pair(joint)
    if joint.method == "thread" and bodies.stuck(pair):
        yield "nothing could turn it any more: both sides were held. Threads are made while one side is free"
    if bodies.sets_angle(pair) and not method(joint.method).undo and joint.id not in attempt.indexed:
        yield "it set an angle, and no index line was drawn across it while all was dry"
    if joint.method != "barb and clamp":
        return
    for other, before in done:
        cure = joint_cure(exercise.plan, other, 0.0)
        if cure is None or other.method != "solvent weld" or other.point != joint.point:
            continue
        if made.at[0] - before.at[-1] < cure.set:
            told = show(cure.set, "seconds", exercise.plan.units)
            yield f"the weld at {other.place} sets for {told}, and a push shifts it"


def _clocked(exercise: Exercise, joint: Joint, made: MadeInHand) -> Iterable[str]:
    asked = phases(exercise.plan, joint)
    for phase, (start, stop) in zip(asked, pairwise(made.at), strict=False):
        took = stop - start
        told = show(took, "seconds", exercise.plan.units)
        if phase.most is not None and took > phase.most:
            yield f"{phase.move}: {told}, {show(phase.most, 'seconds')} at the most: {phase.why}"
        if took < phase.least:
            yield f"{phase.move}: {told}, {show(phase.least, 'seconds')} at the least: {phase.why}"
    if asked and len(made.at) < len(asked) + 1:
        yield "not every move was timed"


def _answers(exercise: Exercise, questions: tuple[JudgeQuestion, ...], attempt: Attempt) -> Iterable[AnswerWent]:
    for said in attempt.answers:
        if said.number >= len(questions):
            continue
        asked = questions[said.number]
        flaw, units = asked.flaw, exercise.plan.units
        yield AnswerWent(
            number=said.number,
            says=said.says,
            truth=asked.truth,
            good=said.says == asked.truth,
            title="Nothing beyond what is accepted" if flaw is None else flaw.title,
            shows="" if flaw is None else flaw.told(asked.shape, asked.doses[flaw.id], units),
            follows="" if flaw is None else flaw.follows,
            saved="" if flaw is None else flaw.saved,
            source="" if flaw is None else flaw.source,
            figures=() if flaw is None else figures(flaw.id, asked.shape, asked.doses[flaw.id]),
            sound=asked.sound_drawing(),
        )


def _results(exercise: Exercise, attempt: Attempt) -> Iterable[ResultWent]:
    tolerances = {t.id: t for t in exercise.tolerances}
    for result in attempt.results:
        held = tolerances.get(result.what)
        if held is not None:
            good = abs(result.value - held.ideal) <= held.off * (1 + 1e-9)
            yield ResultWent(held.id, result.value, good)
