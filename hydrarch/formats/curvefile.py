"""A pump's curve from text: a line for each point, flow and head, as it is typed or as a maker's table has it."""

from __future__ import annotations

import re
from dataclasses import dataclass
from itertools import pairwise

from hydrarch.core.base.errors import BadRow, HydrarchError
from hydrarch.core.base.tablefile import ReadColumn, WantedColumn, read_table, text_of
from hydrarch.core.base.units import System, read, show
from hydrarch.core.base.workbook import is_workbook
from hydrarch.core.hydraulics.water import water

__all__ = ["WANTED", "Curve", "read_curve"]

_LEAST = 3
_MOST = 40
_FASTEST, _HIGHEST = 10.0, 3000.0  # m³/s and m: what a plan holds
_NUMBER = r"[+-]?\d+(?:[.,]\d+)?(?:\s*[A-Za-z³][^\s,;\t]*)?"
_SPACED = re.compile(rf"({_NUMBER}),?\s+({_NUMBER})(?:[,\s].*)?")
_WHAT = "pump curve"
WANTED = (
    WantedColumn(
        "flow",
        ("q", "flow", "flow rate", "flowrate", "capacity", "rate", "durchfluss", "förderstrom", "débit", "caudal"),
        "flow",
        needed=True,
        by_unit=True,
    ),
    WantedColumn(
        "head",
        ("h", "head", "tdh", "total head", "lift", "height", "förderhöhe", "hauteur", "altura", "hmt"),
        "head",
        by_unit=True,
    ),
    WantedColumn("pressure", ("p", "pressure", "druck", "pression", "presión"), "pressure", by_unit=True),
)
"""The columns of a table of a pump; a pressure stands for the head of cold water that it is."""
_COLD = 288.15
"""K at which a pressure is turned into a head: 0.4 % of difference from here to 40 °C."""


@dataclass(frozen=True, slots=True)
class Curve:
    """A curve: its points, flow in m³/s and head in m, the least flow first; what was read as what, in words; and how
    each column of a table was read.
    """

    points: tuple[tuple[float, float], ...]
    says: str
    columns: tuple[ReadColumn, ...] = ()


def read_curve(file: bytes | str, units: System = "metric") -> Curve:
    """The points of a curve, with what they are taken as.

    Under a line that names columns, they are what it says, in the units it says. With no such line a line has a flow
    and a head with a space, a tab, a semicolon or a comma between, and further columns are left alone. Figures are in
    the person's units unless a unit is written. Raises `BadRow` with the line that is not understood, for heads that
    name no flow and no head, or for fewer than three points, more than forty, or two of one flow.
    """
    text = "" if is_workbook(file) else text_of(file, _WHAT)
    lines = [(n, line) for n, line in enumerate(text.split("\n"), 1) if line.strip()]
    first = next((i for i, (_, line) in enumerate(lines) if re.match(r"\s*[+-]?[.,]?\d", line)), len(lines))
    if is_workbook(file) or any(re.search(r"[,;\t|]|\S\s+\S", line) for _, line in lines[:first]):
        found, says, columns = _from_table(text or file, units)
    else:
        found, says, columns = _typed(lines[first:], units), "", ()
    if len(found) < _LEAST:
        raise BadRow(_WHAT, max(len(lines), 1), f"{len(found)} points are read, and a curve has {_LEAST} at the least")
    points = tuple(sorted((q, h) for _, q, h in found))
    if any(a[0] == b[0] for a, b in pairwise(points)):
        raise BadRow(_WHAT, 1, "two points have one flow: take one of them out")
    (q0, h0), (q1, h1) = points[0], points[-1]
    told = (
        f"{len(points)} points, from {show(h0, 'head', units)} at {show(q0, 'flow', units)} to {show(h1, 'head', units)} "
        f"at {show(q1, 'flow', units)}"
    )
    return Curve(points, f"{told}; {says}" if says else told, columns)


def _checked(n: int, flow: float, head: float, so_far: int, units: System) -> tuple[int, float, float]:
    if min(flow, head) < 0:
        raise BadRow(_WHAT, n, "a flow and a head are zero or more")
    if flow > _FASTEST or head > _HIGHEST:
        most = f"{show(_FASTEST, 'flow', units)} or {show(_HIGHEST, 'head', units)}"
        raise BadRow(_WHAT, n, f"no pump here gives more than {most}")
    if so_far >= _MOST:
        raise BadRow(_WHAT, n, f"{_MOST} points are the most")
    return n, flow, head


def _from_table(text: bytes | str, units: System) -> tuple[list[tuple[int, float, float]], str, tuple[ReadColumn, ...]]:
    """The points under a line that names the columns."""
    table = read_table(_WHAT, text, WANTED, units)
    lifted = "head" if table.has("head") else "pressure"
    if not table.has(lifted):
        heads = ", ".join(c.head for c in table.columns if c.head)
        raise BadRow(_WHAT, 1, f"it has no column head (or pressure); its columns are called {heads}")
    weight = 1.0 if lifted == "head" else water(_COLD).weight
    found: list[tuple[int, float, float]] = []
    for row in table.rows:
        flow, head = table.number(row, "flow"), table.number(row, lifted)
        if flow is None or head is None:
            raise BadRow(_WHAT, row.line, "a flow or a head is blank")
        found.append(_checked(row.line, flow, head / weight, len(found), units))
    told = f"{table.reads()}" + (", each as the head of cold water" if lifted == "pressure" else "")
    return found, "; ".join(t for t in (told, table.says()) if t), table.columns


def _typed(lines: list[tuple[int, str]], units: System) -> list[tuple[int, float, float]]:
    """The points as they are typed, flow before head, each perhaps with its unit; a line with no figure is left
    alone.
    """
    found: list[tuple[int, float, float]] = []
    for number, line in lines:
        if not re.match(r"\s*[+-]?[.,]?\d", line):
            continue
        flow, head = _cells(line.strip(), number)
        try:
            point = read(flow, "flow", units), read(head, "head", units)
        except HydrarchError as error:
            raise BadRow(_WHAT, number, str(error)) from error
        found.append(_checked(number, *point, len(found), units))
    return found


def _cells(line: str, number: int) -> tuple[str, str]:
    if ";" in line or "\t" in line:
        cells = [c.strip() for c in re.split(r"[;\t]", line)]
    elif spaced := _SPACED.fullmatch(line):
        return spaced[1], spaced[2]
    else:
        cells = [c.strip() for c in line.split(",")]
        if len(cells) > 3 and "." not in line:
            raise BadRow(
                _WHAT, number, "commas stand in its figures and between them: put a semicolon between flow and head"
            )
    if len(cells) < 2 or not cells[1]:
        raise BadRow(_WHAT, number, f"'{line[:40]}' is no flow and head: put a space or a semicolon between the two")
    return cells[0], cells[1]
