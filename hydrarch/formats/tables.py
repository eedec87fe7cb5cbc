"""Tables that go out, as CSV and as sheets of a workbook, and the price books and nozzle tables that come in."""

from __future__ import annotations

import csv
import io
import re
from collections.abc import Iterable
from dataclasses import dataclass
from datetime import UTC, datetime
from math import degrees
from typing import Any, TypeAlias

from pydantic import ValidationError

from hydrarch.core.base.errors import BadRow
from hydrarch.core.base.tablefile import ForeignTable, TableRow, WantedColumn, read_table
from hydrarch.core.base.units import FOOT, show, size_is_metric
from hydrarch.core.catalogue.nozzles import Nozzle
from hydrarch.core.catalogue.pipes import series
from hydrarch.core.catalogue.prices import priced_item
from hydrarch.core.coverage.schedule import Schedule
from hydrarch.core.cutting.billrow import BillRow
from hydrarch.core.cutting.cuts import CutList
from hydrarch.core.plan.document import Plan
from hydrarch.core.report.as_laid import AsLaid

__all__ = [
    "Cell",
    "Figure",
    "PriceBook",
    "WANTED_NOZZLES",
    "WANTED_PRICES",
    "WrittenTable",
    "acts_csv",
    "as_laid_csv",
    "as_laid_table",
    "csv_of",
    "cuts_csv",
    "cuts_table",
    "parts_csv",
    "parts_table",
    "parts_text",
    "nozzles_csv",
    "prices_csv",
    "prices_table",
    "read_nozzles",
    "read_prices",
    "schedule_csv",
    "schedule_table",
    "workbook_of",
]


@dataclass(frozen=True, slots=True)
class Figure:
    """A number of a table, and how many places behind the point are shown."""

    value: float
    places: int = 2


Cell: TypeAlias = str | int | Figure | None
"""Words, a count, a number, or nothing."""


@dataclass(frozen=True, slots=True)
class WrittenTable:
    """A table that goes out: its title, the names of its columns, and its rows.

    Raises `ValueError` for two columns of one name: a program that reads by name keeps one of them.
    """

    title: str
    head: tuple[str, ...]
    rows: tuple[tuple[Cell, ...], ...]

    def __post_init__(self) -> None:
        if len(set(self.head)) < len(self.head):
            raise ValueError(f"two columns have one name: {', '.join(self.head)}")


def csv_of(table: WrittenTable) -> str:
    """A table as CSV."""
    out = io.StringIO()
    writer = csv.writer(out)
    writer.writerow(table.head)
    writer.writerows([[_told(cell) for cell in row] for row in table.rows])
    return out.getvalue()


def workbook_of(tables: Iterable[WrittenTable], at: float) -> bytes:
    """Tables as a workbook, a sheet each; figures are figures, words are words and never formulas. `at` is when, in s
    since 1970, so that the same job gives the same file.
    """
    from openpyxl import Workbook
    from openpyxl.cell.cell import ILLEGAL_CHARACTERS_RE
    from openpyxl.styles import Font
    from openpyxl.utils import get_column_letter

    book = Workbook()
    book.remove(book.active)
    when = datetime.fromtimestamp(at, UTC).replace(tzinfo=None)
    book.properties.creator, book.properties.created, book.properties.modified = "", when, when
    for table in tables:
        sheet = book.create_sheet(table.title)
        sheet.append(list(table.head))
        for n in range(1, len(table.head) + 1):
            sheet.cell(1, n).font = Font(bold=True)
        for r, row in enumerate(table.rows, 2):
            for n, given in enumerate(row, 1):
                if given is None or given == "":
                    continue
                cell = sheet.cell(r, n)
                if isinstance(given, str):
                    cell.value = ILLEGAL_CHARACTERS_RE.sub(" ", given)
                    cell.data_type = "s"  # words, whatever they begin with
                else:
                    cell.value = given.value if isinstance(given, Figure) else given
                    if isinstance(given, Figure):
                        cell.number_format = f"0.{'0' * given.places}" if given.places else "0"
        for n, name in enumerate(table.head, 1):
            longest = max((len(_told(row[n - 1])) for row in table.rows), default=0)
            sheet.column_dimensions[get_column_letter(n)].width = min(60, max(longest, len(name)) + 2)
        sheet.freeze_panes = "A2"
    out = io.BytesIO()
    book.save(out)
    return out.getvalue()


_NUMBER = re.compile(r"[+-]?\d+(\.\d+)?")
_FORMULA = ("=", "+", "-", "@", "\t", "\r", "\n")


def _safe(cell: str) -> str:
    """A cell that a spreadsheet would take for a formula gets a quote before it; a plain number stays one."""
    return f"'{cell}" if cell.startswith(_FORMULA) and not _NUMBER.fullmatch(cell) else cell


def _told(cell: Cell) -> str:
    if cell is None:
        return ""
    if isinstance(cell, Figure):
        return f"{cell.value:.{cell.places}f}"
    return _safe(cell) if isinstance(cell, str) else str(cell)


def parts_table(rows: Iterable[BillRow]) -> WrittenTable:
    """The bill of materials."""
    return WrittenTable(
        "Parts",
        ("group", "count", "unit", "part", "id", "have", "spare", "each", "per", "price", "detail"),
        tuple(
            (
                r.group,
                r.count,
                r.unit,
                r.name,
                r.item,
                r.have,
                r.spare,
                _money(r.each),
                r.per,
                _money(r.price),
                r.detail,
            )
            for r in rows
        ),
    )


def parts_csv(rows: Iterable[BillRow]) -> str:
    """The bill of materials as CSV."""
    return csv_of(parts_table(rows))


_GROUPS = {
    "fitting": "Fittings",
    "added": "Added by hand",
    "pipe": "Pipe",
    "riser": "Risers",
    "equipment": "Things",
    "consumable": "Consumables",
}


def parts_text(plan: Plan, rows: Iterable[BillRow], stops: int = 0) -> str:
    """What is still to be bought, as a message: a line for each part, by group, what is in stock taken off. `stops` is
    how many problems stop the work: until they are mended the list may lack parts, and says so.
    """
    rows = list(rows)
    found: dict[str, list[str]] = {}
    for r in rows:
        count = r.count - r.have
        if count <= 0:
            continue
        spare = f" (+{r.spare} spare)" if r.spare else ""
        unit = f" {r.unit}{'s' if count > 1 else ''} of" if r.unit else ""
        detail = f" ({r.detail})" if r.group in ("pipe", "riser") and r.detail else ""
        found.setdefault(_GROUPS[r.group], []).append(f"{count}{spare}{unit} {r.name}{detail}")
    parts = [f"{group}\n" + "\n".join(lines) for group, lines in found.items()]
    none = "Nothing: all of this list is in stock." if rows else "Nothing yet: no part follows from the drawing."
    doubt = (
        [f"Not settled: {stops} problem{'s' if stops > 1 else ''} to fix first; parts may be missing."] if stops else []
    )
    return "\n\n".join((f"{plan.name}: to buy", *doubt, *(parts or [none]))) + "\n"


def acts_csv(rows: Iterable[tuple[float, str, str, str]]) -> str:
    """What was done about access and jobs: when (s since 1970; told in UTC), by whom, what, and about what."""
    told = (
        (datetime.fromtimestamp(at, UTC).isoformat(timespec="seconds"), who, what, about)
        for at, who, what, about in rows
    )
    return csv_of(WrittenTable("Access", ("at_utc", "who", "what", "about"), tuple(told)))


def _money(price: float | None) -> Figure | None:
    return None if price is None else Figure(price)


_PER = {"": 1.0, "each": 1.0, "m": 1.0, "ft": FOOT}
"""Metres that a price is for, by the column per."""
_WHOLE = ("stick", "coil")
"""What a price may be for, too, whose length the row has to say."""
_CURRENCY = re.compile("[A-Z]{3}")


@dataclass(frozen=True, slots=True)
class PriceBook:
    """Prices of a shop by item (of one, or of a metre of pipe), and the currency they are in: three letters (ISO 4217),
    "" where the book does not say.
    """

    prices: dict[str, float]
    currency: str


def prices_table(rows: Iterable[BillRow], currency: str = "") -> WrittenTable:
    """The price book of a job: every part and pipe on its bill, with the price of one, or of a metre or a foot where
    `per` says so; "own" marks the crew's, and those alone are in the job's currency.
    """
    return WrittenTable(
        "Prices",
        ("item", "name", "price", "per", "own", "currency"),
        tuple(
            (r.item, r.name, _money(r.each), r.per, "own" if r.own else "", currency if r.own else "")
            for r in rows
            if r.each is not None and r.each > 0
        ),
    )


def prices_csv(rows: Iterable[BillRow], currency: str = "") -> str:
    """The price book as CSV."""
    return csv_of(prices_table(rows, currency))


WANTED_PRICES = (
    WantedColumn("item", ("item", "id", "part", "article", "artikel"), needed=True),
    WantedColumn("price", ("price", "each", "unit price", "preis", "prix", "precio"), "money", needed=True),
    WantedColumn("own", ("own", "ours", "mine")),
    WantedColumn("per", ("per", "unit", "einheit")),
    WantedColumn("long", ("length", "long", "stick length", "coil length", "länge"), "length"),
    WantedColumn("currency", ("currency", "währung", "devise", "moneda")),
)
"""The columns of a price book."""


def read_prices(file: bytes | str) -> PriceBook:
    """Read a price book: columns item and price; where there is a column own, only rows marked so are taken. A price of
    pipe is for a metre, or where the column per says so for a foot, or for a stick or a coil as long as its row says.

    Raises `BadRow` with line and reason, for a book in which no row is marked, and for one in two currencies; nothing
    of a broken book is taken.
    """
    table, found, currency = read_table("price book", file, WANTED_PRICES), dict[str, float](), ""
    for row in table.rows:
        if table.has("own") and not table.words(row, "own"):
            continue
        item, price = table.words(row, "item"), table.number(row, "price")
        try:
            priced_item(item)
        except ValueError as error:
            raise BadRow("price book", row.line, str(error)) from error
        if price is None:
            raise BadRow("price book", row.line, f"{item} has no price")
        if not 0 <= price <= 1e6:
            raise BadRow("price book", row.line, f"a price of {table.words(row, 'price')} cannot be")
        found[item] = price / _metres(table, row)
        named = table.words(row, "currency").upper()
        if named and not _CURRENCY.fullmatch(named):
            raise BadRow("price book", row.line, f"a currency has three letters, such as EUR or USD: '{named}' has not")
        if named and currency and named != currency:
            raise BadRow("price book", row.line, f"{named} stands beside {currency}: a book is in one currency")
        currency = currency or named
    if table.rows and not found:
        raise BadRow(
            "price book",
            table.rows[0].line,
            "no row is marked as your own: write own in that column beside your prices",
        )
    return PriceBook(found, currency)


def _metres(table: ForeignTable, row: TableRow) -> float:
    """How many metres the price of a row is for."""
    per = table.words(row, "per").lower()
    if per in _PER:
        return _PER[per]
    if per not in _WHOLE:
        raise BadRow("price book", row.line, f"per says '{per}': leave it empty, or write m, ft, stick or coil")
    long = table.number(row, "long")
    if long is None or long <= 0:
        raise BadRow("price book", row.line, f"per says {per}: say how long one is, in a column length")
    return long


def _exact(value: float) -> str:
    """A figure with all that it says: read back it is the same to 1e-11 of it."""
    return f"{value:.12g}"


_NOZZLE = ("nozzle", "form", "arc_deg", "pressure_kpa", "flow_l_min", "radius_m")
WANTED_NOZZLES = (
    WantedColumn("nozzle", ("nozzle", "name", "düse", "model"), needed=True),
    WantedColumn("form", ("form", "kind", "type"), needed=True),
    WantedColumn("arc", ("arc", "sector"), "angle", unit="deg"),
    WantedColumn("pressure", ("pressure", "p", "druck"), "pressure", needed=True),
    WantedColumn("flow", ("flow", "q", "discharge"), "flow", needed=True),
    WantedColumn("radius", ("radius", "throw", "r", "range"), "length", needed=True),
)
"""The columns of nozzle tables."""


def nozzles_csv(nozzles: Iterable[Nozzle]) -> str:
    """Nozzle tables, a row for each pressure."""
    rows = (
        (n.name, n.form, "" if n.arc is None else _exact(degrees(n.arc)), _exact(p / 1e3), _exact(q * 6e4), _exact(r))
        for n in nozzles
        for p, q, r in n.rows
    )
    return csv_of(WrittenTable("Nozzles", _NOZZLE, tuple(rows)))


def read_nozzles(file: bytes | str) -> tuple[Nozzle, ...]:
    """Nozzle tables: nozzle, form, arc (may be blank), pressure, flow and radius, with their units in the heads
    (pressure_kpa, flow_gpm, radius_ft).

    Raises `BadRow` with line and reason, for a column whose unit nobody says, and for a blank in a table too: nothing
    is read between rows that are not there.
    """
    table = read_table("nozzle table", file, WANTED_NOZZLES)
    for column in table.columns:
        if column.used in ("pressure", "flow", "radius") and not column.said:
            raise BadRow("nozzle table", 1, f"'{column.head}' has no unit: write it in the head, such as flow_gpm")
    found: dict[str, dict[str, Any]] = {}
    lines: dict[str, int] = {}
    for row in table.rows:
        name = table.words(row, "nozzle")
        arc = table.number(row, "arc") if table.has("arc") else None
        mine = found.setdefault(name, {"name": name, "form": table.words(row, "form"), "arc": arc, "rows": []})
        lines[name] = row.line
        mine["rows"].append(tuple(_figure(table, row, n) for n in ("pressure", "flow", "radius")))
    made = []
    for name, body in found.items():
        try:
            made.append(Nozzle.model_validate(body))
        except ValidationError as error:
            told = error.errors()[0]
            says = str(told["msg"]).removeprefix("Value error, ")
            raise BadRow(
                "nozzle table", lines[name], says if says.startswith(name) else f"{name or 'a nozzle'}: {says}"
            ) from None
    if not made:
        raise BadRow("nozzle table", 1, "there is no row in it")
    return tuple(made)


def _figure(table: ForeignTable, row: TableRow, name: str) -> float:
    value = table.number(row, name)
    if value is None:
        raise BadRow(
            "nozzle table",
            row.line,
            f"{name} is blank: a table with gaps cannot be read between, fill it in or take the row out",
        )
    return value


def schedule_table(found: Schedule) -> WrittenTable:
    """A row for each opening: zone, station, when it begins, minutes, and every how many days."""
    rows = ((o.name, o.station, o.at, Figure(o.seconds / 60, 1), found.need.days) for o in found.openings)
    return WrittenTable("Watering", ("zone", "station", "begins", "minutes", "every days"), tuple(rows))


def schedule_csv(found: Schedule) -> str:
    """When zones are watered, as CSV."""
    return csv_of(schedule_table(found))


def as_laid_csv(laid: Iterable[AsLaid]) -> str:
    """Where hidden joints lie, as CSV."""
    return csv_of(as_laid_table(laid))


def as_laid_table(laid: Iterable[AsLaid]) -> WrittenTable:
    """A row for each hidden joint: where it is, measured from two marks, by what method, whose, when, and when it was
    proved.
    """
    head = (
        "joint",
        "place",
        "method",
        "size",
        "lies",
        "east_m",
        "north_m",
        "level_m",
        "depth_m",
        "from_1",
        "distance_1_m",
        "from_2",
        "distance_2_m",
        "tapes_cross_sharply",
        "by",
        "made_utc",
        "tested_utc",
        "drawn_otherwise",
        "invert_read_m",
    )

    def row(j: AsLaid) -> tuple[Cell, ...]:
        tapes: list[Cell] = [x for t in j.tapes for x in (t.name, Figure(t.distance))]
        return (
            j.joint,
            j.place,
            j.method,
            _size(j.size),
            j.situation,
            *(Figure(v) for v in (j.x, j.y, j.level, j.depth)),
            *(tapes or [None] * 4),
            ("yes" if j.sharp else "no") if j.tapes else "",
            j.by,
            _day(j.at),
            _day(j.proved_at),
            j.since or ("place from the drawing, not the record" if j.as_drawn else ""),
            None if j.read is None else Figure(j.read, 3),
        )

    return WrittenTable("As laid", head, tuple(map(row, laid)))


def _size(size: str) -> str:
    """A nominal size that a spreadsheet does not take for a date: 3/4 in, 32 mm."""
    if not re.fullmatch(r"\d+(?:-\d+/\d+|/\d+)?", size):
        return size
    return f"{size} mm" if size_is_metric(size) else f"{size} in"


def _day(at: float | None) -> str:
    return "" if at is None else datetime.fromtimestamp(at, UTC).strftime("%Y-%m-%dT%H:%M:%SZ")


def cuts_csv(plan: Plan, cuts: CutList) -> str:
    """The cut list as CSV."""
    return csv_of(cuts_table(plan, cuts))


def cuts_table(plan: Plan, cuts: CutList) -> WrittenTable:
    """The cut list: lengths as a tape reads them, and in millimetres."""
    return WrittenTable(
        "Cuts",
        ("piece", "pipe", "size", "length", "length_mm", "from", "from_goes_into", "to", "to_goes_into"),
        tuple(
            (
                p.id,
                series(p.series).short + (" with emitters" if p.made else ""),
                _size(p.size),
                str(show(p.length, "cut", plan.units)),
                Figure(p.length * 1e3, 1),
                p.a.name,
                p.a.takes,
                p.b.name,
                p.b.takes,
            )
            for p in cuts.pieces
        ),
    )
