"""The bill of materials: fittings counted, pipe by stick and coil, and what each joint uses up."""

from __future__ import annotations

from collections import Counter
from dataclasses import dataclass
from functools import cache
from math import ceil, pi
from typing import Literal

from hydrarch.core.catalogue.fittings import end, fitting
from hydrarch.core.catalogue.guidance import choose_practice
from hydrarch.core.catalogue.pipes import series
from hydrarch.core.catalogue.tables import read_rows
from hydrarch.core.cutting.cuts import CutList
from hydrarch.core.joining.assembly import Assembly, parts_list
from hydrarch.core.plan import Plan
from hydrarch.core.units import show

__all__ = ["BillRow", "TAPE_WRAPS", "bill"]

QUART = 9.46352946e-4
TAPE_WRAPS = {"five": 5, "ten": 9, "paste": 0}
"""Wraps of tape by the crew's practice; common practice."""


@dataclass(frozen=True, slots=True)
class BillRow:
    """One line of the bill. `group` is where it stands on the list, `detail` how the number came about."""

    group: Literal["fitting", "pipe", "riser", "consumable"]
    item: str
    name: str
    count: int
    unit: str
    detail: str


def bill(plan: Plan, assembly: Assembly, cuts: CutList) -> tuple[BillRow, ...]:
    """The whole bill of a plan: fittings, pipe, risers, consumables."""
    rows = [BillRow("fitting", f, fitting(f).name, n, "", "") for f, n in parts_list(assembly).items()]
    for nest in cuts.nests:
        family = series(nest.series)
        unit = "coil" if nest.coil else "stick"
        detail = f"{show(nest.total, 'length', plan.units)} in {unit}s of {show(nest.stock, 'length', plan.units)}"
        rows.append(BillRow("pipe", f"{nest.series} {nest.size}", f"{family.name}, {nest.size}", len(nest.sticks), unit, detail))
    risers = Counter((p.series, p.size, str(show(p.length, "cut", plan.units))) for p in cuts.pieces if p.threaded)
    for (_series, size, length), n in sorted(risers.items()):
        rows.append(BillRow("riser", f"riser {size}", f"Threaded riser {size}, schedule 80", n, "", f"{length} over the threads"))
    return (*rows, *_consumables(plan, assembly))


@cache
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
                "consumable", f"clamp {size}", f"Worm-drive clamp for {size} polyethylene, stainless", 2 * n, "", "two a barb"
            )
        )
    wraps = TAPE_WRAPS[choose_practice(plan.practices, "tape")]
    threads = by_method.get("thread", [])
    if threads and wraps:
        tape = sum(tape_length(size, wraps) for size in threads)
        detail = f"{show(tape, 'length', plan.units)} for {len(threads)} threads of {wraps} wraps"
        rows.append(BillRow("consumable", "tape", "PTFE tape, roll of 12 m", ceil(tape / 12), "roll", detail))
    if threads and not wraps:
        rows.append(BillRow("consumable", "paste", "Thread paste made for plastic", 1, "tin", f"{len(threads)} threads"))
    welds = by_method.get("solvent weld", [])
    if welds:
        cement = sum(QUART / _joints_per_quart()[size] for size in welds)
        detail = f"{show(cement, 'volume', plan.units)} by the trade table for {len(welds)} joints"
        rows.append(BillRow("consumable", "cement", "PVC cement, medium body, 250 mL tin", ceil(cement / 250e-6), "tin", detail))
        prepare = choose_practice(plan.practices, "prepare")
        if prepare != "abrade":
            name = "PVC primer, purple" if prepare == "primer" else "PVC cleaner"
            rows.append(BillRow("consumable", prepare, f"{name}, 250 mL tin", ceil(cement / 250e-6), "tin", "as much as cement"))
        else:
            rows.append(
                BillRow("consumable", "glass paper", "Glass paper, sheet", ceil(len(welds) / 10), "sheet", "one for ten joints")
            )
    return rows


def tape_length(size: str, wraps: int) -> float:
    """Tape (m) that `wraps` turns take on a male thread of nominal `size`: wraps × π × outside diameter."""
    return wraps * pi * end(f"npt:male:{size}").diameter
