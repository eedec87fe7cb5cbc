"""What whoever takes a line over wants to know first: where its water comes from, what each valve shuts, and what is
unfinished, section by section.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass

from hydrarch.core.base.graph import Edge, Graph
from hydrarch.core.base.units import show
from hydrarch.core.commissioning.handover import stands_as_told
from hydrarch.core.commissioning.readiness import Readiness
from hydrarch.core.commissioning.sections import Section
from hydrarch.core.derivation.chain import Derivation
from hydrarch.core.hydraulics.static import static_pressure
from hydrarch.core.plan.document import Plan, RunEnd
from hydrarch.core.record.states import joint_state, spoken_state

__all__ = ["Shuts", "sources_of", "unfinished", "what_valves_shut"]

_DONE = ("proved", "looked")
_MOST = 6
"""Things named in a row; more are counted."""


@dataclass(frozen=True, slots=True)
class Shuts:
    """A valve and the outlets that get no water any more with it shut and all else open; none where water comes another
    way, or nothing lies beyond.
    """

    valve: str
    outlets: tuple[str, ...]

    @property
    def says(self) -> str:
        """It in words."""
        if not self.outlets:
            return "no outlet by itself"
        more = len(self.outlets) - _MOST
        return ", ".join(self.outlets[:_MOST]) + (f" and {more} more" if more > 0 else "")


def what_valves_shut(plan: Plan) -> tuple[Shuts, ...]:
    """What each valve of the drawing shuts, every other one open; what passes water one way is passed that way alone.

    The points between such things hang together whatever is shut: each such patch is walked through as one.
    """
    valves = [p for p in plan.points if p.kind.parting == "shuts"]
    shuts = {p.id for p in plan.points if p.kind.parting == "shuts" or p.kind.one_way}
    patch = {p.id: p.id for p in plan.points}
    loose = (Edge(r.id, *r.points) for r in plan.runs if shuts.isdisjoint(r.points))
    for points, _ in Graph(loose, [p.id for p in plan.points]).parts():
        patch |= dict.fromkeys(points, points[0])
    beside: dict[str, set[str]] = {}
    for run in (r for r in plan.runs if not shuts.isdisjoint(r.points)):
        for one, other in ((run.a, run.b), (run.b, run.a)):
            if _leaves(plan, one) and _enters(plan, other):
                beside.setdefault(patch[one.point], set()).add(patch[other.point])
    sources = {patch[s.id] for s in plan.sources}
    fed = _fed(beside, sources, "")
    found = []
    for valve in valves:
        dry = fed - _fed(beside, sources, valve.id)
        found.append(Shuts(valve.label, tuple(o.label for o in plan.outlets if patch[o.id] in dry)))
    return tuple(found)


def _leaves(plan: Plan, end: RunEnd) -> bool:
    """Whether water may leave a thing by an end of a run: not by the inlet of what passes it one way."""
    return not (plan.by_id[end.point].kind.one_way and plan.port_name(end) == "in")


def _enters(plan: Plan, end: RunEnd) -> bool:
    return not (plan.by_id[end.point].kind.one_way and plan.port_name(end) == "out")


def _fed(beside: Mapping[str, set[str]], sources: set[str], shut: str) -> set[str]:
    """The patches that hang together with a source where a valve is shut."""
    seen, left = set(sources), list(sources)
    while left:
        new = beside.get(left.pop(), set()) - seen - {shut}
        seen |= new
        left += new
    return seen


def sources_of(plan: Plan, derived: Derivation) -> Iterator[tuple[str, str]]:
    """Each source and the pressure at rest there, as it is calculated."""
    rests = static_pressure(plan, derived.layout)
    for source in plan.sources:
        rest = rests.get(source.id)
        yield (
            source.label,
            f"{source.kind.title.lower()}; "
            + ("pressure at rest not known" if rest is None else f"{show(rest, 'pressure', plan.units)} at rest"),
        )


def unfinished(sections: Iterable[Section], ready: Readiness) -> Iterator[tuple[str, str]]:
    """Each section with what is unfinished in it, counted in words; a finished one is left out."""
    for section in sections:
        looked_at = {*section.later, *(section.joints if section.sort == "run" else ())}
        states = [(j, joint_state(ready.joints, j)) for j in section.joints]
        left = Counter(spoken_state(s) for j, s in states if stands_as_told(s, j in looked_at) not in _DONE)
        if left:
            yield section.name, "; ".join(f"{n} {words}" for words, n in left.items())
        elif section.joints and not ready.sections[section.id].proved:
            yield section.name, ready.sections[section.id].bury.why
