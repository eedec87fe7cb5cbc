"""Which problem follows from which: the cause is told first, and what would go away with it is folded beneath.

A problem follows from another where that explains it: at the same place, in the same system, or anywhere in the plan.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import replace

from hydrarch.core.base.problems import Problem, Severity
from hydrarch.core.plan.document import Plan
from hydrarch.core.site.systems import Systems

__all__ = ["folded"]

_NO_WATER = (
    "no-source",
    "outlet-without-source",
    "faces-source",
    "not-settled",
    "water-parts",
    "intake-dry",
    "source-too-low",
    "pump-off-curve",
)
_SYSTEM: dict[str, tuple[str, ...]] = {
    "no-pressure": _NO_WATER,
    "outlet-starved": (*_NO_WATER, "vessel-unreached"),
    "regulator-starved": _NO_WATER,
    "source-too-low": ("no-source", "faces-source", "water-parts", "intake-dry"),
    "pump-off-curve": ("water-parts", "intake-dry", "source-too-low"),
    "cavitation": ("water-parts", "intake-dry"),
    "suction-margin": ("water-parts", "intake-dry"),
    "part-over-rating": ("over-rating",),
    "opens-no-outlet": ("no-source",),
    "water-parts": ("intake-dry",),
}
"""What explains a problem in the same system."""
_PLACE: dict[str, tuple[str, ...]] = {
    "surge": ("too-fast",),
    "over-rating": ("too-warm",),
    "drain-full": ("no-fall",),
    "drain-slow": ("no-fall",),
    "thin-cover": ("not-buried",),
    "tee-angle": ("no-way", "too-many-runs"),
    "turn-at-device": ("no-way", "no-elbow"),
    "no-way": ("met-unmeasured", "wrong-pipe", "which-port"),
    "no-elbow": ("too-many-runs",),
    "too-close": ("no-way", "no-elbow", "run-without-length"),
    "cannot-turn": ("coupled-ring", "no-way"),
    "unfit-place": ("string-pipe",),
}
"""What explains it at the same point, on the same run, or at one of the run's ends."""
_ALIKE = (
    "not-buried",
    "thin-cover",
    "thin-refused",
    "unfit-place",
    "under-wheels",
    "no-service",
    "no-saddle",
    "above-frost",
    "galvanic",
    "row-rich",
)
"""What is told of many places in the same words: the first stands for all."""
_TOGETHER = ("outlet-starved", "no-pressure", "source-too-low")
"""What is told of many places of one system that is too weak for all of them: the first stands for them."""
_GRAVE: dict[Severity, int] = {"note": 0, "warn": 1, "stop": 2}
_PLAN: dict[str, tuple[str, ...]] = {"left-out": ("room-failed", "took-too-long")}


def folded(plan: Plan, parts: Systems, told: Sequence[Problem]) -> tuple[Problem, ...]:
    """The problems, each that follows from another naming that one (`follows`), and causes before what follows from
    them. A cause is as grave as the gravest that follows from it.
    """
    if len(told) < 2:
        return tuple(told)
    first = {p.code: p for p in reversed(told)}
    place, system = _Near(_places_of(plan), told), _Near(_systems_of(parts), told)

    named = {p.key: p for p in told}

    def cause(p: Problem) -> Problem | None:
        if p.follows in named:  # who told it knew
            return named[p.follows]
        near = place.find(p, _PLACE.get(p.code, ())) or system.find(p, _SYSTEM.get(p.code, ()))
        if near is None and p.code in _TOGETHER:
            near = system.find(p, (p.code,))
        alike = (p.code,) if p.code in _ALIKE and first[p.code].severity == p.severity else ()
        return near or next((first[code] for code in (*alike, *_PLAN.get(p.code, ())) if code in first), None)

    found = {p.key: c for p in told if (c := cause(p)) is not None and c is not p}

    def root(p: Problem) -> str:
        seen = {p.key}
        while p.key in found and found[p.key].key not in seen:
            p = found[p.key]
            seen.add(p.key)
        return p.key

    roots = {p.key: root(p) for p in told}
    worst: dict[str, Problem] = {}
    for p in told:
        at = roots[p.key]
        if at not in worst or _GRAVE[p.severity] > _GRAVE[worst[at].severity]:
            worst[at] = p

    def placed(p: Problem) -> Problem:
        at = roots[p.key]
        if at != p.key:
            return replace(p, follows=at)
        grave = worst[at].severity  # what leads to a stop is one
        return p if grave == p.severity else replace(p, severity=grave)

    return tuple(sorted(map(placed, told), key=lambda p: bool(p.follows)))


class _Near:
    """The first problem of each code at each place, or in each system."""

    def __init__(self, groups: Mapping[str, frozenset[str]], told: Sequence[Problem]) -> None:
        self._groups = groups
        self._first: dict[tuple[str, str], Problem] = {}
        for p in told:
            for group in self._of(p):
                self._first.setdefault((p.code, group), p)

    def _of(self, p: Problem) -> Iterable[str]:
        return sorted(self._groups.get(p.where, ())) or (p.where,)

    def find(self, p: Problem, causes: Sequence[str]) -> Problem | None:
        """The first of those codes, in their order, that is told near a problem."""
        return next(
            (found for code in causes for g in self._of(p) if (found := self._first.get((code, g))) is not None), None
        )


def _systems_of(parts: Systems) -> Mapping[str, frozenset[str]]:
    """The systems each run and point is of."""
    found: dict[str, set[str]] = defaultdict(set)
    for s in parts.found:
        for name in (*s.runs, *s.points):
            found[name].add(s.id)
    return {name: frozenset(ids) for name, ids in found.items()}


def _places_of(plan: Plan) -> Mapping[str, frozenset[str]]:
    """What each point or run is at: a run at itself and its two ends, a point at itself."""
    runs = {r.id: frozenset((r.id, *r.points)) for r in plan.runs}
    return {**{p.id: frozenset((p.id,)) for p in plan.points}, **runs}
