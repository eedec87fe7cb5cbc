"""The bill of materials: fittings counted, pipe by stick and coil, and what each joint uses up."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Iterator
from math import ceil, pi
from typing import Literal

from hydrarch.core.base.cache import remembered
from hydrarch.core.base.messages import tell
from hydrarch.core.base.problems import Problem, declare
from hydrarch.core.base.units import FOOT, show, size_value
from hydrarch.core.catalogue.fittings import end, ends, fitting
from hydrarch.core.catalogue.guidance import choose_practice
from hydrarch.core.catalogue.markets import market
from hydrarch.core.catalogue.nipples import nearest_nipple
from hydrarch.core.catalogue.pipes import pipe, pipe_called, series
from hydrarch.core.catalogue.prices import fitting_price, known_price, pipe_price
from hydrarch.core.catalogue.tables import read_rows
from hydrarch.core.components.basins import Bulkhead, BulkheadIn, Standpipe
from hydrarch.core.components.devices import Valve
from hydrarch.core.components.drains import DrainEnd
from hydrarch.core.components.equipment import Equipment
from hydrarch.core.components.sources import Mains, Tank
from hydrarch.core.coverage.wire import Wire
from hydrarch.core.cutting.billrow import BillRow
from hydrarch.core.cutting.cuts import CutList, Nest
from hydrarch.core.cutting.dripparts import drip_parts, in_line_count
from hydrarch.core.cutting.wellparts import beside_strings
from hydrarch.core.joining.assembled import Assembly, parts_list
from hydrarch.core.joining.meeting import stands_as
from hydrarch.core.plan.document import Plan, Point

__all__ = ["QUART", "TAPE_WRAPS", "bill", "cement_body", "joints_per_quart", "price_problems", "tape_length"]

declare("cut", "no-price")

QUART = 9.46352946e-4
_OPEN = 0.1  # m of depth beyond which a valve is in the ground
_GREASE = 4.0  # g of lubricant for each inch of size; from memory
_BOUGHT = ("source", "outlet", "device", "end", "drain")
TAPE_WRAPS = {"five": 5, "several": 6, "ten": 9, "paste": 0}
"""Wraps of tape by the crew's practice; common practice."""


_TAKES_UP = 0.03
"""Metres by which a crew sets what stands on a riser higher or lower to suit it (from memory)."""


def bill(plan: Plan, assembly: Assembly, cuts: CutList, wire: Wire | None = None) -> tuple[BillRow, ...]:
    """The whole bill of a plan: fittings, parts added by hand, pipe, risers, equipment, consumables."""
    rows = [_fitting_row(plan, "fitting", f, n, "") for f, n in parts_list(assembly).items()]
    rows += [_fitting_row(plan, "added", e.fitting, e.count, e.note) for e in plan.extras]
    emitters = in_line_count(plan)
    for nest in cuts.nests:
        family = series(nest.series)
        detail = f"{show(nest.total, 'length', plan.units)}: {_sold_in(plan, nest)}"
        if nest.offcuts:
            detail += f", {len(nest.offcuts)} offcut{'s' if len(nest.offcuts) > 1 else ''} used"
        if nest.made is not None:
            count = emitters[nest.made]
            detail += f", {count} emitter{'' if count == 1 else 's'} in it"
        sold = pipe(nest.series, nest.size)
        item = f"{sold.name}{nest.made.tag if nest.made else ''}"
        each = known_price(pipe_price, sold, plan.prices, nest.made)
        name = f"{family.name}, {nest.size}{f', {nest.says}' if nest.says else ''}"
        price = None if each is None else each * sum(s.length for s in nest.sticks)
        metres = FOOT if plan.units == "us" else 1.0
        rows.append(
            BillRow(
                group="pipe",
                item=item,
                name=name,
                count=len(nest.sticks),
                unit="coil" if nest.coil else "stick",
                detail=detail,
                each=None if each is None else each * metres,
                price=price,
                own=item in plan.prices,
                per="ft" if plan.units == "us" else "m",
                metres=metres,
            )
        )
    thread = market(plan.conditions.market).thread
    risers = Counter(
        (p.series, p.size, _as_sold(plan, thread, p.length)) for p in cuts.pieces if p.threaded
    )  # alike is what is sold alike
    for (made, size, sold_as), n in sorted(risers.items()):
        plastic = "schedule 80" if thread == "npt" else "thick-walled plastic, BSP"
        what = f"Threaded riser {size}, {'galvanized steel' if made == 'galv40' else plastic}"
        item = f"riser {size}" if made == "pvc80" else f"riser {made} {size}"
        rows.append(BillRow(group="riser", item=item, name=what, count=n, unit="", detail=sold_as))
    control = _control(plan, wire)
    drips = [
        BillRow(group="equipment", item=d.item, name=d.name, count=d.count, unit=d.unit, detail=d.detail)
        for d in drip_parts(plan)
    ]
    return (*rows, *_equipment(plan, assembly), *beside_strings(plan), *control, *drips, *_consumables(plan, assembly))


def _as_sold(plan: Plan, thread: str, wanted: float) -> str:
    """The stock length of a riser that is `wanted` so long (m) over its threads, and what is left to see to."""

    def says(long: float) -> str:
        return str(show(long, "cut", plan.units))

    sold, drawn = nearest_nipple(thread, wanted), says(wanted)
    if sold is None:
        return f"{drawn} over the threads"
    off = abs(sold.length - wanted)
    if off < 5e-4:
        return f"{sold.title}, a stock length"
    if off <= _TAKES_UP:
        way = "shorter" if sold.length < wanted else "longer"
        return f"{sold.title}, a stock length: {says(off)} {way} than drawn ({drawn})"
    return (
        f"{drawn} over the threads: the nearest sold is {sold.title}. Join two, have one threaded, or change the height"
    )


def _sold_in(plan: Plan, nest: Nest) -> str:
    """How many sticks or coils of what length, the longest first."""
    word = "coil" if nest.coil else "stick"
    lengths = Counter(s.length for s in nest.sticks)
    told = [
        f"{n} {word}{'s' if n > 1 else ''} of {show(long, 'length', plan.units)}"
        for long, n in sorted(lengths.items(), reverse=True)
    ]
    return ", ".join(told) or "nothing to buy"


def _control(plan: Plan, wire: Wire | None) -> list[BillRow]:
    """Boxes over valves in the ground, and the cable that opens those of the zones with its joints, two at each."""
    buried = [p for p in plan.of_kind(Valve) if p.existing is None and p.depth > _OPEN]
    rows = (
        [
            BillRow(
                group="equipment",
                item="valve box",
                name="Valve box",
                count=len(buried),
                unit="",
                detail="over each valve in the ground",
            )
        ]
        if buried
        else []
    )
    if wire is not None:
        cable = f"control cable {wire.gauge} {wire.cores}"
        name, long = f"Control cable, {wire.cores} cores of {wire.gauge} AWG", show(wire.cable, "length", plan.units)
        rows.append(
            BillRow(
                group="equipment",
                item=cable,
                name=name,
                count=1,
                unit="length",
                detail=f"{long}, and some to spare in each box",
            )
        )
        rows.append(
            BillRow(
                group="equipment",
                item="wire joint",
                name="Wire joint that keeps water out",
                count=2 * len(wire.to),
                unit="",
                detail="two at each valve",
            )
        )
    return rows


def _equipment(plan: Plan, assembly: Assembly) -> list[BillRow]:
    """What stands on the drawing and is no fitting of ours: pumps, vessels, heads, regulators, with where they stand.

    No price is known.
    """
    placed: dict[str, set[str]] = {}
    for part in assembly.parts:
        placed.setdefault(part.point or "", set()).add(fitting(part.fitting).family)
    found: dict[tuple[str, str], list[str]] = {}
    for p in plan.points:
        if (
            p.existing is None
            and p.kind.role in _BOUGHT
            and not _stands(p, placed.get(p.id, set()))
            and not isinstance(p.what, (Tank, Mains, DrainEnd, Bulkhead, BulkheadIn, Standpipe))
        ):
            called = p.what.what.strip() if isinstance(p.what, Equipment) else ""
            found.setdefault((p.what.kind, called or p.kind.title), []).append(p.label)
    return [
        BillRow(
            group="equipment",
            item=kind,
            name=title,
            count=len(where),
            unit="",
            detail=", ".join(where[:6]) + (" …" if len(where) > 6 else ""),
        )
        for (kind, title), where in sorted(found.items())
    ]


def _stands(point: Point, families: set[str]) -> bool:
    """Whether a part of ours stands for a thing, so that the thing itself is not bought; a valve beside it does not."""
    own = {*stands_as(point.what), *point.kind.families}
    return bool(families & own) or ("check valve" in own and "spring check valve" in families)


def _fitting_row(plan: Plan, group: Literal["fitting", "added"], name: str, count: int, detail: str) -> BillRow:
    each = known_price(fitting_price, name, plan.prices)
    part = fitting(name)
    if part.material == "pipe":  # a piece cut from what is there
        long = show(sum(p.stop for p in part.ports), "cut", plan.units)  # both joint depths and what is seen between
        return BillRow(
            group=group,
            item=name,
            name=part.name,
            count=count,
            unit="",
            detail=detail or f"cut from the pipe, {long} long",
            each=0.0,
            price=0.0,
        )
    have = min(count, sum(s.count for s in plan.stock if s.item == name))
    spare = spares(plan, part.family, count) if group == "fitting" else 0
    price = None if each is None else each * (max(0, count - have) + spare)
    return BillRow(
        group=group,
        item=name,
        name=part.name,
        count=count,
        unit="",
        detail=detail,
        each=each,
        price=price,
        own=name in plan.prices,
        have=have,
        spare=spare,
    )


def price_problems(plan: Plan, assembly: Assembly, cuts: CutList) -> Iterator[Problem]:
    """What is bought and has no price, at the first place it is used."""
    for nest in cuts.nests:
        if known_price(pipe_price, pipe(nest.series, nest.size), plan.prices, nest.made) is None:
            where = next((p.runs[0] for p in cuts.pieces if (p.series, p.size) == (nest.series, nest.size)), "")
            yield tell("no-price", where, part=f"{series(nest.series).name}, {nest.size}")
    for name in parts_list(assembly):
        if known_price(fitting_price, name, plan.prices) is None:
            part = next(p for p in assembly.parts if p.fitting == name)
            where = part.point or ""
            yield tell("no-price", where, part=part.name)


def spares(plan: Plan, family: str, count: int) -> int:
    """How many more of a fitting to take along: a share of the count, at least one where three or more are used.

    A mistake costs a fitting, and small ones come in packs (common practice); valves and the like are not doubled.
    """
    if plan.conditions.spares <= 0 or family not in ("elbow", "tee", "coupling", "adapter", "bushing", "cap"):
        return 0
    return max(ceil(plan.conditions.spares * count - 1e-9), 1) if count >= 3 else 0


def _liners(assembly: Assembly) -> list[BillRow]:
    """A liner into every soft pipe under a nut, so that the nut does not crush it."""
    needed = Counter(
        side.pipe
        for j in assembly.joints
        if "compression" in j.method
        for side in (j.a, j.b)
        if side.pipe is not None and series(pipe_called(side.pipe).series).liner
    )
    rows = []
    for item, n in sorted(needed.items()):
        inside = pipe_called(item)
        name = f"Liner for {series(inside.series).short} {inside.size} pipe"
        rows.append(
            BillRow(
                group="consumable",
                item=f"liner {item}",
                name=name,
                count=n,
                unit="",
                detail="one under each nut on soft pipe",
            )
        )
    return rows


def cement_body(sizes: Iterable[str], flexible: bool) -> str:
    """The cement to bring for welds of these nominal sizes: heavy for flexible pipe or above 2 in, else medium; common
    practice.
    """
    return "heavy" if flexible or any(size_value(size) > 2 for size in sizes) else "medium"


@remembered()
def _joints_per_quart() -> dict[str, float]:
    rows = read_rows("hydrarch.core.cutting", "cement.csv", dict)
    return {r["size"]: float(r["joints_per_quart"]) for r in rows}


def _consumables(plan: Plan, assembly: Assembly) -> list[BillRow]:
    by_method: dict[str, list[str]] = {}
    for joint in assembly.joints:
        by_method.setdefault(joint.method, []).append(joint.size)
    rows = []
    for size, n in sorted(Counter(by_method.get("barb and clamp", ())).items()):
        rows.append(
            BillRow(
                group="consumable",
                item=f"clamp {size}",
                name=f"Worm-drive clamp for {size} polyethylene, stainless",
                count=2 * n,
                unit="",
                detail="two a barb",
            )
        )
    rows += _liners(assembly)
    gaskets = by_method.get("gasket bell", [])
    if gaskets:
        grams = sum(_GREASE * size_value(size) for size in gaskets)
        detail = f"{grams:.0f} g for {len(gaskets)} gasketed joints"
        rows.append(
            BillRow(
                group="consumable",
                item="lubricant",
                name="Joint lubricant, 500 g tub",
                count=ceil(grams / 500),
                unit="tub",
                detail=detail,
            )
        )
    wraps = TAPE_WRAPS[choose_practice(plan.practices, "tape")]
    threads = by_method.get("thread", [])
    if threads and wraps:
        tape = sum(tape_length(size, wraps) for size in threads)
        detail = f"{show(tape, 'length', plan.units)} for {len(threads)} threads of {wraps} wraps"
        rows.append(
            BillRow(
                group="consumable",
                item="tape",
                name="PTFE tape, roll of 12 m",
                count=ceil(tape / 12),
                unit="roll",
                detail=detail,
            )
        )
    if threads and not wraps:
        rows.append(
            BillRow(
                group="consumable",
                item="paste",
                name="Thread paste made for plastic",
                count=1,
                unit="tin",
                detail=f"{len(threads)} threads",
            )
        )
    welds = by_method.get("solvent weld", [])
    if welds:
        cement = sum(QUART / joints_per_quart(size) for size in welds)
        last = max(_joints_per_quart(), key=size_value)
        beyond = (
            f", those over {last} in by their area beside its last row"
            if any(size_value(s) > size_value(last) for s in welds)
            else ""
        )
        detail = f"{show(cement, 'dose', plan.units)} by the trade table (from memory) for {len(welds)} joints{beyond}"
        flexible = any(e.end.startswith("solvent:flex") for j in assembly.joints for e in (j.a, j.b))
        body = cement_body(welds, flexible)
        why = "; flexible PVC takes no thin cement" if flexible else ""
        rows.append(
            BillRow(
                group="consumable",
                item="cement",
                name=f"PVC cement, {body} body, 250 mL tin",
                count=ceil(cement / 250e-6),
                unit="tin",
                detail=detail + why,
            )
        )
        prepare = choose_practice(plan.practices, "prepare")
        if prepare != "abrade":
            name = "PVC primer, purple" if prepare == "primer" else "PVC cleaner"
            rows.append(
                BillRow(
                    group="consumable",
                    item=prepare,
                    name=f"{name}, 250 mL tin",
                    count=ceil(cement / 250e-6),
                    unit="tin",
                    detail="as much as cement",
                )
            )
        else:
            rows.append(
                BillRow(
                    group="consumable",
                    item="glass paper",
                    name="Glass paper, sheet",
                    count=ceil(len(welds) / 10),
                    unit="sheet",
                    detail="one for ten joints",
                )
            )
    return rows


def joints_per_quart(size: str) -> float:
    """How many welds of a nominal size a quart of cement makes; a size between two rows, or in mm, takes the larger
    row's.

    Beyond the last it falls with the square of the size. Source: trade table, cement.csv.
    """
    table = _joints_per_quart()
    if size in table:
        return table[size]
    larger = [n for s, n in table.items() if size_value(s) >= size_value(size) - 1e-9]
    if larger:
        return max(larger)
    most = max(
        table, key=size_value
    )  # beyond the table cement goes by the socket's area, about as the square of the size
    return table[most] * (size_value(most) / size_value(size)) ** 2


def tape_length(size: str, wraps: int) -> float:
    """Tape (m) that `wraps` turns take on a male thread of nominal `size`: wraps × π × outside diameter."""
    thread = ends().get(f"npt:male:{size}") or end(f"bsp:male:{size}")
    return wraps * pi * thread.diameter
