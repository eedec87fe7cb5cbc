"""Parts and cuts as CSV, for the shop and the saw."""

from __future__ import annotations

import csv
import io
from collections.abc import Iterable

from hydrarch.core.catalogue.pipes import series
from hydrarch.core.cutting.bill import BillRow
from hydrarch.core.cutting.cuts import CutList
from hydrarch.core.plan import Plan
from hydrarch.core.units import show

__all__ = ["cuts_csv", "parts_csv"]


def _write(head: list[str], rows: Iterable[list[str]]) -> str:
    out = io.StringIO()
    writer = csv.writer(out)
    writer.writerow(head)
    writer.writerows([[_safe(cell) for cell in row] for row in rows])
    return out.getvalue()


def _safe(cell: str) -> str:
    """A cell that a spreadsheet would take for a formula gets a quote before it."""
    return f"'{cell}" if cell[:1] in ("=", "+", "-", "@") and not cell[1:2].isdigit() else cell


def parts_csv(rows: Iterable[BillRow]) -> str:
    """The bill of materials."""
    return _write(
        ["group", "count", "unit", "part", "id", "detail"],
        ([r.group, str(r.count), r.unit, r.name, r.item, r.detail] for r in rows),
    )


def cuts_csv(plan: Plan, cuts: CutList) -> str:
    """The cut list: lengths as a tape reads them, and in millimetres."""
    return _write(
        ["piece", "pipe", "size", "length", "length_mm", "from", "goes into", "to", "goes into"],
        (
            [
                p.id, series(p.series).short, p.size, str(show(p.length, "cut", plan.units)), f"{p.length * 1e3:.1f}",
                p.a.name, p.a.takes, p.b.name, p.b.takes,
            ]
            for p in cuts.pieces
        ),
    )  # fmt: skip
