"""Parts and cuts as CSV, for the shop and the saw."""

from __future__ import annotations

import csv
import io
import re
from collections.abc import Iterable, Iterator

from hydrarch.core.catalogue.pipes import series
from hydrarch.core.catalogue.prices import priced_item
from hydrarch.core.cutting.bill import BillRow
from hydrarch.core.cutting.cuts import CutList
from hydrarch.core.errors import BadRow
from hydrarch.core.plan import Plan
from hydrarch.core.units import show

__all__ = ["cuts_csv", "parts_csv", "prices_csv", "read_prices"]


def _write(head: list[str], rows: Iterable[list[str]]) -> str:
    out = io.StringIO()
    writer = csv.writer(out)
    writer.writerow(head)
    writer.writerows([[_safe(cell) for cell in row] for row in rows])
    return out.getvalue()


_NUMBER = re.compile(r"[+-]?\d+(\.\d+)?")
_FORMULA = ("=", "+", "-", "@", "\t", "\r", "\n")


def _safe(cell: str) -> str:
    """A cell that a spreadsheet would take for a formula gets a quote before it; a plain number stays one."""
    return f"'{cell}" if cell.startswith(_FORMULA) and not _NUMBER.fullmatch(cell) else cell


def parts_csv(rows: Iterable[BillRow]) -> str:
    """The bill of materials."""
    return _write(
        ["group", "count", "unit", "part", "id", "have", "spare", "each", "price", "detail"],
        (
            [r.group, str(r.count), r.unit, r.name, r.item, str(r.have), str(r.spare), _money(r.each), _money(r.price), r.detail]
            for r in rows
        ),
    )


def _money(price: float | None) -> str:
    return "" if price is None else f"{price:.2f}"


def prices_csv(rows: Iterable[BillRow]) -> str:
    """The price book of a job: every part and pipe on its bill, with the price of one; "own" marks the crew's."""
    return _write(
        ["item", "name", "price", "own"],
        ([r.item, r.name, _money(r.each), "own" if r.own else ""] for r in rows if r.each is not None and r.each > 0),
    )


def read_prices(text: str) -> dict[str, float]:
    """Read a price book: columns item and price; where there is a column own, only rows marked so are taken.

    Raises `BadRow` with line and reason; nothing of a broken book is taken.
    """
    reader = csv.DictReader(text.lstrip("\ufeff").splitlines())
    found = {}
    for row in _whole(reader):
        if "own" in row and not (row["own"] or "").strip():
            continue
        item, written = (row["item"] or "").strip().lstrip("'"), (row["price"] or "").strip().replace(",", ".")
        try:
            priced_item(item)
            price = float(written)
        except ValueError as error:
            raise BadRow("price book", reader.line_num, str(error)) from error
        if not 0 <= price <= 1e6:
            raise BadRow("price book", reader.line_num, f"a price of {written} cannot be")
        found[item] = price
    return found


def _whole(reader: csv.DictReader[str]) -> Iterator[dict[str, str]]:
    """The rows of a price book; a line that is no CSV is refused with its number."""
    try:
        if not {"item", "price"} <= set(reader.fieldnames or ()):
            raise BadRow("price book", 1, "it needs the columns item and price")
        yield from reader
    except csv.Error as error:
        raise BadRow("price book", reader.line_num, str(error)) from error


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
