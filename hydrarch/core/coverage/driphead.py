"""The head of a drip line: preventer, filter, regulator in that order on the way from the source to what drips."""

from __future__ import annotations

from collections.abc import Iterator
from itertools import pairwise

from hydrarch.core.base.messages import tell
from hydrarch.core.base.problems import Problem, declare
from hydrarch.core.components.devices import BackflowPreventer, Filter, Regulator
from hydrarch.core.components.sources import Mains
from hydrarch.core.plan.document import Plan, Point
from hydrarch.core.site.layout import Layout, path_between

__all__ = ["MOST_AT_REST", "driphead_problems", "head_of"]

declare("survey", "drip-order", "drip-filter", "drip-pressure")

MOST_AT_REST = 310e3
"""Pa at rest above which a drip line wants a regulator: 45 psi, what small tubing and its barbs are pushed to; from
memory."""
_ORDER = (BackflowPreventer, Filter, Regulator)
_WORDS = {BackflowPreventer: "The preventer", Filter: "The filter", Regulator: "The regulator"}


def head_of(plan: Plan, lay: Layout, drip: str) -> tuple[Point, ...]:
    """What water passes on its shortest way to a drip zone, from its source on; empty where none feeds it."""
    best: tuple[str, ...] = ()
    for source in sorted(p.id for p in plan.sources):  # of two as near it is the same one, however the plan is drawn
        runs = path_between(lay, source, drip)
        if runs and (not best or len(runs) + 1 < len(best)):
            way = [source]
            for run in runs:
                way.append(lay.lines[run].other(way[-1]))
            best = tuple(way)
    return tuple(plan.by_id[p] for p in best)


def driphead_problems(plan: Plan, lay: Layout) -> Iterator[Problem]:
    """A wrong order, a missing filter, a missing regulator; each told once for all the zones behind one head."""
    told: set[tuple[str, str]] = set()
    for drip in sorted(plan.with_trait("drips"), key=lambda p: (lay.away(p.id), p.id)):  # the nearest is told of
        way = head_of(plan, lay, drip.id)
        if not way:
            continue
        devices = [p for p in way if isinstance(p.what, _ORDER)]
        for one, two in pairwise(devices):
            if _rank(one) > _rank(two) and ("order", one.id) not in told:
                told.add(("order", one.id))
                yield tell(
                    "drip-order",
                    one.id,
                    one=one.label,
                    two=two.label,
                    drip=drip.label,
                    first=_WORDS[type(two.what)],
                )
        source = way[0]
        if not any(isinstance(p.what, Filter) for p in devices) and ("filter", source.id) not in told:
            told.add(("filter", source.id))
            yield tell("drip-filter", drip.id, drip=drip.label)
        rest = source.what.pressure if isinstance(source.what, Mains) else 0.0
        if (
            rest > MOST_AT_REST
            and not any(isinstance(p.what, Regulator) for p in devices)
            and ("pressure", source.id) not in told
        ):
            told.add(("pressure", source.id))
            yield tell("drip-pressure", drip.id, plan.units, drip=drip.label, rest=rest, most=MOST_AT_REST)


def _rank(point: Point) -> int:
    return next(n for n, kind in enumerate(_ORDER) if isinstance(point.what, kind))
