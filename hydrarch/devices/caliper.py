"""A caliper: what one reads, and a simulated one that ships with the demo."""

from __future__ import annotations

from dataclasses import dataclass, field
from random import Random
from typing import Protocol

from hydrarch.core.catalogue.pipes import pipe

__all__ = ["Caliper", "SimulatedCaliper"]


class Caliper(Protocol):
    """A tool that reads one diameter or wall (m) at a time; `error` (m) is its standard deviation."""

    error: float

    def read(self, what: str) -> float:
        """Read "outside", "bore" or "wall"."""
        ...


@dataclass(slots=True)
class SimulatedCaliper:
    """Jaws on a known pipe, with a normal error and a tenth-of-a-millimetre-fine scale.

    The same seed reads the same.
    """

    series: str
    size: str
    error: float = 0.05e-3
    seed: int = 1
    _random: Random = field(init=False)

    def __post_init__(self) -> None:
        """Seed the error."""
        self._random = Random(self.seed)

    def read(self, what: str) -> float:
        """One reading; raises KeyError for anything but outside, bore and wall."""
        item = pipe(self.series, self.size)
        true = {"outside": item.outside, "bore": item.bore, "wall": (item.outside - item.bore) / 2}[what]
        return round((true + self._random.gauss(0, self.error)) * 1e5) / 1e5
