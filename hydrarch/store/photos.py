"""Photos of a job's joints, sections and things, in the same file as all else that is kept of it."""

from __future__ import annotations

from dataclasses import dataclass

from hydrarch.store.database import Store
from hydrarch.store.errors import NotThere

__all__ = ["Photo", "drop_photo", "keep_photo", "photo", "photo_body", "photos"]


@dataclass(frozen=True, slots=True)
class Photo:
    """A photo without what is in it: what it is about (the id of a joint, a section or a thing), by whom, when (s since
    1970), and a word.

    `wide` and `high` are in pixels; `north` and `east` (degrees) where it was taken, None unless that was kept on
    purpose.
    """

    id: str
    about: str
    by: str
    at: float
    note: str
    wide: int
    high: int
    north: float | None = None
    east: float | None = None


_WITHOUT = "id, about, by, at, note, wide, high, north, east"


def keep_photo(store: Store, job: str, new: Photo, body: bytes) -> Photo:
    """Keep a photo; one that is there already, by its id, stays as it was. Gives what is kept. Raises `NotThere`."""
    with store.atomic() as db:
        if db.execute("SELECT 1 FROM job WHERE id = ?", (job,)).fetchone() is None:
            raise NotThere("job", job)
        db.execute(
            "INSERT INTO photo VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?) ON CONFLICT (job, id) DO NOTHING",
            (job, new.id, new.about, new.by, new.at, new.note, new.wide, new.high, new.north, new.east, body),
        )
        return photo(store, job, new.id)


def photos(store: Store, job: str) -> tuple[Photo, ...]:
    """The photos of a job, the earliest first."""
    rows = store.read().execute(f"SELECT {_WITHOUT} FROM photo WHERE job = ? ORDER BY at, id", (job,))
    return tuple(Photo(**dict(r)) for r in rows)


def photo(store: Store, job: str, name: str) -> Photo:
    """One photo of a job; raises `NotThere`."""
    row = store.read().execute(f"SELECT {_WITHOUT} FROM photo WHERE job = ? AND id = ?", (job, name)).fetchone()
    if row is None:
        raise NotThere("photo", name)
    return Photo(**dict(row))


def photo_body(store: Store, job: str, name: str) -> bytes:
    """What is in a photo (JPEG); raises `NotThere`."""
    row = store.read().execute("SELECT body FROM photo WHERE job = ? AND id = ?", (job, name)).fetchone()
    if row is None:
        raise NotThere("photo", name)
    return bytes(row["body"])


def drop_photo(store: Store, job: str, name: str) -> None:
    """Take a photo out of the record; raises `NotThere`."""
    with store.atomic() as db:
        if not db.execute("DELETE FROM photo WHERE job = ? AND id = ?", (job, name)).rowcount:
            raise NotThere("photo", name)
