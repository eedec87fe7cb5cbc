"""One line of the bill."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

__all__ = ["BillRow"]


@dataclass(frozen=True, slots=True)
class BillRow:
    """One line of the bill. `group` is where it stands on the list, `detail` how the number came about.

    `each` is the price of one, or of a metre or a foot of pipe, as `per` says ("m", "ft", "" for one; `metres` long),
    None where there is none; `price` of them all. `own` tells the crew's own price from a starting figure. Of `count`,
    `have` are in stock and are not bought; `spare` is how many more to take along.
    """

    group: Literal["fitting", "added", "pipe", "riser", "equipment", "consumable"]
    item: str
    name: str
    count: int
    unit: str
    detail: str
    each: float | None = None
    price: float | None = None
    own: bool = False
    have: int = 0
    spare: int = 0
    per: Literal["", "m", "ft"] = ""
    metres: float = 1.0
