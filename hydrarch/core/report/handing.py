"""What whoever takes a line over wants to know first: where its water comes from, what each valve shuts, and what is
unfinished, section by section.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Iterator
from dataclasses import dataclass

from hydrarch.core.base.graph import Edge, Graph
from hydrarch.core.base.units import show
from hydrarch.core.commissioning.readiness import Readiness
from hydrarch.core.commissioning.sections import Section
from hydrarch.core.derivation.chain import Derivation
from hydrarch.core.hydraulics.static import static_pressure
from hydrarch.core.plan.document import Plan
from hydrarch.core.record.states import joint_state, spoken_state

__all__ = ["Shuts", "sources_of", "unfinished", "what_valves_shut"]

_DONE = ("tested", "tested and buried")
_LOOKED = "made, no leak seen in use"
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
    """What each valve of the drawing shuts, every other one open."""
    fed = _fed(plan, "")
    return tuple(
        Shuts(v.label, tuple(o.label for o in plan.outlets if o.id in fed and o.id not in _fed(plan, v.id)))
        for v in plan.points
        if v.kind.parting == "shuts"
    )


def _fed(plan: Plan, shut: str) -> set[str]:
    """The points that hang together with a source where a valve is shut."""
    edges = (Edge(r.id, *r.points) for r in plan.runs if shut not in r.points)
    sources = {s.id for s in plan.sources}
    parts = Graph(edges, [p.id for p in plan.points]).parts()
    return {p for points, _ in parts if not sources.isdisjoint(points) for p in points}


def sources_of(plan: Plan, derived: Derivation) -> Iterator[tuple[str, str]]:
    """Each source and the pressure at rest there, as it is reckoned."""
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
        left = Counter[str]()
        for joint in section.joints:
            words = spoken_state(joint_state(ready.joints, joint))
            if words not in _DONE and not (joint in looked_at and words == _LOOKED):
                left[words] += 1
        if left:
            yield section.name, "; ".join(f"{n} {words}" for words, n in left.items())
