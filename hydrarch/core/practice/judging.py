"""Joints to judge: each is drawn sound or with one fault beyond what is accepted, by chance that can be repeated."""

from __future__ import annotations

import hashlib
from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from random import Random

from hydrarch.core.practice.flaws import Flaw, JointShape, flaws_of
from hydrarch.core.practice.joint_drawing import Outline, drawn_joint

__all__ = ["SOUND", "JudgeQuestion", "judge_questions"]

SOUND = "sound"
"""The answer where nothing is wrong."""
_SOUND_SHARE = 0.25
_BEYOND = 1.3  # a fault is drawn at least so far beyond what is accepted, so that it can be seen
_AGAIN = 0.2  # how much less likely a fault is each time it was drawn already
_WITHIN = 0.6  # what is accepted is drawn up to so much of its limit


@dataclass(frozen=True, slots=True)
class JudgeQuestion:
    """One joint to judge: its shape, the fault in it (None: sound), every dose drawn, and what may be answered."""

    number: int
    shape: JointShape
    flaw: Flaw | None
    doses: dict[str, float]
    choices: tuple[Flaw, ...]

    @property
    def truth(self) -> str:
        """The right answer: a fault's id, or "sound"."""
        return SOUND if self.flaw is None else self.flaw.id

    def drawing(self) -> tuple[Outline, ...]:
        """The joint as it is."""
        return drawn_joint(self.shape, self.doses)

    def sound_drawing(self) -> tuple[Outline, ...]:
        """The same joint with nothing wrong."""
        return drawn_joint(self.shape, {})


def judge_questions(
    shapes: Sequence[JointShape], seed: str, count: int, missed: Mapping[str, int] | None = None
) -> tuple[JudgeQuestion, ...]:
    """So many joints to judge, the same for the same `seed`. Faults that were `missed` before (by id, how often) come
    up more often; none where no shape can be judged.
    """
    pairs = [(s, f) for s in shapes for f in flaws_of((s.method,))]
    if not pairs:
        return ()
    found: list[JudgeQuestion] = []
    drawn: Counter[tuple[str, str]] = Counter()
    for number in range(count):
        chance = Random(hashlib.sha256(f"{seed}:{number}".encode()).digest())
        weights = [(1.0 + 2.0 * (missed or {}).get(f.id, 0)) * _AGAIN ** drawn[s.method, f.id] for s, f in pairs]
        shape, flaw = chance.choices(pairs, weights)[0]
        drawn[shape.method, flaw.id] += 1
        mine = flaws_of((shape.method,))
        doses = {f.id: chance.uniform(0, _WITHIN) * f.limit for f in mine if f.quantity != "flag"}
        wrong = chance.random() >= _SOUND_SHARE
        if wrong:
            least = min(_BEYOND * flaw.limit, flaw.most)
            doses[flaw.id] = flaw.most if flaw.quantity == "flag" else chance.uniform(least, flaw.most)
        found.append(JudgeQuestion(number, shape, flaw if wrong else None, doses, mine))
    return tuple(found)
