"""The parts list as a list for the aisle: by shelf, what is in the basket, what today's work still wants, what each
part is mistaken for.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from math import degrees

from hydrarch.core.base.cache import remembered
from hydrarch.core.base.units import System, show
from hydrarch.core.catalogue.fittings import Fitting, fitting, fittings
from hydrarch.core.cutting.billrow import BillRow
from hydrarch.core.derivation.chain import Derivation
from hydrarch.core.joining.views import EndView, view
from hydrarch.core.plan.document import Plan
from hydrarch.core.record.log import Log
from hydrarch.core.record.states import MADE, JointState, joint_state

__all__ = ["LaySet", "Mistaken", "Shop", "ShopPart", "shop", "shopping_rows"]

_TODAY = 8 * 3600.0
"""s of work that are today's part of it."""
_LOOKS_LIKE = 0.12
"""Share by which two ends may differ across and still be taken for one another in the hand; common practice, from
memory."""
_FEW = 3
_SHELVES = {
    "pvc": "PVC",
    "pvc80": "PVC schedule 80",
    "pp": "Polypropylene",
    "brass": "Brass",
    "drip": "Drip",
    "ppr": "PP-R",
    "ppr-brass": "PP-R with brass",
    "insert": "Insert fittings",
    "pe100": "PE 100",
    "body": "Valves and bodies",
    "drain": "Drain",
    "band": "Bands",
    "iron": "Iron",
}
_OTHERS = {"pipe": "Pipe", "riser": "Risers", "equipment": "Equipment", "consumable": "Cement, tape and the like"}


@dataclass(frozen=True, slots=True)
class Mistaken:
    """A part that looks like the one wanted and is not: its name, and by what the two are told apart."""

    name: str
    says: str


@dataclass(frozen=True, slots=True)
class PartOpening:
    """An opening of a part beside its first two: its end, how far its stop is from the centre (m), and its direction
    (rad) from the second opening's.
    """

    end: EndView
    stop: float
    direction: float


@dataclass(frozen=True, slots=True)
class ShopPart:
    """A line of the list: on which `shelf`, how many are to be bought, how many of those today's work wants, and how
    many are in the basket.

    `ends` are its first two for a drawing at life size (none for what is no fitting), `length` (m) what lies between
    its stops, `stop` (m) what of that is before the centre; `branches` are its other openings.
    """

    item: str
    name: str
    shelf: str
    unit: str
    detail: str
    count: int
    today: int
    got: int
    material: str
    ends: tuple[EndView, ...]
    branches: tuple[PartOpening, ...]
    stop: float
    length: float
    mistaken: tuple[Mistaken, ...]


@dataclass(frozen=True, slots=True)
class LaySet:
    """What one assembly takes, to be laid out before leaving: fittings with how many, whether all lay there, and what
    is in no basket.
    """

    id: str
    title: str
    parts: tuple[tuple[str, int], ...]
    laid: bool
    missing: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class Shop:
    """The list with how it stands in words: how many parts are wanted, how many of today's are missing."""

    parts: tuple[ShopPart, ...]
    sets: tuple[LaySet, ...]
    says: str


def shopping_rows(rows: Iterable[BillRow]) -> dict[str, BillRow]:
    """What is to be bought of a bill, alike things on one line; pieces cut from the pipe and what is in stock
    are not.
    """
    found: dict[str, BillRow] = {}
    for r in rows:
        wanted = r.count - r.have + r.spare
        if wanted <= 0 or (r.group in ("fitting", "added") and fitting(r.item).material == "pipe"):
            continue
        before = found.get(r.item)
        more = 0 if before is None else before.count
        found[r.item] = BillRow(
            group=r.group, item=r.item, name=r.name, count=wanted + more, unit=r.unit, detail=r.detail
        )
    return found


def shop(plan: Plan, derived: Derivation, log: Log, states: Mapping[str, JointState]) -> Shop:
    """The list of a job. What was already built in was bought, and stays on it, so that the counts are those of the
    parts list.
    """
    used = _by_group(derived)
    today = _today(derived, states, used)
    parts = []
    for item, r in shopping_rows(derived.bill).items():
        part = fitting(item) if r.group in ("fitting", "added") else None
        parts.append(
            ShopPart(
                item=item,
                name=r.name,
                shelf=_OTHERS.get(r.group) or _shelf(part),
                unit=r.unit,
                detail=r.detail,
                count=r.count,
                today=min(r.count, today[item]),
                got=log.got.get(item, 0),
                material=part.material if part else "",
                ends=tuple(view(p.end) for p in part.ports[:2]) if part else (),
                branches=tuple(PartOpening(view(p.end), p.stop, p.direction) for p in part.ports[2:]) if part else (),
                stop=part.ports[0].stop if part else 0.0,
                length=sum(p.stop for p in part.ports[:2]) if part else 0.0,
                mistaken=mistaken(item, plan.units) if part else (),
            )
        )
    parts.sort(key=lambda p: (p.shelf in _OTHERS.values(), p.shelf, p.name))
    sets = tuple(_sets(derived, log, used, states))
    missing = sum(max(0, p.today - p.got) for p in parts)
    wanted, got = sum(p.count for p in parts), sum(min(p.count, p.got) for p in parts)
    says = f"{got} of {wanted} in the basket; " + (
        f"today's work still wants {missing}."
        if missing
        else "all that today's work wants is there."
        if any(today.values())
        else "today's work wants nothing."
    )
    return Shop(tuple(parts), sets, says)


def _shelf(part: Fitting | None) -> str:
    """As shelves are: the material, then the size of its first end."""
    if part is None:
        return ""
    return f"{_SHELVES.get(part.material, part.material)}, {part.ports[0].end.size}"


def _by_group(derived: Derivation) -> dict[str, Counter[str]]:
    """The fittings of each glue-up: a part is of the first in which one of its joints is made."""
    known, parts, seen = derived.assembly.named, {p.id: p.fitting for p in derived.assembly.parts}, set[str]()
    found: dict[str, Counter[str]] = {}
    for group in derived.work.groups:
        mine = found.setdefault(group.id, Counter())
        for name in group.joints:
            for side in (known[name].a, known[name].b):
                if side.part is not None and side.part not in seen and side.part in parts:
                    seen.add(side.part)
                    mine[parts[side.part]] += 1
    return found


def _today(derived: Derivation, states: Mapping[str, JointState], used: Mapping[str, Counter[str]]) -> Counter[str]:
    """What the next eight hours of a hand's work take: the glue-ups that are not made yet, in their order."""
    found, spent = Counter[str](), 0.0
    for group in derived.work.groups:
        if all(joint_state(states, j).state in MADE for j in group.joints):
            continue
        if spent >= _TODAY:
            break
        spent += group.lasts
        found.update(used[group.id])
    return found


def _sets(
    derived: Derivation, log: Log, used: Mapping[str, Counter[str]], states: Mapping[str, JointState]
) -> Iterable[LaySet]:
    """Assembly by assembly that is not made yet, in working order; what the basket holds goes to the first ones."""
    left = Counter({item: n for item, n in log.got.items()})
    for group in derived.work.groups:
        mine = used[group.id]
        if not mine or all(joint_state(states, j).state in MADE for j in group.joints):
            continue
        missing = []
        for item, n in sorted(mine.items()):
            if fitting(item).material != "pipe" and left[item] < n:
                missing.append(fitting(item).name)
            left[item] -= n
        parts = tuple((fitting(i).name, n) for i, n in sorted(mine.items()))
        yield LaySet(group.id, group.title, parts, log.laid.get(group.id, False), tuple(missing))


@remembered(1 << 11)
def mistaken(item: str, units: System) -> tuple[Mistaken, ...]:
    """The parts of the catalogue that look most like one and are another: of its family, as many ends, each nearly as
    wide.
    """
    mine = fitting(item)
    found: list[tuple[float, Fitting]] = []
    for other in fittings().values():
        if (
            other.family != mine.family
            or len(other.ports) != len(mine.ports)
            or other.id == item
            or other.material == "pipe"
        ):
            continue
        pairs = list(zip(mine.ports, other.ports, strict=True))
        if all(a.end.name == b.end.name for a, b in pairs):
            if abs(mine.angle - other.angle) > 1e-3:
                found.append((0.0, other))
            continue  # the same ends: another make of the same part, but for what turns otherwise
        off = max(abs(a.end.diameter - b.end.diameter) / a.end.diameter for a, b in pairs)
        if off <= _LOOKS_LIKE:
            found.append((off + 0.01 * (other.material != mine.material), other))
    found.sort(key=lambda x: (x[0], x[1].id))
    return tuple(Mistaken(other.name, _apart(mine, other, units)) for _, other in found[:_FEW])


def _apart(mine: Fitting, other: Fitting, units: System) -> str:
    """By what two parts are told apart: the end that differs, in words and across."""
    if all(x.end.name == y.end.name for x, y in zip(mine.ports, other.ports, strict=True)):
        return f"it turns {degrees(other.angle):.4g}° and not {degrees(mine.angle):.4g}°"
    a, b = next((x.end, y.end) for x, y in zip(mine.ports, other.ports, strict=True) if x.end.name != y.end.name)
    there, here = str(show(b.diameter, "takeoff", units)), str(show(a.diameter, "takeoff", units))
    return f"{b.words()} where {a.words()} is wanted" + (f", {there} across and not {here}" if there != here else "")
