"""The leak walk: with a zone running, every joint under its water in the order a person comes to it."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass

from hydrarch.core.commissioning.sections import Section
from hydrarch.core.hydraulics.flow import Flow
from hydrarch.core.joining.assembled import Assembly, Joint
from hydrarch.core.record.states import JointState
from hydrarch.core.site.layout import Layout

__all__ = ["Stop", "leak_walk", "wet_sections"]

_STILL = 1e-9  # m³/s: below it a run is full but nothing moves
_FEEL = {
    "thread": "A dry finger round under the thread; the first sign is a bead, not a jet.",
    "solvent weld": "Wipe the lip dry and look again a minute later.",
    "barb and clamp": "Feel beyond both clamps; tighten once more when it is warm, not while it leaks.",
}
_FEEL_ANY = "Wipe it dry, look, and feel under it."


@dataclass(frozen=True, slots=True)
class Stop:
    """One joint of the walk, `along` (m) from the source; `looked` is when it was last found dry (s since 1970), None
    if never.
    """

    joint: str
    place: str
    what: str
    along: float
    says: str
    looked: float | None


def _wet_runs(flow: Flow) -> set[str]:
    return {r for r, f in flow.runs.items() if abs(f.flow) > _STILL}


def wet_sections(
    sections: tuple[Section, ...], flow: Flow, others: Iterable[Flow] | None = None
) -> tuple[Section, ...]:
    """The sections through which a zone's water goes; with the `others`, those too that stand full with it and through
    which no zone's goes.

    So a line is reached that ends in a cap, for a later day. What is run instead of tested is wet where its own water
    goes, and nowhere else: a pump that stands by fills nothing, nor does a drip row that no zone opens.
    """
    wet = _wet_runs(flow)
    moved = None if others is None else wet.union(*map(_wet_runs, others))

    def idle(runs: Sequence[str]) -> bool:
        return moved is not None and moved.isdisjoint(runs) and flow.runs.keys() >= set(runs)

    return tuple(s for s in sections if wet & set(s.runs) or (s.sort != "run" and idle(s.runs)))


def leak_walk(
    lay: Layout,
    assembly: Assembly,
    sections: tuple[Section, ...],
    flow: Flow,
    states: Mapping[str, JointState],
    others: Iterable[Flow] | None = None,
) -> tuple[Stop, ...]:
    """Every joint that the zone's water passes or stands at, as on the branch of a vessel, nearest to the source first;
    buried ones cannot be felt.
    """
    wet = {r for s in wet_sections(sections, flow, others) for r in s.runs}
    spots = {p for r in wet for p in (lay.lines[r].a, lay.lines[r].b)}
    found = []
    for joint in assembly.joints:
        state = states.get(joint.id)
        if not (joint.run in wet or (joint.point in spots and joint.run is None)) or (
            state and state.state == "buried"
        ):
            continue
        says = _FEEL.get(joint.method, _FEEL_ANY)
        what = f"{joint.a.what} into {joint.b.what}"
        found.append(Stop(joint.id, joint.place, what, _along(lay, joint), says, state.looked if state else None))
    return tuple(sorted(found, key=lambda s: (s.along, s.joint)))


def _along(lay: Layout, joint: Joint) -> float:
    if joint.point is not None:
        return lay.distance.get(joint.point, 0.0)
    line = lay.lines[joint.run or ""]
    return (lay.distance.get(line.a, 0.0) + lay.distance.get(line.b, 0.0)) / 2
