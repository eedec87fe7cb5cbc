"""What was done, as events that are only ever added; sending one twice changes nothing."""

from __future__ import annotations

import json
from collections.abc import Iterable

from hydrarch.core.record.events import Event, event_body, stored_event
from hydrarch.store.database import Store
from hydrarch.store.errors import NotThere
from hydrarch.store.identities import know_events

__all__ = ["add_events", "events", "known_events", "last_hand", "last_place"]


def add_events(store: Store, job: str, new: Iterable[Event]) -> int:
    """Add events to a job, all or none; those it already has (by id) are passed over. Returns how many were new."""
    with store.atomic() as db:
        if db.execute("SELECT 1 FROM job WHERE id = ?", (job,)).fetchone() is None:
            raise NotThere("job", job)
        new = tuple(new)
        rows = [(job, e.id, json.dumps(event_body(e))) for e in new]
        know_events(db, job, new)
        before = db.total_changes
        db.executemany("INSERT INTO event (job, id, body) VALUES (?, ?, ?) ON CONFLICT (job, id) DO NOTHING", rows)
        return db.total_changes - before


def events(store: Store, job: str, after: int = 0) -> list[tuple[int, Event]]:
    """The events of a job kept after place `after`, in the order they were kept, each with its place."""
    rows = store.read().execute(
        "SELECT place, body FROM event WHERE job = ? AND place > ? ORDER BY place", (job, after)
    )
    return [(row["place"], stored_event(row["body"])) for row in rows]


def last_place(store: Store, job: str) -> int:
    """The place of the last event that is kept of a job; 0 for none."""
    row = store.read().execute("SELECT max(place) AS place FROM event WHERE job = ?", (job,)).fetchone()
    return int(row["place"] or 0)


def last_hand(store: Store, job: str) -> tuple[str, float] | None:
    """Who said the last thing that is kept of a job, and when (s since 1970); None where nothing was said."""
    row = store.read().execute("SELECT body FROM event WHERE job = ? ORDER BY place DESC LIMIT 1", (job,)).fetchone()
    if row is None:
        return None
    event = stored_event(row["body"])
    return event.by, event.at


def known_events(store: Store, job: str, ids: Iterable[str]) -> set[str]:
    """Which of these ids the job has an event of."""
    wanted = json.dumps(list(ids))
    rows = store.read().execute(
        "SELECT id FROM event WHERE job = ? AND id IN (SELECT value FROM json_each(?))", (job, wanted)
    )
    return {row["id"] for row in rows}
