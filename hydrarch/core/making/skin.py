"""How long cement stays wet, and so how many joints one move may close, all coated before it."""

from __future__ import annotations

from math import floor

import numpy as np

from hydrarch.core.base.cache import remembered
from hydrarch.core.base.errors import Unknown
from hydrarch.core.base.units import size_value
from hydrarch.core.catalogue.tables import read_rows
from hydrarch.core.making.steps import hold_time

__all__ = ["joints_ahead", "skin_time"]

_COAT = 12.0  # s to coat socket and pipe of 1 in and less; it grows with the size; from memory


@remembered()
def _table(body: str) -> tuple[list[float], list[float]]:
    rows = [r for r in read_rows("hydrarch.core.making", "skin.csv", dict) if r["body"] == body]
    if not rows:
        raise Unknown("body of cement", body, ("medium", "heavy"))
    return [float(r["celsius"]) for r in rows], [float(r["seconds"]) for r in rows]


def skin_time(body: str, temperature: float) -> float:
    """Seconds until cement of that body, "medium" or "heavy", skins in the open at `temperature` (K); raises `Unknown`.

    Straight between the rows of its table and level beyond them. Source: from memory; the tin's own words win.
    """
    warmth, seconds = _table(body)
    return float(np.interp(temperature - 273.15, warmth, seconds))


@remembered()
def joints_ahead(size: str, body: str, temperature: float) -> int:
    """How many joints of a size may be coated for one move that closes them all, at `temperature` (K).

    Each waits while the others are coated and the ones before it are held, so n − 1 times the longer of both must fit
    into the time the cement stays wet.
    """
    inches = size_value(size)
    longer = max(hold_time(size), _COAT * max(inches, 1.0))
    return 1 + floor(skin_time(body, temperature) / longer)
