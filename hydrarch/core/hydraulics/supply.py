"""The source, measured: a bucket and a watch, and a gauge at rest and flowing, make a curve with its doubt."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from math import sqrt

import numpy as np

from hydrarch.core.base.errors import HydrarchError
from hydrarch.core.base.units import check_range

__all__ = ["Flowing", "SupplyCurve", "bucket", "supply_curve"]

EXPONENT = 1.85  # head lost to flow in the pipe that feeds us, as Hazen-Williams
_POINTS = 12


@dataclass(frozen=True, slots=True)
class Flowing:
    """One reading with water running: flow (m³/s) with its error, and gauge pressure (Pa)."""

    flow: float
    pressure: float
    flow_error: float = 0.0


@dataclass(frozen=True, slots=True)
class SupplyCurve:
    """What a source gives: pressure at rest, p = rest − k·q^1.85 with `k` and its `doubt` (one standard deviation).

    `points` are (flow, pressure, doubt of the pressure) up to `most`, the flow where no pressure is left.
    """

    rest: float
    k: float
    doubt: float
    most: float
    points: tuple[tuple[float, float, float], ...]
    says: str


def bucket(volume: float, seconds: float, volume_error: float = 0.0, seconds_error: float = 0.3) -> tuple[float, float]:
    """Flow (m³/s) and its standard error from a bucket of `volume` (m³) filled in `seconds`; errors are standard
    deviations.

    0.3 s is a hand on a stopwatch, common practice. Raises `OutOfRange` for a filling under 2 s: the watch decides.
    """
    check_range("volume", volume, 1e-6, 1000, "volume")
    check_range("time to fill", seconds, 2, 36000, "seconds")
    flow = volume / seconds
    return flow, flow * sqrt((volume_error / volume) ** 2 + (seconds_error / seconds) ** 2)


def supply_curve(rest: float, flowing: Sequence[Flowing], gauge_error: float = 5e3) -> SupplyCurve:
    """The curve through pressure at `rest` (Pa, gauge) and readings with water running.

    Each reading gives k = (rest − p)/q^1.85 with an error from gauge and flow; they are averaged by weight. Raises
    `HydrarchError` where a flowing pressure is not below the one at rest by more than the gauge can tell.
    """
    if not flowing:
        raise HydrarchError("let the water run and read the gauge once more: one flowing reading is the least")
    ks, errors = [], []
    for n, f in enumerate(flowing, 1):
        check_range(f"flow of reading {n}", f.flow, 1e-9, 1, "flow")
        drop = rest - f.pressure
        if drop <= gauge_error:
            raise HydrarchError(f"reading {n} falls by less than the gauge can tell: let more water run")
        k = drop / f.flow**EXPONENT
        ks.append(k)
        errors.append(k * sqrt(2 * (gauge_error / drop) ** 2 + (EXPONENT * f.flow_error / f.flow) ** 2))
    weights = 1 / np.square(errors)
    k = float(np.sum(weights * ks) / np.sum(weights))
    doubt = float(1 / sqrt(np.sum(weights)))
    spread = float(np.std(ks, ddof=1)) if len(ks) > 1 else 0.0
    doubt = max(doubt, spread / sqrt(len(ks)))
    most = float((rest / k) ** (1 / EXPONENT))
    points = tuple(
        (float(q), float(rest - k * q**EXPONENT), float(sqrt(gauge_error**2 + (doubt * q**EXPONENT) ** 2)))
        for q in np.linspace(0, most, _POINTS)
    )
    agree = len(ks) < 2 or spread <= 3 * max(errors)
    says = (
        "the readings agree" if agree else "the readings do not agree: something else was running, or the gauge stuck"
    )
    return SupplyCurve(
        rest, k, doubt, most, points, says if len(ks) > 1 else "one reading: take a second at another flow"
    )
