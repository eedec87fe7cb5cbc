"""What each use of a body of water asks for: how often round, how fast, how warm, and whether people get into it."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from hydrarch.core.base.cache import remembered
from hydrarch.core.catalogue.tables import read_rows

__all__ = ["UseOf", "use_of"]


@dataclass(frozen=True, slots=True)
class UseOf:
    """A use: seconds for once round (None: none asked), m/s in suction and return, K at the most (None: no limit told).

    `bathed` says that people bathe in it, `gets_in` that somebody may get or fall in at all.
    """

    use: str
    turnover: float | None
    suction: float
    returning: float
    most_warm: float | None
    bathed: bool
    gets_in: bool
    source: str


def _row(row: Mapping[str, str]) -> UseOf:
    return UseOf(
        row["use"],
        float(row["turnover_h"]) * 3600 if row["turnover_h"] else None,
        float(row["suction_m_s"]),
        float(row["return_m_s"]),
        float(row["most_warm_c"]) + 273.15 if row["most_warm_c"] else None,
        row["bathed"] == "yes",
        row["gets_in"] == "yes",
        row["source"],
    )


@remembered()
def _uses() -> dict[str, UseOf]:
    return {u.use: u for u in read_rows("hydrarch.core.catalogue", "uses.csv", _row)}


def use_of(name: str) -> UseOf:
    """What a use asks for; raises KeyError for one there is none of."""
    return _uses()[name]
