"""Who is where just now, by the page each has open."""

from __future__ import annotations

import threading
from collections.abc import Callable
from dataclasses import dataclass, field

from hydrarch.core.base.problems import Stage

__all__ = ["Here", "Whereabouts"]

_GONE = 75.0
"""s after which a page that has said nothing is not there any more; it says where it is twice a minute."""


@dataclass(frozen=True, slots=True)
class Here:
    """Somebody at a job just now: who, in which stage, and at what (the id of a thing, a run or a joint, "" for
    nothing).
    """

    page: str
    name: str
    stage: Stage
    at: str


@dataclass(slots=True)
class Whereabouts:
    """Who is where, by the page each has open; nothing of it is kept."""

    clock: Callable[[], float]
    _pages: dict[str, tuple[str, Here, float]] = field(default_factory=dict)
    _lock: threading.Lock = field(default_factory=threading.Lock)

    def put(self, job: str, here: Here) -> bool:
        """Somebody is there; whether that is news."""
        with self._lock:
            before = self._pages.get(here.page)
            self._pages[here.page] = (job, here, self.clock())
            return before is None or before[:2] != (job, here) or before[2] < self.clock() - _GONE

    def leave(self, page: str) -> bool:
        """A page was closed; whether it was there."""
        with self._lock:
            return self._pages.pop(page, None) is not None

    def at(self, job: str) -> tuple[Here, ...]:
        """Who is at a job now."""
        with self._lock:
            since = self.clock() - _GONE
            self._pages = {p: x for p, x in self._pages.items() if x[2] >= since}
            return tuple(h for j, h, _ in self._pages.values() if j == job)
