"""Nozzles by what they do: flow and throw by pressure, and the arc where that is their own.

The generic set is invented.
"""

from __future__ import annotations

from collections.abc import Iterable
from math import pi, radians
from typing import Annotated, Literal

import numpy as np
from pydantic import BaseModel, ConfigDict, Field, model_validator

from hydrarch.core.base.cache import remembered
from hydrarch.core.catalogue.tables import read_rows

__all__ = ["MOST_ROWS", "Form", "Nozzle", "generic_nozzles", "nozzle_of"]

Form = Literal["spray", "rotor", "impact"]
MOST_ROWS = 40
_Row = Annotated[tuple[float, float, float], Field(strict=False)]


class Nozzle(BaseModel):
    """A nozzle: `rows` are pressure (Pa), flow (m³/s) and throw (m), pressure growing; `arc` (rad) is its own, None
    where any is set.
    """

    model_config = ConfigDict(frozen=True, extra="forbid", strict=True, allow_inf_nan=False)
    name: Annotated[str, Field(min_length=1, max_length=60)]
    form: Form = "rotor"
    arc: Annotated[float, Field(ge=pi / 36, le=2 * pi)] | None = None
    rows: Annotated[tuple[_Row, ...], Field(strict=False, min_length=2, max_length=MOST_ROWS)]

    @model_validator(mode="after")
    def _is_a_table(self) -> Nozzle:
        for n, (one, two) in enumerate(zip(self.rows, self.rows[1:], strict=False), 1):
            if two[0] <= one[0]:
                raise ValueError(f"{self.name}: its pressures must grow from row to row; row {n + 1} does not")
            if two[1] < one[1] or two[2] < one[2] * 0.9:
                raise ValueError(f"{self.name}: row {n + 1} gives less than the one before it; look at that row")
        for n, (pressure, flow, throw) in enumerate(self.rows, 1):
            if not (0 < pressure <= 2e6 and 0 < flow <= 1 and 0 < throw <= 100):
                raise ValueError(f"{self.name}: row {n} has a pressure, flow or throw that cannot be")
        return self

    @property
    def low(self) -> float:
        """The least pressure (Pa) its table knows."""
        return self.rows[0][0]

    @property
    def high(self) -> float:
        """The most."""
        return self.rows[-1][0]

    def throw(self, pressure: float) -> float:
        """How far (m) it throws at a pressure (Pa); that of the nearest row beyond the table's ends."""
        at, _, far = np.array(self.rows).T
        return float(np.interp(pressure, at, far))

    def law(self) -> tuple[float, float, float]:
        """Flow (m³/s), the pressure (Pa) it is at, and the exponent of the law that fits its table best: q =
        flow·(p/at)^x.

        It is right at the middle row; x is the slope in logarithms by least squares, between 0.1 and 1.
        """
        at, flow, _ = np.array(self.rows).T
        slope = float(np.polyfit(np.log(at), np.log(flow), 1)[0])
        middle = len(at) // 2
        return float(flow[middle]), float(at[middle]), round(min(max(slope, 0.1), 1.0), 4)


@remembered()
def generic_nozzles() -> dict[str, Nozzle]:
    """The set that ships, by name."""
    rows = read_rows(
        "hydrarch.core.catalogue",
        "nozzles.csv",
        lambda r: (
            r["nozzle"],
            r["form"],
            radians(float(r["arc_deg"])) if r["arc_deg"] else None,
            (float(r["pressure_kpa"]) * 1e3, float(r["flow_l_min"]) / 6e4, float(r["radius_m"])),
        ),
    )
    found: dict[str, list[tuple[str, float | None, tuple[float, float, float]]]] = {}
    for name, form, arc, row in rows:
        found.setdefault(name, []).append((form, arc, row))
    return {
        name: Nozzle.model_validate(
            {"name": name, "form": mine[0][0], "arc": mine[0][1], "rows": [r for *_, r in mine]}
        )
        for name, mine in found.items()
    }


def nozzle_of(name: str, own: Iterable[Nozzle] = ()) -> Nozzle | None:
    """A nozzle by name, the crew's own first; None where there is none."""
    return next((n for n in own if n.name == name), generic_nozzles().get(name))
