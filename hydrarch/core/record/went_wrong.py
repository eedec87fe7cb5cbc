"""A joint that went wrong: what can still be saved, what must be cut out, which joints go with it, and what to buy
again.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping
from dataclasses import dataclass

from hydrarch.core.base.errors import Unknown
from hydrarch.core.catalogue.fittings import end, fitting
from hydrarch.core.catalogue.methods import method
from hydrarch.core.joining.assembled import Assembly, Joint
from hydrarch.core.joining.way_search import find_stacks
from hydrarch.core.record.states import JointState

__all__ = ["Spoiled", "went_wrong"]


@dataclass(frozen=True, slots=True)
class Spoiled:
    """What a bad joint costs: `again` are the joints to make again, `buy` fittings by id and count, `says` in plain
    words.
    """

    joint: str
    saved: str
    says: str
    again: tuple[str, ...]
    buy: tuple[tuple[str, int], ...]
    names: tuple[str, ...]


def went_wrong(assembly: Assembly, states: Mapping[str, JointState], name: str) -> Spoiled:
    """What follows when joint `name` went wrong. Raises `Unknown` for a joint that is not in the assembly.

    A fitting that is cut out takes all joints made on it along, and their fittings' other ends with them when those are
    glued or fused too. A pipe cut back is too short by the joint's depth: a coupling and a short piece make it up.
    """
    joints = assembly.named
    if name not in joints:
        raise Unknown("joint", name, joints)
    bad = joints[name]
    how = method(bad.method)
    if how.spoils == "none":
        return Spoiled(name, how.saved, "Nothing is lost: take it apart and make it again.", (name,), (), ())
    lost = _cut_out(bad, joints, states) if how.spoils == "fitting" else set()
    again = [
        name,
        *(j.id for j in joints.values() if j.id != name and {j.a.part, j.b.part} & lost and _made(states, j.id)),
    ]
    buy: Counter[str] = Counter()
    parts: dict[str, str] = {p.id: p.fitting for p in assembly.parts}
    for part in lost:
        buy[parts[part]] += 1
    for j in (joints[x] for x in again):
        if method(j.method).spoils != "none":
            for side in (j.a, j.b):
                if side.part is None:
                    buy += _lengthen(side.end)
    names = tuple(f"{n} × {fitting(f).name}" for f, n in sorted(buy.items()))
    more = len(again) - 1
    says = (
        f"Cut it out. {more} other joint{'s go' if more != 1 else ' goes'} with it."
        if lost
        else "Cut the pipe back to good pipe."
    )
    return Spoiled(name, how.saved, says, tuple(again), tuple(sorted(buy.items())), names)


def _made(states: Mapping[str, JointState], name: str) -> bool:
    return name in states and states[name].state not in ("planned", "dry")


def _cut_out(bad: Joint, joints: Mapping[str, Joint], states: Mapping[str, JointState]) -> set[str]:
    """The fittings lost: one side of the bad joint, and what is glued or fused to it fitting to fitting."""
    first = bad.b.part or bad.a.part
    lost: set[str] = set()
    waiting = [first] if first else []
    while waiting:
        part = waiting.pop()
        if part in lost:
            continue
        lost.add(part)
        for j in joints.values():
            if part in (j.a.part, j.b.part) and _made(states, j.id) and method(j.method).spoils == "fitting":
                waiting += [p for p in (j.a.part, j.b.part) if p is not None and p not in lost]
    return lost


def _lengthen(name: str) -> Counter[str]:
    """The coupling that makes up for a pipe cut back, where there is one."""
    end(name)
    stacks = find_stacks(name, name, 1)
    return Counter(stacks[0].ids()) if stacks else Counter()
