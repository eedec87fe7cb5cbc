"""A zone controller: what one does, and a simulated one that ships with the demo."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Protocol

__all__ = ["Running", "SimulatedController", "ZoneController"]


@dataclass(frozen=True, slots=True)
class Running:
    """A zone that is open: since when and until when (s since 1970)."""

    zone: str
    since: float
    until: float


class ZoneController(Protocol):
    """Anything that opens one zone's valves at a time for so long, and shuts them by itself."""

    def run(self, zone: str, seconds: float) -> Running:
        """Open a zone; whatever ran before is shut."""

    def stop(self) -> None:
        """Shut whatever is open."""

    def running(self) -> Running | None:
        """What is open now."""

    def load(self, openings: Sequence[Running]) -> None:
        """Take a programme in: what opens when. It takes the place of the one before."""


@dataclass(slots=True)
class SimulatedController:
    """A clock with one output open at a time."""

    clock: Callable[[], float]
    _open: Running | None = None
    _programme: tuple[Running, ...] = ()

    def run(self, zone: str, seconds: float) -> Running:
        """Open a zone for `seconds`."""
        now = self.clock()
        self._open = Running(zone, now, now + seconds)
        return self._open

    def stop(self) -> None:
        """Shut it."""
        self._open = None

    def running(self) -> Running | None:
        """What is open by hand until its time is over, or by the programme."""
        now = self.clock()
        if self._open is not None and now >= self._open.until:
            self._open = None
        return self._open or next((o for o in self._programme if o.since <= now < o.until), None)

    def load(self, openings: Sequence[Running]) -> None:
        """Keep it; what is run by hand goes before it."""
        self._programme = tuple(openings)
