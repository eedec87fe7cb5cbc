"""What the next person takes over, counted: what is not made, dry, made but not tested, buried unproved, or went on all
the same.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Container, Mapping, Sequence
from dataclasses import dataclass

from hydrarch.core.joining.assembled import Joint
from hydrarch.core.record.log import Log
from hydrarch.core.record.states import MADE, JointState

__all__ = ["HandOver", "Handed", "hand_over", "last_handed", "stands_as_told", "to_tell"]


@dataclass(frozen=True, slots=True)
class HandOver:
    """Joints by where they stand, each in one count, but for those where a gate was passed with a reason
    (`overridden`).

    `looked` are heads, taps and what was parted for the test, made after it and seen dry with water on, `unseen` those
    that were not. `first` are the joints to see to, those that leak, those left dry on purpose (`left`) and the other
    dry ones in front; `says` tells all counts that are not zero, `done` is whether nothing is left to make, prove or
    look at and nothing stops the drawing, and `whole` says that with its figures, and is "" where it is not so. Of
    `says` the first are `pressing`: what stops the drawing, leaks, and what is dry.
    """

    joints: int
    unmade: int
    left: int
    dry: int
    leaking: int
    clashing: int
    unproved: int
    unseen: int
    buried: int
    changed: int
    proved: int
    looked: int
    overridden: int
    first: tuple[str, ...]
    says: tuple[str, ...]
    done: bool
    whole: str
    pressing: int = 0


def hand_over(
    joints: Sequence[Joint],
    states: Mapping[str, JointState],
    later: Container[str],
    pushed: Container[str] = (),
    stops: Sequence[str] = (),
) -> HandOver:
    """Count all joints of a drawing by their states; `later` are those that are made after the test, and looked at.

    `pushed` are those in which a pump pushes water: no such joint stays dry for good. `stops` are what stops the
    drawing, in words: while there is any, the job is not done.
    """
    groups: dict[str, list[str]] = {
        k: []
        for k in (
            "unmade",
            "left",
            "dry",
            "leaking",
            "clashing",
            "changed",
            "buried",
            "unproved",
            "unseen",
            "looked",
            "proved",
        )
    }
    for joint in joints:
        groups[stands_as_told(states.get(joint.id), joint.id in later)].append(joint.id)
    unmade, left, dry, leaking, clashing, changed, buried, unproved, unseen, looked, proved = (
        len(g) for g in groups.values()
    )
    overridden = sum(bool(s.overrides) for s in states.values())
    wrong = "thing of the drawing stops it" if len(stops) == 1 else "things of the drawing stop it, the first"
    told = (
        *([(len(stops), f"{wrong}: {stops[0].rstrip('.')}")] if stops else ()),
        (leaking, "seen leaking and not mended"),
        *_left(groups["left"], states, pushed),
        (dry, "dry-fitted only"),
    )
    others = (
        (unmade, "not made"),
        (clashing, "whose records contradict"),
        (changed, "made to another drawing than this one"),
        (buried, "buried but not tested"),
        (unproved, "made but not tested"),
        (unseen, "made and to be seen dry at work"),
        (looked, "made with no leak seen in use"),
        (proved, "made and tested"),
        (overridden, "where a gate was passed with a reason"),
    )
    first = (
        *groups["leaking"],
        *groups["left"],
        *groups["dry"],
        *groups["clashing"],
        *groups["changed"],
        *groups["buried"],
        *groups["unproved"],
        *groups["unseen"],
    )
    done = bool(joints) and proved + looked == len(joints) and not stops
    urgent, rest = (tuple(f"{n} {words}" for n, words in part if n) for part in (told, others))
    tested = f"{proved} of them tested" if looked else "all of them tested"
    seen = f"{looked} were seen dry at work" if proved else "all of them were seen dry at work"
    how = " and ".join((*([tested] * bool(proved)), *([seen] * bool(looked))))
    whole = f"All {len(joints)} joints are made; {how}" if done else ""
    return HandOver(
        len(joints),
        unmade,
        left,
        dry,
        leaking,
        clashing,
        unproved,
        unseen,
        buried,
        changed,
        proved,
        looked,
        overridden,
        first,
        (*urgent, *rest),
        done,
        whole,
        len(urgent),
    )


@dataclass(frozen=True, slots=True)
class Handed:
    """The last time the job went from one hand to another: by whom, when, what stood unfinished then, and what comes
    `next`.

    `taken_by` is "" and `taken_at` None while nobody has taken it. Times in s since 1970.
    """

    id: str
    by: str
    at: float
    told: tuple[str, ...]
    next: str
    taken_by: str
    taken_at: float | None


def last_handed(log: Log) -> Handed | None:
    """The last hand-over of a job's record; None where there was none."""
    if not log.handed:
        return None
    event = log.handed[-1]
    taken = log.taken.get(event.id)
    return Handed(
        id=event.id,
        by=event.by,
        at=event.at,
        told=event.told,
        next=event.note.strip(),
        taken_by=taken.by if taken else "",
        taken_at=taken.at if taken else None,
    )


def to_tell(counts: HandOver, gates: Mapping[str, str]) -> tuple[str, ...]:
    """What a hand-over tells: all counts but what is made and tested, and of each section, by its name, what keeps
    pressure out of it.
    """
    if counts.done:
        return (f"{counts.whole}.",)
    return (*counts.says, *(f"{name}: {why}" for name, why in gates.items()))


def _left(joints: Sequence[str], states: Mapping[str, JointState], pushed: Container[str]) -> list[tuple[int, str]]:
    """What was left dry on purpose, by whom and why: each reason with how many, and those a pump would push apart by
    themselves.
    """
    told = Counter((states[j].purpose, states[j].by, j in pushed) for j in joints)
    return [
        (
            n,
            f"left dry on purpose, {why} ({by or 'not said by whom'})"
            + (": under a pump, so made before water comes" if under else ""),
        )
        for (why, by, under), n in told.items()
    ]


def stands_as_told(state: JointState | None, later: bool) -> str:
    """The count of a hand-over that a joint is in; `later` is whether it is looked at, not tested."""
    if state is None or state.state == "planned":
        return "unmade"
    if state.state == "dry":
        return "left" if state.purpose else "dry"
    assert state.state in MADE
    if state.leak is not None:
        return "leaking"
    if state.clash:
        return "clashing"
    if not state.matches:
        return "changed"
    if state.proved:
        return "proved"
    if later and state.looked is not None and not state.looked_over:
        return "looked"
    if state.covered:
        return "buried"
    return "unseen" if later else "unproved"
