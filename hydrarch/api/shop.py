"""The shop: the list for the aisle, and what else would do where a part is not to be had."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, replace

from fastapi import APIRouter

from hydrarch.api.answers import other_ways
from hydrarch.api.service import Service, ServiceIn
from hydrarch.core.base.errors import HydrarchError, Unknown
from hydrarch.core.catalogue.fittings import fitting
from hydrarch.core.derivation.chain import Derivation
from hydrarch.core.joining.assembled import Part
from hydrarch.core.joining.assembly import node_views
from hydrarch.core.joining.node_fittings import How
from hydrarch.core.report.shopping import Shop, shop

__all__ = ["router"]

router = APIRouter(prefix="/api/jobs/{job_id}/shop", tags=["shop"])
_FEW = 4
"""Other ways that are told at one place: nobody reads more in an aisle."""


@dataclass(frozen=True, slots=True)
class OtherWay:
    """What would stand in one place instead: in words, how many joints, what price and how many m more (less below 0),
    and what of it is not at hand.

    A plan keeps `fittings` as the way at the run's end; with `how` it keeps them as what stands at the point.
    """

    says: str
    fittings: tuple[str, ...]
    how: How | None
    joints: int
    price: float
    length: float
    missing: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True)
class Instead:
    """One place where a part is wanted, at a run's `end` or ("" for that) at a `point`, and the ways to do without it,
    the fewest to buy first.
    """

    place: str
    end: str
    point: str
    ways: tuple[OtherWay, ...]


@router.get("", summary="The parts list for the aisle")
def job_shop(service: ServiceIn, job_id: str) -> Shop:
    """By shelf, with what is in the basket, what today's work still wants, and the set of each assembly.

    An event "got" or "laid_out" ticks.
    """
    found = service.job(job_id)
    derived, stands = service.sized(found), service.stands(found)
    with service.log(job_id) as log:
        return shop(found.plan, derived, log, stands.joints)


@router.get("/{item}/instead", summary="A part that is not to be had")
def job_instead(service: ServiceIn, job_id: str, item: str) -> tuple[Instead, ...]:
    """For each place that wants it, the other ways to join without it: first those of what is in the basket, in stock,
    or on the list anyway.
    """
    found = service.job(job_id)
    derived = service.sized(found)
    parts = derived.assembly.parts
    mine = [p for p in parts if p.fitting == item]
    if not mine:
        raise Unknown("part on the list", item, {p.fitting for p in parts})
    with service.log(job_id) as log:
        bought = {i for i, n in log.got.items() if n}
    at_hand = bought | {s.item for s in found.plan.stock} | {p.fitting for p in parts if p.fitting != item}
    answers: dict[tuple[str, str], Instead] = {}
    for part in mine:
        where = (part.end or "", "" if part.end else part.point or "")
        if where in answers:
            continue
        ways = [
            replace(w, missing=tuple(fitting(f).name for f in dict.fromkeys(w.fittings) if f not in at_hand))
            for w in (_at_end if part.end else _at_point)(service, job_id, derived, part)
            if item not in w.fittings
        ]
        ways.sort(key=lambda w: (len(w.missing), w.joints, w.price))
        place = next((j.place for j in derived.assembly.joints if part.id in (j.a.part, j.b.part)), part.point or "")
        answers[where] = Instead(place, *where, tuple(ways[:_FEW]))
    return tuple(answers.values())


def _at_end(service: Service, job_id: str, derived: Derivation, part: Part) -> Iterable[OtherWay]:
    """The ways of a run's end, against the one that is used."""
    try:
        ways = other_ways(service, job_id, part.end or "").ways
    except HydrarchError:
        return
    used = sorted(p.fitting for p in derived.assembly.parts if p.end == part.end)
    now = next((w for w in ways if sorted(w.fittings) == used), None)
    for w in ways:
        if now is not None:
            says = (
                ", ".join(p.name for p in w.parts if p.fitting is not None)
                or "nothing between: one straight into the other"
            )
            yield OtherWay(
                says=says,
                fittings=w.fittings,
                how=None,
                joints=len(w.joints) - len(now.joints),
                price=w.price - now.price,
                length=w.length - now.length,
            )


def _at_point(service: Service, job_id: str, derived: Derivation, part: Part) -> Iterable[OtherWay]:
    """What else may stand at a point, against what does."""
    found = service.job(job_id)
    views = node_views(found.plan, derived.layout, derived.settled.pipes, part.point or "", found.plan.prices)
    now = next((v for v in views if v.used), None)
    for v in views:
        if now is not None:
            yield OtherWay(
                says=v.says,
                fittings=v.fittings,
                how=v.how,
                joints=v.joints - now.joints,
                price=v.price - now.price,
                length=0.0,
            )
