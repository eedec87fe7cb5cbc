"""What was done, as events that are only ever added; sending one twice changes nothing."""

from __future__ import annotations

import json
from collections.abc import Iterable
from dataclasses import asdict

from hydrarch.core.making.state import Event
from hydrarch.store.database import NotThere, Store

__all__ = ["add_events", "events"]


def add_events(store: Store, job: str, new: Iterable[Event]) -> int:
    """Add events to a job, all or none; those it already has (by id) are passed over. Returns how many were new."""
    with store.atomic() as db:
        if db.execute("SELECT 1 FROM job WHERE id = ?", (job,)).fetchone() is None:
            raise NotThere("job", job)
        rows = [(job, e.id, json.dumps(asdict(e))) for e in new]
        before = db.total_changes
        db.executemany("INSERT INTO event (job, id, body) VALUES (?, ?, ?) ON CONFLICT (job, id) DO NOTHING", rows)
        return db.total_changes - before


def events(store: Store, job: str) -> list[Event]:
    """The events of a job in the order they were kept."""
    rows = store.read().execute("SELECT body FROM event WHERE job = ? ORDER BY place", (job,))
    return [Event(**json.loads(row["body"])) for row in rows]
