"""The ids a job knows: every one that a revision or an event ever named. None is given to a new thing again."""

from __future__ import annotations

import sqlite3
from collections.abc import Collection, Iterable

from hydrarch.core.base.identity import owner
from hydrarch.core.record.events import Event
from hydrarch.store.errors import Reused

__all__ = ["know_drawn", "know_events", "know_recorded"]


def know_drawn(db: sqlite3.Connection, job: str, ids: Collection[str], back: Collection[str]) -> None:
    """Take down the ids of a job's newest plan.

    Raises `Reused` for one that the job knew, that was not in the plan before, and that is not said to come `back` as
    what it was.
    """
    known = {row[0]: bool(row[1]) for row in db.execute("SELECT id, here FROM known_id WHERE job = ?", (job,))}
    again = sorted(i for i in ids if i in known and not known[i] and i not in back)
    if again:
        raise Reused(job, again)
    gone = [i for i, here in known.items() if here and i not in ids]
    db.executemany("UPDATE known_id SET here = 0 WHERE job = ? AND id = ?", [(job, i) for i in gone])
    changed = [(job, i) for i in ids if not known.get(i)]
    db.executemany(
        "INSERT INTO known_id (job, id, here) VALUES (?, ?, 1) ON CONFLICT (job, id) DO UPDATE SET here = 1", changed
    )


def know_events(db: sqlite3.Connection, job: str, events: Iterable[Event]) -> None:
    """Take down whose joints events name."""
    know_recorded(db, job, {owner(name) for e in events for name in e.joints})


def know_recorded(db: sqlite3.Connection, job: str, ids: Iterable[str]) -> None:
    """Take down ids that something is recorded of, whether they are in the plan or not."""
    db.executemany("INSERT OR IGNORE INTO known_id (job, id, here) VALUES (?, ?, 0)", [(job, i) for i in ids])
