"""What would explain the readings: every candidate weighed by how well some size of it fits, and what to read next.

Each candidate's likelihood is averaged over its magnitudes (Bayes' rule with the priors of `candidates`), so that one
that fits at a single lucky size counts for less than one that fits broadly. A reading is doubted by its instrument and
by the model: 2 % of what was expected. Beside the candidates stand "nothing is wrong" and "something that is not
listed", which is all that is left where nothing fits.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from itertools import combinations
from math import exp, log

import numpy as np
from scipy.interpolate import PchipInterpolator

from hydrarch.core.base.progress import Report, unheard
from hydrarch.core.catalogue.pipes import Pipe
from hydrarch.core.diagnosis.candidates import FaultyLine, PossibleFault
from hydrarch.core.diagnosis.faults import FaultKind
from hydrarch.core.diagnosis.next_look import LIKELY, NextLook, next_looks, reading_places
from hydrarch.core.diagnosis.signs import SignSeen
from hydrarch.core.diagnosis.weighing import FaultCase, FaultSizes, ReadHere, SeenHere, Values, Weigher, reading_doubt
from hydrarch.core.hydraulics.flow import FlowModel
from hydrarch.core.plan.document import Plan, Scenario
from hydrarch.core.site.layout import Layout

__all__ = [
    "Diagnosis",
    "Explanation",
    "explain",
    "explained",
]

_NOTHING, _UNLISTED, _TWO = 0.10, 0.03, 0.05
"""Priors of nothing wrong, of something that is not listed, of two faults at once; from memory."""
_SCREENED = 40
"""Candidates that are looked at with every magnitude."""
_OUT_OF_IT = 12.0
"""How far below the best in log likelihood a candidate at every other magnitude is solved at no more of them."""
_DRAINS = 160
"""Faults of drains below where water was poured in that are weighed beside them."""
_FINE, _PAIRED, _SOURCES = 8, 8, 4
_FAR = 1e-3
_WORTH, _SHOWN = 0.02, 6
"""Explanations below this share, and beyond so many, are shown as others."""


@dataclass(frozen=True, slots=True)
class Explanation:
    """A fault, or two, that may be the cause. `kinds` are what they are, `places` for each the points or runs it may be
    at, the likeliest first: more than one where no place that can be read tells them apart. `sizes` are the best
    magnitudes: a leak's flow (m³/s), the bore left (m) of what is blocked, times an opening passes, share of head a
    source lost.

    `gives` are what it gives at each reading, `at_next` at the place to read next; `measured` is False where signs
    alone tell it and it has no size.
    """

    kinds: tuple[FaultKind, ...]
    places: tuple[tuple[str, ...], ...]
    sizes: tuple[float, ...]
    probability: float
    gives: tuple[float, ...]
    at_next: float | None
    explains: bool
    measured: bool = True


@dataclass(frozen=True, slots=True)
class Diagnosis:
    """The explanations, most probable first; the probability that nothing is wrong, that it is something not listed,
    and of the others together; and what to read next, None where no place tells more.

    `unexplained` says that no candidate fits, `alike` that the first may be at several places which no reading that is
    offered tells apart, `left_out` readings at places where nothing is worked out in this scenario, `signs` how many
    signs were weighed, `pours` the points where water can be poured into a drain.
    """

    readings: tuple[ReadHere, ...]
    explanations: tuple[Explanation, ...]
    nothing: float
    unlisted: float
    others: float
    count: int
    next: NextLook | None
    looks: tuple[NextLook, ...]
    unexplained: bool
    alike: bool
    left_out: tuple[str, ...]
    signs: int = 0
    pours: tuple[str, ...] = ()


def explain(
    plan: Plan,
    lay: Layout,
    pipes: Mapping[str, Pipe],
    minor: Mapping[str, float],
    scenario: Scenario,
    seen: Sequence[SeenHere],
    weights: Mapping[str, float],
    signs_seen: Sequence[SignSeen] = (),
    falls: Mapping[str, float] | None = None,
    report: Report = unheard,
) -> Diagnosis:
    """Weigh what may be wrong in a scenario by readings. `minor` and `pipes` are those of the runs as drawn, `weights`
    how many joints each run counts for, `signs_seen` what was seen without an instrument, `falls` (m/m) how much each
    run of a drain falls.

    Raises `HydrarchError` where the line as drawn does not settle.
    """
    poured = any(s.what == "takes" for s in seen)
    model = FlowModel(plan, lay, scenario, yields=True)
    line = FaultyLine(plan, model, pipes, minor, weights, bool(signs_seen) or poured, falls)
    report(f"{len(line.candidates())} faults tried")
    return explained(line, seen, signs_seen)


def explained(line: FaultyLine, seen: Sequence[SeenHere], signs_seen: Sequence[SignSeen] = ()) -> Diagnosis:
    """The same of a line that was made ready before."""
    weigh = Weigher(line, seen, signs_seen)
    seen = weigh.seen
    told_any = bool(seen) or weigh.count > 0
    candidates = line.candidates()
    rest = weigh.case((), line.rest)
    solved, scored = _screened(weigh, candidates)
    weighed: dict[PossibleFault, tuple[float, FaultSizes]] = {}
    nearest = rest.fit
    for f in solved:
        if w := _weighed(weigh, f, nearest - _OUT_OF_IT):
            nearest = max(nearest, *(c.fit for _, c in w[1]))
            weighed[f] = (log((1 - _NOTHING - _UNLISTED) * f.prior) + w[0], w[1])
    singles = list(weighed.values())
    left = _left(scored, {f: e for f, (e, _) in weighed.items()})
    best = max((c.fit for _, mine in singles for _, c in mine), default=rest.fit)
    poor = best < weigh.good and rest.fit < weigh.good
    pairs = list(_pairs(weigh, singles)) if poor and seen else []
    whole = [*((e, mine) for e, mine in singles), *((log(_TWO) + e, mine) for e, mine in pairs)]
    others = {
        "nothing": log(_NOTHING) + rest.fit + weigh.by_signs(()),
        "unlisted": log(_UNLISTED) + weigh.unlisted,
    }
    top = max([e for e, _ in whole] + list(others.values()), default=0.0)
    total = sum(exp(e - top) for e in (*(e for e, _ in whole), *left, *others.values()))
    ranked = sorted(((exp(e - top) / total, mine) for e, mine in whole), key=lambda r: -r[0])
    looks = tuple(next_looks(line, weigh, ranked, exp(others["nothing"] - top) / total))
    first = looks[0] if looks else None
    told = tuple(
        _told(line, weigh, group, first)
        for n, group in enumerate(_alike(line, weigh, ranked))
        if told_any and n < _SHOWN and sum(share for share, _ in group) >= (LIKELY if n == 0 else _WORTH)
    )
    nothing, unlisted = (exp(others[k] - top) / total for k in ("nothing", "unlisted"))
    shown = sum(t.probability for t in told)
    best = max((c.fit for _, mine in whole for _, c in mine), default=rest.fit)
    return Diagnosis(
        readings=tuple(weigh.told()),
        explanations=told,
        nothing=nothing if told_any else 1.0,
        unlisted=unlisted if told_any else 0.0,
        others=max(1 - shown - nothing - unlisted, 0.0) if told_any else 0.0,
        count=len(candidates) - len(told),
        next=first,
        looks=looks[:6],
        unexplained=bool(seen) and best < weigh.good and rest.fit < weigh.good,
        left_out=weigh.left_out,
        alike=bool(told) and len(told[0].places[0]) > 1,
        signs=weigh.count,
        pours=line.pours(),
    )


_FIT_ALIKE = 0.1
"""How far apart in log likelihood signs leave two places that are told as one."""


def _screened(
    weigh: Weigher, candidates: Sequence[PossibleFault]
) -> tuple[list[PossibleFault], list[tuple[float, PossibleFault]]]:
    """Where there are many, those that are solved at every magnitude: foreseen from the line as it is, which bend it
    most as it was read. And all with their score, the best first; none where all are solved.
    """
    if len(candidates) <= _SCREENED:
        return list(candidates), []
    read = [n for n, s in enumerate(weigh.seen) if s.what == "pressure" and not s.shut]
    off = ((weigh.values - weigh.expected) / weigh.doubt)[read]
    bends = [weigh.line.foreseen(candidates, weigh.seen[n].point) for n in read]
    scored = []
    for k, f in enumerate(candidates):
        row = [b[k] for b in bends]
        score = log(f.prior) + weigh.by_signs((f,))
        known = [x for x in row if x is not None]
        if len(known) == len(row):
            bend = np.array(known) / weigh.doubt[read]
            much = float(bend @ bend)
            scale = max(float(off @ bend) / much, 0.0) if much > 0 else 0.0
            score -= 0.5 * float(np.sum((off - scale * bend) ** 2))
        scored.append((score, f))
    scored.sort(key=lambda s: (-s[0], s[1].kind, s[1].where))
    below = frozenset[str]().union(*(weigh.line.runs_below(s.point) for s in weigh.seen if s.what == "takes"))
    drains = [f for _, f in scored if weigh.line.in_drain(f) and f.where in below][:_DRAINS]  # they cost no solving
    always = [*drains, *[f for f in candidates if f.kind == "weak source"][:_SOURCES]]
    others = [f for _, f in scored if f not in always][: max(_SCREENED + len(drains) - len(always), 0)]
    return [*always, *others], scored


def _left(scored: Sequence[tuple[float, PossibleFault]], known: Mapping[PossibleFault, float]) -> list[float]:
    """The log evidence of candidates that were not solved, by how they score beside the last that was."""
    if not scored or not known:
        return []
    marks = {f: s for s, f in scored}
    by_score = {f for _, f in scored[:_SCREENED]} & known.keys()  # what is solved whatever its score says nothing here
    last = min(by_score or known, key=lambda f: marks[f])
    return [known[last] + min(s - marks[last], 0.0) for s, f in scored if f not in known]


def _between(weigh: Weigher, solved: Sequence[tuple[int, FaultCase]]) -> tuple[Values, Values]:
    """Places between the first and the last magnitude that was solved, and how well each fits. Between two solved sizes
    what the line gives is taken smoothly: a good gauge is finer than the sizes lie apart.
    """
    at = np.array([float(n) for n, _ in solved])
    fine = np.linspace(at[0], at[-1], int(at[-1] - at[0]) * _FINE + 1)
    gives = np.array([c.gives for _, c in solved]).reshape(len(solved), -1)
    between = (
        PchipInterpolator(at, gives)(fine)
        if len(at) > 1 and weigh.columns
        else np.repeat(gives, len(fine), 0)[: len(fine)]
    )
    fits = np.array([weigh.fit(g) for g in between]) if weigh.columns else np.zeros(len(fine))
    return fine, fits


def _weighed(weigh: Weigher, fault: PossibleFault, floor: float) -> tuple[float, FaultSizes] | None:
    """The log of a fault's mean likelihood over its magnitudes, and the magnitudes that were solved with how likely
    each is, the best among them; None where none can be. One that stays below `floor` is solved at every other alone.
    """
    sizes = weigh.line.sizes_of(fault)

    def solve(wanted: Sequence[int]) -> list[tuple[int, FaultCase]]:
        tried = [(n, weigh.line.with_faults((fault, float(sizes[n])))) for n in wanted]
        return [(n, weigh.case(((fault, float(sizes[n])),), found)) for n, found in tried if found is not None]

    solved = solve(range(0, len(sizes), 2))
    worth = not solved or float(np.max(_between(weigh, solved)[1])) >= floor
    if worth:
        solved = sorted([*solved, *solve(range(1, len(sizes), 2))], key=lambda s: s[0])
    if not solved:
        return None
    fine, fits = _between(weigh, solved)
    at = np.array([float(n) for n, _ in solved])
    top = float(np.max(fits))
    evidence = top + log(float(np.sum(np.exp(fits - top))) / ((len(sizes) - 1) * _FINE + 1))
    evidence += weigh.by_signs((fault,))
    size = float(np.interp(fine[int(np.argmax(fits))], np.arange(len(sizes)), sizes))
    best = weigh.line.with_faults((fault, size)) if worth else None
    cases = [(n, c) for n, c in solved]
    places = at
    if best is not None:
        cases.append((-1, weigh.case(((fault, size),), best)))
        places = np.append(at, fine[int(np.argmax(fits))])
    nearest = np.argmin(np.abs(fine[:, None] - places[None, ::-1]), axis=1)  # the best before one that lies there too
    mass = np.bincount(len(places) - 1 - nearest, weights=np.exp(fits - top), minlength=len(places))
    return evidence, [(float(m / mass.sum()), c) for m, (_, c) in zip(mass, cases, strict=True)]


def _pairs(weigh: Weigher, singles: Sequence[tuple[float, FaultSizes]]) -> Sequence[tuple[float, FaultSizes]]:
    """Two faults at once, of those that alone explain most, at a few sizes each."""
    top = [mine for _, mine in sorted(singles, key=lambda s: -max(c.fit for _, c in s[1]))[:_PAIRED]]
    told = []
    for one, two in combinations(top, 2):
        a, b = one[0][1].faults[0][0], two[0][1].faults[0][0]
        sizes = [(float(x), float(y)) for x in weigh.line.sizes_of(a)[::2] for y in weigh.line.sizes_of(b)[::2]]
        mine = [
            weigh.case(((a, x), (b, y)), found)
            for x, y in sizes
            if (found := weigh.line.with_faults((a, x), (b, y))) is not None
        ]
        if mine:
            best = max(c.fit for c in mine)
            likely = [exp(c.fit - best) for c in mine]
            evidence = best + log(sum(likely) / len(sizes))
            told.append(
                (
                    log(a.prior * b.prior) + evidence + weigh.by_signs((a, b)),
                    [(w / sum(likely), c) for w, c in zip(likely, mine, strict=True)],
                )
            )
    return told


def _best(mine: FaultSizes) -> FaultCase:
    return max((c for _, c in mine), key=lambda c: c.fit)


def _alike(
    line: FaultyLine, weigh: Weigher, ranked: Sequence[tuple[float, FaultSizes]]
) -> list[list[tuple[float, FaultSizes]]]:
    """Explanations of one kind that no place tells apart, together; the most probable first."""
    spots = [
        (p, what, shut, at)
        for p, what, shut, _ in reading_places(line)
        if (at := weigh.shows((), line.rest, p, what, shut)) is not None
    ]
    doubts = np.array([reading_doubt(at, what) for _, what, _, at in spots])
    groups: list[tuple[Values, float, list[tuple[float, FaultSizes]]]] = []
    for share, mine in ranked:
        best = _best(mine)
        if share < _FAR:
            groups.append((np.zeros(0), 0.0, [(share, mine)]))
            continue
        told = weigh.by_signs([f for f, _ in best.faults])
        gives = np.array([weigh.shows(best.faults, best.found, p, what, shut) or 0.0 for p, what, shut, _ in spots])
        kinds = tuple(f.kind for f, _ in best.faults)
        for theirs, by_signs, group in groups:
            first = _best(group[0][1]).faults
            same = len(kinds) == 1 and tuple(f.kind for f, _ in first) == kinds and len(theirs) == len(gives)
            if same and abs(told - by_signs) < _FIT_ALIKE and np.all(np.abs(gives - theirs) <= 2 * doubts):
                group.append((share, mine))
                break
        else:
            groups.append((gives, told, [(share, mine)]))
    return sorted((g for *_, g in groups), key=lambda g: -sum(share for share, _ in g))


def _told(
    line: FaultyLine, weigh: Weigher, group: Sequence[tuple[float, FaultSizes]], look: NextLook | None
) -> Explanation:
    best = _best(group[0][1])
    many = [_best(mine).faults[0][0].where for _, mine in group]
    return Explanation(
        kinds=tuple(f.kind for f, _ in best.faults),
        places=tuple((f.where,) for f, _ in best.faults) if len(best.faults) > 1 else (tuple(many),),
        sizes=tuple(_shown(line, f, size) for f, size in best.faults),
        probability=sum(share for share, _ in group),
        gives=tuple(float(x) for x in best.gives[: len(weigh.seen)]),
        at_next=None if look is None else weigh.shows(best.faults, best.found, look.point, look.what, look.shut),
        explains=best.fit >= weigh.good,
        measured=all(weigh.measures(f) for f, _ in best.faults),
    )


def _shown(line: FaultyLine, fault: PossibleFault, size: float) -> float:
    """A magnitude as it is shown: of what is blocked the bore that is left (m)."""
    if line.in_drain(fault) and line.solves(fault):
        return size * line.bore_of(fault.where)
    if fault.kind in ("blocked pipe", "valve partly shut", "check valve stuck", "filter clogged"):
        run = fault.where if fault.kind == "blocked pipe" else line.out_of(fault.where)
        return size * line.network.pipes[line.place[run or ""]].bore
    return size
