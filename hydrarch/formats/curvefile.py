"""A pump's curve from text: a line for each point, flow and head, as it is typed or as a maker's table has it."""

from __future__ import annotations

import re
from itertools import pairwise

from hydrarch.core.base.errors import BadRow, HydrarchError
from hydrarch.core.base.units import System, read, show

__all__ = ["read_curve"]

_LEAST = 3
_MOST = 40
_FASTEST, _HIGHEST = 10.0, 3000.0  # m³/s and m: what a plan holds
_NUMBER = r"[+-]?\d+(?:[.,]\d+)?(?:\s*[A-Za-z³][^\s,;\t]*)?"
_SPACED = re.compile(rf"({_NUMBER}),?\s+({_NUMBER})(?:[,\s].*)?")
_WHAT = "pump curve"


def read_curve(text: str, units: System = "metric") -> tuple[tuple[float, float], ...]:
    """The points of a curve: flow in m³/s and head in m, the least flow first.

    A line has a flow and a head with a space, a tab, a semicolon or a comma between; further columns are left alone, as
    are lines with no figure. Figures are in the person's units unless the unit is written. Raises `BadRow` with the
    line that is not understood, or for fewer than three points, more than forty, or two of one flow.
    """
    found: list[tuple[float, float]] = []
    for number, line in enumerate(text.lstrip("\ufeff").splitlines(), 1):
        if not re.match(r"\s*[+-]?\d", line):
            continue
        flow, head = _cells(line.strip(), number)
        try:
            found.append((read(flow, "flow", units), read(head, "head", units)))
        except HydrarchError as error:
            raise BadRow(_WHAT, number, str(error)) from error
        if min(found[-1]) < 0:
            raise BadRow(_WHAT, number, "a flow and a head are nought or more")
        if found[-1][0] > _FASTEST or found[-1][1] > _HIGHEST:
            raise BadRow(
                _WHAT,
                number,
                f"no pump here gives more than {show(_FASTEST, 'flow', units)} or {show(_HIGHEST, 'head', units)}",
            )
        if len(found) > _MOST:
            raise BadRow(_WHAT, number, f"{_MOST} points are the most")
    if len(found) < _LEAST:
        raise BadRow(
            _WHAT,
            max(len(text.splitlines()), 1),
            f"{len(found)} points are read, and a curve has {_LEAST} at the least",
        )
    found.sort()
    if any(a[0] == b[0] for a, b in pairwise(found)):
        raise BadRow(_WHAT, 1, "two points have one flow: take one of them out")
    return tuple(found)


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
