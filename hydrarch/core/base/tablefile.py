"""A table that somebody else's program wrote: which column is what, in which unit, shown before anything is taken.

Encoding, separator and decimal mark are settled for a file as a whole. A column goes by its head, in the words of
several trades and languages, with a unit behind it or in a row of its own; a person may say otherwise. What is not used
is shown, what can be read in two ways is asked.
"""

from __future__ import annotations

import csv
import io
import re
from collections import Counter
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass, field
from math import isfinite

from charset_normalizer import from_bytes

from hydrarch.core.base.errors import BadRow, HydrarchError
from hydrarch.core.base.numerals import DecimalMark, decimal_mark, parse_number
from hydrarch.core.base.quantities import QUANTITIES, Unit
from hydrarch.core.base.tableheads import (
    WantedColumn,
    found_columns,
    goes_by,
    lacks,
    named_columns,
    unit_named,
    unit_said,
    usual_unit,
)
from hydrarch.core.base.units import MARK, System, read
from hydrarch.core.base.workbook import is_workbook, sheets_of

__all__ = ["ForeignTable", "ReadColumn", "TableRow", "WantedColumn", "read_table", "text_of"]

_SEPARATORS = ("\t", ";", "|", ",")
_LOOKED = 60
"""Lines by which a separator is settled."""
_FIRST = 3
"""Cells of a column that are read back."""
_MOST_COLUMNS, _LONGEST = 200, 200
_COMMENT = ("#", "//", "%")
_SETS = ("utf_8", "cp1252", "cp1250", "cp1251", "mac_roman", "cp437", "cp850")


@dataclass(frozen=True, slots=True)
class ReadColumn:
    """How a column of the file was read: its head, what it is used as ("" for not at all), its unit, whether that unit
    is `said` in the file, and its first cells.
    """

    head: str
    used: str
    unit: str
    said: bool
    first: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class TableRow:
    """A row: the line of the file it begins on, and its cells by the name of the column wanted."""

    line: int
    cells: dict[str, str]


@dataclass(frozen=True, slots=True)
class ForeignTable:
    """A table as it was read. `left_out` are lines before its head; `headless` says that it has none.

    Where it `asks` which column is what, it has no rows yet. Of a workbook it is one `sheet`; `other_sheets` were not
    read.
    """

    what: str
    columns: tuple[ReadColumn, ...]
    rows: tuple[TableRow, ...]
    units: dict[str, Unit]
    mark: DecimalMark
    system: System
    left_out: int = 0
    headless: bool = False
    asks: str = ""
    sheet: str = ""
    other_sheets: tuple[str, ...] = ()
    _quantities: dict[str, str] = field(default_factory=dict)

    def has(self, name: str) -> bool:
        """Whether the file has a column for it."""
        return any(c.used == name for c in self.columns)

    def words(self, row: TableRow, name: str) -> str:
        """A cell as it is written; spreadsheets' mark of text is taken off."""
        return row.cells.get(name, "").strip().lstrip("'").strip()

    def number(self, row: TableRow, name: str) -> float | None:
        """A figure in SI, None where the cell is blank. Raises `BadRow` with the line."""
        cell = self.words(row, name)
        if not cell:
            return None
        try:
            value = self._figure(cell, name)
        except HydrarchError as error:
            raise BadRow(self.what, row.line, str(error)) from None
        if not isfinite(value):
            raise BadRow(self.what, row.line, f"'{cell[:20]}' is no number")
        return value

    def _figure(self, cell: str, name: str) -> float:
        unit = self.units.get(name)
        try:
            value = parse_number(cell, self.mark)
        except HydrarchError:
            if unit is None or not re.search(r"\d.*[^\d.,+\-\u2212eE\s]", cell):
                raise
            return read(cell, self._quantities[name], self.system)  # with a unit of its own, or feet and inches
        return value if unit is None else value * unit.factor + unit.offset

    @property
    def unused(self) -> tuple[str, ...]:
        """Heads of the columns that are not used."""
        return tuple(c.head for c in self.columns if not c.used and c.head)

    def reads(self) -> str:
        """What each column that is used was read as, in words."""
        return ", ".join(
            f"{c.head or 'a column'} as {c.used}" + (f" in {c.unit}" if c.unit else "") for c in self.columns if c.used
        )

    def says(self) -> str:
        """What a person should know of how it was read, in words; "" where nothing is out of the way."""
        told = []
        if self.other_sheets:
            told.append(f"sheet {self.sheet} is read; not read: {', '.join(self.other_sheets)}")
        if self.headless:
            order = ", ".join(c.used or "not used" for c in self.columns)
            told.append(f"no line names the columns, so they are taken in this order: {order}")
        if self.unused:
            told.append(f"columns not used: {', '.join(self.unused)}")
        if self.left_out:
            told.append(f"{self.left_out} line{'s' if self.left_out > 1 else ''} before the table left out")
        return "; ".join(told)


def text_of(file: bytes | str, what: str = "file") -> str:
    """The text of a file, its lines parted by one sign: by its mark, as UTF-8, or in the set of letters its bytes are
    likeliest in. Raises `BadRow` for what is no text.
    """
    if isinstance(file, bytes):
        if file.startswith((b"\xff\xfe", b"\xfe\xff")):
            text = file.decode("utf-16", "replace")
        else:
            try:
                text = file.decode("utf-8-sig")
            except UnicodeDecodeError:
                best = from_bytes(file, cp_isolation=list(_SETS)).best()
                if best is None:
                    raise BadRow(what, 1, "this is no text that can be read: save it as CSV in UTF-8") from None
                text = str(best)
    else:
        text = file.lstrip("\ufeff")
    if "\0" in text:
        raise BadRow(what, 1, "this is no text: save it as CSV, not as a workbook")
    return text.replace("\r\n", "\n").replace("\r", "\n")


def read_table(
    what: str,
    file: bytes | str,
    wanted: Sequence[WantedColumn],
    system: System = "metric",
    order: Sequence[str] = (),
    use: Sequence[str] = (),
    *,
    asking: bool = False,
) -> ForeignTable:
    """Read a table by the columns `wanted`; `what` it is called in a refusal.

    Where no line names columns, they are taken in the `order` given (names of `wanted`, the first so many that there
    are). `use` names, column by column, what a person says each is ("" for nothing). Raises `BadRow` with the line,
    what is wrong and how to mend it; where it is not known which column is what, and the caller is `asking`, the table
    has its columns and the question.
    """
    sheet, others = "", tuple[str, ...]()
    if isinstance(file, bytes) and is_workbook(file):
        sheet, file, others = _sheet_for(file, what, wanted)
    lines = _lines(text_of(file, what))
    if not lines:
        raise BadRow(what, 1, f"the file is empty: {lacks(wanted)}")
    rows = _parted(lines, what)
    head, body, left_out = _headed(rows, wanted)
    line = head[0] if head else rows[0][0]
    width = max((len(cells) for _, cells in body), default=0)
    heads = [h.strip()[:_LONGEST] for h in head[1]] if head else [""] * width
    if max(len(heads), width) > _MOST_COLUMNS:
        raise BadRow(what, line, f"it has {max(len(heads), width)} columns; {_MOST_COLUMNS} are the most")
    named = any(goes_by(h, w) for h in heads for w in wanted if h)
    if not use and not named and not any(heads) and width <= len(order) and _fits(body, order, wanted):
        use = order[:width]
    under = _units_row(body, heads) if head else None
    body = body[1:] if under is not None else body
    by_name = {w.name: w for w in wanted}
    found = named_columns(heads, by_name, use) if use else found_columns(heads, wanted)
    lacking = [w for w in wanted if w.needed and w.name not in found]
    if lacking and not asking:
        raise BadRow(what, line, lacks(lacking, heads))
    told = {
        n: unit_said(by_name[n], heads[at], under[at] if under and at < len(under) else "", what, line)
        for n, at in found.items()
        if by_name[n].quantity
    }
    units = {n: unit or usual_unit(by_name[n], told, by_name, system) for n, unit in told.items()}
    cells = [
        TableRow(at_line, {n: row[at] for n, at in found.items() if at < len(row)})
        for at_line, row in body
        if any(c.strip() for c in row)
    ]
    try:
        mark = decimal_mark(r.cells.get(n, "").strip().lstrip("'") for r in cells for n in units) or MARK[system]
    except HydrarchError as error:
        raise BadRow(what, body[0][0] if body else line, str(error)) from None
    at_of = {at: n for n, at in found.items()}
    return ForeignTable(
        what=what,
        columns=tuple(
            ReadColumn(
                head=h,
                used=at_of.get(i, ""),
                unit=units[at_of[i]].symbol if at_of.get(i) in units else "",
                said=told.get(at_of.get(i, "")) is not None,
                first=tuple(row[i].strip()[:40] for _, row in body[:_FIRST] if i < len(row)),
            )
            for i, h in enumerate(heads)
        ),
        rows=() if lacking else tuple(cells),
        units=units,
        mark=mark,
        system=system,
        left_out=left_out,
        headless=not any(heads),
        asks=lacks(lacking, heads) if lacking else "",
        sheet=sheet,
        other_sheets=others,
        _quantities={n: by_name[n].quantity for n in units},
    )


def _sheet_for(file: bytes, what: str, wanted: Sequence[WantedColumn]) -> tuple[str, str, tuple[str, ...]]:
    """The sheet of a workbook that has most of the columns wanted, the first of those alike: its name and text, and the
    names of the others.
    """

    def fits(text: str) -> int:
        cells = {c for line in text.split("\n")[:_LOOKED] for c in line.split("\t") if c}
        return sum(any(goes_by(c, w) for c in cells) for w in wanted)

    found = sheets_of(file, what)
    name, text = max(found, key=lambda s: fits(s[1]))
    return name, text, tuple(n for n, _ in found if n != name)


def _lines(text: str) -> list[tuple[int, str]]:
    """The lines that say something, by number; remarks are not a part of a table."""
    return [
        (n, line)
        for n, line in enumerate(text.split("\n"), 1)
        if line.strip() and not line.lstrip(' "').startswith(_COMMENT)
    ]


def _parted(lines: list[tuple[int, str]], what: str) -> list[tuple[int, list[str]]]:
    """The cells of each line, by the sign that parts most lines alike; by blanks where no sign does."""
    best: tuple[float, str] = (0.0, "")
    for sign in _SEPARATORS:
        counts = Counter(len(row) for _, row in _by_sign(lines[:_LOOKED], sign))
        width, alike = max(counts.items(), key=lambda c: (c[0] > 1, c[1], c[0]))
        share = alike / len(lines[:_LOOKED])
        if width > 1 and share > best[0] + 1e-9:
            best = share, sign
        if width > 1 and share >= 0.8:
            break  # a comma within figures parts as evenly as a semicolon between them, and comes after it
    if best[1]:
        return list(_by_sign(lines, best[1], what))
    words = [(n, line.split()) for n, line in lines]
    if len({len(cells) for _, cells in words[:_LOOKED]}) == 1:
        return words
    return [(n, re.split(r"\s{2,}|(?<=\S)\s(?=[-+\d.])|(?<=\d)\s", line.strip())) for n, line in lines]


def _by_sign(lines: Sequence[tuple[int, str]], sign: str, what: str = "") -> Iterator[tuple[int, list[str]]]:
    numbers = [n for n, _ in lines]
    reader = csv.reader(io.StringIO("\n".join(line for _, line in lines), newline=""), delimiter=sign)
    before = 0
    try:
        for row in reader:
            yield numbers[before], row
            before = min(reader.line_num, len(numbers) - 1)
    except csv.Error as error:
        raise BadRow(what or "table", numbers[before], str(error)) from None


def _any_figure(cells: Iterable[str]) -> bool:
    return any(re.match(r"\s*'?[-+\u2212]?[.,]?\d", c) for c in cells)


def _headed(
    rows: list[tuple[int, list[str]]], wanted: Sequence[WantedColumn]
) -> tuple[tuple[int, list[str]] | None, list[tuple[int, list[str]]], int]:
    """The line that names the columns (None where no line does), the lines below it, and how many stand above.

    It is the line most of whose cells are heads that are known; else the one right above the first figures, as long as
    they are: a head in words that are not known is no reason to take the columns in any order.
    """
    best: tuple[int, int] | None = None
    for n, (_, cells) in enumerate(rows[:_LOOKED]):
        hits = sum(any(goes_by(c, w) for w in wanted) for c in cells if c.strip())
        if hits and (best is None or hits > best[0]) and hits >= sum(map(_is_figure, cells)):
            best = hits, n
    if best is not None:
        return rows[best[1]], rows[best[1] + 1 :], best[1]
    first = next((n for n, (_, cells) in enumerate(rows) if _any_figure(cells)), len(rows))
    above = rows[first - 1] if 0 < first < len(rows) else None
    if above is not None and len(above[1]) > 1 and len(above[1]) == len(rows[first][1]):
        return above, rows[first:], first - 1
    if first == len(rows) and len(rows[0][1]) > 1:
        return rows[0], rows[1:], 0
    return None, rows[first:], first


def _is_figure(cell: str) -> bool:
    try:
        parse_number(cell, ".")
    except HydrarchError:
        return False
    return True


def _fits(body: list[tuple[int, list[str]]], order: Sequence[str], wanted: Sequence[WantedColumn]) -> bool:
    """Whether the first row is long enough for what is needed, and has a figure wherever one is wanted."""
    by_name, first = {w.name: w for w in wanted}, body[0][1] if body else []
    figures = (_any_figure([c]) for n, c in zip(order, first, strict=False) if by_name[n].quantity and c.strip())
    return len(first) >= sum(by_name[n].needed for n in order) and bool(first) and all(figures)


def _units_row(body: list[tuple[int, list[str]]], heads: list[str]) -> list[str] | None:
    """The row under the head that tells the units, if there is one."""
    if not body or _any_figure(body[0][1]):
        return None
    cells = [c.strip().strip("[]()") for c in body[0][1]]
    known = sum(any(unit_named(c, q) for q in QUANTITIES) for c in cells if c)
    return cells if known and known * 2 >= sum(bool(c) and c != "-" for c in cells) else None
