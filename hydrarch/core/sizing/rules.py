"""The crew's rules of thumb, shown beside the sum: how much one unbroken length of a size carries."""

from __future__ import annotations

from dataclasses import dataclass

from hydrarch.core.base.units import FOOT, GALLON

__all__ = ["RULES", "ThumbRule", "rule_of_thumb"]


@dataclass(frozen=True, slots=True)
class ThumbRule:
    """A size carries `flow` (m³/s) over `length` (m) in one unbroken length."""

    size: str
    length: float
    flow: float


def _gallons_an_hour(number: float) -> float:
    return number * GALLON / 3600


RULES = tuple(
    ThumbRule(size, feet * FOOT, _gallons_an_hour(gallons))
    for size, feet, gallons in (("1/4", 30, 30), ("1/2", 200, 200), ("3/4", 480, 480), ("1", 960, 960))
)
"""Common practice for drip mains: 1/4 in to 30 ft and 30 gal/h, 1/2 to 200, 3/4 to 480, 1 to 960."""


def rule_of_thumb(flow: float, length: float) -> ThumbRule | None:
    """The smallest size the rule gives for `flow` (m³/s) over `length` (m); None beyond the largest it speaks of.

    >>> rule_of_thumb(3e-4, 50.0).size
    '3/4'
    """
    return next((r for r in RULES if flow <= r.flow * (1 + 1e-9) and length <= r.length * (1 + 1e-9)), None)
