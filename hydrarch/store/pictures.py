"""Pictures, by the hash of what they hold."""

from __future__ import annotations

from hydrarch.store.database import Store
from hydrarch.store.errors import NotThere

__all__ = ["keep_picture", "picture"]


def keep_picture(store: Store, name: str, media: str, body: bytes) -> None:
    """Keep a picture; one that is there already is not kept twice."""
    with store.atomic() as db:
        db.execute("INSERT OR IGNORE INTO picture VALUES (?, ?, ?)", (name, media, body))


def picture(store: Store, name: str) -> tuple[str, bytes]:
    """The media type and what is in a picture; raises `NotThere`."""
    row = store.read().execute("SELECT media, body FROM picture WHERE hash = ?", (name,)).fetchone()
    if row is None:
        raise NotThere("picture", name[:12])
    return str(row["media"]), bytes(row["body"])
