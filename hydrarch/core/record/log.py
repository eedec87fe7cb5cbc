"""All that was done in a job, folded once and kept up as events come: joints, and sections' tests, burials and
reasons.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable

from hydrarch.core.record.events import Event
from hydrarch.core.record.states import Record, fold_event

__all__ = ["Log"]


class Log:
    """The events of a job in the order they happened, and what they come to.

    Events that come late are put in their place.
    """

    def __init__(self, events: Iterable[Event] = ()) -> None:
        self._clear()
        self.add(events)

    def _clear(self) -> None:
        self.events: list[Event] = []
        self.ticks: dict[str, list[tuple[float, float]]] = defaultdict(list)
        """By the page that said them: how long (s) it had been open, and when that was (s since 1970)."""
        self.withdrawn: dict[str, Event] = {}
        self.joints: dict[str, Record] = {}
        self.tests: dict[str, list[Event]] = defaultdict(list)
        self.buried: set[str] = set()
        self.ran: dict[str, list[float]] = defaultdict(list)
        self.reasons: dict[str, list[str]] = defaultdict(list)
        self.handed: list[Event] = []
        self.taken: dict[str, Event] = {}
        self.tended: dict[str, Event] = {}
        self.got: dict[str, int] = {}
        self.laid: dict[str, bool] = {}
        self.stepped: dict[str, Event] = {}
        self.observed: list[Event] = []

    def add(self, new: Iterable[Event]) -> None:
        """Add events; where one happened before the last, or is withdrawn by another, all are folded again."""
        fresh = sorted(new, key=_when)
        if not fresh:
            return
        late = bool(self.events) and _when(fresh[0]) < _when(self.events[-1])
        if late or any(e.kind == "withdrawn" for e in fresh):
            fresh = sorted([*self.events, *fresh], key=_when)
            self._clear()
        self.withdrawn |= {e.of: e for e in fresh if e.kind == "withdrawn"}
        for event in fresh:
            self.events.append(event)
            if event.page is not None and event.tick is not None:
                self.ticks[event.page].append((event.tick, event.at))
            if event.id not in self.withdrawn or event.kind == "withdrawn":
                self._take(event)

    def _take(self, event: Event) -> None:
        fold_event(self.joints, event)
        if event.kind == "handed_over":
            self.handed.append(event)
        if event.kind == "taken_over":
            self.taken.setdefault(event.of, event)
        if event.kind == "got":
            self.got[event.of] = event.count or 0
        if event.kind == "laid_out":
            self.laid[event.of] = bool(event.count)
        if event.kind == "observed":
            self.observed.append(event)
        if event.kind == "stepped":
            self.stepped[event.of] = event
        if event.kind == "tended":
            self.tended[event.of] = event
        if event.section is None:
            return
        if event.kind == "tested":
            self.tests[event.section].append(event)
        if event.kind == "buried":
            self.buried.add(event.section)
        if event.kind == "ran":
            self.ran[event.section].append(event.at)
        if event.override:
            self.reasons[event.section].append(event.override)


def _when(event: Event) -> tuple[float, str]:
    return event.at, event.id
