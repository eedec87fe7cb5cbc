"""What a crew cannot or will not do, and what a joint must stand."""

from __future__ import annotations

from dataclasses import dataclass

from hydrarch.core.base.units import System
from hydrarch.core.catalogue.markets import Market, market
from hydrarch.core.catalogue.methods import methods_where
from hydrarch.core.joining.served import Needs
from hydrarch.core.joining.stacks import Limits

__all__ = ["Constraints"]


@dataclass(frozen=True, slots=True)
class Constraints:
    """What the crew cannot or will not do, and what the joint must stand.

    `pressure` (Pa) at water `temperature` (K) is checked against pipes and fittings; `potable` leaves only what may
    carry drinking water, `buried` only joints that may be covered. Between ends that are `fixed` neither can be turned
    or moved; a `valve` (one with a `waste` port, a `union`) is wanted between. `at_hand` lists the fittings there are,
    by id; `units` are for what is said. What the shops of a `market` do not sell is taken last.
    """

    serviceable: bool = False
    no_hot_work: bool = False
    no_solvent: bool = False
    potable: bool = False
    buried: bool = False
    pressure: float | None = None
    temperature: float = 293.15
    at_hand: tuple[str, ...] | None = None
    units: System = "metric"
    fixed: bool = False
    valve: bool = False
    union: bool = False
    waste: bool = False
    market: Market = "both"

    @property
    def needs(self) -> Needs:
        """What a way must hold."""
        apart = self.union or ((self.valve or self.waste) and self.serviceable)
        return Needs(self.valve and not self.waste, apart, self.fixed, self.waste)

    def limits(self) -> Limits:
        """As the search takes them."""
        asked = (
            ("heat", True, self.no_hot_work),
            ("solvent", True, self.no_solvent),
            ("drink", False, self.potable),
            ("bury", False, self.buried),
        )
        barred = frozenset[str]().union(*(methods_where(flag, value) for flag, value, on in asked if on))
        return Limits(
            barred=barred,
            at_hand=frozenset(self.at_hand) if self.at_hand is not None else None,
            service=self.serviceable,
            drink=self.potable,
            foreign=market(self.market).foreign,
        )
