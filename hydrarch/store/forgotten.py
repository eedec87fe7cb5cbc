"""Jobs that were deleted for good: each is kept as a file for a month, so that a mistake can be taken back."""

from __future__ import annotations

import secrets
from dataclasses import dataclass

from hydrarch.store.database import Store
from hydrarch.store.errors import NotThere

__all__ = ["KEPT_FOR", "Forgotten", "forget", "forgotten", "forgotten_file", "let_go"]

KEPT_FOR = 30 * 86400.0
"""s that such a job is kept."""


@dataclass(frozen=True, slots=True)
class Forgotten:
    """A job that was deleted for good: what it was called, by whom and when (s since 1970)."""

    id: str
    job: str
    name: str
    by: str
    at: float


def forget(store: Store, job: str, name: str, by: str, at: float, file: bytes) -> None:
    """Keep a job's file; what was kept for longer than `KEPT_FOR` goes."""
    with store.atomic() as db:
        db.execute("DELETE FROM forgotten WHERE at < ?", (at - KEPT_FOR,))
        db.execute("INSERT INTO forgotten VALUES (?, ?, ?, ?, ?, ?)", (secrets.token_hex(8), job, name, by, at, file))


def forgotten(store: Store, now: float) -> tuple[Forgotten, ...]:
    """Those that are still kept, the newest first."""
    rows = store.read().execute(
        "SELECT id, job, name, by, at FROM forgotten WHERE at >= ? ORDER BY at DESC", (now - KEPT_FOR,)
    )
    return tuple(Forgotten(**dict(r)) for r in rows)


def forgotten_file(store: Store, name: str, now: float) -> bytes:
    """The file of one of them; raises `NotThere`."""
    row = store.read().execute("SELECT file FROM forgotten WHERE id = ? AND at >= ?", (name, now - KEPT_FOR)).fetchone()
    if row is None:
        raise NotThere("deleted job", name)
    return bytes(row["file"])


def let_go(store: Store, name: str) -> None:
    """Drop one, as when it was brought back."""
    with store.atomic() as db:
        db.execute("DELETE FROM forgotten WHERE id = ?", (name,))
