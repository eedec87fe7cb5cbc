"""How even water falls, from what stands in many small places: the coefficients of the field.

Each takes depths or rates of equal areas, in any one unit; none of them is below zero, and their mean is above it.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

__all__ = ["application_rate", "christiansen", "distribution", "scheduling"]

Rates = NDArray[np.float64]


def christiansen(caught: Rates) -> float:
    """Christiansen's coefficient of uniformity, as a share: 1 − Σ|x − m| / (n·m); Christiansen (1942)."""
    mean = caught.mean()
    return float(1 - np.abs(caught - mean).sum() / (caught.size * mean))


def distribution(caught: Rates) -> float:
    """Distribution uniformity, as a share: the mean of the low quarter over the mean of all (ASABE)."""
    low = np.sort(caught)[: max(1, caught.size // 4)]
    return float(low.mean() / caught.mean())


def scheduling(grid: Rates, inside: NDArray[np.bool_], window: float = 0.05) -> float:
    """Scheduling coefficient: the mean over the mean of the driest square that is `window` of the area; infinite where
    that stays dry.

    `grid` are rates on a square mesh, `inside` says which of them count. A square counts where most of it lies inside.
    """
    area = int(inside.sum())
    side = max(1, round((window * area) ** 0.5))
    rates, marks = np.where(inside, grid, 0.0), inside.astype(float)

    def sums(of: Rates) -> Rates:
        table = np.pad(of.cumsum(axis=0).cumsum(axis=1), ((1, 0), (1, 0)))
        return np.asarray(table[side:, side:] - table[:-side, side:] - table[side:, :-side] + table[:-side, :-side])

    if min(grid.shape) < side:
        return 1.0
    total, count = sums(rates), sums(marks)
    whole = count > 0.75 * side * side
    if not whole.any():
        return 1.0
    driest = float((total[whole] / count[whole]).min())
    mean = float(grid[inside].mean())
    return mean / driest if driest > 1e-12 * mean else float("inf")


def application_rate(flow: float, across: float, along: float) -> float:
    """Water on the ground (m/s) of heads of one flow (m³/s) that stand `across` by `along` (m) apart, each watering its
    own share.
    """
    return flow / (across * along)
