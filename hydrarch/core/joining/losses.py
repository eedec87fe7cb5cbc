"""What fittings lose: loss coefficients K by run, or by a riser's foot."""

from __future__ import annotations

from hydrarch.core.catalogue.fittings import (
    End,
    Fitting,
    fully_turbulent_friction_factor,
    insert_loss_coefficient,
    reduction_loss_coefficient,
)
from hydrarch.core.catalogue.pipes import series
from hydrarch.core.joining.meeting import Leg
from hydrarch.core.joining.stacks import Stack

__all__ = ["Losses"]

_METRIC_BORE = 0.75  # of the outside diameter, between PE100 SDR 11 and PPR S2.5; from memory


class Losses:
    """The losses of one point so far, by the run or riser's foot that bears them."""

    def __init__(self) -> None:
        self.by: dict[str, float] = {}

    def _add(self, leg: Leg, coefficient: float) -> None:
        key = leg.key if leg.riser else leg.run or leg.key
        if coefficient > 0:
            self.by[key] = self.by.get(key, 0.0) + coefficient

    def lose(self, leg: Leg, diameters: float) -> None:
        """Take so many diameters of a leg's own pipe off it."""
        self._add(leg, diameters * fully_turbulent_friction_factor(leg.bore))

    def stack(self, stack: Stack, leg: Leg) -> None:
        """Take what a stack loses off its leg; a drain runs by its fall."""
        if leg.drain:
            return
        for step in stack.steps:
            self._add(leg, _inserts(step.fitting, leg.bore))
            if step.fitting.loss.reduces:
                one, two = (_bore(step.fitting.ports[p].end) for p in (step.into, step.out))
                small = min(one, two)
                self._add(leg, reduction_loss_coefficient(small, max(one, two)) * (leg.bore / small) ** 4)

    def node(self, part: Fitting, legs: tuple[Leg, ...]) -> None:
        """Take what stands at a point off its legs: run losses off those beyond the source's, the branch loss off the
        branch.
        """
        for number, leg in enumerate(legs):
            diameters = part.loss.branch if number >= 2 else part.loss.run if leg.beyond else 0.0
            k = diameters * fully_turbulent_friction_factor(leg.bore)
            self._add(leg, k + (_inserts(part, leg.bore) if leg.beyond else 0.0))


def _bore(opening: End) -> float:
    """The bore (m) about an opening: that of the usual pipe of its size, or three quarters of a metric outside
    diameter.
    """
    usual = next((s for s in series("pvc40").sizes if s.size == opening.size), None)
    return usual.bore if usual else _METRIC_BORE * opening.diameter


def _inserts(part: Fitting, bore: float) -> float:
    return insert_loss_coefficient(bore, part.loss.bore) if part.loss.bore is not None else 0.0
