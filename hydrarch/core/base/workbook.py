"""Workbooks of spreadsheets (Office Open XML, ISO/IEC 29500): their sheets as text that a table is read from."""

from __future__ import annotations

import csv
import io
import re
from collections.abc import Iterable
from typing import Any

from hydrarch.core.base.errors import BadRow

__all__ = ["is_workbook", "sheets_of"]

_ZIP, _OLD = b"PK\x03\x04", b"\xd0\xcf\x11\xe0"
_MOST_CELLS = 400_000


def is_workbook(file: bytes | str) -> bool:
    """Whether a file is a workbook, of the present form or of the old one, by its first bytes."""
    return isinstance(file, bytes) and file.startswith((_ZIP, _OLD))


def sheets_of(file: bytes, what: str) -> tuple[tuple[str, str], ...]:
    """The name of each sheet that is shown and holds something, and its cells as text parted by tabs.

    Figures are written with a point, and never with three places behind it, which could be read as thousands. Raises
    `BadRow` for what cannot be opened, and for what holds nothing or too much; `what` is what it is called there.
    """
    if file.startswith(_OLD):
        raise BadRow(what, 1, "this is a workbook of the old form (XLS): save it as XLSX or as CSV")
    from openpyxl import load_workbook  # loaded when first used: a server starts without it

    try:
        book = load_workbook(io.BytesIO(file), read_only=True, data_only=True, keep_links=False)
        found, count = list[tuple[str, str]](), 0
        for sheet in book.worksheets:
            rows = list[list[str]]()
            for row in sheet.iter_rows(values_only=True) if sheet.sheet_state == "visible" else ():
                count += len(row)
                if count > _MOST_CELLS:
                    raise BadRow(what, len(rows) + 1, f"more than {_MOST_CELLS} cells: save the one table as CSV")
                rows.append([_cell(c) for c in row])
            if any(any(r) for r in rows):
                found.append((str(sheet.title), _text(rows)))
    except BadRow:
        raise
    except Exception as error:  # whatever a broken archive or its XML may bring
        raise BadRow(what, 1, "this workbook cannot be opened: save it again as XLSX, or as CSV") from error
    if not found:
        raise BadRow(what, 1, "no sheet of this workbook has anything in it")
    return tuple(found)


def _cell(value: Any) -> str:
    if value is None:
        return ""
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, (int, float)):
        told = f"{value:.12g}"
        return f"{told}0" if re.search(r"\.\d{3}$", told) else told
    if hasattr(value, "isoformat"):  # a date, a time, or both
        return str(value.isoformat())
    return re.sub(r"[\t\r\n]+", " ", str(value)).strip()


def _text(rows: Iterable[list[str]]) -> str:
    rows = list(rows)
    wide = max(len(r) - next((n for n, c in enumerate(reversed(r)) if c), len(r)) for r in rows)
    out = io.StringIO()
    csv.writer(out, delimiter="\t", lineterminator="\n").writerows([*r, *[""] * wide][:wide] for r in rows)
    return out.getvalue()
